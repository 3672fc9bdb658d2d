"""The package that docs/extending.md shows, put in place as an installed one."""

from __future__ import annotations

import re
import sys
import tomllib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from offcut.app.shell import views
from offcut.core.lists import registry as lists
from offcut.core.machine import added
from offcut.core.measure import registry as measure
from offcut.core.media import display

EXTENDING = Path(__file__).parents[2] / "docs" / "extending.md"


def shown_files() -> dict[str, str]:
    """Return the files the document shows, by the path its first line gives."""
    blocks = re.findall(r"```(?:toml|python)\n# (\S+)\n(.*?)```", EXTENDING.read_text(), re.DOTALL)
    return dict(blocks)


def put_in_place(folder: Path, files: dict[str, str]) -> None:
    """Write a package and what an installer leaves of it into a folder of `sys.path`."""
    about = tomllib.loads(files["pyproject.toml"])["project"]
    for name, text in files.items():
        if name.endswith(".py"):
            file = folder / name
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(text)
            (file.parent / "__init__.py").touch()
    left = folder / f"{about['name'].replace('-', '_')}-{about['version']}.dist-info"
    left.mkdir()
    head = f"Metadata-Version: 2.1\nName: {about['name']}\nVersion: {about['version']}\n"
    (left / "METADATA").write_text(head)
    points = [
        f"[{group}]\n" + "".join(f"{name} = {what}\n" for name, what in entries.items())
        for group, entries in about["entry-points"].items()
    ]
    (left / "entry_points.txt").write_text("\n".join(points))


@contextmanager
def looked_for_anew(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Have what lies in a folder found, and forgotten at the end."""
    before = set(sys.modules)
    monkeypatch.syspath_prepend(folder)
    _forget()
    yield
    monkeypatch.undo()
    for name in set(sys.modules) - before:
        if name.split(".")[0].startswith("offcut_"):
            del sys.modules[name]
    _forget()


def _forget() -> None:
    added.forget()
    for kept in (lists.formats, measure._added, display._added, views.views):
        kept.cache_clear()
