"""The open document that holds all that is done to one photo, and what it evaluates to."""
