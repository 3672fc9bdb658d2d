"""The project file: round trips, same bytes, and files that lie."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from offcut.core.errors import ProjectError
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.store.document import project_text
from offcut.core.store.project_file import older_format_of, open_project, read_project, save_project
from projects import STEPS, cut_film, full_project, projects


@given(projects(), STEPS)
def test_a_project_comes_back_as_it_was(tmp_path_factory, project: Project, steps: list) -> None:
    for verb, n in steps:
        project = verb(project, n)
    path = tmp_path_factory.mktemp("p") / "film.offcut"
    save_project(project, path)
    again = open_project(path)
    assert again == project
    assert project_text(again, path.parent) == path.read_text()


KEPT = Path(__file__).parents[3] / "projects"
SCHEMA = jsonschema.Draft202012Validator(
    json.loads(
        (Path(__file__).parents[4] / "docs/project-format.schema.json").read_text(encoding="utf-8")
    )
)


@given(projects(), STEPS)
def test_what_is_saved_is_what_the_schema_says(project: Project, steps: list) -> None:
    for verb, n in steps:
        project = verb(project, n)
    SCHEMA.validate(json.loads(project_text(project)))


def test_one_of_everything_fits_the_schema_and_comes_back(tmp_path: Path) -> None:
    project = full_project()
    path = save_project(project, tmp_path / "film.offcut")
    SCHEMA.validate(json.loads(path.read_text()))
    assert open_project(path) == project


def _saved(tmp_path: Path) -> tuple[Path, dict]:
    path = save_project(cut_film(25, False), tmp_path / "film.offcut")  # type: ignore[arg-type]
    return path, json.loads(path.read_text())


@pytest.mark.parametrize("version", [1, 2, 3, 4, 5, 6, 7])
def test_an_older_format_is_read_and_kept_when_saved_anew(version: int, tmp_path: Path) -> None:
    old = (KEPT / f"format-{version}.offcut").read_bytes()
    path = tmp_path / "film.offcut"
    path.write_bytes(old)
    project = open_project(path)
    assert path.read_bytes() == old
    save_project(project, path)
    save_project(open_project(path), path)
    assert json.loads(path.read_text())["version"] == 8
    assert open_project(path) == project
    assert older_format_of(path, version).read_bytes() == old


def test_format_2_keeps_its_scenes_its_film_in_hand_and_its_last_hand_over() -> None:
    saved = read_project(KEPT / "format-2.offcut")
    project = saved.project
    first, second = project.sources
    assert saved.in_hand == second.id
    assert [s.name for s in project.scenes] == ["Harbour", "The depot"]
    assert project.scene_name(first.first.scene) == "Harbour"
    named = [project.scene_name(s.card.scene) for s in shots_of(second)]
    assert named == ["", "The depot", "Harbour"]
    asked = project.handovers[-1].asked
    assert (asked.source, asked.which) == (second.id, "chosen")
    starts = {(s.opened_by.id if s.opened_by else 0): s.start for s in shots_of(second)}
    assert [starts[i] for i in asked.chosen] == [70, 0]  # a third frame opened no shot any more
    ids = [s.id for s in project.sources] + [s.id for s in project.scenes]
    ids += [x.id for s in project.sources for x in (*s.seams, *s.markers)]
    assert len(set(ids)) == len(ids)
    assert max(ids) < project.next_id


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
        lambda d: d.update(next_id="x"),
        lambda d: d["sources"][0].update(id=0),
        lambda d: d["orders"].append({"id": 1, "name": "x"}),
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


SAVER = """
import os, sys
sys.path[:0] = sys.argv[2:]
from projects import FIRST, full_project
from offcut.core.model.verbs.cards import note_shot
from offcut.core.store.project_file import save_project
if os.geteuid() == 0 and "AS_NOBODY" in os.environ:
    os.setuid(65534)
try:
    save_project(note_shot(full_project(), FIRST, 0, "x" * 4000), sys.argv[1])
except Exception as error:
    print(type(error).__name__, error)
"""


def _refused_by_the_disk(path: Path, **run: object) -> str:
    """Save over a project in a process of its own; return what it said."""
    making = Path(__file__).parents[3] / "making"
    words = [sys.executable, "-c", SAVER, str(path), str(making)]
    done = subprocess.run(words, capture_output=True, text=True, check=True, **run)  # type: ignore[call-overload]
    return str(done.stdout)


def test_a_full_disk_leaves_the_old_file_whole(tmp_path: Path) -> None:
    small = tmp_path / "disk"
    small.mkdir()
    command = ["mount", "-t", "tmpfs", "-o", "size=24k", "none", str(small)]
    if os.geteuid() or subprocess.run(command, check=False, capture_output=True).returncode:
        pytest.skip("a small disk can only be mounted by root")
    try:
        path = save_project(full_project(), small / "film.offcut")
        before = path.read_bytes()
        (small / "ballast").write_bytes(bytes(24_576 - len(before) // 4096 * 4096 - 4096))
        said = _refused_by_the_disk(path)
        assert said.startswith("ProjectError")
        assert "film.offcut: cannot be saved (No space left on device)" in said
        assert path.read_bytes() == before
        assert not [
            p
            for p in small.iterdir()
            if p.name.startswith(".film.offcut.") and p.suffix != ".before"
        ]
    finally:
        subprocess.run(["umount", str(small)], check=True)


def test_a_file_size_limit_leaves_the_old_file_whole(tmp_path: Path) -> None:
    path, _ = _saved(tmp_path)
    before = path.read_bytes()

    def limit() -> None:
        import resource
        import signal

        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))

    said = _refused_by_the_disk(path, preexec_fn=limit)
    assert "film.offcut: cannot be saved (File too large)" in said
    assert path.read_bytes() == before


def test_a_folder_that_may_not_be_written_leaves_the_old_file_whole() -> None:
    with tempfile.TemporaryDirectory() as name:  # root's own test folders let nobody else in
        path = save_project(full_project(), Path(name) / "film.offcut")
        before = path.read_bytes()
        Path(name).chmod(0o555)
        said = _refused_by_the_disk(path, env=os.environ | {"AS_NOBODY": "1"})
        Path(name).chmod(0o755)
        assert "film.offcut: cannot be saved (Permission denied)" in said
        assert path.read_bytes() == before


def test_a_folder_that_vanished_gets_one_sentence(tmp_path: Path) -> None:
    mount = tmp_path / "mount"
    mount.mkdir()
    path = save_project(full_project(), mount / "film.offcut")
    mount.rename(tmp_path / "gone")
    with pytest.raises(ProjectError, match=r"film\.offcut: cannot be saved \(No such file"):
        save_project(full_project(), path)


@given(st.text(max_size=300))
def test_no_name_breaks_the_file(tmp_path_factory, name: str) -> None:
    path = tmp_path_factory.mktemp("n") / "film.offcut"
    clean = name.encode("utf-8", "replace").decode()
    assert open_project(save_project(Project(name=clean), path)).name == clean
