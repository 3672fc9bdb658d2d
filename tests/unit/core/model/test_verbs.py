"""The model by its properties: whatever is done, in whatever order."""

from __future__ import annotations

import itertools
from dataclasses import replace
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.model.history import History
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Kind, Origin, Seam, Standing
from offcut.core.model.shots import (
    counted_seams,
    counts_of,
    doubt_order,
    is_counted,
    sensitivity_at,
    shots_of,
    yield_of,
)
from offcut.core.model.source import Media, Source, Zone
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.folding import fold_shot
from offcut.core.model.verbs.judging import keep_seams, reopen_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import seam_by_id
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.zones import add_zone
from projects import FIRST, FRAMES, STEPS, found_at, projects


@given(projects(), STEPS)
def test_shots_tile_the_range_after_any_edits(project: Project, steps: list) -> None:
    for verb, n in steps:
        project = verb(project, n)
        shots = shots_of(project.sources[0])
        assert shots[0].start == 0
        assert shots[-1].end == FRAMES
        assert all(a.end == b.start for a, b in itertools.pairwise(shots))
        assert [s.number for s in shots] == list(range(1, len(shots) + 1))


@given(projects())
def test_strike_then_reopen_is_the_identity_on_open_seams(project: Project) -> None:
    ids = [s.id for s in project.sources[0].seams if s.standing is Standing.OPEN]
    assert reopen_seams(strike_seams(project, FIRST, ids), FIRST, ids) == project


@given(projects(), st.integers(0, 30), st.integers(-500, 500))
def test_rolling_never_crosses_a_neighbour(project: Project, which: int, by: int) -> None:
    counted = counted_seams(project.sources[0])
    if not counted:
        return
    seam = counted[which % len(counted)]
    rolled = roll_seam(project, FIRST, seam.id, by)
    order = [s.id for s in counted_seams(rolled.sources[0])]
    assert order == [s.id for s in counted]
    assert len({s.frame for s in counted_seams(rolled.sources[0])}) == len(counted)


def test_a_long_dissolve_rolled_to_the_ends_of_the_film_stays_inside_it() -> None:
    for at, by in ((2, -1), (1, 300), (FRAMES - 2, 1), (200, -199), (200, 199)):
        project = place_seam(_film(), FIRST, at, kind=Kind.DISSOLVE, span=300)
        seam = roll_seam(project, FIRST, project.sources[0].seams[0].id, by).sources[0].seams[0]
        assert 0 <= seam.start <= seam.frame <= seam.end <= FRAMES


@given(projects(), st.integers(0, 100))
def test_sensitivity_never_changes_what_was_judged(project: Project, level: int) -> None:
    moved = set_sensitivity(project, FIRST, level)
    judged = [s for s in project.sources[0].seams if s.judged]
    assert all(seam_by_id(moved.sources[0], s.id) == s for s in judged)
    assert all(is_counted(s, moved.sources[0]) == is_counted(s, project.sources[0]) for s in judged)


@given(projects())
def test_the_yield_tells_how_many_shots_each_sensitivity_gives(project: Project) -> None:
    told = yield_of(project.sources[0]).shots
    for level in (0, 25, 50, 75, 100):
        at = shots_of(set_sensitivity(project, FIRST, level).sources[0])
        assert told[level] == len(at)
    assert list(told) == sorted(told)


@settings(max_examples=60)
@given(projects(), STEPS)
def test_undo_goes_back_to_the_opening_and_redo_comes_again(project: Project, steps: list) -> None:
    history = History(project)
    values = [project]
    for verb, n in steps:
        if history.edit(verb(history.project, n), "edit"):
            values.append(history.project)
    for value in reversed(values[:-1]):
        history.undo()
        assert history.project.sources[0] == value.sources[0]
    assert history.undo() is None
    for value in values[1:]:
        history.redo()
        assert history.project.sources[0] == value.sources[0]


@given(projects(), st.lists(st.integers(1, FRAMES - 1), max_size=10))
def test_finding_again_leaves_every_decision_alone(project: Project, frames: list[int]) -> None:
    again = take_found(project, FIRST, [found_at(f, 90) for f in sorted(set(frames))], 0, FRAMES)
    for seam in project.sources[0].seams:
        if seam.judged:
            now = seam_by_id(again.sources[0], seam.id)
            assert replace(now, score=seam.score) == seam
    assert len({s.id for s in again.sources[0].seams}) == len(again.sources[0].seams)


def _film() -> Project:
    return add_source(Project(), Media("/film.mov", Fraction(25), FRAMES, 64, 36))


def test_rolling_a_seam_moves_the_words_of_the_shot_with_it() -> None:
    project = name_shot(place_seam(_film(), FIRST, 100), FIRST, 150, "The bridge")
    seam = project.sources[0].seams[0]
    rolled = roll_seam(project, FIRST, seam.id, -7)
    assert shots_of(rolled.sources[0])[1].start == 93
    assert shots_of(rolled.sources[0])[1].card.name == "The bridge"


def test_striking_hides_the_words_and_reopening_brings_them_back() -> None:
    project = name_shot(place_seam(_film(), FIRST, 100), FIRST, 150, "The bridge")
    struck = strike_seams(project, FIRST, [project.sources[0].seams[0].id])
    assert [s.card.name for s in shots_of(struck.sources[0])] == [""]
    back = reopen_seams(struck, FIRST, [project.sources[0].seams[0].id])
    assert [s.card.name for s in shots_of(back.sources[0])] == ["", "The bridge"]


def test_folding_keeps_what_was_written_about_both() -> None:
    project = name_shot(place_seam(_film(), FIRST, 100), FIRST, 150, "The bridge")
    folded = fold_shot(project, FIRST, 150)
    assert [s.card.name for s in shots_of(folded.sources[0])] == ["The bridge"]


def test_placing_on_a_struck_seam_keeps_that_one() -> None:
    project = take_found(_film(), FIRST, [found_at(100, 90)], 0, FRAMES)
    struck = strike_seams(project, FIRST, [project.sources[0].seams[0].id])
    placed = place_seam(struck, FIRST, 100)
    assert [(s.frame, s.standing, s.origin) for s in placed.sources[0].seams] == [
        (100, Standing.KEPT, Origin.FOUND)
    ]


def test_a_hushed_zone_counts_no_open_seam() -> None:
    project = take_found(_film(), FIRST, [found_at(100, 90), found_at(200, 90)], 0, FRAMES)
    hushed = add_zone(project, FIRST, Zone(50, 150, None))
    assert [s.frame for s in counted_seams(hushed.sources[0])] == [200]
    kept = keep_seams(hushed, FIRST, [project.sources[0].seams[0].id])
    assert [s.frame for s in counted_seams(kept.sources[0])] == [100, 200]


def test_doubt_is_nearness_to_the_line_on_either_side() -> None:
    project = take_found(
        _film(),
        FIRST,
        [found_at(50, 99), found_at(100, 45), found_at(150, 58), found_at(200, 0.1)],
        0,
        FRAMES,
    )
    assert [s.frame for s in doubt_order(project.sources[0])] == [100, 150, 50]


def test_undoing_after_more_was_found_takes_back_only_the_edit() -> None:
    history = History(take_found(_film(), FIRST, [found_at(100, 90)], 0, 200, done=False))
    first = history.project.sources[0].seams[0]
    history.edit(strike_seams(history.project, FIRST, [first.id]), "strike")
    history.replace(lambda p: take_found(p, FIRST, [found_at(300, 90)], 200, FRAMES))
    history.undo()
    assert [(s.frame, s.standing) for s in history.project.sources[0].seams] == [
        (100, Standing.OPEN),
        (300, Standing.OPEN),
    ]


def plainly(source: Source, faint_within: float = 49.8) -> list[Seam]:
    """The order of doubt, worked out seam by seam."""
    counted = {s.id for s in counted_seams(source)}
    doubted: list[tuple[float, int, Seam]] = []
    given, judged = [], []
    for seam in source.seams:
        here = sensitivity_at(source.zones, source.sensitivity, seam.frame)
        if not source.start < seam.frame < source.end:
            continue
        if seam.judged:
            judged.append(seam)
        elif here is not None:
            above = seam.score - (100 - here)
            if seam.id not in counted and above <= -faint_within:
                continue
            if seam.origin is Origin.FOUND:
                doubted.append((abs(above), seam.frame, seam))
            elif seam.certainty is Certainty.DOUBTFUL:
                doubted.append((0.0, seam.frame, seam))
            else:
                given.append(seam)
    return [*(d[2] for d in sorted(doubted, key=lambda d: d[:2])), *given, *judged]


@given(projects(), st.data())
def test_figures_in_arrays_say_what_each_seam_says(project: Project, data: st.DataObject) -> None:
    seams = []
    for seam in project.sources[0].seams:
        listed = data.draw(st.integers(0, 3)) == 0
        sure = data.draw(st.sampled_from(list(Certainty)))
        origin = Origin.LISTED if listed else seam.origin
        seams.append(replace(seam, origin=origin, certainty=sure))
    zones = data.draw(
        st.lists(
            st.builds(
                Zone,
                st.integers(0, FRAMES // 2),
                st.integers(FRAMES // 2, FRAMES),
                st.none() | st.integers(0, 100),
            ),
            max_size=2,
        )
    )
    source = replace(
        project.sources[0],
        seams=tuple(seams),
        zones=tuple(zones),
        start=data.draw(st.integers(0, FRAMES // 3)),
        sensitivity=data.draw(st.integers(0, 100)),
    )
    inside = [s for s in source.seams if source.start < s.frame < source.end]
    counted = counted_seams(source)
    assert [s.frame for s in counted] == sorted({s.frame for s in inside if is_counted(s, source)})
    assert list(doubt_order(source)) == plainly(source)
    counts = counts_of(source, 10)
    assert counts.judged == sum(s.judged for s in source.seams)
    assert counts.struck == sum(s.standing is Standing.STRUCK for s in source.seams)
