"""Real films in the real window: the launcher's own command on a screen, keys pressed from outside.

What the window finds and saves is what `offcut detect` says of the same films on an empty cache.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from films import cut_footage, encode
from screens import NO_SCREEN, a_screen

FALLS_TELL = {"PYTHONFAULTHANDLER": "1"}
LAUNCHER = Path(__file__).parents[2] / "offcut"


@pytest.fixture(scope="module")
def cut_films(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    """Two films: one of three minutes, long enough for several pieces, one of half a minute."""
    folder = tmp_path_factory.mktemp("cut")
    options = {"preset": "ultrafast", "g": "24"}
    long, short = folder / "three-minutes.mp4", folder / "half-a-minute.mp4"
    return [
        encode(long, cut_footage(1, 70), options=options, rate=Fraction(12)),
        encode(short, cut_footage(3, 12), options=options, rate=Fraction(12)),
    ]


@pytest.fixture
def screen() -> Iterator[dict[str, str]]:
    """What a program on a screen of its own is given."""
    with a_screen() as given:
        yield given


class Keys:
    """Presses keys on a screen, as somebody who sits before it."""

    def __init__(self, env: dict[str, str]) -> None:
        self._env = env

    def _do(self, *words: str) -> str:
        done = subprocess.run(
            ["xdotool", *words], env=self._env, capture_output=True, text=True, check=False
        )
        return done.stdout.strip()

    def window(self, name: str) -> str:
        """The number of the window of a name, empty where there is none."""
        return next(iter(self._do("search", "--onlyvisible", "--name", name).split()), "")

    def to(self, name: str) -> None:
        """Give a window the keys."""
        until(lambda: self.window(name), f"a window “{name}”")
        self._do("windowfocus", "--sync", self.window(name))

    def press(self, *keys: str) -> None:
        self._do("key", "--clearmodifiers", *keys)

    def take(self, dialog: str, file: Path) -> bool:
        """Press Return in a dialog that asks for a file, until the file is there.

        The first Return may only close the names the dialog proposes while one types.
        """
        if self.window(dialog):
            self.press("Return")
            with contextlib.suppress(AssertionError):
                until(file.exists, "taken", 2)
        return file.exists()

    def type(self, text: str) -> None:
        self._do("type", "--delay", "1", text)


def until(there: Callable[[], object], what: str, seconds: float = 60) -> None:
    """Ask again and again, from outside, until something is so."""
    late = time.monotonic() + seconds
    while not there():
        assert time.monotonic() < late, f"{what}: not after {seconds} s"
        time.sleep(0.1)


def saved(project: Path) -> dict[str, list[tuple[object, ...]]] | None:
    """The seams a project holds by the films' names; None until all are found."""
    if not project.exists():
        return None
    told = json.loads(project.read_text())
    sources = told["sources"]
    if told.get("waiting") or not all(s["searched"] for s in sources):
        return None
    keys = ("frame", "kind", "start", "end", "score", "certainty", "standing")
    return {
        Path(s["media"]["path"]).name: sorted(tuple(x[k] for k in keys) for x in s["seams"])
        for s in sources
    }


@pytest.mark.skipif(
    NO_SCREEN or shutil.which("xdotool") is None,
    reason="Xvfb or xdotool is not installed",
)
def test_the_window_finds_what_the_command_line_finds(
    cut_films: list[Path], screen: dict[str, str], tmp_path: Path
) -> None:
    project = tmp_path / "both.offcut"
    own = {f"XDG_{n}_HOME": str(tmp_path / n) for n in ("CONFIG", "STATE", "DATA")}
    with (
        subprocess.Popen(
            [sys.executable, "-m", "offcut.cli", "detect", *map(str, cut_films), "--json"],
            env={**os.environ, "XDG_CACHE_HOME": str(tmp_path / "cold")},
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        ) as detecting,
        subprocess.Popen(
            [str(LAUNCHER), *map(str, cut_films)],
            env={
                **screen,
                **own,
                "XDG_CACHE_HOME": str(tmp_path / "warm"),
                "PYTHONFAULTHANDLER": "1",
            },
            stderr=subprocess.PIPE,
            text=True,
        ) as window,
    ):
        try:
            keys = Keys(screen)
            keys.to("minute.*Offcut")
            keys.press("ctrl+s")
            keys.to("Save the project")
            keys.type(str(project))
            until(lambda: keys.take("Save the project", project), "saved")

            def found() -> bool:
                keys.to("minute.*Offcut")  # without a window manager it may lose them again
                keys.press("ctrl+s")
                return saved(project) is not None

            until(found, "all seams found")
            first = saved(project)
            assert detecting.stdout is not None
            told = [json.loads(line) for line in detecting.stdout]
            expected = {Path(d["source"]["path"]).name: sorted(_said(d)) for d in told}
            assert first == expected
            frames = Counter(s[0] for s in expected[cut_films[0].name])
            assert max(frames.values()) == 2, "no cut and mix lie at one frame: it is not tried"
            # again, and over nothing but what was kept: the same
            project.unlink()  # what is read below was written after it was found again
            keys.to("minute.*Offcut")
            keys.press("ctrl+r")
            until(found, "found again")
            assert saved(project) == expected
            keys.press("ctrl+q")
            assert window.wait(30) == 0
        except BaseException:
            window.kill()
            assert window.stderr is not None
            print(window.stderr.read())  # with its threads where it fell
            raise
        finally:
            window.kill()
            detecting.kill()


def _said(told: dict[str, Any]) -> list[tuple[object, ...]]:
    keys = ("frame", "kind", "start", "end", "score", "certainty")
    return [(*(s[k] for k in keys), "open") for s in told["seams"]]
