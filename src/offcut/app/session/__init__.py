"""The open project, a bench for each of its films, and the work that goes on beside the window."""
