"""What follows from a film is carried over where only cards differ, as if worked out anew."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from offcut.core.board.rows import rows_of_source
from offcut.core.model import shots
from offcut.core.model.project import Project
from offcut.core.model.seam import Origin, Seam
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot, note_shots, set_shot_aside
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.replacing import with_seams
from offcut.core.model.verbs.sources import add_source
from projects import FIRST


def film_of(dice: random.Random) -> Project:
    """Return a film of 400 frames with seams of every sort, some on one frame."""
    media = Media("/films/tram.mp4", Fraction(25), 400, 320, 240, fingerprint="tram")
    seams = []
    for n in range(dice.randrange(0, 40)):
        frame, origin = dice.randrange(1, 400), dice.choice(list(Origin))
        seams.append(Seam(n + 1, frame, frame, frame, score=dice.randrange(0, 100), origin=origin))
    project = add_source(Project(), media)
    return with_seams(project, FIRST, sorted(seams, key=lambda s: s.frame))


@given(st.integers(0, 10_000))
def test_carried_is_as_if_worked_out(seed: int) -> None:
    dice = random.Random(seed)
    project = film_of(dice)
    for turn in range(8):
        source = project.source(FIRST)
        anew: tuple[tuple[Callable[..., object], Callable[..., object]], ...] = tuple(
            (asked, asked.__wrapped__)  # type: ignore[attr-defined]
            for asked in (shots.counted_seams, shots.shots_of)
        )
        for asked, plain in anew:
            assert asked(source) == plain(source)
        assert shots._doubt_places(source) == shots._doubt_places.__wrapped__(source)  # type: ignore[attr-defined]
        rows = rows_of_source(source)
        assert [r.shot for r in rows] == list(shots.shots_of(source))
        assert all(r.source is not None and r.source.media is source.media for r in rows)
        assert shots.counted_ids(source) == {s.id for s in shots.counted_seams(source)}
        doubts = shots.doubt_order(source)
        assert [s.judged for s in doubts] == [
            n >= shots.to_judge(source) for n in range(len(doubts))
        ]
        frame = dice.randrange(0, 400)
        what = dice.randrange(4)
        if what == 0:
            project = name_shot(project, FIRST, frame, f"name {turn}")
        elif what == 1:
            project = set_shot_aside(project, FIRST, frame)
        elif what == 2:
            project = note_shots(project, [rows[dice.randrange(len(rows))].key], f"note {turn}")
        elif source.seams:
            project = strike_seams(project, FIRST, [dice.choice(source.seams).id])


def test_another_order_of_seams_or_another_sort_is_no_other_card() -> None:
    project = film_of(random.Random(3))
    source = project.source(FIRST)
    named = name_shot(project, FIRST, 200, "The quay").source(FIRST)
    assert len(shots.other_cards(source, named) or []) <= 1
    assert shots.other_cards(source, replace(named, sensitivity=12)) is None
    moved = replace(source.seams[0], start=source.seams[0].frame - 1)
    assert shots.other_cards(source, replace(source, seams=(moved, *source.seams[1:]))) is None
    assert shots.other_cards(source, replace(source, seams=source.seams[1:])) is None
    assert add_order(project, "Short") is not None
