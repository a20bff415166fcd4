"""Measurements: each prints figures, none of them is a test."""
