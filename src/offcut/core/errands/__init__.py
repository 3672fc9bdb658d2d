"""Whole errands: from what a person names to the answer, with nothing of a window."""
