"""Project files that lie: thousands of mutations, each opened or refused in one sentence."""

from __future__ import annotations

import json
import os
import random
import time
import tracemalloc
from pathlib import Path
from typing import Any

import pytest

from offcut.core.errors import ProjectError
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Zone
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.spans import one_cut_or_back
from offcut.core.model.verbs.zones import add_zone
from offcut.core.store.document import project_text
from offcut.core.store.project_file import open_project, save_project
from projects import FIRST, cut_film

MUTATIONS = int(os.environ.get("OFFCUT_MUTATIONS", "1200"))
JUNK: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2**31, -(2**63), 2**70, 10**400, 0.5, -0.0, 1e308, "", "x",
    "\u0000", "../../etc/passwd", "1/0", "0/1", "-1/1", "9" * 5000, "25/1", [], [[]], {},
    {"a": 1}, [None] * 50, "cut", "kept", "ud800",
)  # fmt: skip


def rich_project() -> Project:
    """A project with one of everything in it."""
    project: Project = cut_film(25, False)  # type: ignore[assignment]
    middle = project.sources[0].media.frames // 2
    project = place_seam(project, FIRST, middle, kind=Kind.DISSOLVE, span=4)
    seam = next(s for s in project.sources[0].seams if s.frame == middle)
    project = one_cut_or_back(project, FIRST, seam.id)
    project = add_zone(project, FIRST, Zone(1, 5, None))
    project = add_marker(project, FIRST, 3, 6, "bell", "at the quay")
    return name_shot(project, FIRST, 0, "Harbour")


def places_in(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Return the way to everything in a document."""
    found = [path] if path else []
    items = (
        value.items() if isinstance(value, dict)
        else enumerate(value) if isinstance(value, list)
        else ()
    )  # fmt: skip
    for key, inner in items:
        found += places_in(inner, (*path, key))
    return found


def opened_or_refused(path: Path) -> bool:
    """Open a file; True when it opened and makes sense, False when refused in one sentence."""
    try:
        project = open_project(path)
    except ProjectError as error:
        words = str(error)
        assert path.name in words
        assert "\n" not in words
        assert len(words) < 400
        return False
    for source in project.sources:
        assert all(0 <= s.start <= s.end for s in source.seams)
    project_text(project)
    if project.sources:
        assert shots_of(project.sources[0])
    return True


def test_values_gone_wrong_are_refused_or_make_sense(tmp_path: Path) -> None:
    rng = random.Random(11)
    whole = json.loads(project_text(rich_project()))
    ways = places_in(whole)
    path = tmp_path / "film.offcut"
    refused = 0
    for _ in range(MUTATIONS):
        document = json.loads(json.dumps(whole))
        for _ in range(rng.choice((1, 1, 1, 2, 4))):
            *holders, key = rng.choice(ways)
            holder: Any = document
            try:
                for step in holders:
                    holder = holder[step]
                if rng.random() < 0.15:
                    del holder[key]
                else:
                    holder[key] = rng.choice(JUNK)
            except (KeyError, IndexError, TypeError):
                continue  # an earlier mutation took it away
        path.write_text(json.dumps(document))
        refused += not opened_or_refused(path)
    assert refused > MUTATIONS // 4


def test_bytes_gone_wrong_are_refused_or_make_sense(tmp_path: Path) -> None:
    rng = random.Random(11)
    whole = bytearray(project_text(rich_project()).encode())
    path = tmp_path / "film.offcut"
    for _ in range(MUTATIONS // 2):
        data = bytearray(whole)
        for _ in range(rng.choice((1, 1, 2, 8))):
            at = rng.randrange(len(data))
            way = rng.random()
            if way < 0.4:
                data[at] = rng.randrange(256)
            elif way < 0.7:
                del data[at : at + rng.randrange(1, 200)]
            else:
                data[at:at] = bytes(rng.choice(b'{}[]",:0129eE-.') for _ in range(5))
            if not data:
                break
        path.write_bytes(bytes(data))
        opened_or_refused(path)


@pytest.mark.parametrize(
    "text",
    [
        '{"a":' * 200_000,
        "[" * 1_000_000,
        '{"format":"offcut-project","version":1,"name":"' + "x" * 5_000_000 + '"}',
        '{"format":"offcut-project","version":1,"sources":[' + "{}," * 300_000 + "{}]}",
    ],
)
def test_deep_and_large_files_are_refused_quickly(text: str, tmp_path: Path) -> None:
    path = tmp_path / "film.offcut"
    path.write_text(text)
    began = time.process_time()
    assert not opened_or_refused(path)
    assert time.process_time() - began < 10


def test_a_million_seams_are_refused_without_reading_them(tmp_path: Path) -> None:
    path = tmp_path / "film.offcut"
    seam = b'{"id":1,"frame":9,"kind":"cut","score":50,"standing":"open","reasons":[]},'
    path.write_bytes(b'{"format":"offcut-project","sources":[{"seams":[' + seam * 1_000_000)
    tracemalloc.start()
    with pytest.raises(ProjectError, match=r"film\.offcut: has more than 500,000 seams"):
        open_project(path)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert most < 2 * path.stat().st_size


def test_a_large_honest_project_comes_back(tmp_path: Path) -> None:
    project = rich_project()
    save_project(project, tmp_path / "film.offcut")
    assert open_project(tmp_path / "film.offcut") == project
