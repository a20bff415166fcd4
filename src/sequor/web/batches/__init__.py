"""What is done to many photos at once."""
