"""Reference lines: what was measured on a picture, kind by kind."""
