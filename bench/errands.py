"""Whole errands, run as people run them: the real window on a screen, by its keys and its mouse.

    python bench/errands.py                all of them
    python bench/errands.py speed a h      only these
    python bench/errands.py --quick        smaller films, for a look in between

Each runs in a process of its own with folders of its own, and what comes out is checked by other
means than Offcut's. Prints for each its time, peak memory, and the longest wait of the interface thread.
"""

from __future__ import annotations

import argparse
import importlib
import json
import os
import re
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import traceback
import xml.etree.ElementTree as ET
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

import av  # first, as Offcut has it: after NumPy its decoders are a twelfth slower  # isort: skip

sys.path.append(str(Path(__file__).parents[1] / "tests" / "making"))

from errand_hand import Hand
from screens import a_screen

HOME = Path(tempfile.gettempdir()) / "offcut-bench" / "errands"
Figures = dict[str, Any]
COMPILED_ONCE = {"PYTHONDONTWRITEBYTECODE": ""}  # as it is where people install it
QUICK = bool(os.environ.get("OFFCUT_QUICK"))


def work_folder() -> Path:
    """Return the folder of this errand: its caches, settings and what it writes lie there."""
    return Path(os.environ["OFFCUT_ERRAND"])


class _Films:
    """`errand_films`, loaded when a film is wanted: what it needs is not loaded before a search."""

    def __getattr__(self, name: str) -> Any:
        return getattr(importlib.import_module("errand_films"), name)


films = _Films()


def long_film() -> Any:
    """Return the film of half an hour; with --quick its first two minutes."""
    film = films.half_an_hour(HOME)
    return films.beginning(film, HOME / "two-minutes.mp4", 120) if QUICK else film


def short_master() -> Any:
    """Return the ProRes master."""
    return films.prores(HOME)


def detect(paths: list[Path], cache: Path) -> tuple[list[dict[str, Any]], float]:
    """Return what `offcut detect` says of films on an empty cache, and the seconds it took."""
    shutil.rmtree(cache, ignore_errors=True)
    began = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-m", "offcut.cli", "detect", *map(str, paths), "--json", "--quiet"],
        capture_output=True, text=True, check=False,
        env={**os.environ, "XDG_CACHE_HOME": str(cache)},
    )  # fmt: skip
    taken = time.perf_counter() - began
    assert done.returncode == 0, done.stderr
    return [json.loads(line) for line in done.stdout.splitlines()], taken


def said_of(source: Any) -> list[tuple[int, str, int, int, float]]:
    """Return the seams of a source as far as `detect` tells them."""
    return [(s.frame, s.kind.value, s.start, s.end, s.score) for s in source.seams]


def said_by(told: dict[str, Any]) -> list[tuple[int, str, int, int, float]]:
    """Return the seams that `detect` told."""
    return [(s["frame"], s["kind"], s["start"], s["end"], s["score"]) for s in told["seams"]]


def same_as_detect(hand: Hand, told: list[dict[str, Any]]) -> None:
    """Hold what the window found against what the command line did, film by film."""
    by_path = {t["source"]["path"]: t for t in told}
    for source in hand.session.project.sources:
        mine, theirs = said_of(source), said_by(by_path[source.media.path])
        assert sorted(mine) == sorted(theirs), (source.media.path, len(mine), len(theirs))


def hits(found: list[int], joins: tuple[int, ...]) -> float:
    """Return the share of true joins with a seam within two frames, inside a dissolve within 12."""
    near = [min(abs(f - j) for f in found) <= 12 for j in joins]
    return sum(near) / len(near)


# errands


def errand_speed() -> Figures:
    """A search in the window against `detect` on the same films, in Seams and in Intake."""
    out: Figures = {}
    long_one = [films.beginning(films.half_an_hour(HOME), HOME / "six-minutes.mp4", 360).path]
    folder = [film.path for film in films.folder_of_twelve(HOME)]
    cases = [
        ("1080p in Seams", long_one, "seams", False),
        ("twelve in Intake", folder, "intake", False),
    ]
    if not QUICK:
        cases.append(("1080p, proxy wanted", long_one, "seams", True))
    for words, paths, view, proxy in cases:
        ratios, busy = [], []
        for turn in range(1 if QUICK else 3):
            _, alone = detect(paths, work_folder() / "cold")
            here = subprocess.run(
                [sys.executable, __file__, "--search", view, *(["--proxy"] if proxy else []),
                 *map(str, paths)],
                capture_output=True, text=True, check=False,
                env={**os.environ, "XDG_CACHE_HOME": str(work_folder() / f"{view}{turn}{proxy}")},
            )  # fmt: skip
            assert here.returncode == 0, here.stderr
            said = json.loads(here.stdout.splitlines()[-1])
            ratios.append(said["seconds"] / alone)
            busy.append(said["busy"])
        out[words] = (
            f"{statistics.median(ratios):.2f} of detect ({', '.join(f'{r:.2f}' for r in ratios)})"
        )
        out[f"{words}, interface busy"] = f"{statistics.median(busy):.1%}"
    return out


def search_here(view: str, paths: list[Path], proxy: bool) -> None:
    """Search films with a view in sight; print how long it took from when they were asked for."""
    hand = Hand()
    hand.window.open_view(view)
    hand.turn(6)  # a window that is up: what it loads after its start is loaded
    began = time.perf_counter()
    if proxy:
        from offcut.core.model.ticket import ProxyUse
        from offcut.core.model.verbs.ticket import set_proxy_use

        hand.window.files.search_at_once = False
        hand.window.files.open_anything(paths)
        hand.until(lambda: hand.session.project.sources, "open")
        hand.session.edit(lambda p, i: set_proxy_use(p, i, ProxyUse.ALWAYS), "Proxy always")
        hand.window.search.find()
    else:
        hand.window.files.open_anything(paths)
    hand.until(lambda: hand.window.search.finding is not None, "the search begins")
    hand.window.open_view(view)
    hand.waits.begin()
    hand.found()
    took = time.perf_counter() - began
    busy = hand.waits.busy()
    print(json.dumps({"seconds": took, "busy": busy, "wait": hand.waits.longest}))
    sys.stdout.flush()
    os._exit(0)


def errand_a() -> Figures:
    """Open, find, judge ten, save, kill, start again, hand over EDL, XML and movies."""
    film, project = long_film(), work_folder() / "reel.offcut"
    child = _apart("a_first", film.path, project)
    first = json.loads(child)
    began = time.perf_counter()
    hand = Hand()
    hand.window.files.open_anything([project])
    hand.until(lambda: hand.session.source is not None, "project open")
    opened = time.perf_counter() - began
    from offcut.core.model.shots import shots_of

    starts = [s.start for s in shots_of(hand.session.source)]
    assert starts == first["starts"], "after the kill the shots are others"
    assert first["judged"] == [s.id for s in hand.session.source.seams if s.judged]
    to = work_folder() / "out"
    to.mkdir()
    hand.press("Ctrl+6")
    turnover = hand.window.view("turnover")
    for code, tick in turnover.output.lists.items():
        if tick.isChecked() != (code in ("edl", "xml")):
            hand.click(tick)
    ways = turnover.output.movies
    # half an hour encoded anew takes an hour here: its packets are copied, as exactly as they allow
    way = "h264" if QUICK else "copy"
    ways.setCurrentIndex(ways.findData(way))
    hand.fill(turnover.outcome.folder, str(to))
    hand.until(turnover.outcome.go.isEnabled, "checked", 300)
    hand.picture(work_folder() / "turnover.png")
    hand.click(turnover.outcome.go)
    hand.until(lambda: turnover.outcome.report is not None, "handed over", 3600)
    figures = hand.figures()
    hand.close()
    edl = next(to.glob("*.edl")).read_text()
    events = re.findall(r"^\d+ .* (\d\d:\d\d:\d\d:\d\d) (\d\d:\d\d:\d\d:\d\d)\s*$", edl, re.M)
    assert len(events) >= len(starts), (len(events), len(starts))
    tree = ET.parse(next(to.glob("*.xml")))
    clips = tree.findall(".//video//clipitem")
    assert len(clips) == len(starts), (len(clips), len(starts))
    movies = sorted(p for p in to.rglob("*") if p.suffix in (".mp4", ".mov", ".mkv"))
    assert len(movies) == len(starts), (len(movies), len(starts))
    spans = list(pairwise([*starts, film.frames]))
    along = [0] * len(spans) if way != "copy" else came_along(film.path, spans)
    off = [
        (m.name, n, b - a, more)
        for m, n, (a, b), more in zip(movies, frames_in(movies), spans, along, strict=True)
        if n != b - a + more
    ]
    assert not off, off[:5]
    return {
        "shots": len(starts), "found of the true": f"{hits(first['frames'], film.joins):.3f}",
        "search s": round(first["search"]), "search peak MB": first["peak"],
        "search wait ms": first["wait"], "opened again s": round(opened, 1),
        "movies": len(movies), "of them to the frame": along.count(0),
        "others longer, as the check said, by at most": max(along), **figures,
    }  # fmt: skip


def came_along(path: str, spans: list[tuple[int, int]]) -> list[int]:
    """Return how many frames beside its own each shot has whose packets are copied.

    It begins at the keyframe before it; which packets are keyframes is read with PyAV.
    """
    with av.open(path) as film:
        packets = [p for p in film.demux(video=0) if p.pts is not None]
    times = sorted(p.pts for p in packets)
    keys = sorted(times.index(p.pts) for p in packets if p.is_keyframe)
    return [start - max(k for k in keys if k <= start) for start, _ in spans]


def a_first(film: str, project: str) -> None:
    """Open, find, judge ten, save, and be killed."""
    from offcut.core.model.shots import counted_seams, shots_of

    told, _ = detect([Path(film)], work_folder() / "cold")
    hand = Hand()
    began = time.perf_counter()
    hand.window.files.open_anything([film])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    search = time.perf_counter() - began
    hand.quiet()
    if not QUICK:
        for view, key in (("seams", "Ctrl+2"), ("board", "Ctrl+3"), ("rhythm", "Ctrl+4")):
            hand.press(key)
            hand.turn(4)
            hand.picture(work_folder() / f"{view}.png")
        hand.press("Ctrl+2")
    same_as_detect(hand, told)
    for n in range(10):
        hand.press("D", "Del" if n % 5 == 4 else "Return")
    began_in = hand.save(Path(project))
    assert began_in == [str(Path(film).parent)], began_in
    source = hand.session.source
    figures = hand.figures()
    print(json.dumps({
        "starts": [s.start for s in shots_of(source)], "search": search,
        "frames": [s.frame for s in counted_seams(source)],
        "judged": [s.id for s in source.seams if s.judged],
        "peak": figures["peak MB"], "wait": figures["longest wait ms"],
    }))  # fmt: skip
    sys.stdout.flush()
    os.kill(os.getpid(), signal.SIGKILL)


def errand_b() -> Figures:
    """A folder through the queue: held, closed, gone on with."""
    from offcut.core.model.shots import counted_seams

    made = films.folder_of_twelve(HOME)
    project = work_folder() / "folder.offcut"
    hand = Hand()
    hand.window.files.open_anything([made[0].path.parent])
    hand.until(lambda: len(hand.session.project.sources) == len(made), "folder open", 120)
    hand.until(lambda: sum(s.searched for s in hand.session.project.sources) >= 3, "three found")
    hand.command("Hold the work")
    hand.quiet()
    assert hand.window.search.held
    hand.picture(work_folder() / "held.png")
    hand.save(project)
    before = sum(s.searched for s in hand.session.project.sources)
    hand.window.close()
    hand.turn(0.1)
    again = Hand()
    again.window.files.open_anything([project])
    again.until(lambda: again.session.project.sources, "open again")
    again.press("Ctrl+1")
    again.found()
    again.quiet()
    told, _ = detect([f.path for f in made], work_folder() / "cold")
    same_as_detect(again, told)
    by_path = {str(f.path): f for f in made}
    share = statistics.mean([
        hits([x.frame for x in counted_seams(s)], by_path[s.media.path].joins)
        for s in again.session.project.sources
    ])  # fmt: skip
    again.picture(work_folder() / "gone-on.png")
    figures = again.figures()
    again.close()
    return {"films": len(made), "when held": before, "found of the true": f"{share:.3f}", **figures}


def errand_c() -> Figures:
    """Cut by a list, mend, hand over."""
    from offcut.core.model.shots import counted_seams, shots_of

    film = short_master()
    edl = films.edl_of(film, work_folder() / "reel.edl")
    hand = Hand()
    hand.window.files.open_anything([film.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    with hand.answering(edl) as began_in:
        hand.press("Ctrl+L")
        hand.turn(0.5)
    assert began_in == [str(film.path.parent)], began_in
    from offcut.app.sheets.list_sheet import ListSheet

    hand.until(lambda: hand.window.findChildren(ListSheet), "the sheet")
    sheet = hand.window.findChildren(ListSheet)[0]
    hand.quiet()
    hand.picture(work_folder() / "sheet.png")
    sheet.grab().save(str(work_folder() / "sheet-itself.png"))
    hand.click(sheet.cut)
    hand.until(lambda: not sheet.isVisible(), "cut")
    assert [s.frame for s in counted_seams(hand.session.source)] == list(film.joins)
    names = [s.card.name for s in shots_of(hand.session.source)]
    assert names[:2] == ["SHOT 001", "SHOT 002"], names[:3]
    hand.press("Home", "Down", "]")
    assert counted_seams(hand.session.source)[0].frame == film.joins[0] + 1
    hand.press("Ctrl+Z")
    to = work_folder() / "out"
    to.mkdir()
    _hand_over(hand, to, ("edl", "otio"))
    import opentimelineio as otio

    made = otio.adapters.read_from_file(str(next(to.glob("*.otio"))))
    clips = list(made.find_clips())
    assert len(clips) == len(film.joins) + 1
    figures = hand.figures()
    hand.close()
    return {"shots": len(clips), **figures}


def _hand_over(hand: Hand, to: Path, lists: tuple[str, ...]) -> None:
    """Hand over lists to a folder from Turnover."""
    hand.press("Ctrl+6")
    turnover = hand.window.view("turnover")
    for code, tick in turnover.output.lists.items():
        if tick.isChecked() != (code in lists):
            hand.click(tick)
    hand.fill(turnover.outcome.folder, str(to))
    hand.until(turnover.outcome.go.isEnabled, "checked", 120)
    hand.click(turnover.outcome.go)
    hand.until(lambda: turnover.outcome.report is not None, "handed over", 600)


def errand_d() -> Figures:
    """A second version: what changed, carried over, the change list kept."""
    old = films.folder_of_twelve(HOME)[0]
    new = films.recut(old, HOME / "recut.mp4", (4, 9))
    hand = Hand()
    hand.window.files.open_anything([old.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    hand.press("Home", "Down", "Return")
    hand.press("Ctrl+3", "Home", "N")
    hand.type("The quay")
    hand.press("Return")
    hand.press("Ctrl+5")
    tally = hand.window.view("tally")
    tally.open_page("versions")
    with hand.answering(new.path):
        hand.press("Ctrl+B")
        hand.turn(0.3)
    hand.until(lambda: len(hand.session.project.sources) == 2, "the second version")
    hand.found()
    hand.until(lambda: tally.versions.tally.comparison.changes, "compared", 120)
    hand.quiet()
    hand.picture(work_folder() / "versions.png")
    kinds = [c.what.value for c in tally.versions.tally.comparison.changes]
    gone = sum(k == "gone" for k in kinds)
    hand.press("Ctrl+Return")
    hand.quiet()
    from offcut.core.model.shots import shots_of

    newest = next(s for s in hand.session.project.sources if s.media.path == str(new.path))
    assert any(s.card.name == "The quay" for s in shots_of(newest)), (
        "nothing was carried over",
        hand.said,
    )
    path = work_folder() / "changes.csv"
    with hand.answering(path):
        hand.press("Ctrl+P")
        hand.turn(0.3)
    hand.until(path.exists, "the change list")
    rows = path.read_text(encoding="utf-8-sig").splitlines()
    assert gone == 2, kinds
    figures = hand.figures()
    hand.close()
    return {"changes": len(rows) - 1, "gone": gone, **figures}


def errand_e() -> Figures:
    """Originals found, taken, and a pull list kept."""
    film = films.folder_of_twelve(HOME)[7]
    folder = HOME / "originals"
    made = films.camera_files(film, folder)
    hand = Hand()
    hand.window.files.open_anything([film.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    hand.press("Ctrl+5")
    tally = hand.window.view("tally")
    tally.open_page("originals")
    with hand.answering(folder):
        hand.press("Ctrl+Shift+O")
        hand.turn(0.3)
    page = tally.originals
    hand.until(lambda: page.tally.rows, "looked through", 300)
    hand.quiet(300)
    hand.picture(work_folder() / "originals.png")
    hand.press("Ctrl+Shift+Return")
    hand.quiet()
    path = work_folder() / "pull.csv"
    with hand.answering(path):
        hand.press("Ctrl+P")
        hand.turn(0.3)
    hand.until(path.exists, "the pull list")
    rows = path.read_text(encoding="utf-8-sig").splitlines()[1:]
    named = sum(any(m.stem in row for row in rows) for m in made)
    figures = hand.figures()
    hand.close()
    return {"originals": len(made), "on the pull list": named, **figures}


def errand_f() -> Figures:
    """Name, scenes, two orders; found again from another project."""
    film = films.folder_of_twelve(HOME)[0]
    hand = Hand()
    hand.window.files.open_anything([film.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    hand.press("Ctrl+3", "Home")
    for name in ("Harbour at dawn", "Tram leaves", "Bridge"):
        hand.press("N")
        hand.type(name)
        hand.press("Return", "Right")
    hand.press("Home", "Shift+Right", "Ctrl+G")
    hand.type("Quay")
    hand.press("Return")
    scenes = [s.name for s in hand.session.project.scenes]
    assert scenes == ["Quay"], scenes
    hand.press("Ctrl+Z")
    assert not hand.session.project.scenes, "Ctrl+Z did not reach the project"
    hand.press("Ctrl+Shift+Z")
    hand.press("Home", "Shift+R", "Return", "End", "Shift+R", "Return")
    assert len(hand.session.project.orders) == 2, hand.session.project.orders
    hand.picture(work_folder() / "board.png")
    hand.save(work_folder() / "named.offcut")
    hand.press("Ctrl+N")
    hand.until(lambda: not hand.session.project.sources, "a new project")
    hand.press("Ctrl+3", "Ctrl+Shift+F")
    hand.turn(0.5)
    hand.type("harbour dawn")
    hand.picture(work_folder() / "found.png")
    board = hand.window.view("board")
    hand.until(lambda: board.library.list.model().rowCount(), "found again", 60)
    hand.picture(work_folder() / "found.png")
    figures = hand.figures()
    hand.close()
    return {"orders": 2, **figures}


def errand_g() -> Figures:
    """Rhythm: a page kept."""
    film = films.folder_of_twelve(HOME)[5]
    hand = Hand()
    hand.window.files.open_anything([film.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    hand.press("Ctrl+4")
    hand.turn(1)
    hand.quiet()
    hand.picture(work_folder() / "rhythm.png")
    path = work_folder() / "page.pdf"
    with hand.answering(path) as began_in:
        hand.press("Ctrl+P")
        hand.turn(0.3)
    assert began_in == [str(film.path.parent)], began_in
    hand.until(path.exists, "the page", 120)
    assert path.read_bytes().startswith(b"%PDF")
    figures = hand.figures()
    hand.close()
    return {"page kB": path.stat().st_size // 1000, **figures}


def errand_h() -> Figures:
    """A project opened without its caches: what is in sight has its pictures at once."""
    film, project = long_film(), work_folder() / "elsewhere.offcut"
    subprocess.run(
        [sys.executable, "-m", "offcut.cli", "detect", str(film.path), "--save", str(project),
         "--quiet"],
        check=True, stdout=subprocess.DEVNULL,
        env={**os.environ, "XDG_CACHE_HOME": str(work_folder() / "theirs")},
    )  # fmt: skip
    hand = Hand()
    hand.window.files.open_anything([project])
    hand.until(lambda: hand.session.source is not None, "open")
    before = hand.session.project
    seen = {"Seams": hand.until(lambda: _in_sight(hand), "pictures in Seams", 60)}
    called = [j.words for j in hand.session.jobs.running]
    assert "Looking at the film again" in called, called
    hand.press("D", "D", "D")
    seen["another place"] = hand.until(lambda: _in_sight(hand), "pictures in Seams again", 60)
    hand.press("Ctrl+3")
    board = hand.window.view("board")
    hand.turn(0.05)
    seen["Board"] = hand.until(lambda: _board_in_sight(board), "pictures on the Board", 60)
    hand.picture(work_folder() / "board.png")
    assert any(j.words == "Looking at the film again" for j in hand.session.jobs.running)
    hand.until(lambda: not hand.window.search.busy, "looked at again", 3600)
    after = hand.session.project
    assert before.sources[0].seams == after.sources[0].seams
    figures = hand.figures()
    hand.close()
    return {**{f"{k}, pictures s": round(v, 2) for k, v in seen.items()}, **figures}


def errand_i() -> Figures:
    """What is in a film of six minutes: looked for, listed, chosen, played, made shots, marked."""
    film = films.beginning(films.half_an_hour(HOME), HOME / "six-minutes.mp4", 360)
    hand = Hand()
    hand.window.files.open_anything([film.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    hand.quiet()
    view, facts = hand.window.view("seams"), hand.window.facts
    hand.press("U", "Shift+U")
    looked = hand.until(lambda: facts.facts, "facts", 1800)
    hand.quiet(600)
    hand.picture(work_folder() / "found.png")
    listed = view.found.found
    assert listed
    list_ = view.found.list
    item = next(i for i in map(list_.item, range(list_.count())) if i.text() == listed[0].words)
    item.setSelected(True)
    hand.turn(0.2)
    assert len(facts.chosen) == len(listed[0].facts)
    stretches = {(f.start, f.end) for f in facts.chosen}
    before = len(hand.session.shots)
    hand.press("Shift+C")
    made = {(s.start, s.end) for s in hand.session.shots}
    edges = {e for s in hand.session.shots for e in (s.start, s.end)}
    assert all(a in edges and b in edges for a, b in stretches)
    hand.press("Ctrl+Z")
    hand.until(lambda: len(hand.session.shots) == before, "undone")
    anew = hand.until(lambda: facts._key_now() == facts._key, "facts again", 120)
    hand.quiet(120)
    facts.choose(listed[0].facts)
    hand.press("Shift+M")
    assert len(hand.session.source.markers) == len(listed[0].facts)
    hand.press("Shift+B")
    assert len(hand.session.order.uses) == len(listed[0].facts)
    hand.press("Shift+L")
    hand.until(lambda: view.playing.player.count > 20, "playing", 30)
    hand.picture(work_folder() / "playing.png")
    hand.press("Esc")
    hand.until(lambda: not view.playing.player.playing, "stopped", 10)
    hand.press("Ctrl+3")
    board = hand.window.view("board")
    hand.until(lambda: len(board.shots.rows) == before, "the Board", 30)
    board.find_field.setText("shows:pan")
    found = hand.until(lambda: board.shots.query and len(board.shots.rows) < before, "found", 10)
    assert all("pan" in board.shots.inside(r).sought for r in board.shots.rows)
    hand.picture(work_folder() / "board.png")
    figures = hand.figures()
    hand.close()
    return {
        "things found": len(listed), "shots made": len(made) - before, "looked in": f"{looked:.1f} s",
        "told anew in": f"{anew:.2f} s", "found in": f"{found:.2f} s", **figures,
    }  # fmt: skip


def _in_sight(hand: Hand) -> bool:
    """Tell whether the pair has its pictures, and the rows of the list in sight and the strip."""
    large, small = hand.window.large, hand.window.small
    return not large._wanted.get("large") and all(
        small.has(small._shown.name, key)
        for asker, keys in small._wanted.items()
        if asker in ("list", "strip")
        for key in keys
    )


def _board_in_sight(board: Any) -> bool:
    pictures = board.pictures
    with pictures._lock:
        wanted = [w for ws in pictures._wanted.values() for w in ws]
    tiles = list(board.canvas.tiles._tiles.values())
    drawn = all(pictures.readiness(tile.wanted) == tile.ready for tile in tiles)
    none_dark = not any(map(pictures.lacks, wanted))
    return bool(tiles) and drawn and (not pictures._reading or none_dark)


def errand_roll() -> Figures:
    """A roll of DPX: brought in, searched, its proxy after its seams."""
    from offcut.core.model.shots import counted_seams

    roll = films.dpx_roll(HOME, 600 if QUICK else 3000)
    hand = Hand()
    began = time.perf_counter()
    hand.window.files.open_anything([roll.path])
    hand.until(lambda: hand.session.project.sources, "open")
    hand.found()
    search = time.perf_counter() - began
    frames = [s.frame for s in counted_seams(hand.session.source)]
    share = hits(frames, roll.joins)
    hand.until(lambda: not hand.window.search.busy, "proxy", 1800)
    hand.picture(work_folder() / "roll.png")
    figures = hand.figures()
    hand.close()
    return {"search s": round(search, 1), "found of the true": f"{share:.3f}", **figures}


def frames_in(paths: list[Path]) -> list[int]:
    """Return how many pictures movies show, by decoding them with PyAV in a process of its own."""
    count = (
        "import av, sys\n"
        "for path in sys.argv[1:]:\n"
        "    with av.open(path) as film:\n"
        "        film.streams.video[0].thread_type = 'AUTO'\n"
        "        print(sum(1 for _ in film.decode(video=0)))"
    )
    told = subprocess.run(
        [sys.executable, "-c", count, *map(str, paths)], capture_output=True, text=True, check=True
    )
    return [int(n) for n in told.stdout.split()]


def _apart(name: str, *words: object) -> str:
    """Run a part of an errand in a process of its own, and return the last line it printed."""
    done = subprocess.run(
        [sys.executable, __file__, "--part", name, *map(str, words)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == -signal.SIGKILL, (done.returncode, done.stderr[-2000:])
    return done.stdout.splitlines()[-1]


ERRANDS: dict[str, Callable[[], Figures]] = {
    "speed": errand_speed, "a": errand_a, "b": errand_b, "c": errand_c, "d": errand_d,
    "e": errand_e, "f": errand_f, "g": errand_g, "h": errand_h, "i": errand_i, "roll": errand_roll,
}  # fmt: skip
PARTS = {"a_first": a_first}


def run(name: str, keep: Path | None) -> bool:
    """Run an errand on a screen of its own, and tell how it went."""
    with tempfile.TemporaryDirectory() as made:
        folder = keep / name if keep is not None else Path(made)
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        own = {
            f"XDG_{k}_HOME": str(folder / k.lower()) for k in ("CACHE", "CONFIG", "STATE", "DATA")
        }
        began = time.perf_counter()
        with a_screen() as env:
            done = subprocess.run(
                [sys.executable, __file__, "--one", name],
                capture_output=True, text=True, check=False,
                env={**env, **own, "OFFCUT_ERRAND": str(folder)} | COMPILED_ONCE,
            )  # fmt: skip
        taken = time.perf_counter() - began
    what = (ERRANDS[name].__doc__ or "").strip().splitlines()[0]
    good = done.returncode == 0
    print(f"\n({name}) {what}\n    {'done' if good else 'FAILED'} in {taken:.1f} s", flush=True)
    if good:
        for key, value in json.loads(done.stdout.splitlines()[-1]).items():
            print(f"    {key}: {value}", flush=True)
    else:
        print(done.stderr[-3000:], flush=True)
    return good


def main() -> int:
    """Run errands; return 1 where one failed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*")
    parser.add_argument("--quick", action="store_true", help="smaller films")
    parser.add_argument("--keep", type=Path, help="keep what errands write, pictures too, here")
    parser.add_argument("--one", help=argparse.SUPPRESS)
    parser.add_argument("--part", nargs="+", help=argparse.SUPPRESS)
    parser.add_argument("--search", help=argparse.SUPPRESS)
    parser.add_argument("--proxy", action="store_true", help=argparse.SUPPRESS)
    call = parser.parse_args()
    HOME.mkdir(parents=True, exist_ok=True)
    if call.quick:
        os.environ["OFFCUT_QUICK"] = "1"
    if call.search:
        search_here(call.search, [Path(n) for n in call.names], call.proxy)
    if call.part:
        PARTS[call.part[0]](*call.part[1:])
        return 0
    if call.one:
        try:
            print(json.dumps(ERRANDS[call.one]()))
        except Exception:
            traceback.print_exc()
            return 1
        sys.stdout.flush()
        os._exit(0)
    results = [run(name, call.keep) for name in call.names or ERRANDS]
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
