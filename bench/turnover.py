"""Turnover: rendering every shot as a movie against plain transcoding of the same frames.

    python bench/turnover.py [FILM] [--ways h264 prores dnxhr ffv1] [--frames 500] [--rounds 3]

Plain transcoding is one decoder, one encoder with the same settings and as many threads as there
are cores, and no sound on either side; both are run in turn, and the median of the ratios is told.
"""

from __future__ import annotations

import argparse
import os
import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import av
from av.video.reformatter import VideoReformatter

from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.searching import set_range
from offcut.core.model.verbs.sources import add_source
from offcut.core.turnover.movies import WAYS
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.writing import hand_over
from offcut.demo import FILM

FIRST = 1
"""The id of the first film that is brought in."""


def plain(film: OpenedFilm, way: str, frames: int, path: Path) -> float:
    """Transcode the first frames to one file, as FFmpeg would; return the seconds it took."""
    chosen = WAYS[way]
    began = time.perf_counter()
    with av.open(film.media.path) as source, av.open(str(path), "w") as out:
        stream = source.streams.video[0]
        stream.thread_type = "AUTO"
        made = out.add_stream(chosen.codec, rate=film.media.rate, options=dict(chosen.options))
        made.width, made.height = film.media.width, film.media.height
        made.pix_fmt = chosen.pixels[0] or "yuv420p"
        made.codec_context.time_base = 1 / film.media.rate
        made.codec_context.thread_type = "AUTO"
        shape = VideoReformatter()
        for n, picture in enumerate(source.decode(stream)):
            if n >= frames:
                break
            frame = (
                picture
                if picture.format.name == made.pix_fmt
                else shape.reformat(picture, format=made.pix_fmt)
            )
            frame.pts, frame.time_base, frame.pict_type = n, 1 / film.media.rate, 0
            out.mux(made.encode(frame))
        out.mux(made.encode(None))
    return time.perf_counter() - began


def ours(film: OpenedFilm, way: str, project: Project, folder: Path) -> float:
    """Hand every shot over; return the seconds it took."""
    plan = plan_of(project, Asked(source=FIRST, lists=(), movies=way))
    report = hand_over(plan, folder, {FIRST: film}, overwrite=True)
    assert not report.problems, report.problems
    return report.seconds


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("film", nargs="?", default=str(FILM))
    parser.add_argument("--ways", nargs="*", default=["h264", "prores", "dnxhr", "ffv1"])
    parser.add_argument("--frames", type=int, default=500)
    parser.add_argument("--shot", type=int, default=62)
    parser.add_argument("--rounds", type=int, default=3)
    call = parser.parse_args()
    film = replace(open_source(call.film), tracks=())  # the sound is left out on both sides
    frames = min(call.frames, film.media.frames)
    project = set_range(add_source(Project(name="bench"), film.media), FIRST, 0, frames)
    for frame in range(call.shot, frames, call.shot):
        project = place_seam(project, FIRST, frame)
    print(
        f"{film.media.width}x{film.media.height}, {frames} frames in shots of {call.shot}, {len(os.sched_getaffinity(0))} cores"
    )
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for way in call.ways:
            ratios, speeds = [], []
            for _ in range(call.rounds):
                base = plain(film, way, frames, folder / f"plain{WAYS[way].suffix}")
                took = ours(film, way, project, folder / "shots")
                ratios.append(took / base)
                speeds.append(frames / took)
            print(
                f"{way}: {statistics.median(ratios):.2f} of plain transcoding ({', '.join(f'{r:.2f}' for r in sorted(ratios))}), {statistics.median(speeds):.0f} frames/s",
                flush=True,
            )


if __name__ == "__main__":
    main()
