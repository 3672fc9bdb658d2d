"""Stretches chosen by what is in them: shots, pieces, markers, set aside."""

from __future__ import annotations

from fractions import Fraction

import pytest

from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.stretches import (
    make_shots_of_stretches,
    mark_stretches,
    put_stretches_in_order,
    set_stretches_aside,
)


def film() -> tuple[Project, int]:
    project = add_source(Project(), Media("film.mp4", Fraction(25), 100, 320, 180))
    film_id = project.sources[0].id
    return place_seam(project, film_id, 40), film_id


def test_stretches_become_shots_by_seams_at_their_ends() -> None:
    project, film_id = film()
    made = make_shots_of_stretches(project, film_id, [(0, 20), (40, 100), (60, 70)])
    assert [s.start for s in shots_of(made.sources[0])] == [0, 20, 40, 60, 70]
    assert make_shots_of_stretches(made, film_id, [(20, 40)]) is made


def test_set_aside_are_the_shots_inside_and_no_others() -> None:
    project, film_id = film()
    made = set_stretches_aside(project, film_id, [(30, 60)])
    shots = shots_of(made.sources[0])
    assert [(s.start, s.card.set_aside) for s in shots] == [
        (0, False), (30, True), (40, True), (60, False),
    ]  # fmt: skip
    back = set_stretches_aside(made, film_id, [(30, 60)], False)
    assert not any(s.card.set_aside for s in shots_of(back.sources[0]))


def test_whole_shots_go_into_an_order_as_such_and_others_as_pieces() -> None:
    project, film_id = film()
    order_id = project.next_id
    project = put_stretches_in_order(
        add_order(project, "Found"), order_id, film_id, [(0, 40), (50, 60)], ["Still", "Pans left"]
    )
    uses = project.order(order_id).uses
    assert uses[0].shot is not None
    assert (uses[1].shot, uses[1].start, uses[1].end, uses[1].name) == (None, 50, 60, "Pans left")
    with pytest.raises(OffcutError, match="inside the film"):
        put_stretches_in_order(project, order_id, film_id, [(90, 120)])


def test_markers_lie_over_stretches() -> None:
    project, film_id = film()
    made = mark_stretches(project, film_id, [(5, 9), (50, 60)], ["A", "B"])
    assert [(m.start, m.end, m.name) for m in made.sources[0].markers] == [
        (5, 9, "A"), (50, 60, "B"),
    ]  # fmt: skip
