"""Originals: for each shot of a film the file it was made from, and which of its frames."""
