"""The job itself: numpy in, numpy out. No web, no database, no files, no JSON."""
