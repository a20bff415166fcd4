"""What can be done with empty corners: a file a mode."""
