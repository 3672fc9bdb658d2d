"""How fast the whole `offcut detect` process is, set against bare decoding of the same file.

Both are whole processes, run in turn on the same machine, cold cache; the ratio is what counts.
Makes a 1080p H.264 film with B-frames from open footage where no film is named.
"""

from __future__ import annotations

import argparse
import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import av
import cv2
import numpy as np

from films import HOME, Shelf, any_shot

BARE = """
import av, sys
film = av.open(sys.argv[1]); stream = film.streams.video[0]; stream.thread_type = "AUTO"
for frame in film.decode(stream): pass
"""


def full_hd(path: Path, frames: int = 750) -> Path:
    """Write a 1080p film of many shots."""
    if path.exists():
        return path
    rng, shelf = np.random.default_rng(5), Shelf("bench")
    path.parent.mkdir(parents=True, exist_ok=True)
    with av.open(str(path), "w") as out:
        stream = out.add_stream(
            "libx264", rate=25, options={"crf": "21", "preset": "veryfast", "bf": "3"}
        )
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, "yuv420p"
        at = 0
        noise = [rng.normal(0, 3, (1080, 1920, 1)).astype(np.float32) for _ in range(5)]
        while at < frames:
            for p in any_shot(rng, shelf, int(rng.integers(40, 160))):
                big = cv2.resize(p, (1920, 1080), interpolation=cv2.INTER_CUBIC) + noise[at % 5]
                frame = av.VideoFrame.from_ndarray(np.clip(big, 0, 255).astype(np.uint8), "rgb24")
                frame.pts = at
                out.mux(stream.encode(frame))
                at += 1
        out.mux(stream.encode(None))
    return path


def timed(words: list[str]) -> tuple[float, float]:
    """Run a process; return its wall seconds and its processor seconds."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    with tempfile.TemporaryDirectory() as cold:  # a cache of its own, empty at each run
        began = time.perf_counter()
        subprocess.run(
            words,
            check=True,
            stdout=subprocess.DEVNULL,
            env={**os.environ, "XDG_CACHE_HOME": cold},
        )
        wall = time.perf_counter() - began
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return wall, after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def main() -> None:
    """Print the ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("film", nargs="?", type=Path)
    parser.add_argument("--runs", type=int, default=3)
    call = parser.parse_args()
    HOME.mkdir(exist_ok=True)
    film = call.film or full_hd(HOME / "full-hd.mp4")
    ours = [sys.executable, "-m", "offcut.cli", "detect", str(film), "--json", "--quiet"]
    bare = [sys.executable, "-c", BARE, str(film)]
    pairs = [(timed(ours), timed(bare)) for _ in range(call.runs)]
    told = json.loads(subprocess.run(ours, check=True, capture_output=True, text=True).stdout)
    frames = told["source"]["frames"]
    wall = statistics.median(a[0] / b[0] for a, b in pairs)
    work = statistics.median(a[1] / b[1] for a, b in pairs)
    print(
        f"{film.name}: {frames} frames of {told['source']['width']}x{told['source']['height']}, {len(told['shots'])} shots"
    )
    print(f"offcut detect / bare decode: {wall:.2f} of the time, {work:.2f} of the processor")
    print(
        f"detect {frames / statistics.median(a[0] for a, _ in pairs):.0f} frames/s, bare decode {frames / statistics.median(b[0] for _, b in pairs):.0f}"
    )


if __name__ == "__main__":
    main()
