"""Undo: 10,000 edits on a project of 3,000 seams, their cost and memory, and all the way back.

    python bench/undo.py [--edits 10000] [--seams 3000]

Also opens and saves a project of 100,000 seams, the largest tried.
"""

from __future__ import annotations

import argparse
import random
import statistics
import tempfile
import time
from fractions import Fraction
from pathlib import Path

from offcut.core.model.history import History
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Reason, Seam
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import open_project, save_project

FIRST = 1
"""The id of the first film that is brought in."""


def project_of(seams: int) -> Project:
    """Return a film with so many seams, 60 frames apart."""
    media = Media("/films/long.mov", Fraction(25), (seams + 1) * 60, 1920, 1080, fingerprint="x")
    rng = random.Random(1)
    reasons = (
        Reason("the colours change", 0.6, False, "colour"),
        Reason("steady before and after", 0.2, False, "steady"),
    )
    found = [
        Seam(
            0,
            60 * n,
            60 * n,
            60 * n,
            score=rng.uniform(40, 100),
            certainty=Certainty.LIKELY,
            reasons=reasons,
        )
        for n in range(1, seams + 1)
    ]
    return take_found(add_source(Project(), media), FIRST, found, 0, media.frames)


def some_edit(project: Project, rng: random.Random) -> Project:
    """Return a project after one of the usual edits."""
    source = project.source(FIRST)
    seam = rng.choice(source.seams)
    way = rng.randrange(6)
    if way == 0:
        return keep_seams(project, FIRST, [seam.id])
    if way == 1:
        return strike_seams(project, FIRST, [seam.id])
    if way == 2:
        return roll_seam(project, FIRST, seam.id, rng.choice((-1, 1)))
    if way == 3:
        return name_shot(project, FIRST, seam.frame, f"shot {rng.randrange(10**6)}")
    if way == 4:
        return place_seam(project, FIRST, rng.randrange(1, source.media.frames))
    return set_sensitivity(project, FIRST, rng.randrange(101))


def resident() -> float:
    """Return the memory of this process in MB."""
    line = next(
        x for x in Path("/proc/self/status").read_text().splitlines() if x.startswith("VmRSS")
    )
    return int(line.split()[1]) / 1024


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--edits", type=int, default=10_000)
    parser.add_argument("--seams", type=int, default=3000)
    call = parser.parse_args()
    rng = random.Random(2)
    opened = project_of(call.seams)
    history = History(opened)
    times: list[float] = []
    held: list[float] = []
    for n in range(call.edits):
        began = time.perf_counter()
        history.edit(some_edit(history.project, rng), f"edit {n}", FIRST, 0)
        times.append(time.perf_counter() - began)
        if n % (call.edits // 10) == call.edits // 10 - 1:
            held.append(resident())
    times.sort()
    print(
        f"{call.edits} edits on {call.seams} seams: median {1000 * statistics.median(times):.2f} ms, 99 of 100 within {1000 * times[int(0.99 * len(times))]:.2f} ms, worst {1000 * times[-1]:.1f} ms"
    )
    print("memory of the process, MB after each tenth: " + ", ".join(f"{h:.1f}" for h in held))
    began = time.perf_counter()
    steps = 0
    while history.undo():
        steps += 1
    print(
        f"{steps} undone in {time.perf_counter() - began:.1f} s; the opening is back: {history.project == opened}"
    )
    large = project_of(100_000)
    with tempfile.TemporaryDirectory() as folder:
        began = time.perf_counter()
        path = save_project(large, Path(folder) / "large.offcut")
        saved = time.perf_counter()
        again = open_project(path)
        print(
            f"100,000 seams: {path.stat().st_size / 2**20:.0f} MB, saved in {saved - began:.1f} s, opened in {time.perf_counter() - saved:.1f} s, the same: {again == large}"
        )


if __name__ == "__main__":
    main()
