"""The real window killed with SIGKILL while it edits, saves, searches, hands over, makes proxies.

    python bench/kills.py [--kills 200] [--edits 60]

Says how old the oldest edit was that was lost, over so many kills at random instants.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from pathlib import Path

import numpy as np

TESTS = Path(__file__).parents[1] / "tests"
sys.path[:0] = [str(TESTS / "making"), str(TESTS / "end2end")]
os.environ["QT_QPA_PLATFORM"] = "offscreen"

from test_kills import kill_windows

from films import encode, scene


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--edits", type=int, default=60, help="edits before a kill, at most")
    call = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        pictures = (p for seed in range(4) for p in scene(seed, 40))
        film = encode(Path(folder, "film.mp4"), pictures)
        lost, files = kill_windows(film, Path(folder), call.kills, most=call.edits)
    print(
        f"{len(lost)} kills, each time the work was there, and {files:,} files handed over or kept,"
    )
    print("all of them whole; the oldest edit lost was")
    print(f"{max(lost):.2f} s old, {np.median(lost):.2f} s in the middle of all kills")


if __name__ == "__main__":
    main()
