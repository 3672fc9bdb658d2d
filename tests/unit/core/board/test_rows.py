"""Rows of the Board: of films, of a running order; ordered, found, named."""

from __future__ import annotations

from fractions import Fraction

import pytest

from offcut.core.board.naming import named_by_pattern, renamed_by_words
from offcut.core.board.rows import RowFinder, ordered, rows_of, rows_of_order
from offcut.core.errors import OffcutError
from offcut.core.facts.query import query_of
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shots, note_shots, set_aside
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.orders import add_order, keep_piece
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.scenes import (
    arrange_scenes,
    join_scenes,
    put_shots_in_scene,
    set_scene_look,
)
from offcut.core.model.verbs.sources import add_source
from projects import FIRST, cut_film


@pytest.fixture
def project() -> Project:
    """Two films: five shots and two; a scene over both."""
    made = add_source(cut_film(Fraction(25), False), Media("/b.mov", Fraction(25), 900, 64, 36))
    made = place_seam(made, made.sources[1].id, 300)
    refs = [r.ref for r in rows_of(made)]
    return put_shots_in_scene(made, [refs[1], refs[5]], "Harbour")


def starts(rows: object) -> list[int]:
    return [r.shot.start for r in rows]


def test_rows_go_over_all_films_or_one(project: Project) -> None:
    assert starts(rows_of(project)) == [0, 100, 1801, 2500, 3600, 0, 300]
    assert starts(rows_of(project, project.sources[1].id)) == [0, 300]
    # the dissolve at 2500 mixes 24 frames: the shot before is clean until 2488
    assert [r.clean_end for r in rows_of(project)][2:4] == [2488, 3600]
    assert rows_of(project)[1].seconds == 1701 / 25


def test_rows_in_other_orders(project: Project) -> None:
    rows = rows_of(project)
    assert starts(ordered(rows, "length", project))[0] == 100
    assert starts(ordered(rows, "name", project))[0] == 100  # the only one with a name
    assert starts(ordered(rows, "scene", project))[:2] == [100, 0]
    light = ordered(rows, "light", project, lambda row: row.shot.start)
    assert starts(light)[0] == 3600


def test_finding_among_ten_thousand_is_by_name_scene_and_state(project: Project) -> None:
    refs = [r.ref for r in rows_of(project)]
    project = set_aside(note_shots(project, refs[3:4], "a gull, très loin"), refs[4:5])

    def found(text: str) -> list[int]:
        rows = rows_of(project)
        return starts(RowFinder().found(rows, query_of(text), project, {FIRST: 101}))

    assert found("bridge") == [100]
    assert found("scene:harbour") == [100, 0]
    assert found("tres") == [2500]
    assert found("aside") == [3600]
    assert found("dissolve") == [2500]
    assert found("sliver") == [0]
    assert found("film:b.mov > 20 s") == [300]
    # what is found follows an edit
    project = name_shots(project, {refs[0]: "Gull"})
    assert found("gull") == [0, 2500]


def test_cards_stay_through_rolling_striking_and_un_striking(project: Project) -> None:
    ref = rows_of(project)[1].ref
    named = note_shots(name_shots(project, {ref: "Quay"}), [ref], "grain")
    rolled = roll_seam(named, FIRST, ref.seam, 7)
    row = next(r for r in rows_of(rolled) if r.ref == ref)
    assert (row.shot.start, row.title, row.shot.card.note) == (107, "Quay", "grain")
    struck = strike_seams(rolled, FIRST, [ref.seam])
    assert ref not in [r.ref for r in rows_of(struck)]
    from offcut.core.model.verbs.judging import reopen_seams

    back = reopen_seams(struck, FIRST, [ref.seam])
    assert next(r for r in rows_of(back) if r.ref == ref).title == "Quay"


def test_a_running_order_has_rows_of_its_own(project: Project) -> None:
    refs = [r.ref for r in rows_of(project)]
    made = add_order(project, "Trailer", [refs[6], refs[1], refs[6]])
    made = keep_piece(made, made.orders[0].id, FIRST, 50, 150, 1, "Bell")
    rows = rows_of_order(made, made.orders[0])
    assert starts(rows) == [300, 50, 100, 300]
    assert [r.title for r in rows][1:3] == ["Bell", "The bridge, from below"]
    assert len({r.key for r in rows}) == 4
    assert rows[1].ref is None
    gone = strike_seams(made, FIRST, [refs[1].seam])
    assert rows_of_order(gone, gone.orders[0])[2].title == "gone: its seam was struck"


def test_names_by_a_pattern_count_in_each_scene(project: Project) -> None:
    names = named_by_pattern(project, rows_of(project), "{scene}_{number}", digits=3)
    assert [n.after for n in names] == [
        "001", "Harbour_001", "002", "003", "004", "Harbour_002", "005",
    ]  # fmt: skip
    more = named_by_pattern(project, rows_of(project)[:2], "{film} {shot} {in}", first=5)
    assert [n.after for n in more] == ["Line 7 1 00:00:00:00", "Line 7 2 00:00:04:00"]
    stepped = named_by_pattern(project, rows_of(project)[:3], "{number}", first=10, step=10)
    assert [n.after for n in stepped] == ["10", "20", "30"]
    for bad, why in (("{sene}", "no field"), ("  ", "is empty"), ("{a", "no partner")):
        with pytest.raises(OffcutError, match=why):
            named_by_pattern(project, rows_of(project), bad)


def test_find_and_replace_changes_only_what_holds_it(project: Project) -> None:
    renamed = renamed_by_words(rows_of(project), "BRIDGE", "quay")
    assert [(r.before, r.after) for r in renamed] == [
        ("The bridge, from below", "The quay, from below")
    ]
    assert renamed_by_words(rows_of(project), "BRIDGE", "quay", capitals=True) == ()
    assert renamed_by_words(rows_of(project), "(", r"\1") == ()
    assert renamed_by_words(rows_of(project), "", "x") == ()


def test_scenes_have_a_look_an_order_and_can_be_joined(project: Project) -> None:
    refs = [r.ref for r in rows_of(project)]
    two = put_shots_in_scene(project, refs[:1], "Depot")
    harbour, depot = two.scenes
    assert (harbour.pattern, harbour.tint) != (depot.pattern, depot.tint)
    assert arrange_scenes(two, [depot.id]).scenes == (depot, harbour)
    changed = set_scene_look(two, depot.id, harbour.pattern, harbour.tint)
    assert changed.scenes[1].pattern is harbour.pattern
    joined = join_scenes(two, [depot.id, harbour.id])
    assert joined.scenes == (depot,)
    assert [r.scene for r in rows_of(joined)] == [depot.id, depot.id, 0, 0, 0, depot.id, 0]
    shots = shots_of(joined.sources[0])
    assert shots[1].card.scene == depot.id
