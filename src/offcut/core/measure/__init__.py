"""Measuring: one decoding pass that fans out to measurers, and the signals they leave, kept."""
