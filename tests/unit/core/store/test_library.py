"""The library: shots of all projects, found again by words."""

from __future__ import annotations

import json
import shutil
import sqlite3
from pathlib import Path

import pytest

from offcut.cli.main import main
from offcut.core.board.from_library import with_shot_of
from offcut.core.board.rows import rows_of
from offcut.core.errors import OffcutError
from offcut.core.facts.query import query_of
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.orders import add_order, put_uses
from offcut.core.model.verbs.placing import place_seam
from offcut.core.store.library import Library, library_file
from offcut.core.store.project_file import save_project
from projects import FIRST, film_of


@pytest.fixture
def library(tmp_path: Path) -> Library:
    made = Library(tmp_path / "library.db")
    for name in ("Ansel", "Quay"):
        save_project(film_of(name, "gulls, Möwen"), tmp_path / f"{name}.offcut")
        made.take_file(tmp_path / f"{name}.offcut")
    return made


def found(library: Library, text: str) -> list[tuple[str, int]]:
    return [(s.project.stem, s.number) for s in library.find(query_of(text)).shots]


def test_words_are_found_in_every_project(library: Library) -> None:
    assert found(library, "night bridge") == [("Ansel", 2), ("Quay", 2)]
    assert found(library, "bridge quay") == [("Quay", 2)]
    assert found(library, '"night shot" ansel') == [("Ansel", 2)]
    assert found(library, "mowen") == [("Ansel", 3), ("Quay", 3)]
    assert found(library, "scene:hafen film:quay") == [("Quay", 2)]
    assert found(library, "aside film:ansel") == [("Ansel", 5)]
    assert found(library, "dissolve") == [("Ansel", 4), ("Quay", 4)]
    assert found(library, "> 60 s") == [("Ansel", 2), ("Quay", 2)]
    assert found(library, "< 101 f -quay") == [("Ansel", 1)]
    assert found(library, "-night unsorted film:ansel noted") == [("Ansel", 3)]
    assert found(library, "nothing like it") == []
    assert found(library, '"; DROP TABLE shots --" * ( :') == []


def test_saving_again_replaces_and_a_project_that_moved_is_known_where_it_is(
    library: Library, tmp_path: Path
) -> None:
    old, new = tmp_path / "Ansel.offcut", tmp_path / "elsewhere/Ansel two.offcut"
    new.parent.mkdir()
    shutil.move(old, new)
    (gone, _other) = library.find(query_of("night bridge")).shots
    assert not gone.there
    assert library.take_folder(new.parent) == (1, ())
    assert found(library, "night bridge") == [("Quay", 2), ("Ansel two", 2)]
    library.take(film_of("Ansel", "nothing"), new)
    assert found(library, "mowen") == [("Quay", 3)]
    library.forget(new)
    assert found(library, "night bridge") == [("Quay", 2)]


def test_a_library_that_is_deleted_or_damaged_is_made_anew_from_the_projects(
    library: Library,
) -> None:
    file = library.file
    library.close()
    for harm in ("gone", "damaged"):
        for end in ("-wal", "-shm"):
            file.with_name(file.name + end).unlink(missing_ok=True)
        file.unlink() if harm == "gone" else file.write_bytes(b"no library at all" * 999)
        with Library(file) as again:
            if harm == "gone":
                assert found(again, "night bridge") == [("Ansel", 2), ("Quay", 2)]
            again.rebuild()
    with Library(file) as once_more:
        assert once_more.find(query_of("x")).shots == ()


def test_a_folder_with_damaged_projects_tells_each_and_takes_the_others(
    library: Library, tmp_path: Path
) -> None:
    (tmp_path / "bad.offcut").write_text("{")
    (tmp_path / "Quay.format-3.offcut").write_text("{")
    (tmp_path / ".hidden.offcut").write_text("{")
    read, problems = library.take_folder(tmp_path)
    assert read == 2
    assert len(problems) == 1
    assert "bad.offcut" in problems[0]
    with pytest.raises(OffcutError, match="no such folder"):
        library.take_folder(tmp_path / "nowhere")


def test_a_library_that_cannot_be_written_says_where(tmp_path: Path) -> None:
    (tmp_path / "library.db").mkdir()
    with pytest.raises(OffcutError, match=r"library\.db"):
        Library(tmp_path / "library.db")


def test_find_tells_one_object_a_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    save_project(film_of("Ansel"), tmp_path / "Ansel.offcut")
    assert main(["find", "--index", str(tmp_path), "--quiet"]) == 0
    assert library_file().exists()
    assert main(["find", "night", "bridge", "--json"]) == 0
    (line,) = capsys.readouterr().out.strip().split("\n")
    assert json.loads(line) == {
        "project": str(tmp_path / "Ansel.offcut"),
        "film": "/films/Ansel.mov",
        "shot": 2,
        "start": 100,
        "end": 1801,
        "timecode_in": "00:00:04:00",
        "timecode_out": "00:01:12:01",
        "name": "Night shot of the bridge, Ansel",
        "note": "",
        "scene": "Hafen bei Nacht",
    }
    assert main(["find", "> 60 s"]) == 0
    assert "Night shot" in capsys.readouterr().out
    assert main(["find", "night", "-bridge", "--json"]) == 0
    assert capsys.readouterr().out == ""
    assert main(["find", "-night", "aside", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["shot"] == 5
    assert main(["find"]) == 2
    assert main(["find", "> 3 moons"]) == 1
    assert "moons" in capsys.readouterr().err
    assert main(["find", "--index", str(tmp_path / "no")]) == 1
    assert main(["find", "--rebuild", "night"]) == 0


def test_what_detect_saves_is_in_the_library(tmp_path: Path, four_shots: Path) -> None:
    assert main(["detect", str(four_shots), "--save", str(tmp_path / "x.offcut"), "--quiet"]) == 0
    with Library() as library:
        assert len(library.find(query_of("film:four-shots")).shots) == 4


def test_a_shot_is_taken_into_another_project_and_its_film_comes_with_it() -> None:
    here, there = film_of("Ansel"), film_of("Quay", "gulls")
    seam = shots_of(there.sources[0])[1].opened_by.id
    taken = with_shot_of(here, there, FIRST, seam)
    assert [s.media.path for s in taken.project.sources] == ["/films/Ansel.mov", "/films/Quay.mov"]
    assert len(taken.project.scenes) == 1  # a scene of the same name is the same
    rows = rows_of(taken.project)
    assert rows[6].title == "Night shot of the bridge, Quay"
    assert rows[6].scene == taken.project.scenes[0].id
    ids = [s.id for source in taken.project.sources for s in source.seams]
    assert len(set(ids)) == len(ids)
    ordered = add_order(taken.project, "Trailer")
    order = ordered.orders[0].id
    used = put_uses(ordered, order, [taken.use]).orders[0].uses[0]
    assert used.shot == rows[6].ref
    # once more: the film is there already
    again = with_shot_of(taken.project, there, FIRST, seam)
    assert again.project is taken.project
    # cut otherwise here, the frames come as a piece
    cut = place_seam(taken.project, taken.project.sources[1].id, 1000)
    piece = with_shot_of(cut, there, FIRST, seam).use
    assert (piece.shot, piece.start, piece.end) == (None, 100, 1801)
    with pytest.raises(OffcutError, match="no longer"):
        with_shot_of(here, there, FIRST, 999)


def test_the_library_is_a_plain_database_anyone_can_read(library: Library) -> None:
    base = sqlite3.connect(library.file)
    assert base.execute("SELECT count(*) FROM shots").fetchone() == (10,)
    base.close()
