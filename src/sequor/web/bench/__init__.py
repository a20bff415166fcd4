"""The bench: a photo with its recipe, what is true of it, its log and exports."""
