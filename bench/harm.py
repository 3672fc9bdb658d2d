"""What is kept, harmed a great many times over: it is refused in a sentence or made anew, never a fall.

python bench/harm.py                   40,000 harms of each kind
python bench/harm.py index --many 500  so many of one kind
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

HOME = tempfile.TemporaryDirectory(prefix="offcut-harm-")
for kind_ in ("CACHE", "CONFIG", "STATE", "DATA"):
    os.environ[f"XDG_{kind_}_HOME"] = str(Path(HOME.name, kind_.lower()))

import numpy as np  # noqa: E402
from PySide6.QtCore import QSettings  # noqa: E402

from offcut.app.session.limits import Limits  # noqa: E402
from offcut.app.session.settings_rules import mend_settings  # noqa: E402
from offcut.core.errands.bringing_in import bring_in  # noqa: E402
from offcut.core.errands.seams import find_seams  # noqa: E402
from offcut.core.errors import ProjectError  # noqa: E402
from offcut.core.measure.kept_signals import KeptSignals, signals_folder  # noqa: E402
from offcut.core.measure.registry import CHANGE  # noqa: E402
from offcut.core.media.kept_index import index_folder, kept_index  # noqa: E402
from offcut.core.media.probe import open_source  # noqa: E402
from offcut.core.model.project import Project  # noqa: E402
from offcut.core.model.verbs.searching import take_found  # noqa: E402
from offcut.core.store.library import Library, keep_up  # noqa: E402
from offcut.core.store.project_file import read_project, save_project  # noqa: E402
from offcut.core.store.recovery import Recovery, left_work, recovery_folder  # noqa: E402
from offcut.core.store.thumbnails import Thumbnails, thumbnails_file  # noqa: E402
from offcut.demo import FILM  # noqa: E402

Trial = Callable[[int], None]


def harmed(data: bytes, seed: int) -> bytes:
    """Return bytes with a few flipped, written over, cut off, doubled or left out."""
    dice = random.Random(seed)
    out = bytearray(data)
    for _ in range(dice.choice((1, 1, 1, 2, 8, 64))):
        out[dice.randrange(len(out))] ^= 1 << dice.randrange(8)
    at, much = dice.randrange(len(out)), dice.randrange(1, 600)
    what = dice.random()
    if what < 0.1:
        del out[at : at + much]
    elif what < 0.2:
        out[at:at] = out[at : at + much]
    elif what < 0.25:
        del out[at:]
    elif what < 0.35:
        out[at : at + much] = dice.randbytes(much)
    return bytes(out)


def searched() -> tuple[Project, Path]:
    """Return the demo's project, searched, and where it is saved."""
    film = open_source(FILM)
    found = find_seams(film)
    project = bring_in(Project(), film)
    project = take_found(project, 1, found.seams, found.start, found.reached, done=True)
    return project, save_project(project, Path(HOME.name) / "demo.offcut")


def of_projects(_project: Project, path: Path) -> Trial:
    """A project is refused in a sentence, or what is read of it can be saved."""
    good, place = path.read_bytes(), path.with_name("harmed.offcut")

    def one(seed: int) -> None:
        place.write_bytes(harmed(good, seed))
        with contextlib.suppress(ProjectError):
            save_project(read_project(place).project, place.with_name("again.offcut"))

    return one


def of_index(_project: Project, _path: Path) -> Trial:
    """A kept index is as it was, or none."""
    film = open_source(FILM)
    (file,) = index_folder().iterdir()
    good = file.read_bytes()

    def one(seed: int) -> None:
        file.write_bytes(harmed(good, seed))
        kept = kept_index(film.media.fingerprint)
        assert kept is None or (kept[0].times == film.index.times).all()
        if seed % 500 == 0:
            assert open_source(FILM).media == film.media

    return one


def of_signals(_project: Project, _path: Path) -> Trial:
    """Kept signals are as they were, or none."""
    film = open_source(FILM)
    kept = KeptSignals(film.media)
    (whole,) = [p for *_, p in kept.pieces(CHANGE, 0, film.media.frames)][:1] or [{}]
    files = {f: f.read_bytes() for f in signals_folder().rglob(f"{CHANGE.name}-*/*.npz")}
    file, good = next(iter(sorted(files.items())))

    def one(seed: int) -> None:
        file.write_bytes(harmed(good, seed))
        for low, high, arrays in kept.pieces(CHANGE, 0, film.media.frames):
            for name, held in arrays.items():
                assert low or np.array_equal(held, whole[name][: high - low], equal_nan=True)

    return one


def of_pictures(_project: Project, _path: Path) -> Trial:
    """Kept pictures are as they were, or none, and others can be kept."""
    picture = np.random.default_rng(1).integers(0, 255, (90, 160, 3)).astype(np.uint8)
    kept = Thumbnails("film")
    for frame in range(40):
        kept.keep(frame, picture)
    kept.close()
    again = Thumbnails("film")
    whole = again.get(3, 160, 90)
    again.close()
    good = thumbnails_file().read_bytes()

    def one(seed: int) -> None:
        for end in ("-wal", "-shm"):
            thumbnails_file().with_name(thumbnails_file().name + end).unlink(missing_ok=True)
        thumbnails_file().write_bytes(harmed(good, seed))
        held = Thumbnails("film")
        for frame in held.frames().tolist()[:4]:
            seen = held.get(frame, 160, 90)
            assert seen is None or np.array_equal(seen, whole)
        held.keep(7, picture)
        held.close()

    return one


def of_library(project: Project, path: Path) -> Trial:
    """The library takes what is saved, and finds it again."""
    keep_up(project, path)
    with Library() as library:
        library._base.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        file = library.file
    good = file.read_bytes()

    def one(seed: int) -> None:
        for end in ("-wal", "-shm"):
            file.with_name(file.name + end).unlink(missing_ok=True)
        file.write_bytes(harmed(good, seed))
        keep_up(project, path)
        with Library() as library:
            assert path in library.projects()

    return one


def of_settings(_project: Project, _path: Path) -> Trial:
    """Settings are mended, and every limit is one that can be used."""
    file = Path(HOME.name) / "settings.ini"
    first = QSettings(str(file), QSettings.Format.IniFormat)
    for name, value in {
        "pictures-bytes": 1 << 28, "signals-bytes": 1 << 30, "sliver-limit": 12, "library": True,
        "rhythm-limit": 3.5, "rhythm-smoothing": 5, "places": json.dumps({"film": ["/a", "/b"]}),
        "recent": ["/a.offcut", "/b.offcut"], "theme": "night", "keys/undo": "Ctrl+Z\tZ",
    }.items():  # fmt: skip
        first.setValue(name, value)
    first.sync()
    good = file.read_bytes()

    def one(seed: int) -> None:
        file.write_bytes(harmed(good, seed))
        settings = QSettings(str(file), QSettings.Format.IniFormat)
        mend_settings(settings)
        limits = Limits(settings)
        assert all(8 << 20 <= limits.get(name) <= 1 << 40 for name in Limits.DEFAULTS)
        assert mend_settings(settings) == []

    return one


def of_recovery(project: Project, _path: Path) -> Trial:
    """Work that was left is offered, whatever lies beside it."""
    for _ in range(2):
        Recovery().keep(project, None)
    first, second = sorted(recovery_folder().glob("*.json"))
    for file in (first, second):
        held = json.loads(file.read_text())
        held["process"][1] = "1"
        file.write_text(json.dumps(held))
    good = second.read_bytes()

    def one(seed: int) -> None:
        second.write_bytes(harmed(good, seed))
        assert first in [left.path for left in left_work()]

    return one


KINDS = {
    "projects": of_projects, "index": of_index, "signals": of_signals, "pictures": of_pictures,
    "library": of_library, "settings": of_settings, "recovery": of_recovery,
}  # fmt: skip


def main() -> None:
    """Harm, and print how it went."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("kinds", nargs="*", metavar="KIND")
    parser.add_argument("--many", type=int, default=40_000)
    call = parser.parse_args()
    project, path = searched()
    for kind in call.kinds or KINDS:
        one, began, fell = KINDS[kind](project, path), time.perf_counter(), 0
        for seed in range(call.many):
            try:
                one(seed)
            except Exception as error:
                fell += 1
                if fell <= 5:
                    print(f"  {kind}, harm {seed}: {type(error).__name__}: {str(error)[:200]}")
        took = time.perf_counter() - began
        print(f"{kind}: {call.many:,} harms, {fell} falls, {took:.0f} s", flush=True)


if __name__ == "__main__":
    main()
