"""Draws the pictures in docs/screenshots from the demo film: one of each main view."""

from __future__ import annotations

import os
import sys
import tempfile
from fractions import Fraction
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PySide6.QtCore import QEventLoop, QSettings, Qt
from PySide6.QtWidgets import QApplication, QWidget

from offcut.app.sheets.framing_sheet import FramingSheet
from offcut.app.sheets.key_sheet import KeySheet
from offcut.app.sheets.list_sheet import ListSheet
from offcut.app.shell.main import put_demo_cards, settle
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from offcut.app.views.seams.drawers import CONTENTS
from offcut.app.views.seams.drawers import FILM as FILM_DRAWER
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Kind
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Framing
from offcut.core.model.verbs.cards import put_in_scene
from offcut.core.model.verbs.judging import keep_seams
from offcut.core.model.verbs.orders import add_order, keep_piece
from offcut.core.model.verbs.ticket import set_squeeze
from offcut.core.rhythm.page import page_figures
from offcut.core.rhythm.print_look import in_our_look
from offcut.demo import FILM, LAB_LIST
from offcut.demo.roll import made_roll
from offcut.demo.second_version import made_second_version

FOLDER = Path(__file__).parents[1] / "docs/screenshots"


def take(part: QWidget, name: str) -> None:
    """Draw a widget to docs/screenshots."""
    part.grab().save(str(FOLDER / f"{name}.png"))
    print(name, file=sys.stderr)


def fresh(folder: Path, name: str) -> Window:
    """Return a window by day with settings of its own."""
    window = Window(QSettings(str(folder / f"{name}.ini"), QSettings.Format.IniFormat))
    window.set_theme("day")
    window.resize(1280, 800)
    window.show()
    return window


def with_cards(folder: Path, name: str) -> Window:
    """Return a window with the demo film in it, its shots named and sorted."""
    window = fresh(folder, name)
    put_demo_cards(window)
    window.files.open_films([FILM])
    settle(window)
    return window


def found(window: Window) -> None:
    """Draw what was found in the film, in lanes and in a list."""
    view, session = window.view("seams"), window.session
    came = QEventLoop()
    window.facts.came.connect(came.quit)
    view.turn_notes()
    view.turn_found()
    view.drawers.open(CONTENTS)
    if not window.facts.facts:
        came.exec()
    view.found.list.findItems("pans right", Qt.MatchFlag.MatchExactly)[0].setSelected(True)
    session.go_to(1070)
    settle(window)
    settle(window)
    session.said.emit("")
    take(window, "seams-found")
    view.turn_found()
    view.turn_notes()
    view.drawers.open(FILM_DRAWER)
    settle(window)


def hand_over_film(folder: Path) -> None:
    """Draw the second half of the work: cutting by the list that came with it, and Turnover."""
    window = fresh(folder, "later")
    session = window.session
    window.files.open_films([FILM])
    settle(window)
    window.open_framing()
    framing = window.findChildren(FramingSheet)[-1]
    framing.show_framing(Framing(0, 40, 0, 40))
    framing.place.setValue(1010)
    settle(window)
    take(framing, "framing")
    framing.reject()
    window.dialogs.open_paths([LAB_LIST])
    settle(window)
    sheet = window.findChildren(ListSheet)[-1]
    settle(window)
    take(sheet, "by-list")
    sheet.cut.click()
    settle(window)
    for first, last, scene in ((1, 6, "The depot"), (7, 14, "Through the town"), (15, 21, "Quay")):
        starts = [shot.start for shot in session.shots[first - 1 : last]]
        session.edit(lambda p, i, f=starts, s=scene: put_all(p, i, f, s), "Scene")
    window.actions_by_id["view-turnover"].trigger()
    view = window.view("turnover")
    view.outcome.folder.setText(str(folder / "first-light"))
    output = view.output
    for code in ("otio", "csv"):
        output.lists[code].setChecked(True)
    output.handles.setValue(12)
    output.pdf.setChecked(True)
    output.pattern.setText("{scene}-{number}-{name}")
    output.shortest.setValue(15)
    planned(window)
    for item in counted_seams(session.source):
        if item.certainty is Certainty.DOUBTFUL:
            session.edit(lambda p, s, i=item.id: keep_seams(p, s, [i]), "Keep")
    session.said.emit("")
    planned(window)
    take(window, "turnover-check")
    source = session.source
    assert source is not None
    refs = tuple(ref_of(source, session.shots[n]) for n in (4, 0, 1, 8, 6, 7))
    session.edit_project(lambda p: add_order(p, "Opening night", refs), "Make a running order")
    view.choices.radio["order"].setChecked(True)
    view.choices.shots.setCurrentRow(6)
    planned(window)
    output.movies.setCurrentIndex(output.movies.findData("h264"))
    planned(window)
    view.outcome.go.click()
    settle(window)
    window.session.said.emit("")
    settle(window)
    take(window, "turnover-report")
    session.history.mark_saved()
    window.close()


def intake(folder: Path) -> None:
    """Draw Intake: the demo film and the demo roll on the shelf, the roll's gate found."""
    window = fresh(folder, "intake")
    session = window.session
    window.files.open_films([FILM, made_roll()])
    settle(window)
    roll = session.project.sources[1].id
    session.take_in_hand(roll)
    session.choose([roll])
    session.edit_chosen(lambda p, i: set_squeeze(p, i, Fraction(3, 2)), "Unsqueeze by 1.5")
    session.go_to(112)
    session.said.emit("")
    settle(window)
    take(window, "intake")
    session.history.mark_saved()
    window.close()


def board(folder: Path) -> None:
    """Draw the Board: its bin, its sheet and its table by day, a running order by night."""
    window = with_cards(folder, "board")
    session = window.session
    view = window.open_view("board")
    looked_at(window)
    rows = view.shots.rows
    view.shots.choose([rows[4].key, rows[5].key])
    session.said.emit("")
    looked_at(window)
    take(window, "board-bin")
    view.shots.choose([rows[2].key])
    for layout in ("sheet", "table"):
        view.show_layout(layout)
        looked_at(window)
        take(window, f"board-{layout}")
    view.show_layout("bin")
    order = session.project.orders[0].id
    source = session.project.sources[0].id
    session.edit_project(lambda p: keep_piece(p, order, source, 700, 800, 2, "Rain, the drops"), "")
    view.actions_on.show_order(order)
    view.shots.step(3)
    for _ in range(5):
        view.actions_on.trim(first=1)
    window.set_theme("night")
    session.said.emit("")
    looked_at(window)
    take(window, "board-order-night")
    session.history.mark_saved()
    window.close()


def rhythm(folder: Path) -> None:
    """Draw Rhythm: the film beside the lab's list by day, a range by night; and its page."""
    window = with_cards(folder, "rhythm")
    session = window.session
    view = window.open_view("rhythm")
    session.go_to(1090)
    view.study.hold_file(str(LAB_LIST))
    studied(window)
    session.said.emit("")
    studied(window)
    take(window, "rhythm-day")
    with in_our_look():
        first, *_ = page_figures(view.study.whole)
        first.savefig(FOLDER / "rhythm-page.png", dpi=100)
    window.set_theme("night")
    view.study.mark_part(8.0, 66.0)
    view.study.set_manner(log=True)
    view.figures.explain("fit")
    view.near_card.turn("pulse")
    view.far_card.turn("movement")
    studied(window)
    session.said.emit("")
    studied(window)
    take(window, "rhythm-night")
    window.set_theme("day")
    session.history.mark_saved()
    window.close()


def studied(window: Window) -> None:
    """Wait until Rhythm has looked along the film, and every picture is there."""
    view = window.view("rhythm")
    for _ in range(400):
        settle(window)
        if not view.study.signals.busy and view.pictures.idle:
            break
    settle(window)


def looked_at(window: Window) -> None:
    """Wait until the Board has looked at its shots, and every picture is there."""
    view = window.view("board")
    for _ in range(400):
        settle(window)
        if view.looking.done and view.pictures.idle:
            break
    settle(window)


def put_all(project: Project, source_id: int, starts: list[int], scene: str) -> Project:
    """Put the shots at these frames into a scene."""
    for start in starts:
        project = put_in_scene(project, source_id, start, scene)
    return project


def planned(window: Window) -> None:
    """Wait until Turnover has planned and checked what is chosen now."""
    window.view("turnover").plan = None
    window.view("turnover")._check()
    settle(window)


def tally(folder: Path) -> None:
    """Draw Tally: the demo film held against its second version."""
    window = with_cards(folder, "versions")
    window.files.open_films([made_second_version()], stay=True)
    settle(window)
    window.open_view("tally")
    view = window.view("tally").versions
    while view.tally.busy or not view.tally.rows:
        settle(window)
    view.tally.choose(next(n for n, c in enumerate(view.tally.rows) if c.tail))
    while None in view.well.images or not view.pictures.idle:
        settle(window)
    settle(window)
    take(window, "tally")
    window.session.history.mark_saved()
    window.close()


def main() -> None:
    """Take them all."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = QApplication.instance() or QApplication(["offcut"])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        window = Window(QSettings(f"{folder}/settings.ini", QSettings.Format.IniFormat))
        window.set_theme("day")
        window.resize(1280, 800)
        window.show()
        window.files.open_films([FILM])
        settle(window)
        seam_actions, session = window.seam_actions, window.session
        session.go_to(0)
        for _ in range(3):
            seam_actions.next_seam(1)
            seam_actions.keep()
        session.go_to(1490)
        seam_actions.place()
        session.select(None)
        seam_actions.next_doubtful()
        window.session.said.emit("")
        settle(window)
        take(window, "seams-day")
        window.set_theme("night")
        settle(window)
        take(window, "seams-night")
        window.set_theme("day")
        gradual = [s for s in counted_seams(session.source) if s.kind is Kind.DISSOLVE]
        if gradual:
            session.select(gradual[-1].id)
            window.ribbon.zoom(4)
            settle(window)
            take(window, "seams-dissolve")
        window.ribbon.zoom(1e-6)
        for start, end, do in (
            (700, 900, window.ranges.hush),
            (1200, 1400, window.ranges.own_sensitivity),
            (330, 420, window.actions_by_id["marker"].trigger),
        ):
            session.mark(None, None)
            session.mark(start, end)
            do()
        session.mark(None, None)
        session.go_to(1000)
        window.actions_by_id["marker"].trigger()
        session.mark(930, 1060)
        window.setFocus()
        session.said.emit("")
        settle(window)
        take(window, "seams-ranges")
        session.mark(None, None)
        window.view("seams").drawers.open(FILM_DRAWER)
        found(window)
        window.open_keys()
        settle(window)
        take(window.findChildren(KeySheet)[-1], "keys")
        window.findChildren(KeySheet)[-1].close()
        session.history.mark_saved()
        window.close()
        hand_over_film(Path(folder))
        intake(Path(folder))
        board(Path(folder))
        rhythm(Path(folder))
        tally(Path(folder))
    del app


if __name__ == "__main__":
    main()
