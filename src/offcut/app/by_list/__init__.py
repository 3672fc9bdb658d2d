"""Cutting the film by a list that came with it."""
