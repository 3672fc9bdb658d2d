"""The ribbon: overview, ruler, A and B rolls with pictures and marks, the trace, the playhead."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from offcut.app.session.session import Session
from offcut.app.shared.marker_pegs import peg_words
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.ribbon.columns import rolls_image
from offcut.app.shared.ribbon.damage import damage_words, paint_damage
from offcut.app.shared.ribbon.painting import (
    CROWD,
    HIGH,
    PEG,
    ROW_A,
    ROW_B,
    ROW_HIGH,
    RULER_TOP,
    SIDE,
    TRACE_HIGH,
    TRACE_TOP,
    Ground,
    frame_of,
    paint_chosen,
    paint_marked,
    paint_markers,
    paint_marks,
    paint_playhead,
    paint_range,
    paint_ruler,
    paint_trace,
    paint_zones,
)
from offcut.app.shared.ribbon.stretch import Stretch
from offcut.app.shared.scene_bands import paint_scenes
from offcut.app.shared.wax_marks import mark_words
from offcut.app.theme import (
    WELL,
    WELL_DEEP,
    WELL_FAINT,
    WELL_TEXT,
    font,
)
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.seam import Seam
from offcut.core.model.shots import Shot
from offcut.core.model.source import Marker
from offcut.core.model.verbs.rolling import roll_limits, roll_seam_to
from offcut.core.store.pictures_on_the_way import STEP

OVERVIEW = QRectF(SIDE, 8, 0, 12)
OVERVIEW_GREY, ROLL_GREY = QColor("#6E6E6E"), QColor("#454545")


class _Laid(NamedTuple):
    """A shot as it lies on its roll: left and right edge, top, and its pictures."""

    shot: Shot
    x: float
    end: float
    top: int
    tiles: list[tuple[QRectF, int]]


class Ribbon(QWidget):
    """Click seeks, drag moves the film, drag on the ruler or trace jogs, the wheel zooms.

    A seam is rolled by dragging it. Zones lie as bands under the trace, markers as pegs on the
    ruler, the marked range as a bar over the rolls. ``menu_wanted`` tells of what kind of thing a
    menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, pictures: PicturesInHand) -> None:
        super().__init__()
        self._session = session
        self._pictures = pictures
        self._stretch = Stretch(0, 1, 1, 1)
        self._of = 0
        self._drag: str = ""
        self._press = QPointF()
        self._last = QPointF()
        self._starts = np.zeros(0, np.int64)
        self._ends = 0
        self._laid: list[_Laid] = []
        self._tile_size = (71, ROW_HIGH)
        self._overview = QPixmap()
        self._film = QPixmap()
        self._stale = True
        self._waiting = False
        self._held: Seam | None = None
        self._held_at = 0
        self.setFixedHeight(HIGH)
        self.setMinimumWidth(400)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Ribbon, the map of the film")
        session.changed.connect(self._recount)
        session.project_changed.connect(self._forget)
        session.film_changed.connect(self._turn_to_film)
        session.moved.connect(self._follow)
        session.selection_changed.connect(self.update)
        session.marked_changed.connect(self.update)
        session.stretch_changed.connect(self._take_stretch)
        pictures.came.connect(self._arrived)
        pictures.kept_known.connect(self._recount)

    def _arrived(self) -> None:
        """Show pictures that came; others than the ribbon's leave it as it is."""
        if self._waiting:
            self._refilm()

    @property
    def stretch(self) -> Stretch:
        """What is shown now."""
        return self._stretch

    def show_stretch(self, stretch: Stretch) -> None:
        """Show another stretch."""
        self._stretch = stretch
        self._want()
        self._refilm()
        self._session.show_stretch(stretch.left, stretch.right)

    def _take_stretch(self) -> None:
        """Show what is shown of the film elsewhere."""
        shown = self._session.bench.stretch
        if shown is not None and shown != (self._stretch.left, self._stretch.right):
            self.show_stretch(replace(self._stretch, left=shown[0], right=shown[1]))

    def _room(self) -> float:
        return max(1.0, self.width() - 2.0 * SIDE)

    def _turn_to_film(self) -> None:
        """Show the film in hand: as it was left, or whole when it is looked at first."""
        source = self._session.source
        frames = source.media.frames if source else 1
        if source is not None:
            self._tile_size = fit(*shown_size(source.media), 4 * ROW_HIGH, ROW_HIGH)
        if self._of != self._session.in_hand or frames != self._stretch.whole:
            self._of = self._session.in_hand
            left, right = self._session.bench.stretch or (0, frames)
            if right > frames:
                left, right = 0, frames
            self._stretch = Stretch(left, right, frames, self._room())
            self._session.show_stretch(left, right)
        self._recount()

    def _forget(self) -> None:
        """Another project is there: nothing is remembered of the films of the one before."""
        self._of = 0
        self._stretch = Stretch(0, 1, 1, self._room())

    def _recount(self) -> None:
        shots = self._session.shots
        self._starts = np.array([s.start for s in shots], np.int64)
        self._ends = shots[-1].end if shots else 0
        self._draw_overview()
        self._want()
        self._refilm()

    def _follow(self, frame: int) -> None:
        shown = self._stretch.showing(frame)
        if shown != self._stretch and not self._drag:
            self.show_stretch(shown)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        old = self._stretch
        self._stretch = Stretch(old.left, old.right, old.whole, self._room())
        self._stale = True
        self._want()
        super().resizeEvent(event)

    # pictures

    def _tile(self) -> tuple[int, int]:
        return self._tile_size

    def _tiles(self, shot: Shot, left: float, right: float) -> list[tuple[QRectF, int]]:
        """Return where the pictures of a shot lie, and which frames they show."""
        wide, high = self._tile()
        top = ROW_A if shot.number % 2 else ROW_B
        tiles = []
        x = left + max(0, int(-left / wide) - 1) * wide
        while x < right:
            if x + wide >= -wide and x <= self._stretch.width:
                frame = self._tile_frame(shot, x, min(x + wide, right))
                tiles.append((QRectF(SIDE + x, top, min(wide, right - x), high), frame))
            if x > self._stretch.width:
                break
            x += wide
        return tiles

    def _tile_frame(self, shot: Shot, left: float, right: float) -> int:
        """Return the frame to show on a tile: one that is kept, or a keyframe: one decoding."""
        stretch = self._stretch
        first = int(stretch.left + left / stretch.scale)
        last = int(stretch.left + right / stretch.scale)
        first, last = max(shot.start, first), min(shot.end - 1, last)
        film = self._session.film
        if film is not None and last > first:
            room = self._tile()[0] / stretch.scale
            if self._pictures.steps_kept and room >= STEP:  # measuring left one of every few
                return max(shot.start, (first + last) // 2 // STEP * STEP)
            key = film.index.key_before(last)
            if key >= first:
                return key
        if self._session.film_missing:
            kept = self._pictures.kept
            at = int(np.searchsorted(kept, first))
            if at < len(kept) and kept[at] < shot.end:
                return int(kept[at])
        return max(shot.start, min(shot.end - 1, (first + last) // 2))

    def _span(self, shot: Shot) -> tuple[float, float]:
        """Return a shot's extent with the overlaps of its gradual seams."""
        first, last = float(shot.start), float(shot.end)
        if shot.opened_by is not None and shot.opened_by.gradual:
            first = min(first, shot.opened_by.start)
        after = self._session.shots[shot.number : shot.number + 1]
        if after and after[0].opened_by is not None and after[0].opened_by.gradual:
            last = max(last, after[0].opened_by.end)
        return first, last

    def _visible(self) -> list[Shot]:
        shots = self._session.shots
        if not shots:
            return []
        first = max(0, bisect_left(shots, self._stretch.left, key=lambda s: s.end) - 1)
        last = bisect_left(shots, self._stretch.right, key=lambda s: s.start) + 1
        return list(shots[first:last])

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._want()
        self._refilm()

    def _want(self) -> None:
        if not self.isVisible():
            return
        visible = self._visible()
        if len(visible) > CROWD:
            self._pictures.want("ribbon", [], *self._tile())
            return
        self._laid = []
        for shot in visible:
            first, last = self._span(shot)
            x, end = SIDE + self._stretch.x_of(first), SIDE + self._stretch.x_of(last)
            top = ROW_A if shot.number % 2 else ROW_B
            self._laid.append(_Laid(shot, x, end, top, self._tiles(shot, x - SIDE, end - SIDE)))
        frames = [f for laid in self._laid for _, f in laid.tiles]
        self._pictures.want("ribbon", frames, *self._tile())

    # painting

    def _ground(self) -> Ground:
        return Ground(self._session, self._stretch, self._room(), self.width())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), WELL)
        source = self._session.source
        if source is None:
            painter.setPen(WELL_FAINT)
            painter.setFont(font(12))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "The film will lie here, its shots on roll A and roll B",
            )
            return
        if self._stale or self._film.width() != self.width() * self.devicePixelRatioF():
            self._draw_film()
        painter.drawPixmap(0, 0, self._film)
        self._paint_overview(painter)
        painter.setClipRect(QRectF(SIDE - 8, 0, self._room() + 16, HIGH))
        ground = self._ground()
        paint_chosen(painter, ground)
        paint_marked(painter, ground)
        paint_playhead(painter, ground)

    def _draw_film(self) -> None:
        """Draw all that stays when only the playhead moves, once."""
        scale = self.devicePixelRatioF()
        self._film = QPixmap(int(self.width() * scale), int(HIGH * scale))
        self._film.setDevicePixelRatio(scale)
        self._film.fill(WELL)
        painter = QPainter(self._film)
        ground = self._ground()
        paint_ruler(painter, ground)
        painter.setClipRect(QRectF(SIDE - 8, 0, self._room() + 16, HIGH))
        paint_trace(painter, ground)
        self._paint_rolls(painter)
        paint_range(painter, ground)
        paint_zones(painter, ground)
        session = self._session
        paint_scenes(
            painter, session.project, session.shots, ground.across, ROW_B + ROW_HIGH + 1, 4
        )
        damaged = self._session.damaged
        inside = self._stretch.holds
        paint_damage(painter, damaged, ground.across, inside, TRACE_TOP, TRACE_HIGH)
        rolled = (self._held, self._held_at) if self._drag == "roll" and self._held else None
        paint_marks(painter, ground, rolled)
        paint_markers(painter, ground)
        painter.end()
        self._stale = False

    def _refilm(self) -> None:
        """Draw the film anew at the next painting."""
        self._stale = True
        self.update()

    def _overview_x(self, frame: float) -> float:
        return SIDE + frame / max(1, self._stretch.whole) * self._room()

    def _draw_overview(self) -> None:
        """Draw the map of the whole once; it changes only with the shots and the width."""
        scale = self.devicePixelRatioF()
        high = OVERVIEW.height()
        self._overview = QPixmap(int(self.width() * scale), int(high * scale))
        self._overview.setDevicePixelRatio(scale)
        self._overview.fill(WELL)
        painter = QPainter(self._overview)
        painter.fillRect(QRectF(SIDE, 0, self._room(), high), WELL_DEEP)
        wide = int(self._room())
        rolls = rolls_image(
            self._starts, self._ends, 0.0, wide / max(1, self._stretch.whole), wide, OVERVIEW_GREY
        )
        painter.drawImage(QRectF(SIDE, 0, wide, high - 0.5), rolls)
        painter.end()

    def _paint_overview(self, painter: QPainter) -> None:
        top, high = OVERVIEW.top(), OVERVIEW.height()
        if self._overview.width() != self.width() * self.devicePixelRatioF():
            self._draw_overview()
        painter.drawPixmap(QPointF(0, top), self._overview)
        left, right = self._overview_x(self._stretch.left), self._overview_x(self._stretch.right)
        if self._stretch.right - self._stretch.left < self._stretch.whole:
            painter.setPen(QPen(WELL_TEXT, 1))
            painter.setBrush(QColor(255, 255, 255, 26))
            painter.drawRect(QRectF(left, top - 2, max(3.0, right - left), high + 3))
        x = self._overview_x(self._session.playhead)
        painter.fillRect(QRectF(x - 0.75, top - 2, 1.5, high + 4), QColor("#FFFFFF"))

    def _paint_rolls(self, painter: QPainter) -> None:
        visible = self._visible()
        wide, high = self._tile()
        self._waiting = False
        if len(visible) > CROWD:
            wide = int(self._room())
            rolls = rolls_image(
                self._starts, self._ends, self._stretch.left, self._stretch.scale, wide, ROLL_GREY
            )
            for row, top in enumerate((ROW_A, ROW_B)):
                painter.drawImage(QRectF(SIDE, top, wide, ROW_HIGH), rolls, QRectF(0, row, wide, 1))
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for shot, x, end, top, tiles in self._laid:
            painter.fillRect(QRectF(x, top, max(1.0, end - x), ROW_HIGH), ROLL_GREY)
            for place, frame in tiles if end - x >= 4 else ():
                image = self._pictures.picture(frame, wide, high)
                self._waiting |= image is None
                if image is not None:
                    inset = (wide - place.width()) / 2
                    painter.drawImage(place, image, QRectF(inset, 0, place.width(), high))
            if shot.card.set_aside:
                painter.fillRect(QRectF(x, top, end - x, ROW_HIGH), QColor(30, 30, 30, 170))

    # by hand

    def _seam_near(self, x: float) -> Seam | None:
        source = self._session.source
        if source is None:
            return None
        frame = self._stretch.left + (x - SIDE) / self._stretch.scale
        slack = 5 / self._stretch.scale
        low = bisect_left(source.seams, frame - slack, key=frame_of)
        high = bisect_left(source.seams, frame + slack + 1, key=frame_of)
        near = [
            s
            for s in source.seams[low:high]
            if abs(s.frame - frame) <= slack and (s.id in self._session.counted_ids or s.score >= 8)
        ]
        return min(near, key=lambda s: abs(s.frame - frame), default=None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self._session.source is None:
            return
        self._press = self._last = event.position()
        y = event.position().y()
        if y < RULER_TOP:
            self._drag = "overview"
        elif y < ROW_A - 4 or y >= TRACE_TOP:
            self._drag = "jog"
        else:
            self._drag = "press"
            self._held = self._seam_near(event.position().x())
        self._drag_to(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag:
            near = self._seam_near(event.position().x())
            rows = ROW_A <= event.position().y() < TRACE_TOP
            shape = Qt.CursorShape.SizeHorCursor if near and rows else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            return
        if self._drag == "press" and (event.position() - self._press).manhattanLength() > 4:
            if self._held is not None and self._held.id in self._session.counted_ids:
                self._drag = "roll"
                self._session.select(self._held.id)
            else:
                self._drag = "pan"
        self._drag_to(event.position())

    def _drag_to(self, place: QPointF) -> None:
        if self._drag == "overview":
            length = self._stretch.right - self._stretch.left
            middle = (place.x() - SIDE) / self._room() * self._stretch.whole
            moved = Stretch(
                middle - length / 2, middle + length / 2, self._stretch.whole, self._room()
            )
            self.show_stretch(moved.panned(0))
        elif self._drag == "jog":
            self._session.go_to(self._stretch.frame_of(place.x() - SIDE))
        elif self._drag == "roll" and self._held is not None and self._session.source:
            low, high = roll_limits(self._session.source, self._held.id)
            frame = round(self._stretch.left + (place.x() - SIDE) / self._stretch.scale)
            self._held_at = max(low, min(high, frame))
            by = self._held_at - self._held.frame
            self._session.dragging.emit((self._held_at, self._held.start + by, self._held.end + by))
            self.update()
        elif self._drag == "pan":
            self.show_stretch(self._stretch.panned(place.x() - self._last.x()))
        self._last = place

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, ""
        held, self._held = self._held, None
        if drag == "roll" and held is not None:
            self._session.dragging.emit(None)
            to = self._held_at
            words = f"Roll the seam to {self._session.words_of(to)}"
            self._session.edit(lambda p, s: roll_seam_to(p, s, held.id, to), words, held.frame)
            self._session.select(held.id)
        elif drag == "press":
            seam = held
            if seam is not None:
                self._session.select(seam.id)
            else:
                self._session.go_to(self._stretch.frame_of(event.position().x() - SIDE))

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        sideways = delta.x() or (
            delta.y() if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0
        )
        if sideways:
            self.show_stretch(self._stretch.panned(sideways))
        elif delta.y():
            x = event.position().x() - SIDE
            self.show_stretch(self._stretch.zoomed(1.0018 ** delta.y(), x))
        event.accept()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Go to what is under the pointer and ask for its menu."""
        if self._session.source is None:
            return
        place = event.pos()
        seam = self._seam_near(place.x())
        if seam is not None and ROW_A <= place.y() < TRACE_TOP:
            self._session.select(seam.id)
            kind = "seam"
        elif place.y() < RULER_TOP:
            kind = "ribbon"
        else:
            kind = self._thing_at(place)
        self.menu_wanted.emit(kind, event.globalPos())

    def _marker_near(self, place: QPoint) -> Marker | None:
        """Return the marker whose peg or range is under the pointer on the ruler."""
        source = self._session.source
        if source is None or not PEG - 4 <= place.y() < ROW_A:
            return None
        frame = self._stretch.frame_of(place.x() - SIDE)
        near = 6 / self._stretch.scale
        return next((m for m in source.markers if m.start - near <= frame < m.end + near), None)

    def _thing_at(self, place: QPoint) -> str:
        """Move the playhead to a marker, zone or shot under the pointer; return what it is."""
        source = self._session.source
        assert source is not None
        frame = self._stretch.frame_of(place.x() - SIDE)
        marker = self._marker_near(place)
        if marker is not None:
            self._session.go_to(marker.start)
            return "marker"
        self._session.go_to(frame)
        if place.y() >= TRACE_TOP and any(z.start <= frame < z.end for z in source.zones):
            return "zone"
        return "shot" if ROW_A <= place.y() < TRACE_TOP else "ribbon"

    def whole_film(self) -> None:
        """Show the whole film."""
        whole = self._stretch.whole
        self.show_stretch(Stretch(0, whole, whole, self._room()))

    def zoom(self, factor: float) -> None:
        """Zoom around the playhead."""
        x = self._stretch.x_of(self._session.playhead)
        inside = 0 <= x <= self._stretch.width
        self.show_stretch(self._stretch.zoomed(factor, x if inside else self._stretch.width / 2))

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            if event.pos().y() > TRACE_TOP:
                frame = self._stretch.frame_of(event.pos().x() - SIDE)
                slack = 4 / self._stretch.scale
                words = damage_words(self._session.damaged, frame, slack)
                if words:
                    QToolTip.showText(event.globalPos(), words, self)
                    return True
            marker = self._marker_near(event.pos())
            if marker is not None:
                words = f"{self._session.words_of(marker.start)}  {peg_words(marker)}"
                QToolTip.showText(event.globalPos(), words, self)
                return True
            seam = self._seam_near(event.pos().x())
            if seam is not None and event.pos().y() > RULER_TOP:
                words = mark_words(seam, seam.id in self._session.counted_ids)
                QToolTip.showText(
                    event.globalPos(), f"{self._session.words_of(seam.frame)}  {words}", self
                )
                return True
        return super().event(event)  # type: ignore[arg-type]
