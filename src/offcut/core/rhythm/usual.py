"""What is usual where nobody said otherwise."""

from __future__ import annotations

LIMIT = 1.0
"""The limit under which shots are told apart as short, in seconds."""
SMOOTHING, SMOOTHEST = 7, 60
"""How many shots wide the pace is smoothed, and how wide it can be."""
