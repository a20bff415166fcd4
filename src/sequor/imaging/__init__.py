"""Files and arrays: decode, encode, colour, metadata."""
