"""Tally: a list held against the seams of a film."""
