"""What can be done to a recipe: every action is a message, its effect, and its words in the log."""
