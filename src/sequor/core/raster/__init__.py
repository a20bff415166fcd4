"""Pixels through a map."""
