"""The one map between the photo and the corrected picture."""
