"""Empty corners filled from what surrounds them."""

METHOD = 3
"""Raised when the same seed gives other pixels than before: what was made until then is stale."""
