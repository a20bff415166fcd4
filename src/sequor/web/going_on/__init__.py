"""Looking through photos that want a pair of eyes."""
