"""Films whose pictures are interlaced, turned or unevenly timed stay so when they go out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, scene, woven
from offcut.core.errands.seams import find_seams
from offcut.core.media.movie import MovieReader
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.source import Framing
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.searching import set_framing, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.missing_films import film_there, with_shape_of
from offcut.core.turnover.checks import checked
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.writing import hand_over
from projects import FIRST

Picture = NDArray[np.uint8]
WIDE, HIGH, COUNT = 320, 240, 30
COLOURS = (190, 70)


def film_of(
    path: Path,
    picture: Callable[[int], Picture],
    codec: str,
    options: dict[str, str],
    turn: int = 0,
    times: Callable[[int], int] | None = None,
) -> OpenedFilm:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        if turn:
            stream.set_display_rotation(turn)
        base = Fraction(1, 1000) if times else Fraction(1, 25)
        stream.codec_context.time_base = base
        for n in range(COUNT):
            frame = av.VideoFrame.from_ndarray(picture(n), format="yuv420p")
            frame.pts, frame.time_base = times(n) if times else n, base
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return open_source(path)


def handed(film: OpenedFilm, way: str, folder: Path) -> list[Path]:
    """Cut a film in two and hand both shots over as movies."""
    project = place_seam(add_source(Project(name="x"), film.media), FIRST, 11)
    report = hand_over(plan_of(project, Asked(lists=(), movies=way)), folder, {FIRST: film})
    assert not report.problems
    return [folder / name for name, _ in report.written]


# interlaced


def two_moments(n: int) -> Picture:
    """A light bar that has moved on between the two fields, each of a colour of its own."""
    planes = np.full((HIGH * 3 // 2, WIDE), 128, np.uint8)
    for field in (0, 1):
        left = (8 * n + 40 * field) % (WIDE - 24)
        planes[field:HIGH:2] = 60
        planes[field:HIGH:2, left : left + 24] = 200
        red = planes[HIGH * 5 // 4 :].reshape(HIGH // 2, WIDE // 2)
        red[field::2] = COLOURS[field]
    return planes


def plane_of(frame: av.VideoFrame, number: int) -> NDArray[np.float64]:
    """Return a plane of a picture, 0 to 255."""
    plane = frame.planes[number]
    deep = frame.format.components[0].bits > 8
    data = np.frombuffer(plane, np.uint16 if deep else np.uint8)
    lines = data.reshape(plane.height, -1)[:, : plane.width].astype(np.float64)
    return lines / 2 ** (frame.format.components[0].bits - 8)


@pytest.fixture(scope="module", params=["tff", "bff"])
def interlaced(request: pytest.FixtureRequest, films: Path) -> tuple[OpenedFilm, int]:
    """A film of two moments a picture, and FFmpeg's number for the order of its fields."""
    options = {"x264-params": f"{request.param}=1:crf=4", "flags": "+ilme+ildct"}
    film = film_of(films / f"{request.param}.mp4", two_moments, "libx264", options)
    return film, {"tff": 2, "bff": 3}[request.param]  # AV_FIELD_TT and AV_FIELD_BB


@pytest.mark.parametrize("way", ["prores", "h264", "ffv1"])
def test_the_fields_of_an_interlaced_film_stay_apart_and_in_their_order(
    way: str, interlaced: tuple[OpenedFilm, int], tmp_path: Path
) -> None:
    film, order = interlaced
    assert film.fields
    for path, start in zip(handed(film, way, tmp_path), (0, 11), strict=True):
        with av.open(str(path)) as movie:
            stream = movie.streams.video[0]
            for n, frame in enumerate(movie.decode(stream), start=start):
                assert frame.interlaced_frame
                light, red = plane_of(frame, 0), plane_of(frame, 2)
                for field in (0, 1):
                    wanted = two_moments(n)[field:HIGH:2]
                    assert np.abs(light[field::2] - wanted).mean() < 3
                    assert np.abs(red[field::2] - COLOURS[field]).mean() < 3
            assert stream.codec_context.field_order == order


def test_the_check_says_what_cannot_be_told_of_fields(
    interlaced: tuple[OpenedFilm, int], tmp_path: Path
) -> None:
    film, _ = interlaced
    project = add_source(Project(name="x"), film.media)

    def said(project: Project, asked: Asked) -> str:
        return " ".join(
            f.words for f in checked(plan_of(project, asked), tmp_path, films={FIRST: film})
        )

    assert "DNxHR has no word for fields" in said(project, Asked(movies="dnxhr"))
    framed = set_framing(project, FIRST, Framing(0, 6, 0, 6))
    assert "steps of 4 pixels" in said(framed, Asked(movies="prores", framing=True))
    assert "steps of 4" not in said(framed, Asked(movies="prores"))
    assert len(handed(film, "dnxhr", tmp_path)) == 2


def test_the_check_names_cuts_between_fields(tmp_path: Path) -> None:
    fields = [*scene(90, 61, 240, 480), *scene(91, 59, 240, 480), *scene(92, 60, 240, 480)]
    film = open_source(encode(tmp_path / "x.mp4", woven(fields), options={"crf": "18"}))
    project = add_source(Project(name="x"), film.media)
    project = take_found(project, FIRST, find_seams(film).seams, 0, film.media.frames)
    told = [f.words for f in checked(plan_of(project, Asked()), tmp_path, films={FIRST: film})]
    (words,) = [t for t in told if "between the fields" in t]
    assert words.startswith("1 cut between the fields of a frame, the first at 00:00:01:05")


# turned


def corner(_n: int) -> Picture:
    """Black, but for a white corner at the upper left."""
    planes = np.full((HIGH * 3 // 2, WIDE), 128, np.uint8)
    planes[:HIGH] = 16
    planes[:60, :80] = 235
    return planes


def white_corner(grey: NDArray[np.uint8]) -> tuple[str, str]:
    """Return in which corner of a picture the white lies."""
    high, wide = np.argwhere(grey > 128).mean(axis=0) / grey.shape
    return ("top" if high < 0.5 else "bottom", "left" if wide < 0.5 else "right")


# A display matrix of +90 turns the picture counterclockwise: FFmpeg, av_display_rotation_get.
TURNS = [(90, ("bottom", "left")), (180, ("bottom", "right")), (-90, ("top", "right"))]


@pytest.mark.parametrize(("turn", "where"), TURNS)
def test_a_turned_film_is_seen_and_handed_over_upright(
    turn: int, where: tuple[str, str], films: Path, tmp_path: Path
) -> None:
    film = film_of(films / f"turned{turn}.mp4", corner, "libx264", {}, turn)
    size = (WIDE, HIGH) if turn == 180 else (HIGH, WIDE)
    assert (film.media.width, film.media.height) == size
    assert film.media.rotation == turn % 360
    with MovieReader(film.media.path, film.index) as reader:
        assert white_corner(reader.frame(7).to_ndarray(format="gray")) == where
    for path in handed(film, "prores", tmp_path):
        with av.open(str(path)) as movie:
            for frame in movie.decode(video=0):
                assert (frame.width, frame.height, frame.rotation) == (*size, 0)
                assert white_corner(frame.to_ndarray(format="gray")) == where
    for path in handed(film, "copy", tmp_path):
        again = open_source(path)
        assert (again.media.rotation, again.media.width) == (turn % 360, size[0])


def test_a_project_from_before_films_were_turned_gets_their_shape(
    films: Path, tmp_path: Path
) -> None:
    film = film_of(films / "turned-later.mp4", corner, "libx264", {}, 90)
    lying = replace(film.media, width=WIDE, height=HIGH, rotation=0)
    project = place_seam(add_source(Project(name="x"), lying), FIRST, 11)
    there = film_there(project.sources[0].media)
    assert there.film is not None
    opened = with_shape_of(project, FIRST, there.film)
    assert opened.sources[0].media == film.media
    assert opened.sources[0].seams == project.sources[0].seams


# unevenly timed


@pytest.mark.parametrize("way", ["prores", "h264", "ffv1"])
def test_an_uneven_film_keeps_its_times(way: str, films: Path, tmp_path: Path) -> None:
    def when(n: int) -> int:
        return 40 * n + (60 if n > 15 else 0) + (n % 3) * 10

    path = films / f"uneven-{way}.mkv"
    film = film_of(path, two_moments, "ffv1", {}, times=when)
    assert film.index.uneven
    plan = plan_of(add_source(Project(name="x"), film.media), Asked())
    assert any("rate varies" in f.words for f in checked(plan, tmp_path, films={FIRST: film}))
    for movie, start in zip(handed(film, way, tmp_path), (0, 11), strict=True):
        with av.open(str(movie)) as read:
            stream = read.streams.video[0]
            times = [round(1000 * f.pts * stream.time_base) for f in read.decode(stream)]
        wanted = [when(n) - when(start) for n in range(start, 11 if start == 0 else COUNT)]
        assert times == wanted
