"""Reading a project's document: every part of it is distrusted, and what is wrong is named."""

from __future__ import annotations

import copy
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from offcut.core.errors import ProjectError
from offcut.core.store.document import project_text
from offcut.core.store.document_in import project_from_document
from offcut.core.store.migrations import upgraded, upgraded_cuts
from projects import FIRST, full_project

Document = dict[str, Any]
FILE = Path("/somewhere/film.offcut")


@pytest.fixture
def document() -> Document:
    read: Document = json.loads(project_text(full_project(), FILE.parent, FIRST))
    return read


def source(document: Document) -> Document:
    first: Document = document["sources"][0]
    return first


def test_a_document_is_read_as_it_was_written(document: Document) -> None:
    saved = project_from_document(document, FILE)
    assert saved.project == full_project()
    assert saved.in_hand == FIRST


HARMS: dict[str, Callable[[Document], object]] = {
    "sources is missing": lambda d: d.pop("sources"),
    "name is missing": lambda d: d.pop("name"),
    "the range does not fit the film": lambda d: source(d).update(range=[10, 10]),
    "sensitivity": lambda d: source(d).update(sensitivity=101),
    "score": lambda d: source(d)["seams"][0].update(score=-1),
    "ends before it starts": lambda d: source(d)["seams"][0].update(start=9, end=3),
    "two seams have the same id": lambda d: source(d)["seams"][1].update(
        id=source(d)["seams"][0]["id"]
    ),
    "two films have the same id": lambda d: d["sources"].append(copy.deepcopy(source(d))),
    "a shot names a scene that is not there": lambda d: d.update(scenes=[]),
    "two scenes have the same id": lambda d: d["scenes"].append(d["scenes"][0]),
    "a marker lies outside the film": lambda d: source(d)["markers"][0].update(end=10**6),
    "speed": lambda d: source(d)["first"]["original"].update(speed="1001/1"),
    "framing": lambda d: source(d).update(framing=[0, 0, 5000, 0]),
    "rate": lambda d: source(d)["media"].update(rate="0/1"),
    "handles": lambda d: d["handovers"][0]["asked"].update(handles=-1),
}


@pytest.mark.parametrize("said", HARMS)
def test_what_is_wrong_is_named_with_the_file(said: str, document: Document) -> None:
    HARMS[said](document)
    with pytest.raises(ProjectError, match=r"film\.offcut: damaged project") as caught:
        project_from_document(document, FILE)
    assert said in str(caught.value)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    "harm",
    [
        lambda d: d.update(version="3"),
        lambda d: d.update(version=True),
        lambda d: d.update(orders={"id": 1}),
        lambda d: d["orders"][0]["uses"].append(["1", 2]),
        lambda d: source(d)["seams"][0].update(reasons=None),
        lambda d: source(d)["seams"][0].update(frame=1.5),
        lambda d: source(d)["zones"].append([1, 2]),
        lambda d: source(d).update(media=[]),
        lambda d: source(d)["first"].update(name=["a"]),
    ],
)
def test_the_wrong_shape_is_one_sentence(
    harm: Callable[[Document], object], document: Document
) -> None:
    harm(document)
    with pytest.raises(ProjectError, match=r"film\.offcut") as caught:
        project_from_document(document, FILE)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize("in_hand", [4711, None, "first"])
def test_a_film_in_hand_that_is_not_there_is_none(in_hand: object, document: Document) -> None:
    document["in_hand"] = in_hand
    assert project_from_document(document, FILE).in_hand in (0, FIRST)


# documents of before


def test_an_empty_project_of_format_2_has_nothing_in_hand() -> None:
    old = {"next_id": 5, "sources": [], "current": 0, "handovers": [], "name": "", "version": 2}
    made = upgraded(old, 2)
    assert (made["in_hand"], made["next_id"], made["scenes"], made["orders"]) == (None, 5, [], [])
    assert "scenes" not in old  # the old document is left alone


def test_ids_of_format_2_that_were_too_high_are_passed_over() -> None:
    kept = Path(__file__).parents[3] / "projects/format-2.offcut"
    old = json.loads(kept.read_text())
    old["next_id"] = 1
    made = upgraded(old, 2)
    ids = [s["id"] for s in made["sources"]] + [s["id"] for s in made["scenes"]]
    ids += [x["id"] for s in made["sources"] for x in (*s["seams"], *s["markers"])]
    assert len(ids) == len(set(ids))
    assert made["next_id"] > max(ids)


def test_cuts_of_format_2_name_their_scenes() -> None:
    kept = Path(__file__).parents[3] / "projects/format-2.cuts.json"
    old = json.loads(kept.read_text())
    made = upgraded_cuts(old, 2)
    named = {s["id"]: s["name"] for s in made["scenes"]}
    cards = [made["source"]["first"], *(s["opening"] for s in made["source"]["seams"])]
    before = [old["source"]["first"], *(s["opening"] for s in old["source"]["seams"])]
    for now, then in zip(cards, before, strict=True):
        if now is not None and then["scene"]:
            assert named[now["scene"]] == then["scene"]
    assert upgraded_cuts(made, 8) is made
