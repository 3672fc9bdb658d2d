"""Lists: harmed at random, hostile on purpose, and the interchange forms written and read.

    python bench/lists.py [--harmed 5000] [harmed] [hostile] [forms]

Hostile lists are each read by a command of their own: its time and its most memory are told, those
of the process that it reads timelines in as well.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
import zipfile
from fractions import Fraction
from itertools import chain
from pathlib import Path

TESTS = Path(__file__).parents[1] / "tests"
sys.path[:0] = [str(TESTS / "making"), str(TESTS / "unit/core/lists")]

from test_hostile_lists import HOSTILE  # noqa: E402

from list_mutations import harmed, harmed_json, read_harmed, sound_lists  # noqa: E402
from offcut.core.lists.outgoing import EventList  # noqa: E402
from offcut.core.lists.registry import format_of, read_list  # noqa: E402
from offcut.core.model.project import Project  # noqa: E402
from offcut.core.model.seam import Seam  # noqa: E402
from offcut.core.model.source import Media  # noqa: E402
from offcut.core.model.verbs.replacing import with_seams  # noqa: E402
from offcut.core.model.verbs.sources import add_source  # noqa: E402
from projects import FIRST, cut_film, list_of  # noqa: E402

PAL = Fraction(25)
FORMS = ("edl", "otio", "xml", "aaf", "ale", "csv")
SHOTS = (300, 3000)


def bench_harmed(count: int, folder: Path) -> None:
    """Read so many harmed lists of each form."""
    for suffix, data in sound_lists(list_of(cut_film(PAL, False, start=1000))).items():
        files = harmed(data, count)
        if suffix == "otio":
            files = chain(harmed(data, count // 3), harmed_json(data, count - count // 3))
        taken, raised, slowest = 0, 0, 0.0
        for file in files:
            began = time.perf_counter()
            try:
                taken += not read_harmed(folder, suffix, file, PAL)
            except Exception as error:
                raised += 1
                print(f"{suffix}: {error!r}"[:300])
            slowest = max(slowest, time.perf_counter() - began)
        print(
            f"{suffix:5} {count} harmed: {taken} taken, {count - taken - raised} refused, "
            f"{raised} with a traceback, the slowest {slowest:.2f} s"
        )


_ONE = """
import resource, sys, time
from fractions import Fraction
from offcut.core.errors import OffcutError
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.reading_apart import _PROCESS
began = time.perf_counter()
try:
    listed = read_list(sys.argv[1], Fraction(25))
    said = f"read: {len(listed.events)} events, {listed.lost + listed.odd} lines told"
except OffcutError as error:
    said = str(error).split("/")[-1]
took = time.perf_counter() - began
_PROCESS.end()
own = next(int(t.split()[1]) for t in open("/proc/self/status") if t.startswith("VmHWM"))
apart = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
print(f"{took:6.2f} s {own // 1000:4d} MB {apart // 1000:4d} MB apart  {said[:100]}")
"""


def bench_hostile(folder: Path) -> None:
    """Read every hostile list by itself."""
    for name, make in HOSTILE.items():
        (folder / name).write_text(make())
    with (
        zipfile.ZipFile(folder / "unfolds.otioz", "w", zipfile.ZIP_DEFLATED) as packed,
        packed.open("content.otio", "w", force_zip64=True) as inside,
    ):
        for _ in range(3000):
            inside.write(b" " * (1 << 20))
    for name in (*HOSTILE, "unfolds.otioz"):
        ran = subprocess.run(
            [sys.executable, "-c", _ONE, str(folder / name)],
            capture_output=True, text=True, env=dict(os.environ), check=False,
        )  # fmt: skip
        print(f"{name:20} {ran.stdout.strip() or ran.stderr.strip()[-200:]}")


def events_of_film(shots: int) -> EventList:
    """Return the list of a film of so many shots, 40 frames each."""
    film = add_source(Project(), Media("/films/film.mov", PAL, shots * 40, 1920, 1080))
    seams = [Seam(n, n * 40, n * 40, n * 40, score=100.0) for n in range(2, shots + 1)]
    film = with_seams(film, FIRST, seams[:-1])
    return list_of(film)


def bench_forms(folder: Path) -> None:
    """Write and read each form of a film of many shots."""
    for shots in SHOTS:
        events = events_of_film(shots)
        for code in FORMS:
            form = format_of(code)
            assert form is not None
            assert form.write is not None
            began = time.perf_counter()
            path = form.write(events, folder / f"film{form.suffix}")
            wrote = time.perf_counter() - began
            began = time.perf_counter()
            listed = read_list(path, PAL)
            read = time.perf_counter() - began
            print(
                f"{code:5} {shots} shots: written in {wrote:.2f} s, read in {read:.2f} s, "
                f"{path.stat().st_size // 1000} kB, {len(listed.events)} events"
            )


def main() -> None:
    """Run what is asked for, all of it without a word."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", nargs="*", choices=("harmed", "hostile", "forms", []))
    parser.add_argument("--harmed", type=int, default=5000)
    call = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if not call.what or "harmed" in call.what:
            bench_harmed(call.harmed, folder)
        if not call.what or "hostile" in call.what:
            bench_hostile(folder)
        if not call.what or "forms" in call.what:
            bench_forms(folder)


if __name__ == "__main__":
    main()
