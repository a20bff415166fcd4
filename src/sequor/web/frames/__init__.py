"""The frame: what is done to it, what it costs, kept ratios."""
