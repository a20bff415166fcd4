"""What is found in the pixels of a photo: edges under a line, segments."""
