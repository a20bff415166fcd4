"""The kinds of files that photos come in: a file a kind."""
