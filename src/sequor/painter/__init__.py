"""The outside painter: asking a service that paints from a sentence, and the stand-in for one that ships."""
