"""Running orders and scenes: kept by ids, through every edit that moves or hides their shots."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import OffcutError
from offcut.core.model.history import History
from offcut.core.model.orders import frames_of, ref_of, shot_of, shots_meant, uses_of
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
    copy_order,
    fill_instead,
    keep_piece,
    make_shot_of,
    move_uses,
    name_piece,
    put_in_order,
    remove_order,
    rename_order,
    set_use,
    step_uses,
    take_out_of_order,
    trim_use,
    untrim_use,
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
    shown = uses_of(project, project.orders[0])
    return [u.shot.start if u.shot else None for u in shown]


def ids(project: Project) -> list[int]:
    return [u.id for u in project.orders[0].uses]


def spans(project: Project) -> list[tuple[int, int] | None]:
    shown = uses_of(project, project.orders[0])
    return [(u.shot.start, u.shot.end) if u.shot else None for u in shown]


def test_an_order_holds_shots_of_any_film_the_same_twice_if_wished(two: Project) -> None:
    assert starts(two) == [100, 300, 100]
    assert shot_of(two, two.orders[0].uses[1].shot) == shots_of(two.sources[1])[1]


def test_rolling_keeps_a_place_striking_shows_it_gone_and_keeping_brings_it_back(
    two: Project,
) -> None:
    seam = two.orders[0].uses[0].shot.seam
    assert starts(roll_seam(two, FIRST, seam, 30)) == [130, 300, 130]
    struck = strike_seams(two, FIRST, [seam])
    assert starts(struck) == [None, 300, None]
    assert struck.orders == two.orders
    assert starts(keep_seams(struck, FIRST, [seam])) == [100, 300, 100]


def test_a_film_taken_out_leaves_its_places_and_undo_brings_it_back(two: Project) -> None:
    second = two.sources[1].id
    history = History(two)
    history.edit(remove_source(two, second), "Out", second)
    shown = uses_of(history.project, history.project.orders[0])
    assert [u.source is None for u in shown] == [False, True, False]
    assert shown[1].title == "gone: its film was taken out"
    history.undo()
    assert starts(history.project) == [100, 300, 100]


def test_orders_are_named_arranged_and_removed(two: Project) -> None:
    order = two.orders[0]
    a, b, c = order.uses
    first = put_in_order(two, order.id, [ShotRef(FIRST)], 0)
    assert starts(first) == [0, 100, 300, 100]
    assert len(set(ids(first))) == 4
    assert starts(put_in_order(two, order.id, [b.shot, a.shot])) == [100, 300, 100, 300, 100]
    assert take_out_of_order(two, order.id, [c.id]).orders[0].uses == (a, b)
    assert arrange_order(two, order.id, (b, a)).orders[0].uses == (b, a)
    assert arrange_order(two, order.id, order.uses) is two
    assert starts(move_uses(two, order.id, [a.id, b.id], 3)) == [100, 100, 300]
    assert ids(step_uses(two, order.id, [b.id], 1)) == [a.id, c.id, b.id]
    assert step_uses(two, order.id, [a.id, b.id], -1) is two
    assert copy_order(two, order.id).orders[1].name == "Trailer 2"
    assert rename_order(two, order.id, "  The\nother ").orders[0].name == "The other"
    more = add_order(add_order(two, "Trailer"))
    assert [o.name for o in more.orders] == ["Trailer", "Trailer 2", "Running order 3"]
    assert len({o.id for o in more.orders}) == 3
    assert remove_order(more, order.id).orders == more.orders[1:]


def test_each_use_has_an_in_and_out_of_its_own_also_beyond_the_shot(two: Project) -> None:
    order, (a, _b, c) = two.orders[0].id, two.orders[0].uses
    trimmed = trim_use(two, order, a.id, first=5, last=-3)
    assert spans(trimmed)[0] == (105, 1798)
    assert spans(trimmed)[2] == (100, 1801)
    assert uses_of(trimmed, trimmed.orders[0])[0].shot.opened_by is None
    wider = trim_use(trimmed, order, c.id, first=-40, last=12)
    assert spans(wider)[2] == (60, 1813)
    assert spans(trim_use(wider, order, c.id, first=-900, last=90_000))[2] == (0, 5000)
    assert spans(trim_use(wider, order, c.id, first=90_000))[2] == (1812, 1813)
    # an end that is the shot's own goes along with it, one that was set stays
    seam = a.shot.seam
    half = set_use(two, order, a.id, 120, 1801)
    assert half.orders[0].uses[0].end is None
    after = next(s.id for s in half.sources[0].seams if s.frame == 1801)
    assert spans(roll_seam(roll_seam(half, FIRST, seam, 9), FIRST, after, 30))[0] == (120, 1831)
    assert untrim_use(half, order, a.id) == two
    assert frames_of(uses_of(trimmed, trimmed.orders[0])) == 1693 + 600 + 1701


def test_a_piece_is_kept_whatever_the_seams_say_and_can_be_made_a_shot(two: Project) -> None:
    order = two.orders[0].id
    kept = keep_piece(two, order, FIRST, 1700, 1900, 1, "Bell")
    assert spans(kept)[1] == (1700, 1900)
    piece = kept.orders[0].uses[1].id
    assert uses_of(kept, kept.orders[0])[1].title == "Bell"
    assert uses_of(name_piece(kept, order, piece, ""), kept.orders[0])[1].title == "Bell"
    struck = strike_seams(kept, FIRST, [s.id for s in kept.sources[0].seams])
    assert spans(struck)[1] == (1700, 1900)
    with pytest.raises(OffcutError, match="seams lie inside"):
        make_shot_of(kept, order, piece)
    made = make_shot_of(struck, order, piece)
    assert [s.start for s in shots_of(made.sources[0])] == [0, 1700, 1900]
    used = uses_of(made, made.orders[0])[1]
    assert (used.shot.start, used.shot.end, used.title) == (1700, 1900, "Bell")
    assert used.use.id == piece
    assert used.use.shot is not None


def test_a_place_is_filled_instead_of_another(two: Project) -> None:
    order = two.orders[0]
    uses = [order.uses[1]]
    instead = fill_instead(two, order.id, order.uses[0].id, uses)
    assert starts(instead) == [300, 300, 100]
    assert len(set(ids(instead))) == 3


def test_shots_picked_of_several_films_are_found_where_they_are(two: Project) -> None:
    refs = tuple(u.shot for u in two.orders[0].uses[:2])
    meant = shots_meant(two, (*refs, ShotRef(99), ShotRef(FIRST, 999)))
    assert [(source.id, shot.start) for source, shot in meant] == [
        (FIRST, 100), (two.sources[1].id, 300)
    ]  # fmt: skip


def test_what_cannot_be_done_with_an_order_is_said(two: Project) -> None:
    order = two.orders[0].id
    with pytest.raises(OffcutError, match="needs a name"):
        rename_order(two, order, " ")
    with pytest.raises(OffcutError, match="no place 8"):
        trim_use(two, order, 8, 1)
    with pytest.raises(OffcutError, match="inside the film"):
        keep_piece(two, order, FIRST, 4990, 5010)
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
    for used in uses_of(project, project.orders[0]):
        named = [s for s in shots if ref_of(project.sources[0], s) == used.use.shot]
        assert [used.shot] == (named or [None])
        assert bool(used.why) == (used.shot is None)
