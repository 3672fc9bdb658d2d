"""What stays: project files and, beside them, caches that can be made again."""
