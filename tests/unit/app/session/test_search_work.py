"""What a search leaves: where a few lines of a picture do, no whole ones are decoded."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.session.jobs import Job
from offcut.app.session.room import Room
from offcut.app.session.search_work import SearchAsked, search_film
from offcut.core.errands.bringing_in import bring_in
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.store.thumbnails import Thumbnails, film_key


@pytest.mark.parametrize(
    ("codec", "pixels", "kept"),
    [("prores_ks", "yuv422p10le", False), ("libx264", "yuv420p", True)],
)
def test_pictures_are_kept_on_the_way_where_whole_ones_are_decoded(
    codec: str, pixels: str, kept: bool, tmp_path: Path, qtbot: QtBot
) -> None:
    pictures = [*scene(1, 30, 270, 1080), *scene(2, 30, 270, 1080)]
    film = open_source(encode(tmp_path / "film.mov", pictures, codec, pixels=pixels))
    (source,) = bring_in(Project(), film).sources
    asked = SearchAsked(
        source, film, proxy_only=False, framing=False, gently=False,
        room=Room(pictures=10**9, proxy_folder=tmp_path), someone_waits=lambda: False,
    )  # fmt: skip
    found = search_film(asked, Job("Finding seams", lambda _job: None))
    assert found.finding is not None
    assert [s.frame for s in found.finding.seams if s.score >= 50] == [30]
    assert not found.proxy
    shelf = Thumbnails(film_key(film.media), 10**9)
    assert (29 in shelf.frames() and 30 in shelf.frames()) is kept
    shelf.close()
