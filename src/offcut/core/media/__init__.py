"""Reading films: facts, the exact frame index, any frame by its number, all frames fast."""
