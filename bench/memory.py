"""How much memory a very long film takes: two hours of a small loop, the whole process."""

from __future__ import annotations

import argparse
import resource
import subprocess
import sys
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from films import HOME, Shelf, any_shot
from offcut.core.judge.judge import seams_found
from offcut.core.measure.crew import crew
from offcut.core.measure.measuring import JUDGES
from offcut.core.measure.signals import ARRAYS, Signals
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of, yield_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.searching import set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source


def long_film(path: Path, hours: float) -> Path:
    """Write a film that loops a minute of shots, 160x90, by copying its packets."""
    if path.exists():
        return path
    minute = path.with_name("minute.mp4")
    rng, shelf = np.random.default_rng(8), Shelf("bench")
    with av.open(str(minute), "w") as out:
        stream = out.add_stream("libx264", rate=25, options={"crf": "26", "bf": "2", "g": "50"})
        stream.width, stream.height, stream.pix_fmt = 160, 90, "yuv420p"
        at = 0
        while at < 1500:
            for p in any_shot(rng, shelf, int(rng.integers(30, 120))):
                frame = av.VideoFrame.from_ndarray(p.astype(np.uint8), "rgb24")
                frame.pts, frame.time_base = at, Fraction(1, 25)
                out.mux(stream.encode(frame.reformat(160, 90, "yuv420p")))
                at += 1
        out.mux(stream.encode(None))
    with av.open(str(path), "w") as out:
        target = None
        shift = 0
        for _ in range(round(hours * 60)):
            with av.open(str(minute)) as source:
                video = source.streams.video[0]
                target = target or out.add_stream_from_template(video)
                last = 0
                for packet in source.demux(video):
                    if packet.size:
                        last = max(last, packet.pts + packet.duration)
                        packet.pts += shift
                        packet.dts += shift
                        packet.stream = target
                        out.mux(packet)
                shift += last
    return path


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--hours", type=float, default=2.0)
    call = parser.parse_args()
    HOME.mkdir(exist_ok=True)
    film = long_film(HOME / f"long-{call.hours}.mp4", call.hours)
    began = time.perf_counter()
    subprocess.run(
        [sys.executable, "-m", "offcut.cli", "detect", str(film), "--quiet", "--csv", "/dev/null"],
        check=False,
        stdout=subprocess.DEVNULL,
    )
    took = time.perf_counter() - began
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(
        f"{call.hours} hours, {film.stat().st_size >> 20} MB: detect took {took:.0f} s, {peak:.0f} MB at most"
    )

    n = 3 * 3600 * 25
    blank = _three_hours(n)
    began = time.perf_counter()
    with crew(JUDGES) as pool:
        seams = seams_found(blank, 0, n, each=pool.map)
    judged = time.perf_counter() - began
    project = add_source(Project(), Media("/f", Fraction(25), n, 64, 36))
    source_id = project.sources[0].id
    project = take_found(project, source_id, seams, 0, n)
    began = time.perf_counter()
    moved = set_sensitivity(project, source_id, 61).source(source_id)
    shots, _ = shots_of(moved), yield_of(moved)
    again = time.perf_counter() - began
    print(
        f"three hours of signals: judged in {judged:.1f} s ({len(seams)} possible seams), sensitivity moved in {1000 * again:.0f} ms ({len(shots)} shots)"
    )


def _three_hours(n: int) -> Signals:
    """Return the demo film's signals, repeated to three hours."""
    from offcut.core.errands.seams import find_seams
    from offcut.core.media.probe import open_source
    from offcut.demo import FILM

    one = find_seams(open_source(FILM)).signals
    times = n // len(one) + 1
    return Signals(0, *(np.concatenate([getattr(one, name)] * times)[:n] for name in ARRAYS))


if __name__ == "__main__":
    main()
