"""Films that are not where they were: found by content, lookalikes told apart."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from films import encode, picture_of, scene
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.missing_films import (
    difference,
    film_there,
    find_films,
    missing_films,
    project_with_films,
    with_films_found,
)
from offcut.core.store.project_file import open_project, save_project
from projects import FIRST
from scans import write_run


@pytest.fixture
def two_films(four_shots: Path, films: Path, tmp_path: Path) -> tuple[Project, list[Path]]:
    """A project of two films in a folder of their own."""
    shelf = tmp_path / "shelf"
    shelf.mkdir()
    other = films / "short.mp4"
    if not other.exists():
        encode(other, scene(9, 30))
    paths = [Path(shutil.copy(p, shelf)) for p in (four_shots, other)]
    project = Project()
    for path in paths:
        project = add_source(project, open_source(path).media)
    return project, paths


def test_a_run_that_moved_is_found_by_its_pictures(tmp_path: Path) -> None:
    old = write_run(tmp_path / "old", [picture_of(n) for n in range(12)], name="r_{:03d}.png")
    film = open_source(old / "r_003.png")
    project = add_source(Project(), film.media)
    saved = save_project(project, tmp_path / "shelf.offcut")
    (tmp_path / "new").mkdir()
    write_run(tmp_path / "new/other", [picture_of(50 + n) for n in range(12)], name="r_{:03d}.png")
    old.rename(tmp_path / "new/here")
    gone = missing_films(open_project(saved))
    assert sorted(gone) == [FIRST]
    assert "there is no such folder" in film_there(gone[FIRST]).problem
    search = find_films(gone, [tmp_path / "new"])
    assert search.found == {FIRST: tmp_path / "new/here/r_[000-011].png"}
    again, _ = with_films_found(open_project(saved), saved)
    assert film_there(again.source(FIRST).media).film is not None


def test_all_missing_films_are_found_at_once_by_content(
    two_films: tuple[Project, list[Path]], tmp_path: Path
) -> None:
    project, paths = two_films
    assert missing_films(project) == {}
    deep = tmp_path / "elsewhere/a/b"
    deep.mkdir(parents=True)
    (deep / ".hidden").mkdir()
    paths[0].rename(deep / "renamed altogether.mp4")
    paths[1].rename(deep / paths[1].name)
    (deep / "notes.mp4").write_text("not a film at all")
    gone = missing_films(project)
    assert sorted(gone) == [1, 2]
    search = find_films(gone, [tmp_path / "elsewhere"])
    assert search.found == {1: deep / "renamed altogether.mp4", 2: deep / paths[1].name}
    assert not search.namesakes


def test_beside_the_project_is_looked_at_by_itself(
    two_films: tuple[Project, list[Path]], tmp_path: Path
) -> None:
    project, paths = two_films
    work = tmp_path / "work"
    (work / "media").mkdir(parents=True)
    file = save_project(project, work / "x.offcut")
    for path in paths:
        path.rename(work / "media" / path.name)
    again, found = with_films_found(open_project(file), file)
    assert film_there(again.sources[0].media).film is not None
    assert sorted(found) == [1, 2]
    assert again.sources[0].media.path == str(work / "media" / paths[0].name)


def test_a_project_moved_with_its_film_needs_no_search(
    two_films: tuple[Project, list[Path]], tmp_path: Path
) -> None:
    project, paths = two_films
    save_project(project, paths[0].parent / "x.offcut")
    paths[0].parent.rename(tmp_path / "moved")
    again = open_project(tmp_path / "moved/x.offcut")
    assert again.sources[0].media.path == str(tmp_path / "moved" / paths[0].name)
    assert film_there(again.sources[0].media).film is not None


def test_the_right_name_with_another_content_is_pointed_out(
    two_films: tuple[Project, list[Path]], tmp_path: Path, films: Path
) -> None:
    project, paths = two_films
    encode(paths[0], scene(1, 150))
    there = film_there(project.sources[0].media)
    assert there.film is None
    assert there.other is not None
    assert "150 frames, 10 fewer" in there.problem
    assert paths[0].name in there.problem
    search = find_films({FIRST: project.sources[0].media}, [paths[0].parent])
    assert search.found == {}
    assert search.namesakes == {FIRST: paths[0]}


def test_how_films_differ_is_said(two_films: tuple[Project, list[Path]]) -> None:
    from dataclasses import replace
    from fractions import Fraction

    media = two_films[0].sources[0].media
    other = replace(media, fingerprint="another")
    assert "not the very file" in difference(media, other)
    assert "another size" in difference(media, replace(other, width=96))
    assert "another rate" in difference(media, replace(other, rate=Fraction(24)))
    longer = replace(other, frames=media.frames + 100)
    assert "260 frames, 100 more" in difference(media, longer)
    assert "(4.0 s)" in difference(media, longer)


def test_a_shorter_film_keeps_what_lies_beyond_its_end(
    two_films: tuple[Project, list[Path]],
) -> None:
    from dataclasses import replace

    project = two_films[0]
    project = place_seam(place_seam(project, FIRST, 40), FIRST, 120)
    project = add_marker(project, FIRST, 130, 150, "quay")
    whole = project.sources[0].media
    short = project_with_films(project, {FIRST: replace(whole, frames=100, fingerprint="x")})
    assert [s.end for s in shots_of(short.sources[0])] == [40, 100]
    assert (short.sources[0].markers[0].start, short.sources[0].markers[0].end) == (99, 100)
    back = project_with_films(short, {FIRST: whole})
    assert [s.start for s in shots_of(back.sources[0])] == [0, 40, 120]
