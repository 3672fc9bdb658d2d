"""Undo over several films: it never depends on which of them is in hand."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.errors import OffcutError
from offcut.core.model.history import History
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.seam import Kind, Seam
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot, put_in_scene, set_shot_aside, wave_away
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.orders import (
    add_order,
    keep_piece,
    put_in_order,
    remove_order,
    take_out_of_order,
    trim_use,
)
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_seams
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.scenes import (
    join_scenes,
    put_shots_in_scene,
    remove_scene,
    rename_scene,
    set_scene_look,
)
from offcut.core.model.verbs.searching import set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source, name_project, remove_source
from offcut.core.store.document import project_text
from projects import FRAMES, found_at, full_project


def film(name: str) -> Media:
    return Media(f"/films/{name}.mov", Fraction(25), FRAMES, 64, 36, fingerprint=name)


def three_films() -> Project:
    project = Project()
    for name in ("depot", "quay", "bridge"):
        project = add_source(project, film(name))
        found = [found_at(f, 90) for f in (50, 120, 260)]
        project = take_found(project, project.sources[-1].id, found, 0, FRAMES)
    return project


def _use(project: Project, n: int) -> list[int]:
    uses = project.orders[0].uses if project.orders else ()
    return [uses[n % len(uses)].id] if uses else []


def _seam(project: Project, source: int, n: int) -> int:
    seams = project.source(source).seams
    return seams[n % len(seams)].id if seams else 0


Edit = Callable[[Project, int, int], Project]
EDITS: list[Edit] = [
    lambda p, s, n: keep_seams(p, s, [_seam(p, s, n)]),
    lambda p, s, n: strike_seams(p, s, [_seam(p, s, n)]),
    lambda p, s, n: place_seam(p, s, 1 + n % (FRAMES - 1)),
    lambda p, s, n: place_seam(p, s, 1 + n % (FRAMES - 1), kind=Kind.DISSOLVE, span=n % 30),
    lambda p, s, n: roll_seam(p, s, _seam(p, s, n), n % 21 - 10),
    lambda p, s, n: name_shot(p, s, n % FRAMES, f"name {n}"),
    lambda p, s, n: put_in_scene(p, s, n % FRAMES, ("", "Harbour", "Depot")[n % 3]),
    lambda p, s, n: set_shot_aside(p, s, n % FRAMES, bool(n % 2)),
    lambda p, s, n: set_sensitivity(p, s, n % 101),
    lambda p, s, n: add_marker(p, s, n % FRAMES),
    lambda p, s, n: name_project(p, f"project {n}"),
    lambda p, s, n: add_order(p, shots=(ShotRef(s, _seam(p, s, n)),)),
    lambda p, s, n: put_in_order(p, p.orders[0].id, [ShotRef(s)], n % 3) if p.orders else p,
    lambda p, s, n: take_out_of_order(p, p.orders[0].id, _use(p, n)) if p.orders else p,
    lambda p, s, n: keep_piece(p, p.orders[0].id, s, n % FRAMES, n % FRAMES + 1) if p.orders else p,
    lambda p, s, n: (
        trim_use(p, p.orders[0].id, _use(p, n)[0], n % 9 - 4, n % 7 - 3) if _use(p, n) else p
    ),
    lambda p, s, n: wave_away(p, [ShotRef(s, _seam(p, s, n)), ShotRef(s)]),
    lambda p, s, n: join_scenes(p, [x.id for x in p.scenes[:2]]),
    lambda p, s, n: (
        set_scene_look(p, p.scenes[0].id, list(Pattern)[n % 8], Tint.SEA) if p.scenes else p
    ),
    lambda p, s, n: put_shots_in_scene(p, [ShotRef(s), ShotRef(s, _seam(p, s, n))], f"{n % 3}"),
    lambda p, s, n: remove_order(p, p.orders[-1].id) if p.orders else p,
    lambda p, s, n: rename_scene(p, p.scenes[0].id, f"scene {n}") if p.scenes else p,
    lambda p, s, n: remove_scene(p, p.scenes[-1].id) if p.scenes else p,
    lambda p, s, n: add_source(p, film(f"film {n}")) if len(p.sources) < 5 else p,
    lambda p, s, n: remove_source(p, s) if len(p.sources) > 1 else p,
]
STEPS = st.lists(
    st.tuples(st.sampled_from(EDITS), st.integers(0, 4), st.integers(0, 10_000)), max_size=14
)


@settings(max_examples=120)
@given(STEPS)
def test_undoing_all_gives_the_opening_value_and_redoing_all_the_last_to_the_byte(
    steps: list[tuple[Edit, int, int]],
) -> None:
    history = History(three_films())
    texts = [project_text(history.project)]
    for verb, which, n in steps:
        project = history.project
        source = project.sources[which % len(project.sources)].id
        try:
            edited = history.edit(verb(project, source, n), f"edit {n}", source, n)
        except OffcutError:
            continue
        if edited:
            texts.append(project_text(history.project))
    for text in reversed(texts[:-1]):
        assert history.undo() is not None
        assert project_text(history.project) == text
    assert history.undo() is None
    for text in texts[1:]:
        assert history.redo() is not None
        assert project_text(history.project) == text
    assert history.redo() is None


@settings(max_examples=60)
@given(STEPS, st.lists(st.integers(1, FRAMES - 1), min_size=1, max_size=6))
def test_what_is_found_meanwhile_stays_through_undo_and_no_id_is_given_twice(
    steps: list[tuple[Edit, int, int]], frames: list[int]
) -> None:
    history = History(three_films())
    first = history.project.sources[0].id
    for n, (verb, which, number) in enumerate(steps):
        source = history.project.sources[which % len(history.project.sources)].id
        try:
            history.edit(verb(history.project, source, number), f"edit {n}", source)
        except OffcutError:
            continue
        if n % 3 == 1:
            history.undo()
        if n % 4 == 2 and history.project.holds(first):
            found = [found_at(f, 70) for f in sorted(set(frames))]
            history.replace(lambda p, f=found: take_found(p, first, f, 0, FRAMES))
        if n % 5 == 4:
            history.redo()
        for kept in history.project.sources:
            ids = [s.id for s in kept.seams]
            assert len(set(ids)) == len(ids)
            assert all(a.frame <= b.frame for a, b in itertools.pairwise(kept.seams))
    while history.undo():
        pass


def test_a_film_that_was_taken_out_comes_back_with_what_was_found_of_it() -> None:
    history = History(three_films())
    gone = history.project.sources[1].id
    history.edit(strike_seams(history.project, gone, [_seam(history.project, gone, 0)]), "strike")
    history.replace(lambda p: take_found(p, gone, [found_at(300, 80)], 0, FRAMES))
    before = history.project
    history.edit(remove_source(history.project, gone), "take out", gone)
    assert [s.media.fingerprint for s in history.project.sources] == ["depot", "bridge"]
    history.undo()
    assert history.project == before
    history.redo()
    history.undo()
    assert history.project == before


def test_a_film_brought_in_and_searched_is_redone_as_it_was_when_undone() -> None:
    history = History(three_films())
    history.edit(add_source(history.project, film("new")), "bring in")
    new = history.project.sources[-1].id
    history.replace(lambda p: take_found(p, new, [found_at(40, 90)], 0, FRAMES))
    searched = history.project
    history.undo()
    assert not history.project.holds(new)
    history.redo()
    assert history.project.source(new) == searched.source(new)


def test_saved_is_told_of_the_value_that_was_saved_whatever_came_after() -> None:
    history = History(three_films())
    first = history.project.sources[0].id
    history.edit(name_shot(history.project, first, 0, "one"), "name")
    at = history.undoable  # saving begins here, in the background
    history.edit(name_shot(history.project, first, 0, "two"), "name")
    history.mark_saved_after(at)
    assert not history.saved
    history.undo()
    assert history.saved
    history.undo()
    assert not history.saved
    history.redo()
    assert history.saved


@pytest.mark.parametrize(
    ("seam", "why"),
    [
        (Seam(900, 10, -3, 12, Kind.DISSOLVE), "lies outside the film"),
        (Seam(900, 10, 20, 12, Kind.DISSOLVE), "ends before it starts"),
        (Seam(900, 10, 10, 10, score=float("nan")), "score"),
    ],
)
def test_what_could_not_be_opened_again_is_refused_and_nothing_is_changed(
    seam: Seam, why: str
) -> None:
    project = three_films()
    history = History(project)
    source = project.sources[0]
    faulty = with_seams(project, source.id, (*source.seams, seam))
    with pytest.raises(OffcutError, match=why):
        history.edit(faulty, "edit")
    with pytest.raises(OffcutError, match=why):
        history.replace(lambda _p: faulty)
    assert history.project is project
    assert history.undoable is None


def test_two_seams_of_one_id_are_refused() -> None:
    project = three_films()
    source = project.sources[0]
    twice = (*source.seams, replace(source.seams[0], frame=300, start=300, end=300))
    with pytest.raises(OffcutError, match="two seams have the same id"):
        History(project).edit(with_seams(project, source.id, twice), "edit")


def test_a_text_of_a_project_is_one_json_document() -> None:
    assert json.loads(project_text(full_project()))["version"] == 8
