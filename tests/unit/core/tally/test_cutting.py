"""Cutting a film by the list that came with it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from offcut.core.errands.seams import find_seams
from offcut.core.errors import OffcutError
from offcut.core.lists.incoming import ReadList
from offcut.core.lists.registry import read_list
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Kind, Origin, Seam, Standing
from offcut.core.model.shots import counted_seams, doubt_order, shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.fitting import found_fit, misgivings, verdicts
from offcut.core.tally.joins import Joins, joins_of
from offcut.demo import FILM, LAB_LIST
from projects import FIRST

LISTS = Path(__file__).parents[3] / "lists"
RATE = Fraction(25)


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Project:
    film = open_source(FILM)
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
        seams = find_seams(film).seams
    return take_found(add_source(Project(), film.media), FIRST, seams, 0, film.media.frames)


@pytest.fixture(scope="module")
def lab() -> tuple[ReadList, Joins]:
    listed = read_list(LAB_LIST, RATE)
    return listed, joins_of(listed)


def test_the_labs_list_finds_its_hour_and_names_its_two_flaws(
    demo: Project, lab: tuple[ReadList, Joins]
) -> None:
    listed, joins = lab
    assert not listed.troubles
    fit = found_fit(joins, demo.sources[0])
    assert fit.offset == 90_000
    assert (fit.agree, fit.whole) == (30, 32)
    told, missed = verdicts(joins, demo.sources[0], fit.offset)
    flaws = [(v.join.event.number, v.off, v.seam is None) for v in told if not v.agrees]
    assert flaws == [("011", 5, False), ("024", 0, True)]
    assert missed == ()
    assert misgivings(listed, joins, demo.sources[0].media, fit.offset) == ()


def film_of(frames: list[int], start: int = 0, length: int = 2000) -> Project:
    media = Media("/films/x.mov", RATE, length, 1280, 720, start=start)
    seams = [Seam(0, f, f, f, score=80.0, certainty=Certainty.LIKELY) for f in frames]
    return take_found(add_source(Project(), media), FIRST, seams, 0, length)


def list_of(tmp_path: Path, frames: list[int]) -> Joins:
    path = tmp_path / "x.txt"
    path.write_text("\n".join(map(str, frames)))
    return joins_of(read_list(path, RATE))


@pytest.mark.parametrize("start", [0, 90_000, 12_345])
@pytest.mark.parametrize("shift", [0, 90_000, -90_000, 777, 90_003])
def test_any_offset_is_found_to_the_frame(start: int, shift: int, tmp_path: Path) -> None:
    frames = [100, 260, 333, 700, 901, 1500, 1777]
    if start + shift < 0:
        return
    project = film_of([f for f in frames if f != 700] + [1111], start)
    joins = list_of(tmp_path, [start + shift + f for f in [0, *frames]])
    fit = found_fit(joins, project.sources[0])
    assert fit.offset == start + shift
    assert (fit.agree, fit.whole) == (6, 7)


def test_a_list_without_a_common_beginning_is_found_by_its_joins(tmp_path: Path) -> None:
    project = film_of([100, 260, 333, 700, 901, 1500])
    joins = list_of(tmp_path, [5000, 5333 - 260 - 100 + 27, 5260 + 27, 5333 + 27, 5901 + 27])
    fit = found_fit(joins, project.sources[0])
    assert fit.offset == 5027
    assert fit.why == "most joins fall on found seams"


def test_the_list_alone_leaves_only_its_joins_and_what_was_judged(tmp_path: Path) -> None:
    project = place_seam(film_of([100, 200, 300]), FIRST, 250)
    joins = list_of(tmp_path, [0, 100, 400])
    cut = cut_by_list(project, FIRST, joins, 0, Use.ALONE)
    assert [(s.frame, s.origin) for s in counted_seams(cut.sources[0])] == [
        (100, Origin.LISTED),
        (250, Origin.PLACED),
        (400, Origin.LISTED),
    ]
    again = cut_by_list(cut, FIRST, joins, 50, Use.ALONE)
    assert [s.frame for s in counted_seams(again.sources[0])] == [50, 250, 350]


@pytest.mark.parametrize(("at_found", "frame"), [(True, 102), (False, 100)])
def test_list_and_found_together_are_one_seam_within_reach(
    at_found: bool, frame: int, tmp_path: Path
) -> None:
    project = film_of([102, 200])
    joins = list_of(tmp_path, [0, 100, 400])
    cut = cut_by_list(project, FIRST, joins, 0, Use.TOGETHER, within=2, at_found=at_found)
    assert [s.frame for s in counted_seams(cut.sources[0])] == [frame, 200, 400]
    apart = cut_by_list(project, FIRST, joins, 0, Use.TOGETHER, within=1)
    assert [s.frame for s in counted_seams(apart.sources[0])] == [100, 102, 200, 400]


def test_a_witness_only_raises_and_lowers_scores(tmp_path: Path) -> None:
    project = film_of([100, 200])
    joins = list_of(tmp_path, [0, 101, 400])
    weighed = cut_by_list(project, FIRST, joins, 0, Use.WITNESS)
    scores = {s.frame: s.score for s in weighed.sources[0].seams}
    assert scores[100] == 95
    assert scores[200] == 48
    assert len(weighed.sources[0].seams) == 2
    with pytest.raises(OffcutError, match="weighed these seams already"):
        cut_by_list(weighed, FIRST, joins, 0, Use.WITNESS)


def test_what_a_person_decided_stays_whatever_the_list_says(tmp_path: Path) -> None:
    project = film_of([100, 200])
    ids = {s.frame: s.id for s in project.sources[0].seams}
    project = roll_seam(strike_seams(project, FIRST, [ids[200]]), FIRST, ids[100], 1)
    joins = list_of(tmp_path, [0, 100, 200])
    cut = cut_by_list(project, FIRST, joins, 0, Use.TOGETHER)
    seams = {s.frame: s for s in cut.sources[0].seams}
    assert seams[101].standing is Standing.KEPT
    assert next(s.standing for s in cut.sources[0].seams if s.frame == 200) is Standing.STRUCK


def test_a_dissolve_of_the_list_becomes_a_gradual_seam(tmp_path: Path) -> None:
    joins = joins_of(read_list(LISTS / "dissolve-and-wipe.edl", RATE))
    project = film_of([])
    cut = cut_by_list(project, FIRST, joins, 90_000, Use.ALONE)
    dissolve, wipe = counted_seams(cut.sources[0])
    assert (dissolve.kind, dissolve.start, dissolve.frame, dissolve.end) == (
        Kind.DISSOLVE, 50, 62, 74,
    )  # fmt: skip
    assert (wipe.kind, wipe.start, wipe.end) == (Kind.WIPE, 125, 137)


def test_reel_and_source_timecode_stay_with_the_shot_through_mending(
    demo: Project, lab: tuple[ReadList, Joins]
) -> None:
    cut = cut_by_list(demo, FIRST, lab[1], 90_000, Use.TOGETHER)
    # the two joins the film does not bear out are the first to look at
    assert {s.frame for s in doubt_order(cut.sources[0])[:2]} == {631, 1433}
    shot = shots_of(cut.sources[0])[1]
    assert shot.card.name == "THE TOWER OVER THE ROOFS"
    original = shot.card.original
    assert original is not None
    assert (original.reel, original.timecode_at(shot.start)) == ("PA002", 180_000)
    assert shot.opened_by is not None
    rolled = roll_seam(cut, FIRST, shot.opened_by.id, 3)
    moved = shots_of(rolled.sources[0])[1]
    assert moved.card.original is not None
    assert moved.card.original.timecode_at(moved.start) == 180_003
    named = name_shot(demo, FIRST, 120, "My tower")
    kept = cut_by_list(named, FIRST, lab[1], 90_000, Use.TOGETHER)
    assert shots_of(kept.sources[0])[1].title == "My tower"


def test_what_does_not_fit_is_said_before(tmp_path: Path) -> None:
    path = tmp_path / "odd.edl"
    path.write_text(
        "001 A V C 00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00\n"
        "002 A V C 00:00:00:00 00:00:04:00 01:00:03:00 01:00:07:00\n"
        "003 A V C 00:00:00:00 00:00:04:00 01:00:09:00 01:00:13:00\n"
        "004 A V C 00:00:00:00 00:10:00:00 01:00:13:00 01:10:13:00\n"
        "005 A V C 00:00:00:00 00:00:04:00 01:10:13:00 01:10:17:00\n"
        "nonsense\n"
    )
    listed = read_list(path, RATE)
    joins = joins_of(listed)
    said = " / ".join(misgivings(listed, joins, film_of([]).sources[0].media, 90_000))
    assert "1 line could not be used" in said
    assert "1 join past the film’s end, the first at 01:10:13:00" in said
    assert "1 event over the one before on the record side, the first event 002 (line 2)" in said
    assert "1 gap, the first before event 003 (line 3)" in said
    with pytest.raises(OffcutError, match="change the offset"):
        cut_by_list(film_of([]), FIRST, joins, 500_000, Use.ALONE)


def test_a_list_for_another_rate_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "thirty.edl"
    path.write_text(
        "001 A V C 00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:24\n"
        "002 A V C 00:00:00:00 00:00:04:00 01:00:04:24 01:01:23:08\n"
    )
    media = replace(film_of([]).sources[0].media, rate=Fraction(24), frames=2000)
    listed = read_list(path, RATE)
    said = misgivings(listed, joins_of(listed), media, 90_000)
    assert any("counts frames up to 24, the film only to 23" in s for s in said)
