"""The bending of lenses: its models, and fitting them to straight things."""
