"""What is going on, for people and for machines."""
