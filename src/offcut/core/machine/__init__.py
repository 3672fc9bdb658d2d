"""What has to do with the machine and its Python, and nothing with films."""
