"""Where dialogs begin: beside the film, then where that kind of file went last."""

from __future__ import annotations

from pathlib import Path

from offcut.app.session.file_places import FilePlaces


def test_a_dialog_begins_beside_the_film_and_then_where_such_files_went(tmp_path: Path) -> None:
    films, lists, other = (tmp_path / n for n in ("films", "lists", "other"))
    for folder in (films, lists, other):
        folder.mkdir()
    kept: list[str] = []
    places = FilePlaces("", kept.append)
    film = films / "reel.mov"
    assert places.start("project", film) == films
    places.went("list", lists, film)
    assert places.start("list", film) == lists
    assert places.start("project", film) == films
    # a film from elsewhere begins anew; the next session remembers
    assert places.start("list", other / "tape.mov") == other
    again = FilePlaces(kept[-1])
    assert again.start("list", film) == lists
    assert again.start("project", None) == lists


def test_what_is_kept_is_distrusted_and_a_folder_that_went_is_passed_over(tmp_path: Path) -> None:
    for kept in ("", "{", "[1]", '{"list": 3}', '{"list": ["a"]}'):
        assert FilePlaces(kept).start("list", tmp_path / "a.mov") == tmp_path
    places = FilePlaces()
    places.went("list", tmp_path / "gone", tmp_path / "a.mov")
    assert places.start("list", tmp_path / "a.mov") == tmp_path
    assert places.start("list", None).is_dir()
