"""Tally in the real window: a second version compared, judged, carried over, kept."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from films import encode, scene
from offcut.app.shared.known_folders import keep_folders
from offcut.app.shell.window import Window
from offcut.app.views.tally.band_rolls import LOWER, ROLL, UPPER
from offcut.app.views.tally.lists_page import ListsPage
from offcut.app.views.tally.originals_page import OriginalsPage
from offcut.app.views.tally.versions_page import VersionsPage
from offcut.app.views.tally.view import TallyView
from offcut.app.views.tally.well_drawing import Look
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import name_shot
from offcut.core.tally.against_list import Said
from offcut.core.tally.versions.changes import What
from offcut.core.tally.versions.locked import Lock
from versions import FIRST, SECOND, film, finished_otherwise
from windows import CTRL, found, frames, press, save, settled

pytestmark = pytest.mark.usefixtures("measured_once")

NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture(scope="module")
def both(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    folder = tmp_path_factory.mktemp("versions")
    return (
        film(folder / "line-7.mp4", FIRST),
        film(folder / "line-7-second.mp4", SECOND, finished_otherwise),
    )


def brought(window: Window, both: tuple[Path, Path], qtbot: QtBot) -> VersionsPage:
    """Open the first version, and bring the second in beside it."""
    window.dialogs.open_paths([both[0]])
    found(window, qtbot)
    window.activateWindow()
    press(window, Qt.Key.Key_5, CTRL)
    view: VersionsPage = window.view("tally").versions
    assert view.bring.isVisible()
    window._context.bring_beside([str(both[1])])
    compared(window, view, qtbot)
    return view


@pytest.fixture
def tally(window: Window, both: tuple[Path, Path], qtbot: QtBot, tmp_path: Path) -> VersionsPage:
    """Tally with the first version in hand, held against the second; the first test of a run that
    asks for it keeps the project for the others.
    """
    kept, own = both[0].with_name("both.offcut"), tmp_path / "both.offcut"
    if not kept.exists():
        view = brought(window, both, qtbot)
        assert save(window, qtbot, own)
        kept.write_bytes(own.read_bytes())
        return view
    own.write_bytes(kept.read_bytes())
    window.files.open_project(own)
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 2, timeout=20_000)
    window.activateWindow()
    press(window, Qt.Key.Key_5, CTRL)
    view = window.view("tally").versions
    compared(window, view, qtbot)
    return view


def compared(window: Window, view: VersionsPage, qtbot: QtBot) -> None:
    """Wait until both versions are searched and held against each other."""
    qtbot.waitUntil(
        lambda: bool(view.tally.comparison.changes) and not view.tally.busy, timeout=40_000
    )
    settled(window, qtbot)


def whats(view: VersionsPage) -> list[What]:
    return [c.what for c in view.tally.comparison.changes]


def go_to(view: VersionsPage, what: What) -> None:
    view.tally.choose([c.what for c in view.tally.rows].index(what))


def test_a_version_that_is_brought_in_is_compared_by_itself(
    window: Window, both: tuple[Path, Path], qtbot: QtBot
) -> None:
    tally = brought(window, both, qtbot)
    assert whats(tally) == [
        What.SAME, What.SHORTER, What.GONE, What.SAME, What.LONGER, What.NEW, What.SAME,
        What.OTHER, What.SAME,
    ]  # fmt: skip
    assert tally.head.text() == "5 things changed"
    assert tally.aside.text() == "4 shots the same"
    assert tally.panel.counts["shorter or longer"].text() == "2"
    assert "Something is burnt in" in tally.panel.facts.text()
    assert tally._s.source is tally.tally.old


def test_the_well_shows_the_same_frame_of_both_in_every_way(
    tally: VersionsPage, window: Window, qtbot: QtBot
) -> None:
    go_to(tally, What.SHORTER)
    here = tally.well.here
    assert here.old == here.new == 67  # the last frame that both have
    qtbot.waitUntil(lambda: None not in tally.well.images, timeout=20_000)
    press(window, Qt.Key.Key_Left)
    assert tally.well.here == (66, 66)
    press(window, Qt.Key.Key_BracketRight)
    assert tally.well.here == (66, 67)
    assert tally.later.value() == 1
    tally.later.setValue(-2)
    assert tally.well.here == (66, 64)
    for look in Look:
        tally.looks[look].click()
        assert tally.well.look is look
        tally.well.repaint()
    press(window, Qt.Key.Key_X)
    assert tally.well.look is Look.SWAP
    assert tally.well.swapped
    press(window, Qt.Key.Key_Plus, CTRL)
    assert tally.well.nearer == 1.5
    press(window, Qt.Key.Key_0, CTRL)
    assert tally.well.nearer == 1.0


def test_arrows_walk_and_a_click_on_a_roll_looks_at_its_shot(
    tally: VersionsPage, window: Window
) -> None:
    tally.tally.choose(0)
    press(window, Qt.Key.Key_Down)
    assert tally.tally.row == 1
    press(window, Qt.Key.Key_Up)
    assert tally.tally.row == 0
    gone = next(c for c in tally.tally.comparison.changes if c.what is What.GONE)
    assert gone.old is not None
    assert tally.tally.old is not None
    left, right = tally.rolls._across(tally.tally.old, *gone.old)
    place = QPointF((left + right) / 2, UPPER + ROLL / 2).toPoint()
    QTest.mouseClick(tally.rolls, Qt.MouseButton.LeftButton, NONE, place)
    assert tally.tally.change == gone
    same = tally.tally.comparison.changes[0]
    assert same.new is not None
    assert tally.tally.new is not None
    left, right = tally.rolls._across(tally.tally.new, *same.new)
    place = QPointF((left + right) / 2, LOWER + ROLL / 2).toPoint()
    QTest.mouseClick(tally.rolls, Qt.MouseButton.LeftButton, NONE, place)
    assert tally.tally.change == same


def test_a_tie_is_judged_by_keys_and_undone(tally: VersionsPage, window: Window) -> None:
    go_to(tally, What.OTHER)
    press(window, Qt.Key.Key_Delete)
    assert whats(tally).count(What.NEW) == 2
    assert whats(tally).count(What.GONE) == 2
    window.session.undo()
    assert whats(tally).count(What.OTHER) == 1
    go_to(tally, What.OTHER)
    press(window, Qt.Key.Key_Return)
    agreed = next(c for c in tally.tally.comparison.changes if c.what is What.OTHER)
    assert agreed.by_hand
    go_to(tally, What.OTHER)
    press(window, Qt.Key.Key_Delete, Qt.KeyboardModifier.ShiftModifier)
    assert not window.session.project.rulings


def test_shots_are_tied_by_hand(tally: VersionsPage, window: Window) -> None:
    go_to(tally, What.GONE)
    press(window, Qt.Key.Key_B)
    go_to(tally, What.NEW)
    press(window, Qt.Key.Key_T)
    tied = [c for c in tally.tally.comparison.changes if c.by_hand]
    assert [(c.old, c.new, c.tail) for c in tied] == [((75, 125), (149, 179), -20)]
    assert What.GONE not in whats(tally)


def test_carrying_over_names_the_shots_of_the_new_version(
    tally: VersionsPage, window: Window
) -> None:
    session = window.session
    old, new = tally.tally.old, tally.tally.new
    assert old is not None
    assert new is not None
    session.edit_project(lambda p: name_shot(p, old.id, 50, "The quay"), "name")
    session.edit_project(lambda p: name_shot(p, old.id, 80, "Only there"), "name")
    tally.panel.carry.click()
    names = [s.card.name for s in shots_of(session.project.source(new.id))]
    assert names == ["", "The quay", "", "", "", "", "", ""]
    assert "Only there: there is no such shot now" in tally.panel.left.text()
    session.undo()
    assert not any(s.card.name for s in shots_of(session.project.source(new.id)))


def test_the_change_list_is_kept_and_rulings_are_saved(
    tally: VersionsPage, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    for name in ("changes.pdf", "changes.csv", "changes.edl"):
        tally.keep(str(tmp_path / name))
        settled(window, qtbot)
        assert (tmp_path / name).stat().st_size > 200
    go_to(tally, What.OTHER)
    press(window, Qt.Key.Key_Return)
    assert save(window, qtbot, tmp_path / "line-7.offcut")
    ruled = window.session.project.rulings
    window.files.open_project(tmp_path / "line-7.offcut")
    settled(window, qtbot)
    assert window.session.project.rulings == ruled


def test_the_other_way_round_what_is_new_is_gone(
    tally: VersionsPage, window: Window, qtbot: QtBot
) -> None:
    tally.way.click()
    compared(window, tally, qtbot)
    assert whats(tally).count(What.NEW) == 1
    assert next(c for c in tally.tally.comparison.changes if c.what is What.NEW).new == (75, 125)
    assert tally.way.text() == "is old"


def test_another_film_is_said_to_be_one(
    window: Window, four_shots: Path, both: tuple[Path, Path], qtbot: QtBot
) -> None:
    window.dialogs.open_paths([both[0]])
    found(window, qtbot)
    window.dialogs.open_paths([four_shots])
    qtbot.waitUntil(
        lambda: (
            all(s.searched for s in window.session.project.sources)
            and len(window.session.project.sources) == 2
        ),
        timeout=30_000,
    )
    window.open_view("tally")
    view: VersionsPage = window.view("tally").versions
    qtbot.waitUntil(lambda: bool(view.tally.trouble), timeout=20_000)
    settled(window, qtbot)
    assert "have no shot in common: they are two films" in view._empty.text()


def test_without_a_film_it_says_what_to_do(window: Window) -> None:
    window.open_view("tally")
    assert "Bring a film in" in window.view("tally").page._empty.text()


@pytest.fixture(scope="module")
def three(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A film of three shots, and three camera files, one of them used nowhere."""
    folder = tmp_path_factory.mktemp("three")
    (folder / "camera").mkdir()
    for name, seed, count in (("A001", 11, 70), ("A002", 13, 80), ("A009", 55, 60)):
        made = folder / "camera" / f"{name}.mov"
        encode(made, scene(seed, count), tags={"timecode": "10:00:00:00"})
    return film(folder / "three.mp4", FIRST[:3])


@pytest.fixture
def originals(window: Window, three: Path, qtbot: QtBot) -> OriginalsPage:
    """The originals of a film of three shots."""
    folder = three.parent / "camera"
    window.dialogs.open_paths([three])
    found(window, qtbot)
    window.activateWindow()
    window.open_view("tally")
    view: TallyView = window.view("tally")
    view.sections.buttons["originals"].click()
    page = view.originals
    assert page.choose.isVisible()
    page.tally.look_in([str(folder)])
    qtbot.waitUntil(lambda: page.tally.conform is not None, timeout=60_000)
    settled(window, qtbot)
    return page


def test_originals_are_found_taken_onto_cards_and_undone(
    originals: OriginalsPage, window: Window
) -> None:
    assert originals.head.text() == "2 of 3 shots"
    assert originals.counts["by picture"].text() == "2"
    assert "Not used: A009.mov" in originals.odd.text()
    assert originals.tally.rows[0].old is not None
    originals.tally.choose(0)
    here = originals.well.here
    assert here.new is not None
    assert here.old == here.new + originals.tally.rows[0].offset  # type: ignore[operator]
    originals.take_all.click()
    source = window.session.source
    assert source is not None
    kept = [s.card.original for s in shots_of(source)]
    assert [o.file.path.rsplit("/", 1)[-1] for o in kept if o and o.file] == [
        "A001.mov", "A002.mov",
    ]  # fmt: skip
    assert kept[0] is not None
    assert kept[0].start == 36_000 * 25 + 10
    assert originals.counts["on their cards"].text() == "2"
    press(window, Qt.Key.Key_Delete)
    window.session.undo()
    window.session.undo()
    source = window.session.source
    assert source is not None
    assert not any(s.card.original for s in shots_of(source))


def test_a_pull_list_and_lists_of_the_originals_follow(
    originals: OriginalsPage, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    originals.handles.setValue(4)
    originals.keep(str(tmp_path / "pull.csv"))
    settled(window, qtbot)
    rows = (tmp_path / "pull.csv").read_text("utf-8-sig").splitlines()
    assert rows[1] == "A001.mov,A001,10:00:00:06,10:00:02:04,48,6,54,1"
    originals.over.click()
    assert window.session.view == "turnover"


def test_a_folder_that_holds_no_film_is_said_and_another_can_be_chosen(
    originals: OriginalsPage, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "texts").mkdir()
    (tmp_path / "texts" / "a.txt").write_text("x")
    originals.tally.look_in([str(tmp_path / "texts")])
    qtbot.waitUntil(lambda: bool(originals.tally.trouble), timeout=20_000)
    settled(window, qtbot)
    assert "there is no film in it" in originals._empty.text()
    assert originals.choose.isVisible()


def test_both_are_played_in_step_and_stop_where_one_is(
    tally: VersionsPage, window: Window, qtbot: QtBot
) -> None:
    tally.tally.look_at(tally.tally.comparison.changes[3])
    tally.well.go_to(0)
    seen: list[int] = []
    tally.well.player.shown.connect(lambda *told: seen.append(told[2]))
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(seen) > 4 and None not in tally.well.images, timeout=20_000)
    press(window, Qt.Key.Key_S)
    assert tally.well.player.heard == 0
    press(window, Qt.Key.Key_Space)
    assert not tally.well.player.playing
    here = tally.well.here
    assert here.old is not None
    assert here.new is not None
    assert here.old - here.new == 57  # as they are tied


def test_two_frames_that_were_found_are_locked(tally: VersionsPage, window: Window) -> None:
    go_to(tally, What.SHORTER)
    tally.later.setValue(3)
    press(window, Qt.Key.Key_L)
    ruled = window.session.project.rulings
    assert [r.offset for r in ruled] == [-3]
    assert tally.later.value() == 0
    assert next(c for c in tally.tally.comparison.changes if c.by_hand).offset == -3


@pytest.fixture
def lists(opened: Window, tmp_path: Path, qtbot: QtBot) -> ListsPage:
    """Four shots, cut at 40, 75 and 120, held against a list that says 40, 77 and 140."""
    rows = [(0, 40), (40, 77), (77, 140), (140, 160)]
    lines = ["TITLE: FOUR", "FCM: NON-DROP FRAME", ""]
    for n, span in enumerate(rows, start=1):
        times = [f"01:00:{f // 25:02d}:{f % 25:02d}" for f in (*span, *span)]
        lines.append(f"{n:03d}  A{n:03d}     V     C        {' '.join(times)}")
    path = tmp_path / "four.edl"
    path.write_text("\n".join(lines) + "\n")
    opened.activateWindow()
    opened.open_view("tally")
    page: ListsPage = opened.view("tally").lists
    opened.view("tally").open_page("lists")
    assert page.choose.isVisible()
    page.tally.read(path)
    qtbot.waitUntil(lambda: bool(page.tally.rows), timeout=20_000)
    settled(opened, qtbot)
    return page


def test_a_list_is_worked_through_join_by_join(lists: ListsPage, window: Window) -> None:
    assert lists.head.text() == "3 joins differ"
    assert [r.said for r in lists.tally.joins_shown] == [
        Said.OFF, Said.LISTED, Said.FOUND, Said.AGREES,
    ]  # fmt: skip
    lists.tally.choose(0)
    assert lists.well.here == (77, 75)
    press(window, Qt.Key.Key_Return)
    assert frames(window) == [40, 77, 120]
    window.session.undo()
    assert frames(window) == [40, 75, 120]
    lists.tally.choose(0)
    press(window, Qt.Key.Key_F)
    source = window.session.source
    assert source is not None
    assert [s.frame for s in source.seams if s.judged] == [75]


def test_all_joins_of_a_sort_are_settled_with_one_undo(lists: ListsPage, window: Window) -> None:
    lists.all_buttons[Said.LISTED, True].click()
    lists.all_buttons[Said.FOUND, True].click()
    assert frames(window) == [40, 75, 140]
    assert lists.counts[Said.AGREES].text() == "2"
    window.session.undo()
    window.session.undo()
    assert frames(window) == [40, 75, 120]


def test_a_list_without_a_join_is_said(
    lists: ListsPage, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "none.edl").write_text("TITLE: NONE\n")
    lists.tally.read(tmp_path / "none.edl")
    qtbot.waitUntil(lambda: bool(lists.tally.trouble), timeout=20_000)
    settled(window, qtbot)
    assert "none.edl" in lists._empty.text()


def test_two_films_are_locked_by_timecode_and_by_an_offset(
    tally: VersionsPage, window: Window, qtbot: QtBot
) -> None:
    old, new = tally.tally.old, tally.tally.new
    assert old is not None
    assert new is not None
    tally.lock.setCurrentIndex(tally.lock.findData(Lock.TIMECODE))
    tally.lock.activated.emit(tally.lock.currentIndex())
    assert tally.head.text() == "Locked by timecode"
    assert tally.offset.value() == 0
    assert len(tally.tally.rows) == len(shots_of(new))
    tally.tally.choose(1)
    assert tally.well.here.old == tally.well.here.new
    assert tally.panel.counts["gone"].text() == "–"
    assert not tally.panel.carry.isEnabled()
    press(window, Qt.Key.Key_Return)
    assert not window.session.project.rulings  # nothing is told, so nothing is judged
    tally.offset.setValue(57)
    here = tally.well.here
    assert here.old is not None
    assert here.new is not None
    assert here.old - here.new == 57
    assert tally.tally.held_by is Lock.OFFSET
    tally.later.setValue(-3)
    press(window, Qt.Key.Key_L)
    assert tally.offset.value() == 60
    assert tally.later.value() == 0
    press(window, Qt.Key.Key_L, Qt.KeyboardModifier.ShiftModifier)
    compared(window, tally, qtbot)
    assert tally.head.text() == "5 things changed"


def test_one_steps_through_the_film_shot_by_shot(tally: VersionsPage, window: Window) -> None:
    tally.order.click()
    assert tally.order.text() == "as it runs"
    assert len(tally.tally.rows) == len(tally.tally.comparison.changes)
    tally.tally.choose(0)
    seen = []
    for _ in range(3):
        press(window, Qt.Key.Key_PageDown)
        seen.append(tally.tally.change)
    assert seen == list(tally.tally.comparison.changes[1:4])
    press(window, Qt.Key.Key_R)
    assert tally.order.text() == "doubt first"
    tally.tally.look_at(tally.tally.comparison.changes[3])  # the same: no row, but it can be seen
    press(window, Qt.Key.Key_PageUp)
    assert tally.tally.change == tally.tally.comparison.changes[2]


def test_a_sheet_of_the_pairs_is_kept_and_folders_are_offered_again(
    originals: OriginalsPage, window: Window, three: Path, qtbot: QtBot, tmp_path: Path
) -> None:
    originals.keep(str(tmp_path / "pairs.pdf"))
    settled(window, qtbot)
    assert (tmp_path / "pairs.pdf").read_bytes().startswith(b"%PDF")
    source = window.session.source
    assert source is not None
    keep_folders(window.settings, source.media.fingerprint, [str(three.parent / "camera")])
    originals.tally.look_in([])
    assert originals.again.isVisible()
    assert originals.again.text() == "Look again in camera"
    originals.again.click()
    qtbot.waitUntil(lambda: originals.tally.conform is not None, timeout=60_000)
    settled(window, qtbot)
    assert originals.head.text() == "2 of 3 shots"


def listed(path: Path, spans: list[tuple[int, int]]) -> Path:
    """Write a list whose events were made one after the other from reels of their own."""
    lines, at = ["TITLE: LINE 7", "FCM: NON-DROP FRAME", ""], 0
    for n, (start, end) in enumerate(spans, start=1):
        times = [f"01:00:{f // 25:02d}:{f % 25:02d}" for f in (start, end, at, at + end - start)]
        lines.append(f"{n:03d}  R{start // 100:03d}    V     C        {' '.join(times)}")
        at += end - start
    path.write_text("\n".join(lines) + "\n")
    return path


def test_two_lists_are_held_against_each_other_without_a_film(
    window: Window, four_shots: Path, qtbot: QtBot, tmp_path: Path
) -> None:
    window.open_view("tally")
    view: TallyView = window.view("tally")
    view.open_page("lists")
    view.lists.two_wanted.emit()
    page = view.two_lists
    assert page.isVisible()
    assert view.sections.buttons["lists"].isChecked()
    old = listed(tmp_path / "old.edl", [(0, 50), (100, 160), (200, 240), (300, 350)])
    new = listed(tmp_path / "new.edl", [(0, 50), (104, 160), (300, 350), (400, 430)])
    for side, path in enumerate((old, new)):
        page.tally.read(side, path)
        settled(window, qtbot)
    assert page.head.text() == "3 things changed"
    shorter = next(c for c in page.tally.rows if c.what is What.SHORTER)
    assert (shorter.old, shorter.new, shorter.head) == ((50, 110), (50, 106), -4)
    page.tally.look_at(shorter)
    assert "reel  R001" in page.tally.said_of(shorter)[0]
    page.well.repaint()
    page.rolls.repaint()
    page.keep(str(tmp_path / "changes.csv"))
    settled(window, qtbot)
    assert "shorter" in (tmp_path / "changes.csv").read_text("utf-8-sig")
    page.tally.swap()
    settled(window, qtbot)
    assert next(c for c in page.tally.rows if c.what is What.LONGER).head == 4
    page.tally.read(1, tmp_path / "none.edl")
    settled(window, qtbot)
    assert "none.edl" in page._empty.text()
    page.tally.read(1, four_shots)
    settled(window, qtbot)
    assert "is no list; films are held against each other under Versions" in page._empty.text()
    page.film_wanted.emit()
    assert view.lists.isVisible()


def test_films_opened_one_right_after_the_other_all_stay(
    window: Window, both: tuple[Path, Path], qtbot: QtBot
) -> None:
    window.files.open_films([both[0]])
    window.files.open_films([both[1]], stay=True)
    qtbot.waitUntil(lambda: len(window.session.project.sources) == 2, timeout=30_000)
    settled(window, qtbot)
