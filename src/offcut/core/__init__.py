"""What Offcut computes; knows no interface."""
