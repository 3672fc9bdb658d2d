"""How a film is paced: lengths of shots, their figures and curves, and comparing them."""
