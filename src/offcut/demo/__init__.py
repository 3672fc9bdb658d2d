"""The demo film *Line 7 at First Light* and what draws it; all invented, all drawn here."""

from pathlib import Path

FILM = Path(__file__).parent / "line-7-at-first-light.mp4"
TRUTH = Path(__file__).parent / "line-7-at-first-light.json"
TRUE_LIST = Path(__file__).parent / "line-7-at-first-light.edl"
LAB_LIST = Path(__file__).parent / "line-7-from-the-lab.edl"
