"""Alembic's scripts."""
