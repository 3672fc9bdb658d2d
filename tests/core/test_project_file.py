"""The project file: round trips, same bytes, and files that lie."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from test_model import STEPS, projects

from offcut.core.errors import ProjectError
from offcut.core.model.project import Project
from offcut.core.store.project_file import open_project, project_text, save_project


@given(projects(), STEPS)
def test_a_project_comes_back_as_it_was(tmp_path_factory, project: Project, steps: list) -> None:
    for verb, n in steps:
        project = verb(project, n)
    path = tmp_path_factory.mktemp("p") / "film.offcut"
    save_project(project, path)
    again = open_project(path)
    assert again == project
    assert project_text(again, path.parent) == path.read_text()


def _saved(tmp_path: Path) -> tuple[Path, dict]:
    from test_lists import cut_film

    path = save_project(cut_film(25, False), tmp_path / "film.offcut")  # type: ignore[arg-type]
    return path, json.loads(path.read_text())


@pytest.mark.parametrize(
    "harm",
    [
        lambda d: d.pop("sources"),
        lambda d: d["sources"][0].update(range=[0, 10**12]),
        lambda d: d["sources"][0]["seams"][0].update(frame="x"),
        lambda d: d["sources"][0]["seams"][0].update(kind="swirl"),
        lambda d: d["sources"][0]["media"].update(rate="1/0"),
        lambda d: d["sources"][0]["seams"].append(d["sources"][0]["seams"][0]),
        lambda d: d.update(format="something else"),
        lambda d: d.update(current=7),
    ],
)
def test_a_damaged_project_gets_one_sentence_naming_it(harm, tmp_path: Path) -> None:
    path, document = _saved(tmp_path)
    harm(document)
    path.write_text(json.dumps(document))
    with pytest.raises(ProjectError, match=r"film\.offcut"):
        open_project(path)


@pytest.mark.parametrize("data", [b"", b"{", b"[" * 100_000, b"\xff\xfe\x00", b"null"])
def test_what_is_no_project_gets_one_sentence(data: bytes, tmp_path: Path) -> None:
    path = tmp_path / "film.offcut"
    path.write_bytes(data)
    with pytest.raises(ProjectError, match=r"film\.offcut"):
        open_project(path)


def test_a_newer_format_is_refused_by_name_and_left_alone(tmp_path: Path) -> None:
    path, document = _saved(tmp_path)
    document["version"] = 99
    path.write_text(json.dumps(document))
    with pytest.raises(ProjectError, match="newer Offcut"):
        open_project(path)
    assert json.loads(path.read_text())["version"] == 99


def test_saving_where_one_may_not_leaves_the_old_file_whole(tmp_path: Path) -> None:
    path, _ = _saved(tmp_path)
    before = path.read_bytes()
    with pytest.raises(ProjectError, match="cannot be saved"):
        save_project(Project(), tmp_path / "gone" / "film.offcut")
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.is_file()] == ["film.offcut"]


@given(st.text(max_size=300))
def test_no_name_breaks_the_file(tmp_path_factory, name: str) -> None:
    path = tmp_path_factory.mktemp("n") / "film.offcut"
    clean = name.encode("utf-8", "replace").decode()
    assert open_project(save_project(Project(name=clean), path)).name == clean
