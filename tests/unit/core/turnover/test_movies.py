"""One movie written: its frames, rate, timecode and sound, and what happens where it cannot be."""

from __future__ import annotations

import threading
from fractions import Fraction
from pathlib import Path

import av
import pytest

from films import beeped, number_in
from offcut.core.errors import MediaError
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.model.source import Framing
from offcut.core.turnover.copying import PacketMap, copy_movie
from offcut.core.turnover.movies import WAYS, Stopped, write_movie


@pytest.fixture(scope="module")
def film(films: Path) -> OpenedFilm:
    path = films / "beeped.mov"
    if not path.exists():
        beeped(path, "pcm_s16le")
    return open_source(path)


@pytest.mark.parametrize("way", ["prores", "h264", "ffv1"])
def test_a_movie_goes_on_with_the_films_time(way: str, film: OpenedFilm, tmp_path: Path) -> None:
    path = tmp_path / f"shot{WAYS[way].suffix}"
    told: list[int] = []
    said: list[str] = []
    write_movie(film, 40, 70, path, WAYS[way], told=told.append, say=said.append)
    made = open_source(path)
    assert (made.media.frames, made.media.rate) == (30, Fraction(25))
    assert made.media.start == film.media.start + 40
    assert sum(told) == 30
    assert said == []
    assert len(made.tracks) == len(film.tracks) == 1
    with av.open(str(path)) as seen:  # FFmpeg as a second reader
        shown = [number_in(rgb_of(p, 160, 96)) for p in seen.decode(video=0)]
        seen.seek(0)
        samples = sum(p.samples for p in seen.decode(audio=0))
    assert shown == list(range(40, 70))
    assert samples == 30 * 48_000 // 25


def test_a_movie_is_cut_to_a_framing(film: OpenedFilm, tmp_path: Path) -> None:
    path = tmp_path / "shot.mkv"
    write_movie(film, 0, 5, path, WAYS["ffv1"], framing=Framing(8, 4, 8, 4))
    made = open_source(path).media
    assert (made.width, made.height) == (144, 88)


def test_a_movie_that_is_stopped_leaves_nothing(film: OpenedFilm, tmp_path: Path) -> None:
    stop = threading.Event()
    path = tmp_path / "shot.mov"
    with pytest.raises(Stopped):
        write_movie(film, 0, 100, path, WAYS["h264"], stop=stop, told=lambda _n: stop.set())
    assert list(tmp_path.iterdir()) == []


def test_where_nothing_can_be_written_one_sentence_names_the_file(
    film: OpenedFilm, tmp_path: Path
) -> None:
    path = tmp_path / "gone" / "shot.mov"
    with pytest.raises(MediaError, match=r"shot\.mov: cannot be written"):
        write_movie(film, 0, 10, path, WAYS["h264"])
    with pytest.raises(MediaError, match=r"shot\.mov: cannot be written"):
        copy_movie(film, 0, 100, path, PacketMap(film.index))


def test_a_movie_without_sound_is_asked_for_by_no_tracks(film: OpenedFilm, tmp_path: Path) -> None:
    path = tmp_path / "shot.mov"
    write_movie(film, 0, 10, path, WAYS["h264"], tracks=())
    assert open_source(path).tracks == ()


def test_copied_packets_begin_at_a_keyframe_and_say_how_far_off(film: OpenedFilm) -> None:
    spans = PacketMap(film.index)
    keys = film.index.keys.tolist()
    first, last, how = spans.span(keys[0], film.media.frames)
    assert (first, last, how.exact) == (0, film.media.frames, True)
    assert not spans.span(keys[0] + 3, keys[0] + 9)[2].exact
