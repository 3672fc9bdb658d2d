"""Cut lists, one file for each format, behind a registry."""
