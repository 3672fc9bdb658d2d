"""Papers that pages are printed on."""

from __future__ import annotations

PAPERS = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
"""Width and height by name, in millimetres (ISO 216, ANSI/ASME Y14.1)."""
