"""A whole cut list read in as a running order, and handed over again.

The lists are CMX 3600; OpenTimelineIO's own CMX 3600 adapter is the second reader.
"""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
import pytest

from offcut.core.board.order_from_list import order_from_list
from offcut.core.lists.registry import read_list
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.card import Original
from offcut.core.model.handover import Asked
from offcut.core.model.orders import uses_of
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.orders import add_order, keep_piece, put_in_order, put_uses, trim_use
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.sources import add_source
from offcut.core.turnover.plan import plan_of
from offcut.core.turnover.writing import hand_over
from projects import FIRST, cut_film

EDL = """TITLE: Trailer
FCM: NON-DROP FRAME

001  LINE7    V     C        00:01:12:01 00:01:40:00 01:00:00:00 01:00:27:24
* FROM CLIP NAME: Line 7.mov
002  QUAY     V     C        00:00:01:00 00:00:03:00 01:00:27:24 01:00:29:24
* FROM CLIP NAME: quay.mov
003  A012     V     C        00:10:00:10 00:10:02:00 01:00:29:24 01:00:31:14
004  NOBODY   V     C        00:00:00:00 00:00:01:00 01:00:31:14 01:00:32:14
* FROM CLIP NAME: elsewhere.mov
"""


@pytest.fixture
def project() -> Project:
    """Two films; the first shot of the first was made from reel A012 at ten minutes."""
    made = add_source(
        cut_film(Fraction(25), False), Media("/q/quay.mov", Fraction(25), 900, 64, 36)
    )
    original = Original("A012", 15_000, 0)
    return with_card(made, FIRST, None, replace(made.sources[0].first, original=original))


def test_events_become_shots_with_their_own_in_and_out(project: Project, tmp_path: Path) -> None:
    (tmp_path / "t.edl").write_text(EDL)
    listed = read_list(tmp_path / "t.edl", Fraction(25))
    got = order_from_list(project, listed)
    made = put_uses(add_order(project, "Trailer"), project.next_id, got.uses)
    shown = uses_of(made, made.orders[0])
    assert [(u.source.media.path, u.shot.start, u.shot.end) for u in shown] == [
        ("/films/Line 7.mov", 1801, 2500),
        ("/q/quay.mov", 25, 75),
        ("/films/Line 7.mov", 10, 50),
    ]
    assert shown[0].use.start is None  # the whole shot, as it is cut here
    assert shown[2].whole == shots_of(project.sources[0])[0]
    assert len(got.left) == 1
    assert "elsewhere.mov" in got.left[0]
    assert got.left[0].startswith("line ")


def test_an_order_is_handed_over_with_each_in_and_out_and_its_pieces(
    four_shots: Path, tmp_path: Path
) -> None:
    film = open_source(four_shots)
    project = add_source(Project(name="Line 7"), film.media)
    for frame in (40, 75, 120):
        project = place_seam(project, FIRST, frame)
    project = add_order(project, "Picked")
    order = project.orders[0].id
    second = shots_of(project.sources[0])[1]
    from offcut.core.model.orders import ref_of

    project = put_in_order(project, order, [ref_of(project.sources[0], second)] * 2)
    project = trim_use(project, order, project.orders[0].uses[1].id, first=5, last=10)
    project = keep_piece(project, order, FIRST, 10, 90, 0, "Over two seams")
    asked = Asked(which="order", order=order, lists=("edl", "otio"), movies="h264", stills="middle",
                  sheets=("png",), pattern="{number}-{name}")  # fmt: skip
    plan = plan_of(project, asked)
    assert [(i.shot.start, i.shot.end) for i in plan.items] == [(10, 90), (40, 75), (45, 85)]
    films: dict[int, OpenedFilm] = {FIRST: film}
    report = hand_over(plan, tmp_path / "out", films)
    assert not report.problems
    lengths = [
        open_source(tmp_path / "out" / name).media.frames
        for name, _ in report.written
        if name.endswith(".mov")
    ]
    assert lengths == [80, 35, 40]
    read = otio.adapters.read_from_file(str(tmp_path / "out/Line 7.edl"), rate=25)
    clips = list(read.find_clips())
    assert [c.source_range.duration.value for c in clips] == [80, 35, 40]
    hour = 25 * 3600
    assert [c.source_range.start_time.value - hour for c in clips] == [10, 40, 45]
    for name in ("Line 7.edl", "Line 7.otio"):  # and comes back in as the order it was
        again = order_from_list(project, read_list(tmp_path / "out" / name, Fraction(25)))
        back = put_uses(add_order(project, "Back"), project.next_id, again.uses)
        spans = [(u.shot.start, u.shot.end) for u in uses_of(back, back.orders[1])]
        assert spans == [(10, 90), (40, 75), (45, 85)]
        assert not again.left
    assert clips[0].name.startswith("Over two seams") or "Over two seams" in str(clips[0].metadata)


def test_shots_picked_of_several_films_are_handed_over_in_their_order(project: Project) -> None:
    refs = ((project.sources[1].id, 0), (FIRST, project.sources[0].seams[0].id))
    plan = plan_of(project, Asked(which="picked", picked=refs, lists=("csv",)))
    assert [i.source.media.path for i in plan.items] == ["/q/quay.mov", "/films/Line 7.mov"]
    in_order = plan_of(project, Asked(which="picked", picked=refs, film_order=True))
    assert [i.source.id for i in in_order.items] == [FIRST, project.sources[1].id]
