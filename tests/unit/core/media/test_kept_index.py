"""The index kept on disk: a second opening reads no packets and knows the same."""

from __future__ import annotations

import shutil
from pathlib import Path

import av
import numpy as np
import pytest

from films import beeped
from offcut.core.media.kept_index import VERSION, index_folder, kept_index
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source


def same(one: OpenedFilm, other: OpenedFilm) -> bool:
    ours, theirs = one.index, other.index
    return (
        one.media == other.media
        and one.notes == other.notes
        and one.tracks == other.tracks
        and all(
            np.array_equal(getattr(ours, n), getattr(theirs, n))
            for n in ("times", "keys", "packets", "packet_keys")
        )
        and ours.time_base == theirs.time_base
    )


def packets_read(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """Count, in a list, the packets that FFmpeg reads for an opening."""
    counted: list[int] = []
    demux = av.container.InputContainer.demux

    class Counting:
        def __init__(self, container: object) -> None:
            self._container = container

        def __getattr__(self, name: str) -> object:
            return getattr(self._container, name)

        def __enter__(self) -> Counting:
            return self

        def __exit__(self, *_: object) -> None:
            self._container.close()  # type: ignore[attr-defined]

        def demux(self, *streams: object) -> object:
            for packet in demux(self._container, *streams):
                counted.append(packet.size)
                yield packet

    open_av = av.open
    monkeypatch.setattr(av, "open", lambda *a, **k: Counting(open_av(*a, **k)))
    return counted


@pytest.mark.parametrize("codec", ["aac", "pcm_s16le"])
def test_a_second_opening_reads_no_packets_and_knows_the_same(
    codec: str, films: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = films / f"beeped.{'mp4' if codec == 'aac' else 'mov'}"
    if not path.exists():
        beeped(path, codec)
    counted = packets_read(monkeypatch)
    first = open_source(path)
    once = len(counted)
    assert once >= first.media.frames
    assert once < 3 * first.media.frames  # each packet once, those of the sound beside
    again = open_source(path)
    assert len(counted) - once <= 2
    assert same(first, again)


def test_the_same_film_elsewhere_is_known_by_its_content(four_shots: Path, tmp_path: Path) -> None:
    first = open_source(four_shots)
    copy = Path(shutil.copy(four_shots, tmp_path / "another name.mp4"))
    assert open_source(copy).media.path == str(copy)
    assert open_source(copy).media.frames == first.media.frames
    assert len(list(index_folder().iterdir())) == 1


@pytest.mark.parametrize("harm", [b"", b"PK\x03\x04", b"x" * 5000])
def test_a_damaged_index_is_made_anew(four_shots: Path, harm: bytes) -> None:
    first = open_source(four_shots)
    (file,) = index_folder().iterdir()
    file.write_bytes(harm)
    assert kept_index(first.media.fingerprint) is None
    assert same(open_source(four_shots), first)
    assert kept_index(first.media.fingerprint) is not None


def test_an_index_of_another_version_is_not_asked(
    four_shots: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = open_source(four_shots)
    monkeypatch.setattr("offcut.core.media.kept_index.VERSION", VERSION + 1)
    assert kept_index(first.media.fingerprint) is None
    assert same(open_source(four_shots), first)


def test_a_folder_that_cannot_be_written_only_means_no_cache(
    four_shots: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = open_source(four_shots)
    blocked = tmp_path / "blocked"
    blocked.write_text("a file where a folder should be")
    monkeypatch.setenv("XDG_CACHE_HOME", str(blocked))
    assert same(open_source(four_shots), first)
