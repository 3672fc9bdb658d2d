"""Whatever enters a project can be saved and opened again, or is refused before it is taken."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import OffcutError
from offcut.core.lists.registry import read_list
from offcut.core.model.card import Card, Original
from offcut.core.model.cuts import cuts_of
from offcut.core.model.history import History
from offcut.core.model.project import OrderUse, Project, Scene, ShotRef
from offcut.core.model.rules import MAX_FRAME, MAX_SPEED, fault_of_project
from offcut.core.model.run import Holes, Run
from offcut.core.model.seam import Kind, Reason, Seam
from offcut.core.model.source import Framing, Marker, Media, Zone
from offcut.core.model.verbs.cards import wave_away
from offcut.core.model.verbs.cuts import with_cuts_merged, with_cuts_replaced
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.orders import add_order, arrange_order
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card, with_seams, with_source
from offcut.core.model.verbs.searching import set_framing, set_range, set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.ticket import (
    set_display,
    set_holes,
    set_rate,
    set_reel,
    set_squeeze,
    set_start,
)
from offcut.core.model.verbs.zones import add_zone
from offcut.core.store.project_file import open_project, save_project
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.joins import joins_of
from projects import FIRST, cut_film

ODD = st.one_of(
    st.integers(-3, 6000),
    st.sampled_from(
        [-1, 0, 5000, MAX_FRAME, MAX_FRAME + 1, -MAX_FRAME - 1, 10**15, 2**63, -(2**70)]
    ),
)
SPEEDS = st.one_of(
    st.fractions(-2000, 2000, max_denominator=1000),
    st.sampled_from([Fraction(1001), Fraction(-5000), Fraction(10**30 + 1, 10**29)]),
)
SCORES = st.one_of(st.floats(-10, 200), st.sampled_from([float("inf"), float("nan")]))


def seam(draw: st.DrawFn) -> Seam:
    return Seam(
        draw(ODD),
        draw(ODD),
        draw(ODD),
        draw(ODD),
        kind=draw(st.sampled_from(list(Kind))),
        score=draw(SCORES),
        reasons=(Reason("odd", draw(st.floats(-1, 2)), True, "odd"),),
        opening=card(draw),
    )


def card(draw: st.DrawFn) -> Card:
    original = Original(draw(st.text(max_size=9)), draw(ODD), draw(ODD), speed=draw(SPEEDS))
    return Card(name=draw(st.text(max_size=9)), scene=draw(ODD), original=original)


RUN = Run("r_", ".dpx", 3, 1, 100, ((7, 9), (50, 60)))


def run(draw: st.DrawFn) -> Run:
    name = st.sampled_from(["r_", "", "../", "a/b", "\0"])
    return Run(draw(name), draw(name), draw(ODD), draw(ODD), draw(ODD), ((draw(ODD), draw(ODD)),))


DOORS: dict[str, Callable[[Project, st.DrawFn], Project]] = {
    "detection": lambda p, d: take_found(p, FIRST, [seam(d) for _ in range(2)], d(ODD), d(ODD)),
    "seams": lambda p, d: with_seams(p, FIRST, [*p.sources[0].seams, seam(d)]),
    "card": lambda p, d: with_card(p, FIRST, None, card(d)),
    "place": lambda p, d: place_seam(p, FIRST, d(ODD), kind=Kind.WIPE, span=d(ODD)),
    "marker": lambda p, d: add_marker(p, FIRST, d(ODD), d(ODD), d(st.text(max_size=9))),
    "zone": lambda p, d: add_zone(p, FIRST, Zone(d(ODD), d(ODD), d(ODD))),
    "range": lambda p, d: set_range(p, FIRST, d(ODD), d(ODD)),
    "sensitivity": lambda p, d: set_sensitivity(p, FIRST, d(ODD)),
    "framing": lambda p, d: set_framing(p, FIRST, Framing(d(ODD), d(ODD), d(ODD), d(ODD))),
    "rate": lambda p, d: set_rate(p, FIRST, d(SPEEDS)),
    "start": lambda p, d: set_start(p, FIRST, d(ODD), d(st.booleans())),
    "squeeze": lambda p, d: set_squeeze(p, FIRST, d(SPEEDS)),
    "reel": lambda p, d: set_reel(p, FIRST, d(st.text(max_size=9)) * d(st.integers(0, 99))),
    "display": lambda p, d: set_display(p, FIRST, d(st.text(max_size=9)) * d(st.integers(0, 999))),
    "run": lambda p, d: add_source(
        p, replace(Media("/r_[1-9].dpx", Fraction(24), d(ODD), 64, 48), run=run(d))
    ),
    "holes": lambda p, d: set_holes(
        add_source(p, Media("/r.dpx", Fraction(24), 100, 64, 48, run=RUN)),
        p.next_id, d(st.sampled_from(list(Holes))),
    ),
    "order": lambda p, d: add_order(p, d(st.text(max_size=9)), (ShotRef(d(ODD), d(ODD)),)),
    "use": lambda p, d: arrange_order(
        add_order(p), p.next_id,
        [OrderUse(d(ODD), d(ODD), d(st.none() | st.just(ShotRef(1))), d(ODD), d(ODD), "odd")],
    ),
    "waved": lambda p, d: wave_away(p, [ShotRef(d(ODD), d(ODD))]),
    "scene": lambda p, d: replace(p, scenes=(*p.scenes, Scene(d(ODD), "odd"))),
    "film": lambda p, d: add_source(
        p, Media("/f.mov", Fraction(25), d(ODD), d(ODD), d(ODD), start=d(ODD))
    ),
    "source": lambda p, d: with_source(
        p, replace(p.sources[0], markers=(Marker(d(ODD), d(ODD), d(ODD), "odd"),))
    ),
    "merge": lambda p, d: with_cuts_merged(
        p, FIRST, replace(cuts_of(p, FIRST), seams=(seam(d),))
    ).project,
    "colleague": lambda p, d: with_cuts_replaced(
        p, FIRST, replace(cuts_of(p, FIRST), seams=(seam(d),))
    ),
}  # fmt: skip


@pytest.mark.parametrize("door", DOORS)
@given(data=st.data())
def test_odd_values_through_every_door(door: str, tmp_path_factory, data: st.DataObject) -> None:
    history = History(cut_film(25, False))  # type: ignore[arg-type]
    before = history.project
    try:
        taken = history.edit(DOORS[door](before, data.draw), "odd", FIRST)
    except (OffcutError, ValueError, OverflowError):
        taken = False
    if not taken:
        assert history.project is before
        assert not history.undoable
    assert fault_of_project(history.project) == ""
    path = tmp_path_factory.mktemp("odd") / "film.offcut"
    save_project(history.project, path)
    again = open_project(path)
    assert again.next_id >= history.project.next_id  # past any id that was made up
    assert replace(again, next_id=history.project.next_id) == history.project


LINE = "{n:03}  {reel}  V  {kind} {a} {b} {c} {d}"
CODES = st.builds(
    lambda h, m, s, f: f"{h:02}:{m:02}:{s:02}:{f:02}",
    st.integers(0, 99), st.integers(0, 59), st.integers(0, 59), st.integers(0, 24),
)  # fmt: skip


@given(
    st.lists(
        st.tuples(CODES, CODES, CODES, CODES, SPEEDS, st.sampled_from(["C   ", "D 012", "D 999"])),
        min_size=1,
        max_size=5,
    ),
    st.sampled_from(list(Use)),
    ODD,
)
def test_what_a_list_says_is_taken_saved_and_opened(
    tmp_path_factory, events: list, use: Use, offset: int
) -> None:
    folder = tmp_path_factory.mktemp("list")
    lines = ["TITLE: ODD"]
    for n, (a, b, c, d, speed, kind) in enumerate(events, 1):
        lines.append(LINE.format(n=n, reel="A1", kind=kind, a=a, b=b, c=c, d=d))
        lines.append(f"M2   A1   {float(speed * 25):09.1f}   {a}")
    path = folder / "odd.edl"
    path.write_text("\n".join(lines))
    history = History(cut_film(25, False))  # type: ignore[arg-type]
    try:
        listed = read_list(path, Fraction(25))
        made = cut_by_list(history.project, FIRST, joins_of(listed), offset, use)
        history.edit(made, "Cut", FIRST)
    except OffcutError:
        pass
    saved = save_project(history.project, folder / "film.offcut")
    assert open_project(saved) == history.project


def test_a_speed_over_the_limit_in_a_list_is_told_and_left_out(tmp_path: Path) -> None:
    path = tmp_path / "fast.edl"
    path.write_text(
        "TITLE: FAST\n"
        "001  A1  V  C  00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00\n"
        f"M2   A1   {25 * (MAX_SPEED + 1):.1f}   00:00:00:00\n"
        "002  A2  V  C  00:00:00:00 00:00:04:00 01:00:04:00 01:00:08:00\n"
    )
    listed = read_list(path, Fraction(25))
    assert any("speed" in t.why for t in listed.troubles)
    project = cut_by_list(cut_film(25, False), FIRST, joins_of(listed), 90_000, Use.ALONE)  # type: ignore[arg-type]
    assert open_project(save_project(project, tmp_path / "film.offcut")) == project


@given(ODD, ODD, SPEEDS)
def test_a_migration_is_held_against_the_same_rules(
    tmp_path_factory, start: int, frame: int, speed: Fraction
) -> None:
    kept = Path(__file__).parents[3] / "projects/format-2.offcut"
    document = json.loads(kept.read_text())
    source = document["sources"][0]
    source["seams"][0]["frame"] = frame
    source["media"]["start"] = start
    path = tmp_path_factory.mktemp("old") / "film.offcut"
    path.write_text(json.dumps(document))
    try:
        project = open_project(path)
    except OffcutError:
        return
    assert fault_of_project(project) == ""
    save_project(project, path)
    assert open_project(path) == project
