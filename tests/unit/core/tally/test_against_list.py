"""A list against the found seams: what agrees, what is off, and where it runs off all along."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.lists.incoming import ReadEvent, ReadList
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Kind, Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Media, Source
from offcut.core.tally.against_list import (
    Lie,
    Said,
    lie_words,
    lies_of,
    rows_of,
    take_film_side,
    take_list_side,
)
from offcut.core.tally.joins import Joins, joins_of
from offcut.core.timecode import PAL

FOUND = [40, 75, 125, 155, 200, 240, 275, 330, 371, 420]


def film(*cuts: int) -> Source:
    media = Media("/films/line-7.mov", Fraction(25), 500, 1920, 1080)
    seams = tuple(Seam(10 + n, f, f, f, Kind.CUT, 95.0, Certainty.SURE) for n, f in enumerate(cuts))
    return Source(1, media, 0, 500, seams=seams, searched=True)


def listed(*frames: int, until: int = 500) -> Joins:
    edges = [0, *frames, until]
    events = tuple(
        ReadEvent(f"{n:03d}", n, "A001", a, b, a, b)
        for n, (a, b) in enumerate(pairwise(edges), start=1)
    )
    return joins_of(ReadList("cut.edl", "EDL", PAL, False, events=events))


def said(joins: Joins, source: Source, lies: tuple[Lie, ...] = (Lie(0, 0),)) -> list[object]:
    return [(r.said, r.frame, r.seam.frame if r.seam else None, r.off)
            for r in rows_of(joins, source, 0, lies)]  # fmt: skip


def test_each_join_is_told_as_both_have_it() -> None:
    rows = said(listed(40, 78, 155, 190), film(40, 75, 125, 155))
    assert rows == [
        (Said.AGREES, 40, 40, 0),
        (Said.OFF, 78, 75, 3),
        (Said.FOUND, None, 125, 0),
        (Said.AGREES, 155, 155, 0),
        (Said.LISTED, 190, None, 0),
    ]


def test_a_steady_amount_from_some_point_on_is_one_thing() -> None:
    joins = listed(*(f if n < 4 else f + 5 for n, f in enumerate(FOUND)))
    lies = lies_of(joins, film(*FOUND), 0)
    assert lies == (Lie(0, 0), Lie(4, 5))
    assert [lie_words(lie, joins) for lie in lies] == [
        "", "From event 006 on all is 5 frames late",
    ]  # fmt: skip
    assert {r[0] for r in said(joins, film(*FOUND), lies)} == {Said.AGREES}  # type: ignore[index]


def test_more_frames_than_a_join_can_be_off_are_told_too() -> None:
    joins = listed(*(f if n < 5 else f - 60 for n, f in enumerate(FOUND)))
    # sorted again, as lists are: what comes before its predecessor would lie over it
    lies = lies_of(joins, film(*FOUND), 0)
    assert lies[0] == Lie(0, 0)
    assert lies[-1].off == -60
    assert lie_words(lies[-1], joins).endswith("all is 60 frames early")


def test_all_along_is_said_where_the_offset_is_wrong_from_the_start() -> None:
    joins = listed(*(f + 1 for f in FOUND))
    lies = lies_of(joins, film(*FOUND), 0)
    assert [lie_words(lie, joins) for lie in lies] == ["All along all is 1 frame late"]


def test_one_join_that_is_off_is_no_steady_amount() -> None:
    joins = listed(*(f + 3 if n == 4 else f for n, f in enumerate(FOUND)))
    assert lies_of(joins, film(*FOUND), 0) == (Lie(0, 0),)


def test_the_list_s_side_is_taken_and_the_film_s_kept() -> None:
    source = film(40, 75, 125, 155)
    project = Project(sources=(source,), next_id=100)
    rows = rows_of(listed(40, 78, 155, 190), source, 0)
    taken = take_list_side(project, 1, rows).source(1)
    assert [s.frame for s in counted_seams(taken)] == [40, 78, 155, 190]
    kept = take_film_side(project, 1, rows).source(1)
    assert [s.frame for s in counted_seams(kept)] == [40, 75, 125, 155]
    assert {s.standing for s in kept.seams} == {Standing.KEPT}


def test_inside_a_dissolve_nothing_is_off() -> None:
    source = film(40)
    mixed = replace(source.seams[0], start=32, end=48, kind=Kind.DISSOLVE)
    assert said(listed(45), replace(source, seams=(mixed,))) == [(Said.AGREES, 45, 40, 0)]


@given(st.lists(st.integers(1, 499), max_size=40), st.lists(st.integers(1, 499), max_size=40))
def test_every_join_and_every_seam_is_in_one_row(ours: list[int], theirs: list[int]) -> None:
    source, joins = film(*sorted(set(ours))), listed(*sorted(set(theirs)))
    rows = rows_of(joins, source, 0)
    assert sorted(r.seam.frame for r in rows if r.seam) == sorted(set(ours))
    assert sorted(r.frame for r in rows if r.frame is not None) == sorted(set(theirs))
    assert all(abs(r.off) <= 12 for r in rows)


@pytest.mark.parametrize("cuts", [[], [40]])
def test_without_joins_or_seams_a_list_lies_steady(cuts: list[int]) -> None:
    assert lies_of(listed(), film(*cuts), 0) == (Lie(0, 0),)
    assert lies_of(listed(60), film(), 0) == (Lie(0, 0),)
