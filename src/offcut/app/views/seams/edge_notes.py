"""Edge notes: what was found in the film, in lanes under the rolls, from frame to frame.

Each stands in a sign drawn from the thing itself; what is not sure is dotted.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSettings, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QMenu, QToolButton, QToolTip, QWidget

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.app.shared.note_signs import draw_sign
from offcut.app.shared.ribbon.painting import SIDE
from offcut.app.shared.ribbon.stretch import Stretch
from offcut.app.theme import SMALL, WAX, WELL, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.core.facts.fact import USUAL, Fact, Sort
from offcut.core.facts.fact_words import fact_words

LANE, TOP = 23, 3
LANES: dict[str, tuple[Sort, ...]] = {
    "camera": (Sort.CAMERA, Sort.STEADINESS),
    "light": (Sort.LIGHT,),
    "faces": (Sort.FACES,),
    "sound": (Sort.SOUND,),
    "focus": (Sort.FOCUS,),
    "colours": (Sort.COLOUR,),
    "text": (Sort.TEXT,),
    "part": (Sort.PART,),
}
USUAL_LANES = ("camera", "light", "faces", "sound")
MOST_LANES = 4
LANES_SETTING = "edge-note-lanes"
_LEAST = 5.0
"""Pixels that a sign takes at least, however short the stretch."""
_SILENT = USUAL - {(Sort.LIGHT, "normal")} | {(Sort.STEADINESS, "slight")}
"""Of the light each grey is drawn."""


class _Laid(NamedTuple):
    room: QRectF
    fact: Fact


class EdgeNotes(QWidget):
    """A click goes to where a note begins, a double click marks its range.

    With Ctrl several are chosen, with Shift all of a lane up to the one clicked on. ``menu_wanted``
    as `ViewPage` has it.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, facts: FactsInHand, settings: QSettings) -> None:
        super().__init__()
        self._s = session
        self._facts = facts
        self._settings = settings
        self._laid: list[_Laid] = []
        self._last: Fact | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Edge notes: what is in the film")
        self._drawn = QPixmap()
        self._stale = True
        kept = str(settings.value(LANES_SETTING, "") or "").split(",")
        self.lanes = tuple(lane for lane in LANES if lane in kept)[:MOST_LANES] or USUAL_LANES
        self.choice = QToolButton(self)
        self.choice.setText("lanes ▾")
        self.choice.setObjectName("wellchoice")
        self.choice.setToolTip("Which lanes are shown, four at most")
        self.choice.setAccessibleName("Lanes of the edge notes")
        self.choice.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.choice.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.lane_menu = QMenu(self)
        self.lane_menu.aboutToShow.connect(self._fill_lanes)
        self.choice.setMenu(self.lane_menu)
        self._fit()
        for told in (
            facts.came, session.film_changed, session.project_changed, session.stretch_changed,
        ):  # fmt: skip
            told.connect(self._forget)
        for told in (session.moved, session.marked_changed, facts.chosen_changed):
            told.connect(self.update)

        session.changed.connect(self._changed)

    def _fit(self) -> None:
        self.setFixedHeight(2 * TOP + LANE * len(self.lanes))

    def show_lane(self, lane: str, shown: bool) -> None:
        """Show a lane or hide it; one stays at least, and four at most are there."""
        wanted = [x for x in LANES if (x in self.lanes or x == lane) and (shown or x != lane)]
        if len(wanted) > MOST_LANES:
            self._s.said.emit(f"{MOST_LANES} lanes at once at most: hide one first")
            return
        if wanted:
            self.lanes = tuple(wanted)
            self._settings.setValue(LANES_SETTING, ",".join(wanted))
            self._fit()
            self._forget()

    def _fill_lanes(self) -> None:
        self.lane_menu.clear()
        for lane in LANES:
            action = self.lane_menu.addAction(lane)
            action.setCheckable(True)
            action.setChecked(lane in self.lanes)
            action.toggled.connect(partial(self.show_lane, lane))

    def _changed(self) -> None:
        """Say anew why there is nothing, while there is nothing."""
        if not self._facts.facts:
            self._forget()

    def _forget(self) -> None:
        self._stale = True
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._stale = True
        super().resizeEvent(event)
        self._place_choice()

    def _stretch(self) -> Stretch:
        whole = self._s.source.media.frames if self._s.source is not None else 1
        left, right = self._s.bench.stretch or (0, whole)
        return Stretch(left, right, whole, max(1, self.width() - 2 * SIDE))

    def _lay(self, sorts: Iterable[str], top: float, stretch: Stretch) -> None:
        for fact in self._facts.facts:
            if fact.sort not in sorts or (fact.sort, fact.value) in _SILENT:
                continue
            if fact.end <= stretch.left or fact.start >= stretch.right:
                continue
            x, end = SIDE + stretch.x_of(fact.start), SIDE + stretch.x_of(fact.end)
            self._laid.append(_Laid(QRectF(x, top, max(_LEAST, end - x), LANE), fact))

    def _draw(self, stretch: Stretch) -> None:
        """Draw the notes once: while the film plays only the playhead moves over them."""
        scale = self.devicePixelRatioF()
        self._drawn = QPixmap(self.size() * scale)
        self._drawn.setDevicePixelRatio(scale)
        self._drawn.fill(WELL)
        self._stale = False
        self._laid.clear()
        painter = QPainter(self._drawn)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL))
        for place, lane in enumerate(self.lanes):
            sorts = LANES[lane]
            top = TOP + place * LANE
            painter.fillRect(QRectF(SIDE, top + LANE - 1, stretch.width, 1), WELL_LINE)
            self._lay(sorts, top, stretch)
        painter.setClipRect(QRectF(SIDE, 0, stretch.width, self.height()))
        for room, fact in self._laid:
            draw_sign(painter, fact, room)
        painter.setClipping(False)
        self._paint_words(painter)
        painter.end()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._s.source is None:
            painter.fillRect(self.rect(), WELL)
            return
        stretch = self._stretch()
        if self._stale or self._drawn.width() != int(self.width() * self.devicePixelRatioF()):
            self._draw(stretch)
        painter.drawPixmap(0, 0, self._drawn)
        painter.setClipRect(QRectF(SIDE, 0, stretch.width, self.height()))
        self._paint_marked(painter)
        x = SIDE + stretch.x_of(self._s.playhead)
        painter.setPen(QPen(QColor("#FFFFFF"), 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def _paint_marked(self, painter: QPainter) -> None:
        """Frame the notes that are chosen, and the one whose range is marked."""
        chosen = set(self._facts.chosen)
        painter.setPen(QPen(WAX, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for room, fact in self._laid:
            if fact in chosen or self._s.marked == (fact.start, fact.end):
                painter.drawRoundedRect(room.adjusted(0, 2, 0, -3), 3, 3)

    def _paint_words(self, painter: QPainter) -> None:
        """Name the lanes, over what stands there; and say why there is nothing."""
        for place, name in enumerate(self.lanes):
            wide = painter.fontMetrics().horizontalAdvance(name) + 8
            room = QRectF(0, TOP + place * LANE + 3, wide + 8, LANE - 7)
            painter.fillRect(room, WELL)
            painter.setPen(WELL_FAINT)
            painter.drawText(room.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        if not self._facts.facts:
            painter.setPen(WELL_TEXT)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._why_not())

    def _place_choice(self) -> None:
        self.choice.adjustSize()
        self.choice.move(self.width() - self.choice.width() - 2, 1)

    def _why_not(self) -> str:
        source = self._s.source
        if source is None or not source.searched:
            return "What is in the film is looked for once its seams are found"
        return "Looking what is in the film; this takes about as long as finding its seams"

    def note_at(self, place: QPointF) -> Fact | None:
        """Return the note under a place, None where there is none."""
        for room, fact in reversed(self._laid):
            if room.contains(place):
                return fact
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        fact = self.note_at(event.position())
        if self._s.source is None:
            return
        if event.button() == Qt.MouseButton.RightButton:
            if fact is not None and fact not in self._facts.chosen:
                self._choose(fact, Qt.KeyboardModifier.NoModifier)
            self.menu_wanted.emit("note" if fact is not None else "notes", _at(event))
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if fact is None:
            if not event.modifiers():
                self._facts.choose(())
            self._s.go_to(self._stretch().frame_of(event.position().x() - SIDE))
            return
        self._choose(fact, event.modifiers())
        self._s.go_to(fact.start)

    def _choose(self, fact: Fact, with_keys: Qt.KeyboardModifier) -> None:
        """Choose a note: alone, beside others with Ctrl, or all of its lane up to it with Shift."""
        chosen = self._facts.chosen
        if with_keys & Qt.KeyboardModifier.ControlModifier:
            rest = [f for f in chosen if f != fact]
            self._facts.choose(rest if fact in chosen else [*chosen, fact])
        elif with_keys & Qt.KeyboardModifier.ShiftModifier and self._last is not None:
            low, high = sorted((self._last, fact), key=lambda f: f.start)
            lane = next(sorts for sorts in LANES.values() if fact.sort in sorts)
            self._facts.choose(
                f for f in self._facts.facts
                if f.sort in lane and (f.sort, f.value) not in _SILENT
                and low.start <= f.start <= high.start
            )  # fmt: skip
            return
        else:
            self._facts.choose((fact,))
        self._last = fact

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        fact = self.note_at(event.position())
        if fact is not None:
            self._s.mark(fact.start, fact.end)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            fact = self.note_at(QPointF(event.pos()))
            words = fact_words(fact) if fact is not None else ""
            QToolTip.showText(event.globalPos(), words[:1].upper() + words[1:], self)
            return True
        return super().event(event)


def _at(event: QMouseEvent) -> QPoint:
    return event.globalPosition().toPoint()
