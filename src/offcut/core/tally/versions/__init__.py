"""Versions: what became of each shot of a film in another cut of it."""
