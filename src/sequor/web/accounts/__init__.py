"""Signing in, where the program is open to a network."""
