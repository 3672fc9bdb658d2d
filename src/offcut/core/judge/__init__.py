"""Judging: signals in, possible seams with scores and reasons out."""
