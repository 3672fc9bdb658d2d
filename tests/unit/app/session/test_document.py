"""The open project without a window: edits, undo, where it is saved, what an answer belongs to."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from offcut.app.session.document import Document, RefusedError
from offcut.core.errors import OffcutError
from offcut.core.model.project import Project
from offcut.core.model.verbs.sources import name_project, remove_source
from projects import FIRST, cut_film


@pytest.fixture
def document() -> Document:
    made = Document()
    made.put_in(cut_film(Fraction(25), False), Path("film.offcut"))
    return made


def test_an_edit_is_undone_and_what_is_saved_is_known(document: Document) -> None:
    before = document.project
    assert document.edit(lambda p: name_project(p, "Line 8"), "Name it", FIRST, 0)
    assert not document.edit(lambda p: name_project(p, "Line 8"), "Name it", FIRST, 0)
    assert (document.project.name, document.history.saved) == ("Line 8", False)
    document.saved_in(document.history.undoable, Path("line-7.offcut"))
    assert document.history.saved
    assert document.file == Path("line-7.offcut")
    document.history.undo()
    assert document.project == before
    assert not document.history.saved


def test_what_makes_no_sense_and_what_may_not_be_are_told_apart(document: Document) -> None:
    def senseless(_project: Project) -> Project:
        raise OffcutError("there is no such seam")

    def beyond_sense(project: Project) -> Project:
        return replace(project, sources=(replace(project.sources[0], sensitivity=900),))

    with pytest.raises(OffcutError, match="no such seam") as told:
        document.edit(senseless, "Roll", FIRST, 0)
    assert not isinstance(told.value, RefusedError)
    before = document.project
    with pytest.raises(RefusedError, match=r"^Name it: "):
        document.edit(beyond_sense, "Name it", FIRST, 0)
    assert document.project is before


def test_an_answer_belongs_to_its_project_and_its_films(document: Document) -> None:
    still, of_none = document.still([FIRST]), document.still([])
    assert still()
    document.edit(lambda p: name_project(p, "Line 8"), "Name it", FIRST, 0)
    assert still()
    document.edit(lambda p: remove_source(p, FIRST), "Take it out", FIRST, 0)
    assert not still()
    assert of_none()
    document.history.undo()
    assert still()
    document.put_in(document.project, None)  # the same films, and yet another project
    assert not still()
    assert not of_none()


def test_work_begun_in_an_empty_project_goes_on_in_what_comes_of_it() -> None:
    document = Document()
    still = document.still([])
    document.put_in(cut_film(Fraction(25), False), None, begun=True)
    assert still()
