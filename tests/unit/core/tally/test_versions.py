"""Versions held against each other, from real films to what became of each shot."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import pytest

from films import encode, scene
from offcut.core.errands.held_against import (
    OneSide,
    carried,
    films_compared,
    held,
    versions_compared,
)
from offcut.core.errands.looking_along import measure_missing
from offcut.core.errors import OffcutError
from offcut.core.measure.prints import kept_prints
from offcut.core.measure.registry import PRINTS
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.seam import Certainty, Kind, Origin, Seam
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import name_shot
from offcut.core.tally.sides import side_of
from offcut.core.tally.versions.changes import Comparison, What
from offcut.core.tally.versions.compare import compared
from versions import FIRST, SECOND, Part, Picture, cut, film, finished_otherwise

Told = tuple[str, tuple[int, int] | None, tuple[int, int] | None, int, int]


def told(comparison: Comparison) -> list[Told]:
    return [(c.what.value, c.old, c.new, c.head, c.tail) for c in comparison.changes]


@pytest.fixture(scope="module")
def first(tmp_path_factory: pytest.TempPathFactory) -> OneSide:
    return held(film(tmp_path_factory.mktemp("first") / "first.mp4", FIRST))


WANTED: list[Told] = [
    ("same", (0, 40), (0, 40), 0, 0),
    ("shorter", (40, 75), (40, 68), 0, -7),
    ("gone", (75, 125), None, 0, 0),
    ("same", (125, 155), (68, 98), 0, 0),
    ("longer", (155, 200), (98, 149), 6, 0),
    ("new", None, (149, 179), 0, 0),
    ("same", (200, 240), (179, 219), 0, 0),
    ("other picture", (240, 275), (219, 254), 0, 0),
    ("same", (275, 325), (254, 304), 0, 0),
]


@pytest.mark.parametrize("finish", [iter, finished_otherwise])
def test_a_second_version_is_told_to_the_frame_however_it_was_finished(
    first: OneSide, tmp_path: Path, finish: object
) -> None:
    second = held(film(tmp_path / "second.mp4", SECOND, finish))  # type: ignore[arg-type]
    found = versions_compared(first, second)
    assert told(found) == WANTED
    if finish is finished_otherwise:
        assert any("burnt in" in fact for fact in found.facts)
    else:
        assert found.facts == ()


def test_another_rate_with_every_picture_kept_is_a_fact_and_no_change(
    first: OneSide, tmp_path: Path
) -> None:
    second = held(film(tmp_path / "at-24.mp4", SECOND, rate=Fraction(24)))
    found = versions_compared(first, second)
    assert told(found) == WANTED
    assert found.facts == ("it runs at 24 instead of 25",)


def test_a_rate_converted_by_repeating_pictures_is_a_fact_too(
    first: OneSide, tmp_path: Path
) -> None:
    def at_thirty(pictures: Iterable[Picture]) -> Iterator[Picture]:
        for n, picture in enumerate(pictures):
            yield picture
            if n % 5 == 4:
                yield picture

    found = versions_compared(
        first, held(film(tmp_path / "at-30.mp4", FIRST, at_thirty, rate=Fraction(30)))
    )
    assert found.speed == Fraction(5, 6)
    assert {c.what for c in found.changes} == {What.SAME}
    assert [c.old for c in found.changes] == [c[1] for c in told(versions_compared(first, first))]


def test_a_shot_in_another_place_has_moved_and_the_others_have_not(
    first: OneSide, tmp_path: Path
) -> None:
    order = [0, 1, 5, 2, 3, 4, 6, 7]
    found = versions_compared(first, held(film(tmp_path / "o.mp4", [FIRST[n] for n in order])))
    assert [c.moved for c in found.changes] == [False, False, True, *[False] * 5]
    assert {c.what for c in found.changes} == {What.SAME}


def test_a_shot_run_twice_as_fast_is_told_by_its_speed(first: OneSide, tmp_path: Path) -> None:
    def faster(pictures: Iterable[Picture]) -> Iterator[Picture]:
        for n, picture in enumerate(pictures):
            if not 75 <= n < 125 or n % 2:
                yield picture

    found = versions_compared(first, held(film(tmp_path / "fast.mp4", FIRST, faster)))
    change = found.changes[2]
    assert (change.what, change.old, change.new) == (What.SHORTER, (75, 125), (75, 100))
    assert change.speed == 2
    assert change.words == "at 200% speed"


def test_a_shot_split_by_another_is_told_at_both_its_halves(first: OneSide, tmp_path: Path) -> None:
    parts: list[Part] = [*FIRST[:2], (13, 10, 30), (21, 0, 20), (13, 30, 60), *FIRST[3:]]
    found = versions_compared(first, held(film(tmp_path / "split.mp4", parts)))
    assert told(found)[2:5] == [
        ("shorter", (75, 125), (75, 95), 0, -30),
        ("new", None, (95, 115), 0, 0),
        ("shorter", (75, 125), (115, 145), -20, 0),
    ]


def test_a_seam_that_only_one_version_has_is_no_change(first: OneSide) -> None:
    source = first.source
    assert source is not None
    without = replace(source, seams=tuple(s for s in source.seams if s.frame != 125))
    extra = Seam(900, 20, 20, 20, Kind.CUT, 100.0, Certainty.SURE, origin=Origin.PLACED)
    with_one = replace(without, seams=(extra, *without.seams))
    found = films_compared(source, with_one)
    assert {c.what for c in found.changes} == {What.SAME}
    words = {r.text for c in found.changes for r in c.reasons}
    assert words == {"the new version has no seam there", "the old version has no seam there"}


def test_a_finished_effect_is_another_picture_though_the_rest_is_the_same(
    first: OneSide, tmp_path: Path
) -> None:
    def with_effect(pictures: Iterable[Picture]) -> Iterator[Picture]:
        for n, picture in enumerate(pictures):
            done = picture.copy()
            if 155 <= n < 200:
                done[30:80, 60:120] = (250, 240, 40)
            yield done

    found = versions_compared(first, held(film(tmp_path / "effect.mp4", FIRST, with_effect)))
    assert [c.what for c in found.changes].index(What.OTHER) == 4
    assert sum(c.what is not What.SAME for c in found.changes) == 1


def test_another_film_altogether_is_said_and_not_matched(first: OneSide, tmp_path: Path) -> None:
    other = held(film(tmp_path / "other.mp4", [(31, 0, 40), (32, 0, 50), (33, 0, 45)]))
    with pytest.raises(OffcutError, match=r"other\.mp4: has no shot in common with .*first\.mp4"):
        versions_compared(first, other)


@pytest.mark.parametrize("frames", [1, 2])
def test_a_film_of_a_frame_or_two_is_compared_like_any(
    first: OneSide, tmp_path: Path, frames: int
) -> None:
    short = encode(tmp_path / "short.mp4", scene(77, frames))
    with pytest.raises(OffcutError, match="they are two films"):
        versions_compared(first, held(short))
    with pytest.raises(OffcutError, match="they are two films"):
        versions_compared(held(short), first)


def test_black_all_along_ties_to_nothing(first: OneSide, tmp_path: Path) -> None:
    black = encode(tmp_path / "black.mp4", (np.zeros((112, 192, 3), np.uint8) for _ in range(90)))
    with pytest.raises(OffcutError):
        versions_compared(first, held(black))


def test_prints_follow_the_luma_of_the_pictures(first: OneSide) -> None:
    source = first.source
    assert source is not None
    assert measure_missing(source, None, (PRINTS,)) == ""
    crop = crop_of(source)
    luma, known = kept_prints(source.media, 0, 325, crop)
    assert known.all()
    pictures = list(cut(FIRST))
    for n in (0, 100, 324):  # BT.601 luma in video range
        r, g, b = (pictures[n][..., c].astype(float).mean() for c in range(3))
        wanted = 16 + 0.257 * r + 0.504 * g + 0.098 * b
        assert abs(luma[n].mean() - wanted) < 3


def test_what_was_found_is_the_same_twice(first: OneSide, tmp_path: Path) -> None:
    second = held(film(tmp_path / "again.mp4", SECOND, finished_otherwise))
    assert first.source is not None
    assert second.source is not None
    sides = [side_of(s)[0] for s in (first.source, second.source)]
    assert compared(*sides) == compared(*sides)


def tighter(pictures: Iterable[Picture]) -> Iterator[Picture]:
    """Pictures framed a tenth tighter."""
    for picture in pictures:
        high, wide = picture.shape[:2]
        part = picture[high // 16 : high - high // 24, wide // 24 : wide - wide // 16]
        yield np.ascontiguousarray(cv2.resize(part, (wide, high), interpolation=cv2.INTER_AREA))


def test_a_version_framed_tighter_is_looked_at_closer(first: OneSide, tmp_path: Path) -> None:
    second = held(film(tmp_path / "tighter.mp4", SECOND, tighter))
    before: list[Comparison] = []
    assert first.source is not None
    assert second.source is not None
    found = films_compared(first.source, second.source, first=before.append)
    assert told(found) == WANTED
    assert "tighter" in found.facts[0]
    assert before  # what prints tell is heard before the fine ones are made
    again: list[Comparison] = []
    films_compared(first.source, second.source, first=again.append)
    assert not again  # they are kept


def test_what_a_person_decided_is_carried_over_to_a_film_of_another_project(
    first: OneSide, tmp_path: Path
) -> None:
    second = held(film(tmp_path / "second.mp4", SECOND, finished_otherwise))
    assert first.project is not None
    assert first.source is not None
    named = name_shot(first.project, first.source.id, 10, "The quay at dawn")
    old = replace(first, project=named, source=named.source(first.source.id))
    done, new_id = carried(old, second, versions_compared(old, second))
    assert len(done.project.sources) == 2
    assert shots_of(done.project.source(new_id))[0].title == "The quay at dawn"
    with pytest.raises(OffcutError, match=r"list.edl: is a list"):
        carried(replace(old, source=None, path=Path("list.edl")), second, Comparison(()))
