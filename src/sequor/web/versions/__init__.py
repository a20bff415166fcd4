"""Versions: named states of a photo."""
