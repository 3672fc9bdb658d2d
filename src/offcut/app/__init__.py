"""What Offcut shows and asks; computes nothing that a test would need a window for."""
