"""The command line: the other face of the core, a file a command."""
