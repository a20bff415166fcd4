"""What can be done, and what it would cost: suggestions, ways, presets."""
