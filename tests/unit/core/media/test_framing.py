"""Framing: bars are found, and what is cut is cut to the pixel."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image

from films import barred, encode, number_in, picture_of, scene
from offcut.cli.main import main
from offcut.core.errors import OffcutError
from offcut.core.measure.small_pictures import Crop, crop_of
from offcut.core.media.framing import Cut
from offcut.core.media.live_picture import find_framing
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import WHOLE, Framing, Media
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.searching import set_framing
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.missing_films import project_with_films
from offcut.core.store.project_file import open_project
from offcut.core.turnover.checks import checked
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.sheet import pages_of
from offcut.core.turnover.writing import hand_over
from projects import FIRST


@pytest.mark.parametrize(
    ("framing", "noise", "codec", "pixels"),
    [
        (Framing(0, 24, 0, 24), 0, "libx264", "yuv420p"),
        (Framing(32, 0, 32, 0), 8, "libx264", "yuv420p"),
        (Framing(6, 12, 10, 20), 8, "mpeg4", "yuv420p"),
        (Framing(0, 30, 0, 30), 0, "prores_ks", "yuv422p10le"),
        (WHOLE, 8, "libx264", "yuv420p"),
    ],
)
def test_bars_are_found_as_they_were_made(
    framing: Framing, noise: int, codec: str, pixels: str, tmp_path: Path
) -> None:
    def shots() -> Iterator[NDArray[np.uint8]]:
        for _ in range(5):  # it begins in the dark
            yield np.full((112, 192, 3), 3, np.uint8)
        yield from scene(3, 30)
        yield from scene(4, 30)

    path = encode(tmp_path / "bars.mov", barred(shots(), framing, noise), codec, pixels=pixels)
    film = open_source(path)
    assert find_framing(film, 0, film.media.frames, thorough=True).framing == framing
    assert (
        find_framing(film, 0, 4, thorough=True).framing == WHOLE
    )  # nothing but dark pictures: nothing to go by


@pytest.mark.parametrize("pixels", ["yuv420p", "yuv422p10le", "yuv444p", "rgb24", "gray", "nv12"])
def test_pictures_are_cut_to_the_pixel_in_their_own_format(pixels: str) -> None:
    rng = np.random.default_rng(1)
    rgb = rng.integers(0, 255, (96, 160, 3), dtype=np.uint8)
    frame = av.VideoFrame.from_ndarray(rgb, "rgb24").reformat(format=pixels)
    cut = Cut(Framing(10, 4, 22, 8))
    for _ in range(2):
        small = cut(frame)
        assert (small.width, small.height, small.format.name) == (128, 84, pixels)
        luma = "gray10le" if "10" in pixels else "gray"
        grey = frame.to_ndarray(format=luma)[4:88, 10:138]
        assert np.array_equal(small.to_ndarray(format=luma), grey)
    assert Cut(WHOLE)(frame) is frame


@pytest.fixture
def framed(tmp_path: Path) -> Project:
    """A film of numbers between bars, cut in two."""
    framing = Framing(16, 20, 16, 20)
    pictures = barred((picture_of(n, 320, 192) for n in range(30)), framing)
    path = encode(tmp_path / "framed.mkv", pictures, "ffv1")
    project = add_source(Project(name="Line 7"), open_source(path).media)
    return set_framing(place_seam(project, FIRST, 12), FIRST, framing)


@pytest.mark.parametrize("way", ["prores", "h264", "ffv1"])
def test_movies_are_cut_to_the_framing(way: str, framed: Project, tmp_path: Path) -> None:
    film = open_source(framed.sources[0].media.path)
    plan = plan_of(framed, Asked(lists=(), movies=way, framing=True, stills="first"))
    report = hand_over(plan, tmp_path / way, {FIRST: film})
    assert not report.problems
    numbers: list[int] = []
    for name, _ in report.written:
        if name.endswith(".png"):
            with Image.open(tmp_path / way / name) as still:
                assert still.size == (320, 192)
            continue
        with av.open(str(tmp_path / way / name)) as movie:
            for frame in movie.decode(video=0):
                assert (frame.width, frame.height) == (320, 192)
                numbers.append(number_in(rgb_of(frame, 320, 192)))
    assert numbers == list(range(30))
    # and not, when it is not asked for
    report = hand_over(
        plan_of(framed, Asked(lists=(), movies=way)), tmp_path / "all", {FIRST: film}
    )
    assert open_source(tmp_path / "all" / report.written[0][0]).media.width == 352


def test_the_check_says_where_a_framing_cannot_be_applied(framed: Project, tmp_path: Path) -> None:
    film = open_source(framed.sources[0].media.path)

    def said(asked: Asked, project: Project = framed) -> str:
        return " ".join(
            f.words for f in checked(plan_of(project, asked), tmp_path, films={FIRST: film})
        )

    assert "no framing is applied" in said(Asked(movies="copy", framing=True))
    assert "no framing is applied" not in said(Asked(movies="copy"))
    whole = set_framing(framed, FIRST, WHOLE)
    assert "No framing is set" in said(Asked(movies="h264", framing=True), whole)
    narrow = set_framing(framed, FIRST, Framing(100, 0, 100, 0))
    assert "DNxHR" in said(Asked(movies="dnxhr", framing=True), narrow)


def test_a_contact_sheet_has_the_shape_of_the_framing(framed: Project) -> None:
    narrow = set_framing(framed, FIRST, Framing(16, 20, 176, 20))  # 160x192 of 352x232
    (page,) = pages_of(plan_of(narrow, Asked(sheets=("pdf",), framing=True)))
    box = page.boxes[0]
    assert box.wide / box.high == pytest.approx(160 / 192)
    (page,) = pages_of(plan_of(narrow, Asked(sheets=("pdf",))))
    assert page.boxes[0].wide / page.boxes[0].high == pytest.approx(352 / 232)


@given(st.tuples(*[st.integers(-5, 400)] * 4))
def test_a_framing_leaves_a_picture_or_is_refused(sides: tuple[int, int, int, int]) -> None:
    media = Media("film.mov", Fraction(25), 100, 320, 192)
    project = add_source(Project(), media)
    framing = Framing(*sides)
    try:
        source = set_framing(project, FIRST, framing).sources[0]
    except OffcutError:
        assert min(sides) < 0 or min(framing.size(media)) < 16
        return
    crop = crop_of(source)
    assert 0 <= crop.left < crop.right <= 1
    assert 0 <= crop.top < crop.bottom <= 1
    assert crop_of(dataclasses.replace(source, framing=WHOLE)) == Crop()


def test_a_smaller_film_in_its_place_is_whole(framed: Project) -> None:
    media = Media("other.mov", Fraction(25), 30, 40, 30)
    assert project_with_films(framed, {FIRST: media}).sources[0].framing == WHOLE


def test_from_the_command_line_a_project_is_kept_and_handed_over(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    def shots() -> Iterator[NDArray[np.uint8]]:
        for seed in (3, 8, 5):
            yield from scene(seed, 30)

    film = encode(tmp_path / "bars.mp4", barred(shots(), Framing(0, 24, 0, 24)))
    project = tmp_path / "bars.offcut"
    assert main(["detect", str(film), "--crop", "find", "--save", str(project)]) == 0
    told = capsys.readouterr()
    assert "the framing is 192x112 from 0, 24" in told.err
    assert f"3 shots kept in {project}" in told.out
    kept = open_project(project)
    assert kept.sources[0].framing == Framing(0, 24, 0, 24)
    assert [s.frame for s in counted_seams(kept.sources[0])] == [30, 60]
    assert main(["detect", str(film), "--save", str(project)]) == 1  # never over what is there
    assert "is there already" in capsys.readouterr().err
    out = tmp_path / "out"
    call = ["turnover", str(project), "--to", str(out), "--json", "--files", "h264", "--framing"]
    assert main([*call, "--quiet"]) == 0
    movies = sorted(out.glob("*.mov"))
    assert len(movies) == 3
    assert {open_source(m).media.height for m in movies} == {112}
    assert len(json.loads((out / "bars.json").read_text())["shots"]) == 3
