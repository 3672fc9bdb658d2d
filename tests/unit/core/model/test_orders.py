"""Running orders and scenes: kept by ids, through every edit that moves or hides their shots."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import OffcutError
from offcut.core.model.history import History
from offcut.core.model.orders import places_of, ref_of, shot_of
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.scenes import scenes_in, shots_in_scene
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import put_in_scene
from offcut.core.model.verbs.folding import fold_shot
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.orders import (
    add_order,
    arrange_order,
    put_in_order,
    remove_order,
    rename_order,
    take_out_of_order,
)
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.sources import add_source, remove_source
from projects import FIRST, cut_film


@pytest.fixture
def two() -> Project:
    """Two films; an order "Trailer" of a shot of each and the first one twice."""
    project = add_source(cut_film(Fraction(25), False), Media("/b.mov", Fraction(25), 900, 64, 36))
    second = project.sources[1].id
    project = place_seam(project, second, 300)
    refs = (
        ref_of(project.sources[0], shots_of(project.sources[0])[1]),
        ref_of(project.sources[1], shots_of(project.sources[1])[1]),
        ref_of(project.sources[0], shots_of(project.sources[0])[1]),
    )
    return add_order(project, "Trailer", refs)


def starts(project: Project) -> list[int | None]:
    places = places_of(project, project.orders[0])
    return [p.shot.start if p.shot else None for p in places]


def test_an_order_holds_shots_of_any_film_the_same_twice_if_wished(two: Project) -> None:
    assert starts(two) == [100, 300, 100]
    assert shot_of(two, two.orders[0].shots[1]) == shots_of(two.sources[1])[1]


def test_rolling_keeps_a_place_striking_shows_it_gone_and_keeping_brings_it_back(
    two: Project,
) -> None:
    seam = two.orders[0].shots[0].seam
    assert starts(roll_seam(two, FIRST, seam, 30)) == [130, 300, 130]
    struck = strike_seams(two, FIRST, [seam])
    assert starts(struck) == [None, 300, None]
    assert struck.orders == two.orders
    assert starts(keep_seams(struck, FIRST, [seam])) == [100, 300, 100]


def test_a_film_taken_out_leaves_its_places_and_undo_brings_it_back(two: Project) -> None:
    second = two.sources[1].id
    history = History(two)
    history.edit(remove_source(two, second), "Out", second)
    places = places_of(history.project, history.project.orders[0])
    assert [p.source is None for p in places] == [False, True, False]
    history.undo()
    assert starts(history.project) == [100, 300, 100]


def test_orders_are_named_arranged_and_removed(two: Project) -> None:
    order = two.orders[0]
    a, b, _ = order.shots
    assert put_in_order(two, order.id, ShotRef(FIRST), 0).orders[0].shots[0] == ShotRef(FIRST)
    assert put_in_order(two, order.id, b).orders[0].shots[-1] == b
    assert take_out_of_order(two, order.id, 2).orders[0].shots == (a, b)
    assert arrange_order(two, order.id, (b, a)).orders[0].shots == (b, a)
    assert arrange_order(two, order.id, order.shots) is two
    assert rename_order(two, order.id, "  The\nother ").orders[0].name == "The other"
    more = add_order(add_order(two, "Trailer"))
    assert [o.name for o in more.orders] == ["Trailer", "Trailer 2", "Running order 3"]
    assert len({o.id for o in more.orders}) == 3
    assert remove_order(more, order.id).orders == more.orders[1:]


def test_what_cannot_be_done_with_an_order_is_said(two: Project) -> None:
    order = two.orders[0].id
    with pytest.raises(OffcutError, match="needs a name"):
        rename_order(two, order, " ")
    with pytest.raises(OffcutError, match="no place 9"):
        take_out_of_order(two, order, 8)
    for verb in (remove_order, lambda p, i: arrange_order(p, i, ())):
        with pytest.raises(OffcutError):
            verb(two, 12345)


def test_scenes_are_known_by_ids_and_keep_their_order(two: Project) -> None:
    project = put_in_scene(two, FIRST, 150, "Harbour")
    project = put_in_scene(project, FIRST, 0, "Depot")
    second = project.sources[1].id
    project = put_in_scene(project, second, 400, "Harbour")
    source, other = project.sources
    assert [s.name for s in scenes_in(project, source)] == ["Depot", "Harbour"]
    harbour = next(s for s in project.scenes if s.name == "Harbour")
    assert [s.start for s in shots_in_scene(source, harbour.id)] == [100]
    assert [s.start for s in shots_in_scene(other, harbour.id)] == [300]
    assert shots_in_scene(source, 0) == ()
    out = put_in_scene(project, second, 400, "")
    assert shots_in_scene(out.sources[1], harbour.id) == ()


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 4999)), max_size=12))
def test_a_place_shows_its_own_shot_or_none(steps: list[tuple[int, int]]) -> None:
    """Whatever is edited, a place shows the shot its seam opens, or that it is gone."""
    project = cut_film(Fraction(25), False)
    refs = tuple(ref_of(project.sources[0], s) for s in shots_of(project.sources[0]))
    project = add_order(project, shots=refs)
    for kind, n in steps:
        seams = project.sources[0].seams
        seam = seams[n % len(seams)]
        try:
            project = (
                roll_seam(project, FIRST, seam.id, n % 50 - 25),
                strike_seams(project, FIRST, [seam.id]),
                keep_seams(project, FIRST, [seam.id]),
                fold_shot(project, FIRST, n),
            )[kind]
        except OffcutError:
            continue
    shots = shots_of(project.sources[0])
    for place in places_of(project, project.orders[0]):
        named = [s for s in shots if (s.opened_by.id if s.opened_by else 0) == place.ref.seam]
        assert [place.shot] == (named or [None])
