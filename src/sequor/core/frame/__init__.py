"""The frame in the corrected picture: what it must hold, its largest size, its costs, its print."""
