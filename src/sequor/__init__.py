"""Sequor: level a photograph by measuring reference lines in it."""
