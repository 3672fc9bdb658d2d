"""The views, one folder each; none knows another, nor the window."""
