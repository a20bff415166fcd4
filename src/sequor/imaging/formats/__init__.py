"""The formats of the files that are written: a file a format."""
