"""What the demo says of its film: every shot it names is there, by the film's own truth."""

from __future__ import annotations

import json
from fractions import Fraction

from offcut.core.board.rows import rows_of
from offcut.core.model.orders import uses_of
from offcut.core.model.project import Project
from offcut.core.model.rules import fault_of_project
from offcut.core.model.source import Media
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.demo import FILM, TRUTH
from offcut.demo.cards import ASIDE, ORDERS, SCENES, with_demo_cards
from projects import FIRST


def test_every_shot_of_the_demo_is_named_sorted_and_ordered_as_it_says() -> None:
    truth = json.loads(TRUTH.read_text())
    media = Media(str(FILM), Fraction(25), truth["frames"], 960, 540)
    project = add_source(Project(), media)
    for n, join in enumerate(truth["joins"]):  # as near as detection comes
        project = place_seam(project, FIRST, join["frame"] + n % 3 - 1)
    made = with_demo_cards(project, FIRST)
    rows = rows_of(made)
    assert all(r.shot.card.name for r in rows)
    sorted_ = {s.name: [r.title for r in rows if r.scene == s.id] for s in made.scenes}
    assert sorted_ == {scene: list(names) for scene, names in SCENES.items()}
    assert [r.title for r in rows if r.shot.card.set_aside] == list(ASIDE)
    for order, names in zip(made.orders, ORDERS.values(), strict=True):
        assert [u.title for u in uses_of(made, order)] == list(names)
    assert not fault_of_project(made)
