"""The report says what came otherwise than a person would expect, and is silent otherwise."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from films import beeped, encode, picture_of
from offcut.core.errors import MediaError
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.media.sound import SoundTrack
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.shots import clean_span, shots_of
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.readers_in_use import ReadersInUse, TrailingReader
from offcut.core.turnover.stills import still_frame, write_still
from offcut.core.turnover.writing import Report, hand_over
from projects import FIRST


@pytest.fixture
def film(films: Path) -> OpenedFilm:
    path = films / "beeped.mov"
    if not path.exists():
        beeped(path, "pcm_s16le")
    return open_source(path)


def cut(film: OpenedFilm) -> Project:
    return place_seam(add_source(Project("Told"), film.media), FIRST, 60)


def handed(film: OpenedFilm, folder: Path, **asked: object) -> Report:
    plan = plan_of(cut(film), Asked(source=FIRST, lists=(), **asked))  # type: ignore[arg-type]
    return hand_over(plan, folder, {FIRST: film}, overwrite=True)


def test_where_all_is_well_nothing_is_told(film: OpenedFilm, tmp_path: Path) -> None:
    for asked in ({"movies": "copy"}, {"movies": "h264"}, {"stills": "middle"}):
        report = handed(film, tmp_path, **asked)
        assert (report.problems, report.notes) == ((), ())
        assert len(report.written) == 2


def test_sound_that_cannot_be_read_is_told_and_the_pictures_go(
    film: OpenedFilm, tmp_path: Path
) -> None:
    silent = replace(film, tracks=(SoundTrack(7, 48_000, "mono", 1, False),))
    report = handed(silent, tmp_path, movies="h264")
    assert report.problems == ()
    assert len(report.written) == 2
    assert any("sound" in note for note in report.notes)


@pytest.mark.parametrize("codec", ["libopus", "flac"])
def test_sound_that_a_container_refuses_is_told_and_the_pictures_go(
    codec: str, tmp_path: Path
) -> None:
    made = beeped(tmp_path / "film.mp4", codec)
    named = made.rename(tmp_path / "film.mov")  # which cannot be written as what it says it is
    report = handed(open_source(named), tmp_path / "out", movies="copy")
    assert report.problems == ()
    assert len(report.written) == len(report.notes) == 2
    assert all("sound track 1 is left out; MOV refuses it" in note for note in report.notes)
    assert open_source(tmp_path / "out" / report.written[0][0]).media.frames == 60


@pytest.fixture
def damaged(tmp_path: Path) -> OpenedFilm:
    """A film some of whose pictures are damaged on the way."""
    path = encode(tmp_path / "hurt.avi", (picture_of(n) for n in range(100)), "mjpeg",
                  pixels="yuvj420p")  # fmt: skip
    data = bytearray(path.read_bytes())
    at = len(data) // 3
    data[at : at + 4000] = bytes(4000)
    path.write_bytes(data)
    return open_source(path)


def test_a_picture_that_cannot_be_drawn_is_told(damaged: OpenedFilm, tmp_path: Path) -> None:
    with open_reader(damaged, Purpose.HAND_OVER) as reader:
        for n in range(damaged.media.frames):
            try:
                reader.frame(n)
            except MediaError:
                continue
        missing = sorted(reader.missing)
    if not missing:
        pytest.skip("this FFmpeg repairs the damage without a word")
    project = add_source(Project("Hurt"), damaged.media)
    for frame in (missing[0], missing[0] + 1):
        project = place_seam(project, FIRST, frame)
    plan = plan_of(project, Asked(source=FIRST, lists=(), stills="first", sheets=("png",)))
    report = hand_over(plan, tmp_path / "out", {FIRST: damaged}, overwrite=True)
    told = " ".join((*report.problems, *report.notes))
    assert "damaged" in told or "cannot" in told


def test_a_still_of_a_film_that_is_gone_is_a_problem_and_the_others_go(
    film: OpenedFilm, tmp_path: Path
) -> None:
    copy = Path(shutil.copy(film.media.path, tmp_path / "here.mov"))
    here = open_source(copy)
    copy.unlink()
    report = handed(here, tmp_path / "out", sheets=("pdf",))
    assert len(report.written) == 1
    assert len(report.notes) == 2  # each shot is grey, and says so
    assert all("grey" in note for note in report.notes)


# stills themselves


def test_a_still_shows_a_frame_that_no_transition_mixes(film: OpenedFilm) -> None:
    project = place_seam(cut(film), FIRST, 100, kind=Kind.DISSOLVE, span=20)
    first, second, third = shots_of(project.sources[0])
    assert clean_span(first, second) == (0, 60)
    assert clean_span(second, third) == (60, 90)
    assert clean_span(third, None) == (110, 150)
    with open_reader(film, Purpose.HAND_OVER) as reader:
        own = TrailingReader(reader, 0)
        span = clean_span(third, None)
        source = project.sources[0]
        shown = [still_frame(w, span, own, source) for w in ("first", "middle", "last")]
        assert shown == [110, 130, 149]
        sharpest = still_frame("sharpest", span, own, source)
        assert sharpest in range(*span)
        # where nobody looked, the sharpest stands in
        assert [still_frame(w, span, own, source) for w in ("telling", "faces")] == [sharpest] * 2


@pytest.mark.parametrize(("form", "suffix"), [("png", ".png"), ("tiff", ".tif"), ("jpeg", ".jpg")])
def test_another_reader_sees_the_still(
    film: OpenedFilm, form: str, suffix: str, tmp_path: Path
) -> None:
    path = tmp_path / f"still{suffix}"
    with open_reader(film, Purpose.HAND_OVER) as reader:
        write_still(reader.frame(42), film.media, path, form)
    seen = np.asarray(Image.open(path).convert("RGB"))
    assert seen.shape == (96, 160, 3)
    assert np.abs(seen.astype(int) - picture_of(42)).mean() < 6


def test_a_still_that_cannot_be_written_gets_one_sentence(film: OpenedFilm, tmp_path: Path) -> None:
    path = tmp_path / "gone" / "still.png"
    with (
        open_reader(film, Purpose.HAND_OVER) as reader,
        pytest.raises(MediaError, match=r"still\.png: cannot be written"),
    ):
        write_still(reader.frame(0), film.media, path, "png")


def test_one_reader_a_film_is_used_again(film: OpenedFilm) -> None:
    source = cut(film).sources[0]
    with ReadersInUse({FIRST: film}) as readers:
        assert readers.of(source) is readers.of(source)
