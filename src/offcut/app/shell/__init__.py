"""The window and what is around every view: bars, notices, the finder, starting up."""
