"""How fast the whole `offcut detect` process is, set against bare decoding of the same file.

Both are whole processes, run in turn on the same machine, cold cache; the ratio is what counts.
Makes a 1080p H.264 film with B-frames from open footage where no film is named. Then tells what
each thread of the work did, and the frames per second that follow for more cores.
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
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np
from av.video.stream import VideoStream

from films import HOME, Shelf, any_shot

BARE = """
import av, sys
film = av.open(sys.argv[1]); stream = film.streams.video[0]; stream.thread_type = "AUTO"
for frame in film.decode(stream): pass
"""


WORK = """
import json, os, sys, threading, time
from pathlib import Path
from offcut.core.errands.seams import find_seams
from offcut.core.media.probe import open_source

def taken():
    held = {}
    for task in Path("/proc/self/task").iterdir():
        try:
            held[int(task.name)] = int((task / "schedstat").read_text().split()[0])
        except OSError:
            pass
    return held

def watch():
    while not over.wait(0.02):
        seen.update(taken())
        names.update({t.native_id: t.name for t in threading.enumerate()})

film = open_source(sys.argv[1])
seen, names, over = {}, {}, threading.Event()
before = taken()
watcher = threading.Thread(target=watch, name="watcher")
watcher.start()
found = find_seams(film)
seen.update(taken())
over.set()
watcher.join()
work = [
    (names.get(task, "FFmpeg"), (spent - before.get(task, 0)) / 1e6)
    for task, spent in seen.items()
]
print(json.dumps({"frames": film.media.frames, "work": work}))
"""


def work_by_thread(film: Path) -> tuple[int, dict[str, float]]:
    """Return the frames of a film and milliseconds of processor time of each kind of thread."""
    with tempfile.TemporaryDirectory() as cold:
        done = subprocess.run(
            [sys.executable, "-c", WORK, str(film)],
            check=True,
            capture_output=True,
            text=True,
            env={**os.environ, "XDG_CACHE_HOME": cold},
        )
    told = json.loads(done.stdout)
    kinds: dict[str, float] = {}
    for name, spent in told["work"]:
        kind = name.rstrip("0123456789_")
        kinds[kind] = kinds.get(kind, 0.0) + spent
    kinds.pop("watcher", None)
    return told["frames"], kinds


def tell_threads(film: Path, runs: int) -> None:
    """Print the processor time of each kind of thread, and what follows for more cores."""
    tries = [work_by_thread(film) for _ in range(runs)]
    frames = tries[0][0]
    kinds = {k for _, work in tries for k in work}
    median = {k: statistics.median(w.get(k, 0.0) for _, w in tries) / frames for k in kinds}
    print("\n| thread | ms of processor a frame |\n|---|---|")
    for kind, spent in sorted(median.items(), key=lambda k: -k[1]):
        words = "the one thread that asks" if kind == "MainThread" else kind
        print(f"| {words} | {spent:.3f} |")
    alone = median.pop("MainThread", 0.0)
    shared = sum(median.values())
    print(f"\nshared out {shared:.2f} ms a frame, done by one thread only {alone:.3f} ms")
    for cores in (4, 8, 16):
        most = min(cores / (shared + alone), 1 / alone)
        print(f"{cores} cores: {1000 * most:.0f} frames/s follow")


FIELDS = """
import sys, time
from offcut.core.errands.seams import find_seams
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.probe import open_source

film = open_source(sys.argv[1])
began = time.perf_counter()
find_seams(film, crop=Crop(first=sys.argv[2]), limit=0)
print(time.perf_counter() - began)
"""


def tell_fields(film: Path, runs: int) -> None:
    """Print what measuring a film by its fields costs, against measuring it as whole pictures."""

    def seconds(first: str) -> float:
        with tempfile.TemporaryDirectory() as cold:
            done = subprocess.run(
                [sys.executable, "-c", FIELDS, str(film), first],
                check=True,
                capture_output=True,
                text=True,
                env={**os.environ, "XDG_CACHE_HOME": cold},
            )
        return float(done.stdout)

    pairs = [(seconds("top"), seconds("")) for _ in range(runs)]
    ratios = [fields / whole for fields, whole in pairs]
    print(f"by fields / as whole pictures: {statistics.median(ratios):.2f} ({film.name})")


@dataclass(frozen=True)
class Codec:
    """How a film of the bench is coded."""

    words: str
    suffix: str
    encoder: str
    pixels: str
    options: dict[str, str]
    rate: int = 0


CODECS = {
    "h264": Codec("H.264, B-frames", "mp4", "libx264", "yuv420p",
                  {"crf": "21", "preset": "veryfast", "bf": "3"}),
    "hevc": Codec("HEVC", "mp4", "libx265", "yuv420p",
                  {"preset": "ultrafast", "x265-params": "log-level=none"}, 8_000_000),
    "prores": Codec("ProRes 422", "mov", "prores_ks", "yuv422p10le", {"profile": "2"}),
    "dnxhr": Codec("DNxHR HQ", "mov", "dnxhd", "yuv422p", {"profile": "dnxhr_hq"}),
    "mpeg2": Codec("MPEG-2", "mpg", "mpeg2video", "yuv420p", {"bf": "2"}, 25_000_000),
    "vp9": Codec("VP9", "webm", "libvpx-vp9", "yuv420p",
                 {"deadline": "realtime", "cpu-used": "8", "row-mt": "1"}, 8_000_000),
    "av1": Codec("AV1", "mp4", "libsvtav1", "yuv420p", {"preset": "11"}, 6_000_000),
}  # fmt: skip


def full_hd(path: Path, frames: int = 750, codec: Codec = CODECS["h264"]) -> Path:
    """Write a 1080p film of many shots."""
    if path.exists():
        return path
    rng, shelf = np.random.default_rng(5), Shelf("bench")
    path.parent.mkdir(parents=True, exist_ok=True)
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec.encoder, rate=25, options=dict(codec.options))
        assert isinstance(stream, VideoStream)
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, codec.pixels
        if codec.rate:
            stream.bit_rate = codec.rate
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


def several(path: Path, times: int) -> Path:
    """Write a film one after another several times over, its packets as they are.

    So long that opening it and starting the processes are a small part, as with real films.
    """
    target = path.with_stem(f"{path.stem}-{times}")
    if target.exists():
        return target
    with av.open(str(target), "w") as out:
        stream, at = None, 0
        for _ in range(times):
            with av.open(str(path)) as film:
                here = film.streams.video[0]
                stream = stream or out.add_stream_from_template(here, opaque=True)
                packets = [p for p in film.demux(here) if p.pts is not None and p.dts is not None]
                step = min(b.dts - a.dts for a, b in pairwise(packets))
                low, end = min(p.pts for p in packets), max(p.pts for p in packets) + step
                for packet in packets:
                    packet.pts += at - low
                    packet.dts += at - low
                    packet.stream = stream
                    out.mux(packet)
                at += end - low
    return target


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
    parser.add_argument("--codec", choices=CODECS, action="append", help="only these, made here")
    parser.add_argument("--fields", action="store_true", help="what measuring by fields costs")
    call = parser.parse_args()
    HOME.mkdir(exist_ok=True)
    started = start_up(call.runs)
    print(f"start-up: offcut detect {started[0]:.2f} s, bare decode {started[1]:.2f} s")
    if call.film:
        tell(call.film, call.runs, started)
        return
    for name in call.codec or CODECS:
        codec = CODECS[name]
        frames = 750 if name == "h264" else 400
        path = HOME / ("full-hd.mp4" if name == "h264" else f"full-hd-{name}.{codec.suffix}")
        print(f"\n{codec.words}")
        film = several(full_hd(path, frames, codec), 2 if name == "h264" else 4)
        if call.fields:
            tell_fields(film, call.runs)
            continue
        tell(film, call.runs, started, threads=name == "h264")


def commands(film: Path) -> tuple[list[str], list[str]]:
    """Return what is run for a film: ours, and bare decoding."""
    ours = [sys.executable, "-m", "offcut.cli", "detect", str(film), "--json", "--quiet"]
    return ours, [sys.executable, "-c", BARE, str(film)]


def start_up(runs: int) -> tuple[float, float]:
    """Return the seconds that both take for a film of next to nothing."""
    tiny = HOME / "tiny.mp4"
    if not tiny.exists():
        with av.open(str(tiny), "w") as out:
            stream = out.add_stream("libx264", rate=25)
            assert isinstance(stream, VideoStream)
            stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
            for n in range(4):
                frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 40 * n, np.uint8), "rgb24")
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
    ours, bare = commands(tiny)
    pairs = [(timed(ours)[0], timed(bare)[0]) for _ in range(runs)]
    return statistics.median(a for a, _ in pairs), statistics.median(b for _, b in pairs)


def tell(film: Path, runs: int, started: tuple[float, float], *, threads: bool = True) -> None:
    """Print the ratios of one film, with the start of the processes and without."""
    ours, bare = commands(film)
    pairs = [(timed(ours), timed(bare)) for _ in range(runs)]
    told = json.loads(subprocess.run(ours, check=True, capture_output=True, text=True).stdout)
    frames = told["source"]["frames"]
    wall = statistics.median(a[0] / b[0] for a, b in pairs)
    work = statistics.median(a[1] / b[1] for a, b in pairs)
    print(
        f"{film.name}: {frames} frames of {told['source']['width']}x{told['source']['height']}, {len(told['shots'])} shots"
    )
    apart = statistics.median((a[0] - started[0]) / (b[0] - started[1]) for a, b in pairs)
    print(
        f"offcut detect / bare decode: {wall:.2f} of the time, {apart:.2f} without start-up, "
        f"{work:.2f} of the processor"
    )
    print(
        f"detect {frames / statistics.median(a[0] for a, _ in pairs):.0f} frames/s, bare decode {frames / statistics.median(b[0] for _, b in pairs):.0f}"
    )
    if threads:
        tell_threads(film, runs)


if __name__ == "__main__":
    main()
