"""What another package adds is used like our own; what does not fit is left out and told."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from added import looked_for_anew, put_in_place, shown_files
from offcut.app.shell.window import Window
from offcut.cli.main import main
from offcut.core.errands.seams import find_seams
from offcut.core.machine.added import left_out
from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measuring import ToMeasure
from offcut.core.measure.processes import OnProcesses
from offcut.core.measure.registry import measurers, measurers_named
from offcut.core.media.display import display_of, displays
from offcut.core.media.probe import open_source
from windows import CTRL, press

BROKEN = {
    "pyproject.toml": """
[project]
name = "offcut-broken"
version = "1.0"
[project.entry-points."offcut.list_forms"]
gone = "offcut_broken.nowhere:FORM"
twice = "offcut_broken.bad:TWICE"
files = "offcut_broken.bad:FILES"
[project.entry-points."offcut.measurers"]
no-measurer = "offcut_broken.bad:TWICE"
falls = "offcut_broken.bad:Falls"
[project.entry-points."offcut.displays"]
grey = "offcut_broken.bad:GREY"
[project.entry-points."offcut.views"]
falls = "offcut_broken.bad:VIEW"
""",
    "offcut_broken/bad.py": """
from offcut.app.views.description import View
from offcut.core.lists.csv import write_csv
from offcut.core.lists.registry import ListFormat
from offcut.core.media.display import AddedDisplay

TWICE = ListFormat("edl", "EDL", "another", ".edl", write_csv)
FILES = ListFormat("files", "Files", "a code the command line has", ".files", write_csv)
GREY = AddedDisplay("grey", "grey", lambda colours: colours.mean())

class Falls:
    name, version, arrays = "falls", 1, ("falls",)
    bytes_a_frame, history, look = 4, 0, None
    def prepare(self, run):
        return run.nothing
    def compare(self, before, now):
        return now

def make(context, actions):
    raise RuntimeError("no room")

VIEW = View("falls", "Falls", 0, make, lambda context, view: [])
""",
}


@pytest.fixture
def more(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    folder = tmp_path / "packages"
    put_in_place(folder, shown_files())
    with looked_for_anew(folder, monkeypatch):
        yield folder


@pytest.fixture
def broken(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    folder = tmp_path / "packages"
    put_in_place(folder, BROKEN)
    with looked_for_anew(folder, monkeypatch):
        yield folder


def test_a_film_is_measured_by_it_and_a_list_written_and_read(
    more: Path, four_shots: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    project, out = tmp_path / "film.offcut", tmp_path / "out"
    assert main(["detect", str(four_shots), "--save", str(project), "--quiet"]) == 0
    film = open_source(four_shots)
    (light,) = measurers_named(["light"])
    ((start, end, signals),) = KeptSignals(film.media).pieces(light, 0, film.media.frames)
    assert (start, end, len(signals["light"])) == (0, 160, 160)
    assert main(["turnover", str(project), "--to", str(out), "--counts", "--quiet"]) == 0
    (written,) = out.rglob("*.counts")
    first = 90000  # 01:00:00:00 at 25
    spans = [[int(n) - first for n in line.split()] for line in written.read_text().splitlines()]
    assert spans == [[0, 40], [40, 75], [75, 120], [120, 160]]
    written.write_text("0 40\nforty and more\n40 160\n")
    assert main(["detect", str(four_shots), "--list", str(written), "--json", "--quiet"]) == 0
    assert "forty and more" in capsys.readouterr().err


def test_processes_have_it_too(more: Path, four_shots: Path) -> None:
    film = open_source(four_shots)
    with OnProcesses(1) as measuring:
        runs = list(measuring.measured(ToMeasure(film, 0, 160, measurers_named(["light"]))))
    assert sum(len(run.signals["light"]["light"]) for run in runs) == 160


def test_its_display_is_seen_through(more: Path) -> None:
    assert displays()["offcut-more negative"] == "negative"
    display = display_of("offcut-more negative")
    assert display is not None
    seen = display.seen(np.full((4, 4, 3), 255, np.uint8))
    assert seen.max() <= 1


def test_its_view_is_opened_by_its_key(more: Path, opened: Window) -> None:
    window = opened
    press(window, Qt.Key.Key_7, CTRL)
    assert window.session.view == "lengths"
    assert window.page.words.text() == "40 35 45 40"  # type: ignore[attr-defined]
    assert window.top.tabs["lengths"].isChecked()
    assert "counts" in window.view("turnover").output.lists


def test_what_does_not_fit_is_left_out_and_told(
    broken: Path, four_shots: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain = find_seams(open_source(four_shots), limit=0)
    assert main(["detect", str(four_shots), "--json"]) == 0
    told = capsys.readouterr().err
    assert "offcut-broken: “gone” of offcut.list_forms cannot be used and is left out" in told
    assert "“twice” of offcut.list_forms cannot be used and is left out (there is a list" in told
    assert "(it is no Measurer)" in told
    assert "“falls” of offcut.measurers cannot be used and is left out" in told
    assert "falls" not in {m.name for m in measurers()}
    assert [s.frame for s in plain.seams if s.score >= 50] == [40, 75, 120]
    assert "grey" not in displays()
    assert "“files” of offcut.list_forms cannot be used" in told


def test_the_window_says_once_what_was_left_out(
    broken: Path, monkeypatch: pytest.MonkeyPatch, window: Window, qtbot: QtBot
) -> None:
    told: list[str] = []
    window.session.lost.connect(told.append)
    qtbot.waitUntil(lambda: any("“gone” of offcut.list_forms" in w for w in told), timeout=8000)
    assert len(told) == len(set(told)) >= 4


def test_a_view_that_falls_leaves_the_window_as_it_was(broken: Path, window: Window) -> None:
    failed: list[str] = []
    window.session.failed.connect(failed.append)
    window.open_view("falls")
    assert failed == ["Falls cannot be opened: no room"]
    assert window.session.view == "seams"
    assert window.top.tabs["seams"].isChecked()
    assert any("“falls” of offcut.views cannot be used" in words for words in left_out())


def test_an_installed_package_is_found_by_the_command(more: Path) -> None:
    words = "import sys; from offcut.cli.main import main; sys.exit(main(['turnover', '--help']))"
    env = {**os.environ, "PYTHONPATH": os.pathsep.join([str(more), *sys.path])}
    done = subprocess.run(
        [sys.executable, "-c", words], env=env, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0, done.stderr
    assert "--counts" in done.stdout
