"""Proxies: the film's frames by the film's numbers, made in pieces, and never trusted blindly."""

from __future__ import annotations

import shutil
import threading
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from films import encode, number_in, picture_of
from offcut.core.errands.seams import find_seams
from offcut.core.measure.proxy_pass import make_proxy
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.proxy import (
    ProxyMaker,
    ProxyPieces,
    ProxyReader,
    empty_proxies,
    proxy_size,
    slow_because,
)
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.source import Media
from scans import write_run

LONG = 700


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> OpenedFilm:
    """A film with one keyframe in 250 pictures, as the web has them."""
    path = tmp_path_factory.mktemp("long") / "long.mp4"
    pictures = (picture_of(n, 320, 192) for n in range(LONG))
    encode(
        path, pictures, options={"g": "250", "sc_threshold": "0"}, tags={"timecode": "01:00:00:00"}
    )
    return open_source(path)


def reader_of(film: OpenedFilm, folder: Path) -> ProxyReader:
    pieces = ProxyPieces(film.media, folder)
    return ProxyReader(pieces, lambda: open_reader(film, Purpose.PLAY), film.index)


def shown(reader: ProxyReader, frame: int) -> int:
    return number_in(rgb_of(reader.frame(frame), 320, 192))


def test_every_frame_has_the_number_it_has_in_the_film(film: OpenedFilm, tmp_path: Path) -> None:
    pieces = ProxyPieces(film.media, tmp_path)
    heard: list[tuple[int, int]] = []
    assert make_proxy(film, pieces, progress=lambda d, w: heard.append((d, w))) == LONG
    assert heard[-1] == (LONG, LONG)
    assert pieces.gaps(0, LONG) == []
    with reader_of(film, tmp_path) as reader:
        for frame in (*range(245, 256), 499, 500, 501, 3, 699, 0):
            assert shown(reader, frame) == frame
            assert not reader.from_film
    for start, _end, path in pieces.there():
        with av.open(str(path)) as piece:
            stream = piece.streams.video[0]
            assert all(p.is_keyframe for p in piece.demux(stream) if p.size)
            label = stream.metadata.get("timecode") or piece.metadata.get("timecode")
            assert label == f"01:00:{start // 25:02d}:{start % 25:02d}"


def test_it_is_made_in_the_pass_that_measures_and_changes_nothing(
    film: OpenedFilm, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    alone = find_seams(film)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    pieces = ProxyPieces(film.media, tmp_path / "proxies")
    both = find_seams(film, watches=[lambda: ProxyMaker(pieces)])
    assert both.seams == alone.seams
    assert np.array_equal(both.signals.unlike, alone.signals.unlike)
    assert pieces.share() == 1


def test_making_is_stopped_and_goes_on(film: OpenedFilm, tmp_path: Path) -> None:
    stop = threading.Event()
    pieces = ProxyPieces(film.media, tmp_path)
    make_proxy(
        film, pieces, stop=stop, progress=lambda done, _w: stop.set() if done > 100 else None
    )
    share = pieces.share()
    assert 0 < share < 1
    assert not list(pieces.folder.glob(".*"))  # nothing half written is left
    kept = {p: p.stat().st_mtime_ns for _, _, p in pieces.there()}
    made = make_proxy(film, pieces)
    assert made == round(LONG * (1 - share))
    assert all(p.stat().st_mtime_ns == then for p, then in kept.items())
    assert pieces.share() == 1


def test_a_proxy_deleted_or_swapped_while_playing_gives_way_to_the_film(
    film: OpenedFilm, tmp_path: Path
) -> None:
    make_proxy(film, ProxyPieces(film.media, tmp_path))
    with reader_of(film, tmp_path) as reader:
        assert shown(reader, 10) == 10
        places = ProxyPieces(film.media, tmp_path).there()
        shutil.copy(places[0][2], places[-1][2])  # a piece under another's name
        assert shown(reader, 690) == 690
        assert reader.from_film
        assert "the proxy cannot be read; the film itself is shown" in reader.lost
    with reader_of(film, tmp_path) as reader:
        shutil.rmtree(tmp_path)
        assert shown(reader, 300) == 300
        assert reader.from_film


def test_which_films_play_slowly(film: OpenedFilm, tmp_path: Path) -> None:
    assert slow_because(film.media, film.index) == ""  # small pictures are quick all the same
    hd = Media("a.mp4", Fraction(25), LONG, 1920, 1080)
    assert slow_because(hd, film.index) == "keyframes 250 frames apart"
    assert slow_because(Media("a.mov", Fraction(25), 10, 3840, 2160), None) == "a large picture"
    write_run(tmp_path, [picture_of(n) for n in range(3)], name="r{}.png")
    run = open_source(tmp_path / "r0.png").media
    assert slow_because(run, None) == ""
    assert proxy_size(hd) == (960, 540)
    assert proxy_size(Media("a", Fraction(24), 9, 2048, 1556)) == (826, 628)
    assert proxy_size(film.media) == (320, 192)


def test_the_folder_keeps_to_its_limit_and_what_else_lies_there_stays(
    film: OpenedFilm, tmp_path: Path
) -> None:
    (tmp_path / "holiday").mkdir()
    (tmp_path / "holiday/note.txt").write_text("mine")
    pieces = ProxyPieces(film.media, tmp_path)
    make_proxy(film, pieces)
    pieces.use(1 << 30)
    assert pieces.share() == 1
    pieces.use(10)
    assert pieces.share() == 0
    make_proxy(film, pieces)
    empty_proxies(tmp_path)
    assert [p.name for p in tmp_path.iterdir()] == ["holiday"]


def test_a_full_disk_or_no_rights_is_one_sentence(film: OpenedFilm, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("no folder")
    maker = ProxyMaker(ProxyPieces(film.media, tmp_path / "file"))
    with open_reader(film, Purpose.MEASURE) as reader:
        for number, picture in reader.frames(0, 5):
            maker.see(number, picture)
    maker.end()
    assert "proxies cannot be written" in maker.trouble
    assert maker.made == 0
