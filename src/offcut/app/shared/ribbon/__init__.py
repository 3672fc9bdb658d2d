"""The ribbon: the map of the whole source as A and B rolls."""
