"""Empty corners filled from what surrounds them."""
