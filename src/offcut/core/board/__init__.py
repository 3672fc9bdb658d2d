"""The Board: shots of all films of a project as rows, found, ordered, named and laid out."""
