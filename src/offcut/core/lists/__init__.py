"""Cut lists, one file per format."""
