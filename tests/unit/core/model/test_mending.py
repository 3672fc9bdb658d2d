"""Mending by the model: spans, kinds, ranges, zones, slivers, folds, markers."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import OffcutError
from offcut.core.model.history import History
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind, Seam, Standing
from offcut.core.model.shots import counted_seams, sensitivity_at, shots_of
from offcut.core.model.slivers import slivers_of, suggested_limit
from offcut.core.model.source import Media, Zone
from offcut.core.model.verbs.cards import name_shot, note_shot, set_shots_aside
from offcut.core.model.verbs.folding import fold_shot, fold_shots
from offcut.core.model.verbs.judging import strike_range
from offcut.core.model.verbs.markers import add_marker, change_marker, remove_marker
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import take_one
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.spans import one_cut_or_back, set_kind, set_span
from offcut.core.model.verbs.zones import add_zone, change_zone, remove_zone
from projects import FIRST, FRAMES, STEPS, projects


def film(*cuts: int) -> Project:
    project = add_source(Project(), Media("/film.mov", Fraction(25), FRAMES, 64, 36))
    for frame in cuts:
        project = place_seam(project, FIRST, frame)
    return project


def starts(project: Project) -> list[int]:
    return [s.start for s in shots_of(project.sources[0])]


@given(projects(), STEPS, st.integers(0, 99), st.integers(-50, 450), st.integers(-50, 450))
def test_a_span_never_crosses_a_neighbour(
    project: Project, steps: list, which: int, start: int, end: int
) -> None:
    for verb, n in steps:
        project = verb(project, n)
    gradual = [s for s in counted_seams(project.sources[0]) if s.kind is not Kind.CUT]
    if not gradual:
        return
    seam = gradual[which % len(gradual)]
    order = [s.id for s in counted_seams(project.sources[0])]
    after = set_span(project, FIRST, seam.id, start, end)
    told = next(s for s in after.sources[0].seams if s.id == seam.id)
    assert 0 <= told.start <= told.frame <= told.end <= FRAMES
    assert [s.id for s in counted_seams(after.sources[0])] == order


def test_the_frame_of_a_gradual_seam_is_the_middle_of_its_span() -> None:
    project = place_seam(film(), FIRST, 100, kind=Kind.DISSOLVE, span=20)
    seam = set_span(project, FIRST, project.sources[0].seams[0].id, 90, 130).sources[0].seams[0]
    assert (seam.start, seam.frame, seam.end) == (90, 110, 130)
    assert seam.standing is Standing.KEPT


def test_a_cut_has_no_span_to_set() -> None:
    project = film(100)
    with pytest.raises(OffcutError, match="a cut has no span"):
        set_span(project, FIRST, project.sources[0].seams[0].id, 90, 110)


def test_a_dissolve_made_one_cut_and_back_is_the_same_span_even_when_rolled() -> None:
    project = place_seam(film(), FIRST, 100, kind=Kind.DISSOLVE, span=21)
    seam = project.sources[0].seams[0]
    cut = one_cut_or_back(project, FIRST, seam.id)
    assert (cut.sources[0].seams[0].kind, cut.sources[0].seams[0].frame) == (Kind.CUT, seam.frame)
    assert not cut.sources[0].seams[0].gradual
    back = one_cut_or_back(roll_seam(cut, FIRST, seam.id, 5), FIRST, seam.id).sources[0].seams[0]
    assert (back.kind, back.start, back.end) == (Kind.DISSOLVE, seam.start + 5, seam.end + 5)


def test_a_cut_made_gradual_keeps_clear_of_its_neighbours() -> None:
    project = film(100, 104)
    seams = project.sources[0].seams
    made = set_kind(project, FIRST, [seams[1].id], Kind.WIPE).sources[0].seams[1]
    assert made.kind is Kind.WIPE
    assert made.start > 100


def test_striking_a_range_strikes_what_is_in_it_and_nothing_else() -> None:
    project = strike_range(film(50, 100, 150, 200), FIRST, 100, 200)
    assert starts(project) == [0, 50, 200]


def test_folding_into_the_neighbour_of_choice_keeps_what_was_written_about_both() -> None:
    project = name_shot(name_shot(film(100, 110, 200), FIRST, 50, "Quay"), FIRST, 105, "Blur")
    project = note_shot(project, FIRST, 105, "shaky")
    before = fold_shot(project, FIRST, 105, -1)
    assert starts(before) == [0, 110, 200]
    assert shots_of(before.sources[0])[0].card.name == "Quay"
    assert shots_of(before.sources[0])[0].card.note == "shaky · Blur"
    after = fold_shot(project, FIRST, 105, 1)
    assert starts(after) == [0, 100, 200]
    assert shots_of(after.sources[0])[1].card.name == "Blur"


def test_folding_many_at_once_is_folding_one_after_another() -> None:
    project = name_shot(film(50, 53, 56, 100, 103), FIRST, 54, "Flash")
    together = fold_shots(project, FIRST, {51: -1, 54: -1, 101: 1})
    assert starts(together) == [0, 56, 100]
    assert shots_of(together.sources[0])[0].card.name == "Flash"


def test_the_first_shot_folds_into_the_one_after() -> None:
    assert starts(fold_shot(film(5, 100), FIRST, 2, -1)) == [0, 100]


def test_slivers_come_shortest_first_and_leave_out_what_is_set_aside() -> None:
    project = film(100, 103, 150, 158, 300, 301)
    assert [s.length for s in slivers_of(project.sources[0], 10)] == [1, 3, 8]
    aside = set_shots_aside(project, FIRST, [300])
    assert [s.length for s in slivers_of(aside.sources[0], 10)] == [3, 8]


def test_the_limit_suggested_comes_from_the_films_own_lengths() -> None:
    assert suggested_limit(film(100, 200, 300).sources[0], 25) == 17
    assert suggested_limit(film(*range(8, 400, 8)).sources[0], 25) == 3
    assert suggested_limit(film().sources[0], 25) == 25


def test_zones_never_overlap_and_the_last_one_wins() -> None:
    project = add_zone(film(), FIRST, Zone(0, 200, 80))
    project = add_zone(project, FIRST, Zone(50, 100, None))
    assert project.sources[0].zones == (Zone(0, 50, 80), Zone(50, 100, None), Zone(100, 200, 80))
    assert sensitivity_at(project.sources[0].zones, 50, 60) is None
    project = change_zone(project, FIRST, Zone(50, 100, None), Zone(50, 100, 30))
    assert sensitivity_at(project.sources[0].zones, 50, 60) == 30
    for zone in project.sources[0].zones:
        project = remove_zone(project, FIRST, zone)
    assert project.sources[0].zones == ()


def test_a_seam_looked_for_by_hand_is_kept() -> None:
    project = take_one(film(), FIRST, Seam(0, 70, 60, 80, Kind.DISSOLVE, score=12))
    seam = project.sources[0].seams[0]
    assert (seam.standing, seam.kind, seam.id) == (Standing.KEPT, Kind.DISSOLVE, 2)
    assert starts(take_one(project, FIRST, Seam(0, 70, 70, 70))) == [0, 70]


def test_markers_belong_to_the_source_and_stay_with_their_frames() -> None:
    project = add_marker(film(), FIRST, 300, name="bell")
    project = add_marker(project, FIRST, 100, 150, "  harbour   light ", " dim ")
    assert [(m.start, m.end, m.name, m.note) for m in project.sources[0].markers] == [
        (100, 150, "harbour light", "dim"),
        (300, 301, "bell", ""),
    ]
    light = project.sources[0].markers[0]
    moved = change_marker(project, FIRST, light.id, start=380)
    assert [(m.start, m.end) for m in moved.sources[0].markers] == [(300, 301), (380, 400)]
    assert [m.name for m in remove_marker(moved, FIRST, light.id).sources[0].markers] == ["bell"]
    with pytest.raises(OffcutError, match="inside the film"):
        add_marker(project, FIRST, FRAMES)


def test_a_marker_is_undone_like_any_edit() -> None:
    history = History(film(100))
    history.edit(add_marker(history.project, FIRST, 50, name="bell"), "Mark")
    history.undo()
    assert history.project.sources[0].markers == ()
    history.redo()
    assert [m.name for m in history.project.sources[0].markers] == ["bell"]
