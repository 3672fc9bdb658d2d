"""Nothing that a name brought along steers a terminal, a file's name or what reads our JSON."""

from __future__ import annotations

import ast
import json
import shutil
from pathlib import Path

import pytest

import offcut.cli
from calls import called
from offcut.core.files import safe_name
from offcut.core.store.project_file import open_project
from offcut.core.words import as_json, printable_lines

STEERING = "\x1b]0;owned\x07 \x9b31m \u202etfel\u202c \u200f"


def steers(text: str) -> bool:
    return any(not c.isprintable() and c not in "\n\t" for c in text)


def test_only_one_place_prints() -> None:
    folder = Path(str(offcut.cli.__file__)).parent
    for file in folder.glob("*.py"):
        if file.name in ("saying.py", "progress.py"):
            continue
        calls = [n for n in ast.walk(ast.parse(file.read_text())) if isinstance(n, ast.Call)]
        assert not [c.lineno for c in calls if getattr(c.func, "id", "") == "print"], file


@pytest.mark.parametrize(
    "command",
    [
        ["detect", "{film}"],
        ["detect", "{film}", "--json"],
        ["detect", "{film}", "--save", "{project}"],
        ["turnover", "{project}", "{folder}", "--edl", "--dry-run"],
        ["turnover", "{project}", "{folder}", "--edl"],
        ["rhythm", "{film}"],
        ["rhythm", "{film}", "--json"],
        ["tally", "{film}", "{film}"],
        ["find", "owned"],
        ["find", "owned", "--json"],
        ["detect", "{film}.gone"],
    ],
)
def test_no_command_steers_the_terminal(
    command: list[str], four_shots: Path, tmp_path: Path
) -> None:
    film = tmp_path / f"reel {STEERING}.mp4"
    shutil.copy(four_shots, film)
    project = tmp_path / f"{STEERING}.offcut"
    told = {"film": str(film), "project": str(project), "folder": str(tmp_path / "out")}
    if "turnover" in command:
        assert called("detect", film, "--save", project, "--quiet").returncode == 0
    done = called(*(word.format(**told) for word in command))
    assert "Traceback" not in done.stderr
    assert not steers(done.stdout)
    assert not steers(done.stderr)
    if "--json" in command and command[0] == "detect":
        assert json.loads(done.stdout)["source"]["path"] == str(film)
    if project.exists():
        assert open_project(project).sources[0].media.path == str(film)


def test_names_of_files_have_no_direction() -> None:
    name, why = safe_name(f"shot {STEERING}")
    assert not steers(name)
    assert why


def test_json_spells_out_what_steers() -> None:
    text = as_json({STEERING: [STEERING, "\ud800"]})
    assert not steers(text)
    assert json.loads(text) == {STEERING: [STEERING, "\ud800"]}
    assert printable_lines("a\tb\n\x1b[1mc") == "a\tb\n[1mc"
