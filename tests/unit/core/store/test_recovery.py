"""Recovery: a process killed at any instant leaves its work; saving never leaves half a file."""

from __future__ import annotations

import json
import random
from pathlib import Path

import pytest

from films import encode, scene
from nursery import nursery
from offcut.core.errands.seams import find_seams
from offcut.core.errors import ProjectError
from offcut.core.media.probe import open_source
from offcut.core.model.verbs.sources import name_project
from offcut.core.store.project_file import backup_of, open_project, save_project, stamp_of
from offcut.core.store.recovery import Recovery, left_work
from projects import cut_film

KILLS = 20


def test_twenty_kills_lose_no_edit_that_was_kept(tmp_path: Path) -> None:
    rng = random.Random(4)
    file = tmp_path / "film.offcut"
    survived = 0
    with nursery("keep_and_save", tmp_path) as start:
        for turn in range(KILLS):
            folder = tmp_path / f"recovery-{turn}"
            worker = start(folder, file)
            first = [worker.words.readline().strip() for _ in range(rng.randrange(1, 30))]
            for _ in range(rng.randrange(20_000)):
                pass  # some instant of the next round
            told = first + worker.kill()[0]
            last = max(int(t.split()[0]) for t in told if t.endswith("kept"))
            left = left_work(folder)
            assert len(left) == 1
            # what was told as kept is there; the kill may have come after one more
            assert int(left[0].project.name.split()[1]) in (last, last + 1)
            assert left[0].file == file
            saved = [int(t.split()[0]) for t in told if t.endswith("saved")]
            if saved:
                assert int(open_project(file).name.split()[1]) >= max(saved)
                survived += 1
            assert not [p for p in folder.glob("*.json") if p.stat().st_size == 0]
    assert survived > KILLS // 3


def test_work_of_a_running_process_is_not_offered(tmp_path: Path) -> None:
    recovery = Recovery(tmp_path)
    recovery.keep(cut_film(25, False), None)  # type: ignore[arg-type]
    assert left_work(tmp_path) == []
    (path,) = tmp_path.glob("*.json")
    held = json.loads(path.read_text())
    held["process"][1] = "1"  # the same number, another process
    path.write_text(json.dumps(held))
    (left,) = left_work(tmp_path)
    left.forget()
    assert left_work(tmp_path) == []


def test_what_was_cleared_is_gone(tmp_path: Path) -> None:
    recovery = Recovery(tmp_path)
    recovery.keep(cut_film(25, False), None)  # type: ignore[arg-type]
    recovery.clear()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("data", [b"", b"{", b"[1]", b'{"format": "offcut-recovery"}', b"\xff"])
def test_a_damaged_recovery_file_is_passed_over(data: bytes, tmp_path: Path) -> None:
    (tmp_path / "x.json").write_bytes(data)
    assert left_work(tmp_path) == []


def test_the_project_before_the_last_saving_is_kept(tmp_path: Path) -> None:
    first = cut_film(25, False)
    path = save_project(first, tmp_path / "film.offcut")  # type: ignore[arg-type]
    assert not backup_of(path).exists()
    save_project(name_project(first, "second"), path)  # type: ignore[arg-type]
    save_project(name_project(first, "third"), path)  # type: ignore[arg-type]
    assert open_project(path).name == "third"
    assert open_project(backup_of(path)).name == "second"
    assert len(list(tmp_path.iterdir())) == 2


def test_a_project_changed_by_someone_else_is_not_saved_over(tmp_path: Path) -> None:
    project = cut_film(25, False)
    path = save_project(project, tmp_path / "film.offcut")  # type: ignore[arg-type]
    stamp = stamp_of(path)
    save_project(name_project(project, "theirs"), path)  # type: ignore[arg-type]
    with pytest.raises(ProjectError, match=r"film\.offcut: was changed by someone else"):
        save_project(name_project(project, "ours"), path, over=stamp)  # type: ignore[arg-type]
    assert open_project(path).name == "theirs"


def test_a_search_killed_at_any_instant_goes_on_and_finds_the_same(
    films: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    options = {"x264-params": "keyint=50", "preset": "ultrafast"}
    pictures = (p for seed in range(5) for p in scene(seed, 150, 64, 48))
    path = encode(films / "searched.mp4", pictures, options=options)
    film = open_source(path)
    wanted = find_seams(film).seams
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "killed"))
    rng = random.Random(5)
    with nursery("search", tmp_path) as start:
        for _ in range(5):
            worker = start(tmp_path / "killed", path)
            for _ in range(rng.randrange(1, 5)):
                worker.words.readline()
            worker.kill()
    assert find_seams(film).seams == wanted
