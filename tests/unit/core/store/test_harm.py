"""What is kept, harmed in any way: it is made anew, and nothing fails for it."""

from __future__ import annotations

import json
import os
import random
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.errors import MediaError
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.measure.measuring import OnThisThread
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.media.kept_index import index_folder, kept_index
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.project import Project
from offcut.core.model.verbs.sources import name_project
from offcut.core.store.library import Library, keep_up
from offcut.core.store.project_file import backup_of, open_project, save_project
from offcut.core.store.project_lock import LockedError, ProjectLock
from offcut.core.store.recovery import Recovery, left_work, recovery_folder
from projects import film_of

TURNS = 300


def harmed(data: bytes, seed: int) -> bytes:
    """Return bytes with a few flipped, cut off, doubled or left out."""
    dice = random.Random(seed)
    out = bytearray(data)
    for _ in range(dice.choice((1, 1, 2, 8))):
        at = dice.randrange(len(out))
        out[at] ^= 1 << dice.randrange(8)
    if dice.random() < 0.2:
        at = dice.randrange(len(out))
        del out[at : at + dice.randrange(1, 400)]
    return bytes(out)


def test_a_harmed_index_never_keeps_a_film_from_opening(four_shots: Path) -> None:
    film = open_source(four_shots)
    (file,) = index_folder().iterdir()
    good = file.read_bytes()
    for seed in range(TURNS):
        file.write_bytes(harmed(good, seed))
        kept = kept_index(film.media.fingerprint)
        if kept is not None:
            assert (kept[0].times == film.index.times).all()
            assert (kept[0].packets == film.index.packets).all()
        elif seed % 60 == 0:
            assert open_source(four_shots).index.times.tolist() == film.index.times.tolist()


def test_one_flipped_bit_anywhere_in_a_kept_index_is_noticed(four_shots: Path) -> None:
    """A zip's own checksum is asked only by who reads past its end, and NumPy does not always."""
    film = open_source(four_shots)
    (file,) = index_folder().iterdir()
    good = file.read_bytes()
    for at in range(0, len(good), 2):
        file.write_bytes(good[:at] + bytes([good[at] ^ (1 << at // 2 % 8)]) + good[at + 1 :])
        assert kept_index(film.media.fingerprint) is None
    file.write_bytes(good)
    assert kept_index(film.media.fingerprint) is not None


def test_harmed_signals_give_the_same_seams(four_shots: Path) -> None:
    film = open_source(four_shots)
    seams = find_seams(film, 0, film.media.frames).seams
    pieces = sorted(signals_folder().rglob("*.npz"))
    good = {p: p.read_bytes() for p in pieces}
    for seed in range(12):
        for n, (piece, data) in enumerate(good.items()):
            piece.write_bytes(harmed(data, 100 * seed + n))
        assert find_seams(film, 0, film.media.frames).seams == seams
    piece = pieces[0]
    piece.unlink()
    piece.mkdir()  # a folder where a piece should be
    assert find_seams(film, 0, film.media.frames).seams == seams


def test_a_film_replaced_under_a_search_keeps_nothing_of_another(tmp_path: Path) -> None:
    path = tmp_path / "reel.mp4"
    encode(path, (p for n in range(6) for p in scene(n, 40)))
    film = open_source(path)
    seams = find_seams(film, 0, 240).seams
    for piece in signals_folder().rglob("*.npz"):
        piece.unlink()
    first = path.read_bytes()
    runs = measure_range(film, 0, 240, measuring=OnThisThread())
    next(runs)
    encode(tmp_path / "other.mp4", (p for n in range(6) for p in scene(20 + n, 40)))
    os.replace(tmp_path / "other.mp4", path)
    with pytest.raises(MediaError, match=r"reel\.mp4: was changed since it was opened"):
        list(runs)
    assert missing_ranges(film.media, 0, 240) == [(0, 240)]
    with pytest.raises(MediaError, match="was changed since"):
        open_reader(film, Purpose.PLAY)
    with pytest.raises(MediaError, match="was changed since"):
        find_seams(film, 0, 240)
    path.write_bytes(first)
    assert find_seams(open_source(path), 0, 240).seams == seams


def test_a_harmed_library_is_made_anew_and_saving_never_fails_for_it(tmp_path: Path) -> None:
    project = film_of("night")
    path = save_project(project, tmp_path / "night.offcut")
    keep_up(project, path)
    with Library() as library:
        library._base.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        file = library.file
    good = file.read_bytes()
    for seed in range(TURNS):
        for end in ("-wal", "-shm"):
            file.with_name(file.name + end).unlink(missing_ok=True)
        file.write_bytes(harmed(good, seed) if seed % 4 else random.Random(seed).randbytes(5000))
        keep_up(project, path)
        with Library() as library:
            assert path in library.projects()


def test_a_project_path_that_is_no_utf8_is_saved_found_and_let_go(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/reel \xff\xfe.offcut"))
    project = film_of("night")
    lock = ProjectLock(path)
    save_project(project, path)
    keep_up(project, path)
    lock.release()
    with Library() as library:
        assert library.projects() == [path]
        library.forget(path)
        assert library.projects() == []


def test_a_long_name_is_saved_again_and_again(tmp_path: Path) -> None:
    path = tmp_path / ("n" * 241 + ".offcut")
    for name in ("first", "second", "third"):
        save_project(name_project(Project(), name), path)
    assert open_project(path).name == "third"
    assert open_project(backup_of(path)).name == "second"
    held = ProjectLock(path)
    with pytest.raises(LockedError):
        ProjectLock(path)
    held.release()


def test_a_link_is_saved_through_and_locked_as_what_it_leads_to(tmp_path: Path) -> None:
    real, link = tmp_path / "real.offcut", tmp_path / "link.offcut"
    save_project(name_project(Project(), "old"), real)
    link.symlink_to("real.offcut")
    save_project(name_project(Project(), "new"), link)
    assert link.is_symlink()
    assert open_project(real).name == "new"
    assert open_project(backup_of(real)).name == "old"
    held = ProjectLock(link)
    with pytest.raises(LockedError):
        ProjectLock(real)
    held.release()


def test_left_work_without_a_zone_hides_no_other(tmp_path: Path) -> None:
    for name in ("one", "two", "three"):
        Recovery().keep(name_project(Project(), name), None)
    for n, path in enumerate(sorted(recovery_folder().glob("*.json"))):
        held = json.loads(path.read_text())
        held["process"][1] = "1"
        held["when"] = ("2026-05-01T10:00:00", datetime.now(UTC).isoformat(), "9999-12-31")[n]
        path.write_text(json.dumps(held))
    assert len(left_work()) >= 2


@pytest.mark.parametrize("size", [(1, 1), (2, 2), (4, 2), (2, 16), (7, 3)])
def test_the_smallest_films_are_searched(tmp_path: Path, size: tuple[int, int]) -> None:
    wide, high = size
    dark, light = (np.full((high, wide, 3), v, np.uint8) for v in (10, 230))
    pictures = [dark] * 30 + [light] * 30
    path = encode(tmp_path / "tiny.mov", pictures, codec="png", pixels="rgb24")
    film = open_source(path)
    found = find_seams(film, 0, film.media.frames)
    assert found.complete
    assert [s.frame for s in found.seams] == [30]
