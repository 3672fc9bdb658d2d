"""Looking through the shots of real encoded films: suggestions, and what stays of them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.board.looking import (
    Compared,
    FramePictures,
    Suggestion,
    find_places,
    look_through,
    still_open,
)
from offcut.core.board.rows import rows_of
from offcut.core.facts.looks import ShotLook
from offcut.core.facts.places import PlaceFinder
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.verbs.cards import set_aside, wave_away
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.scenes import put_shots_in_scene
from offcut.core.model.verbs.sources import add_source
from projects import FIRST

CUTS = (40, 80, 120, 160, 200)


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Shots 1 and 3 are one drawn place with somebody else moving; 5 is shot 2 again, flopped."""
    rng = np.random.default_rng(1)
    texture = {s: rng.integers(-40, 40, (28, 48, 3)).repeat(4, 0).repeat(4, 1) for s in (1, 2, 3)}

    def shot(seed: int, dot: int, flop: bool = False):  # type: ignore[no-untyped-def]
        base = next(iter(scene(seed, 1))).astype(int) + texture[seed]
        for t in range(40):
            picture = base.copy()
            x = (dot * 7 + t * (3 if dot % 2 else 2)) % 150
            y = dot * 9 % 70
            picture[y : y + 30, x : x + 24] = (dot * 31 % 255, 220, 40)
            picture = np.clip(picture, 0, 255).astype(np.uint8)
            yield np.ascontiguousarray(picture[:, ::-1]) if flop else picture

    order = [(1, 3, False), (2, 5, False), (1, 8, False), (3, 1, False), (2, 5, True),
             (3, 6, False)]  # fmt: skip
    path = tmp_path_factory.mktemp("places") / "places.mp4"
    return encode(path, (p for s in order for p in shot(*s)), options={"crf": "16"})


@pytest.fixture
def project(film: Path) -> Project:
    made = add_source(Project(), open_source(film).media)
    for frame in CUTS:
        made = place_seam(made, FIRST, frame)
    return made


def looked(project: Project, film: Path) -> tuple[dict[ShotRef, ShotLook], FramePictures]:
    pictures = FramePictures({FIRST: open_source(film)})
    return dict(look_through(rows_of(project), pictures)), pictures


def test_shots_of_one_set_up_and_shots_used_twice_are_found(project: Project, film: Path) -> None:
    rows = rows_of(project)
    looks, pictures = looked(project, film)
    assert len(looks) == 6
    told: list[tuple[int, int]] = []
    found, twice = find_places(rows, looks, pictures, lambda *a: told.append(a))
    number = {r.ref: r.shot.number for r in rows}
    setups = sorted([number[r] for r in s.refs] for s in found if s.setup)
    assert [1, 3] in setups
    assert [4, 6] in setups
    assert told[-1] == (6, 6)
    pairs = {(number[t.first], number[t.second]): t.words for t in twice}
    assert pairs == {(2, 5): "flopped"}
    pictures.close()
    # looked at once more, with pictures kept on disk now, the answer is the same
    looks, again = looked(project, film)
    assert find_places(rows, looks, again)[0] == found
    again.close()


def test_pictures_of_films_of_two_projects_are_told_apart(
    project: Project, film: Path, four_shots: Path
) -> None:
    """Ids are of one project; the library shows films of many, all with one."""
    other = add_source(Project(), open_source(four_shots).media).sources[0]
    mine = project.sources[0]
    assert other.id == mine.id
    pictures = FramePictures({FIRST: open_source(film)})
    here, there = pictures.picture(mine, 11), pictures.picture(other, 11)
    pictures.close()
    fresh = FramePictures()
    assert np.array_equal(here, fresh.picture(mine, 11))
    alone = fresh.picture(other, 11)
    fresh.close()
    assert here.shape == there.shape
    assert np.abs(here.astype(int) - there).mean() > 10
    assert np.abs(alone.astype(int) - there).mean() < 3


def test_a_film_that_is_gone_has_no_looks(project: Project, film: Path) -> None:
    from dataclasses import replace

    source = project.sources[0]
    media = replace(source.media, path="/nowhere.mp4", fingerprint="gone")
    gone = replace(project, sources=(replace(source, media=media),))
    pictures = FramePictures()
    assert list(look_through(rows_of(gone), pictures)) == []
    pictures.close()


def test_suggestions_waved_away_or_taken_are_told_no_more(project: Project) -> None:
    rows = rows_of(project)
    refs = tuple(r.ref for r in rows)
    some = [Suggestion(refs[:3], 80.0, True), Suggestion(refs[3:5], 70.0, False)]
    assert still_open(some, project, rows) == tuple(some)
    waved = wave_away(project, refs[:3])
    assert still_open(some, waved, rows_of(waved)) == (some[1],)
    taken = put_shots_in_scene(project, refs[3:5], "Quay")
    assert still_open(some, taken, rows_of(taken)) == (some[0],)
    aside = set_aside(project, refs[1:3])
    assert still_open(some, aside, rows_of(aside)) == (some[1],)
    assert still_open(some[:1], set_aside(project, refs[:1]), rows_of(project)) != ()


def test_what_was_compared_before_is_not_compared_again(
    project: Project, film: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = rows_of(project)
    looks, pictures = looked(project, film)
    memory = Compared()
    first = find_places(rows, looks, pictures, compared=memory)
    monkeypatch.setattr(PlaceFinder, "compare", _never)
    monkeypatch.setattr("offcut.core.board.looking.repeat_of", _never)
    monkeypatch.setattr(PlaceFinder, "flopped_pairs", lambda *_: [(1, 4)])
    assert find_places(rows, looks, pictures, compared=memory) == first
    pictures.close()


def _never(*_: object, **__: object) -> None:
    raise AssertionError("compared again")
