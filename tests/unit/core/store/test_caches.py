"""Caches: bounded, oldest out first, made again when damaged or deleted."""

from __future__ import annotations

import os
import sqlite3
from pathlib import Path

import numpy as np

from offcut.core.errands.seams import find_seams
from offcut.core.files import bytes_below, trim_folder
from offcut.core.measure.kept_signals import LIMIT, signals_folder
from offcut.core.media.probe import open_source
from offcut.core.store.caches import cache_bytes, empty_caches
from offcut.core.store.thumbnails import Thumbnails, thumbnails_file

PICTURE = (np.indices((40, 70, 3)).sum(0) % 97 + 60).astype(np.uint8)


def noise(seed: int) -> np.ndarray:
    return np.random.default_rng(seed).integers(0, 255, (40, 70, 3)).astype(np.uint8)


def test_a_kept_thumbnail_comes_back_for_its_film_only() -> None:
    kept = Thumbnails("film a")
    kept.keep(12, PICTURE)
    kept.close()
    again = Thumbnails("film a")
    got = again.get(12, 70, 40)
    assert got is not None
    assert np.abs(got.astype(int) - PICTURE).mean() < 12
    assert again.get(13, 70, 40) is None
    small = again.at_any_size(12, 35, 20)
    assert small is not None
    assert small.shape == (20, 35, 3)
    assert again.frames().tolist() == [12]
    again.close()
    other = Thumbnails("film b")
    assert other.get(12, 70, 40) is None
    assert other.at_any_size(12, 70, 40) is None
    other.close()


def test_a_damaged_thumbnail_is_noticed_by_its_checksum() -> None:
    kept = Thumbnails("film")
    kept.keep(1, PICTURE)
    kept.close()
    base = sqlite3.connect(thumbnails_file())
    with base:
        (data,) = base.execute("SELECT data FROM pictures").fetchone()
        bad = data[:200] + bytes([data[200] ^ 255]) + data[201:]
        base.execute("UPDATE pictures SET data = ?", (bad,))
    base.close()
    again = Thumbnails("film")
    assert again.get(1, 70, 40) is None
    again.close()


def test_a_damaged_thumbnail_file_is_made_anew() -> None:
    for harm in (b"not a data base at all" * 500, b"SQLite format 3\0" + os.urandom(5000)):
        thumbnails_file().parent.mkdir(parents=True, exist_ok=True)
        for end in ("-wal", "-shm"):
            thumbnails_file().with_name(thumbnails_file().name + end).unlink(missing_ok=True)
        thumbnails_file().write_bytes(harm)
        kept = Thumbnails("film")
        assert kept.get(1, 70, 40) is None
        kept.keep(1, PICTURE)
        kept.flush()
        assert kept.get(1, 70, 40) is not None
        kept.close()


def test_thumbnails_deleted_while_open_cost_nothing_but_themselves() -> None:
    kept = Thumbnails("film")
    kept.keep(1, PICTURE)
    kept.flush()
    thumbnails_file().unlink()
    kept.keep(2, PICTURE)
    kept.flush()
    kept.close()
    again = Thumbnails("film")
    again.keep(3, PICTURE)
    again.flush()
    assert again.get(3, 70, 40) is not None
    again.close()


def test_the_oldest_thumbnails_go_first() -> None:
    kept = Thumbnails("film", limit=100_000)
    for n in range(256):
        kept.keep(n, noise(n))
    kept.close()
    base = sqlite3.connect(thumbnails_file())
    frames = [f for (f,) in base.execute("SELECT frame FROM pictures ORDER BY frame")]
    (size,) = base.execute("SELECT sum(length(data)) FROM pictures").fetchone()
    base.close()
    assert 0 < size <= 100_000
    assert frames == list(range(256 - len(frames), 256))


def test_signals_used_longest_ago_go_first(four_shots: Path) -> None:
    film = open_source(four_shots)
    find_seams(film)
    (kept,) = signals_folder().iterdir()
    for age, name in ((50, "old"), (20, "newer")):
        folder = signals_folder() / name
        folder.mkdir()
        (folder / "0-9.npz").write_bytes(bytes(10_000))
        then = kept.stat().st_mtime - age
        os.utime(folder, (then, then))
    trim_folder(signals_folder(), 10_000 + bytes_below(kept))
    assert sorted(f.name for f in signals_folder().iterdir()) == sorted([kept.name, "newer"])


def test_damaged_signals_are_measured_again_and_give_the_same(four_shots: Path) -> None:
    film = open_source(four_shots)
    first = find_seams(film)
    (piece,) = signals_folder().rglob("change-*/*.npz")
    data = bytearray(piece.read_bytes())
    data[len(data) // 2] ^= 255
    piece.write_bytes(bytes(data))
    assert find_seams(film).seams == first.seams
    (piece,) = signals_folder().rglob("change-*/*.npz")
    assert bytes(piece.read_bytes()) != bytes(data)


def test_caches_can_be_measured_and_emptied(four_shots: Path) -> None:
    find_seams(open_source(four_shots))
    kept = Thumbnails("film")
    kept.keep(1, PICTURE)
    kept.close()
    signals, thumbnails, _proxies = cache_bytes()
    assert signals > 1000
    assert thumbnails > 1000
    empty_caches()
    assert cache_bytes()[0] == 0
    again = Thumbnails("film")
    assert again.get(1, 70, 40) is None
    again.close()
    assert LIMIT > 1 << 30
