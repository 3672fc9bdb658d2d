"""Sheets: the windows that open over the window for one errand."""
