"""EDL: CMX 3600 lists, read as they are and written by the book."""
