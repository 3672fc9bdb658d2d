"""What is in a shot, told from pictures and signals."""
