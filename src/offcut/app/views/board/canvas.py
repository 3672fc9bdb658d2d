"""The Board's surface: strips on rails or pictures on a sheet, scrolled, chosen, dragged about."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSettings, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QApplication, QToolTip

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.scene_bands import paint_band
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.theme import BODY, WAX, WELL, WELL_FAINT, WELL_TEXT, font
from offcut.app.views.board.board_shots import ASIDE, ORDER, BoardShots, Key
from offcut.app.views.board.dragged import packed, unpacked
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import (
    Drawn,
    paint_chosen,
    paint_hook,
    shape_of,
    wanted_at,
)
from offcut.app.views.board.shot_tiles import BIN, SHEET, ShotTiles
from offcut.core.board.laying import Layout, bin_layout, sheet_layout
from offcut.core.board.rows import BoardRow
from offcut.core.model.project import ShotRef
from offcut.core.timecode import length_words, timecode_from_frame

SIZES = {BIN: (64, 100, 220), SHEET: (96, 178, 420)}
"""The narrowest, usual and widest strip and picture, in pixels."""
RAIL = QColor("#7E7E7E")


class Canvas(QAbstractScrollArea):
    """Strips or pictures.

    ``opened`` tells a row that was double-clicked, ``menu_wanted`` of what kind of thing a menu
    is asked for; ``zoomed`` another size by Ctrl and the wheel.
    """

    opened = Signal()
    menu_wanted = Signal(str, QPoint)
    zoomed = Signal()

    def __init__(
        self,
        session: Session,
        shots: BoardShots,
        actions: ShotActions,
        pictures: ShotPictures,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._pictures = pictures
        self._settings = settings
        self.layout_name = BIN
        self.sizes = {
            name: _kept(settings.value(f"board-{name}-size"), *SIZES[name]) for name in SIZES
        }
        self.laid = Layout.__new__(Layout)
        self._firsts: dict[int, int] = {}
        self.tiles = ShotTiles(pictures)
        self._several = False
        self._followed = -1
        self._zooming = soon(self, 120, self.viewport().update)
        self._measured: object = None
        self._laid: object = None
        self._measures: tuple[list[float], list[int], list[float]] = ([], [], [])
        self._pressed: tuple[QPointF, Key | None] | None = None
        self._frame: tuple[QPointF, QPointF] | None = None
        self._hover: tuple[int, float] | None = None
        self._drop_at: int | None = None
        self.setAccessibleName("Shots")
        self.setMouseTracking(True)
        self.viewport().setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.verticalScrollBar().setSingleStep(40)
        shots.changed.connect(self._rows_changed)
        shots.renamed.connect(self.viewport().update)
        shots.chosen_changed.connect(self.viewport().update)
        shots.current_changed.connect(self._follow)
        pictures.arrived.connect(self.viewport().update)
        self._lay_out()

    # laying out

    def show_layout(self, name: str) -> None:
        """Show strips on rails, or pictures on a sheet."""
        self.layout_name = name
        self._lay_out()
        self._follow()

    @property
    def size_now(self) -> int:
        """The width of a strip or picture."""
        return self.sizes[self.layout_name]

    def set_size(self, size: int) -> None:
        """Make strips or pictures wider or narrower; what is in the middle stays there."""
        low, _usual, high = SIZES[self.layout_name]
        bar = self.verticalScrollBar()
        middle = self.laid.at(self.viewport().width() / 2, bar.value() + self.height() / 2)
        anchor = self._b.place if self._b.place >= 0 else middle
        before = (
            self.laid.boxes[anchor, 1] - bar.value() if 0 <= anchor < len(self.laid.boxes) else 0
        )
        self.sizes[self.layout_name] = max(low, min(high, size))
        self._settings.setValue(f"board-{self.layout_name}-size", self.size_now)
        self._zooming.start()
        self._lay_out()
        if 0 <= anchor < len(self.laid.boxes):
            bar.setValue(int(self.laid.boxes[anchor, 1] - before))

    def _groups(self) -> list[int]:
        """Return for each row which rail it belongs to: its scene, where that is what rails are."""
        by_scene = self._b.group != ORDER and self._b.sort in ("film", "scene")
        if not by_scene:
            return [0] * len(self._b.rows)
        groups, count, before = [], -1, None
        for _key, source, shot, *_rest in self._b.rows:
            scene = shot.card.scene if shot is not None else 0
            now = scene or (-source.id if source is not None else 0)
            if now != before:
                count, before = count + 1, now
            groups.append(count)
        return groups

    def _rows_changed(self) -> None:
        self._hover = None
        followed = self._is_in_view(self._followed)
        self._lay_out()
        if followed:  # who looks at something else stays there
            self._follow()

    def _is_in_view(self, place: int) -> bool:
        """Tell whether the shot at a place, as it was laid out, is seen."""
        top = self.verticalScrollBar().value()
        return place < 0 or place in self.laid.shown(top, top + self.viewport().height())

    def _lay_out(self) -> None:
        rows = self._b.rows
        wide = float(self.viewport().width())
        if self._measured is not rows:
            self._measured = rows
            groups = self._groups()
            of_source = {id(row.source): row for row in rows}
            shape = {known: shape_of(row) for known, row in of_source.items()}
            self._several = len({r.source.id for r in of_source.values() if r.source}) > 1
            self._firsts = {g: n for n, g in reversed(list(enumerate(groups)))}
            shapes = [shape[id(row.source)] for row in rows]
            self._measures = [r.seconds for r in rows], groups, shapes
        seconds, groups, shapes = self._measures
        told = self.layout_name, wide, self.size_now, self._measures
        if told == self._laid:  # other names, but nothing lies elsewhere
            self.viewport().update()
            return
        self._laid = told
        if self.layout_name == BIN:
            self.laid = bin_layout(seconds, groups, shapes, wide, self.size_now)
        else:
            self.laid = sheet_layout(shapes, wide, self.size_now)
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, int(self.laid.high - self.viewport().height())))
        bar.setPageStep(self.viewport().height())
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(600, 400)

    def _follow(self) -> None:
        """Bring the current row into view."""
        place = self._followed = self._b.place
        if 0 <= place < len(self.laid.boxes):
            _x, y, _w, high = self.laid.boxes[place]
            bar, room = self.verticalScrollBar(), self.viewport().height()
            if y - 50 < bar.value():
                bar.setValue(int(y - 50))
            elif y + high + 16 > bar.value() + room:
                bar.setValue(int(min(y - 50, y + high + 16 - room)))
        self.viewport().update()

    # drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self.viewport().rect()
        painter.fillRect(area, WELL)
        top = self.verticalScrollBar().value()
        painter.translate(0, -top)
        self.tiles.begin(self.layout_name, self._is_large, still=not self._zooming.isActive())
        if self.layout_name == BIN:
            self._paint_rails(painter, top, top + area.height())
        scenes = {s.id: s for s in self._s.project.scenes}
        chosen = set(self._b.chosen)
        focused = self.hasFocus()
        for n in self.laid.shown(top, top + area.height()):
            if n >= len(self._b.rows):
                break
            row = self._b.rows[n]
            box = QRectF(*self.laid.boxes[n])
            if box.top() > top + area.height() or box.bottom() < top:
                continue
            hover = self._hover[1] if self._hover is not None and self._hover[0] == n else None
            number = str(n + 1) if row.use is not None else str(row.shot.number if row.shot else "")
            how = Drawn(number, row.key in chosen, row.key == self._b.current, focused, hover,
                        scenes.get(row.scene), self._b.frame_of(row))  # fmt: skip
            if self.layout_name == BIN:
                paint_hook(painter, box, how.chosen)
            if hover is None:
                tile = self.tiles.tile(row, box, how, self.devicePixelRatioF())
                painter.drawPixmap(box.toRect(), tile)
            else:
                self.tiles.paint(painter, row, box, how)
            paint_chosen(painter, box, how)
        if self._drop_at is not None:
            self._paint_drop(painter)
        if self._frame is not None:
            painter.setPen(QPen(WAX, 1))
            painter.setBrush(QColor(245, 197, 24, 30))
            painter.drawRect(QRectF(*self._frame).normalized())
        painter.end()
        if not self._zooming.isActive():
            self._pictures.want("canvas", self.tiles.wanted)
        if not self._b.rows:
            self._paint_empty()

    @property
    def _is_large(self) -> bool:
        return self.layout_name == SHEET and self.size_now * self.devicePixelRatioF() > 220

    def _paint_rails(self, painter: QPainter, top: float, bottom: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(RAIL)
        for y, x, wide in self.laid.rails:
            if top - 20 < y < bottom + 20:
                painter.drawRoundedRect(QRectF(x, y - 2.5, wide, 5), 2.5, 2.5)
        rows = self._b.rows
        first = self._firsts
        for header in self.laid.headers:
            if not top - 40 < header.y < bottom:
                continue
            row = rows[first[header.group]]
            scene = self._s.project.scene(row.scene)
            x = header.x
            if scene is not None and self._b.group != ORDER:
                paint_band(painter, QRectF(x, header.y + 2, 13, 13), scene.pattern, scene.tint)
                x += 19
            painter.setFont(font(BODY, strong=True))
            painter.setPen(WELL_TEXT if scene is not None else WELL_FAINT)
            words = self._header_words(row, self._several)
            room = QRectF(x, header.y, max(60.0, header.wide - (x - header.x)), 18)
            shown = painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)

    def _header_words(self, row: BoardRow, several: bool) -> str:
        order = self._b.order
        if order is not None:
            return order.name
        if self._b.sort not in ("film", "scene"):
            return ""
        name = self._s.project.scene_name(row.scene) or "No scene yet"
        if several and not row.scene and row.source is not None:
            return f"{name}, {row.source.media.path.rsplit('/', 1)[-1]}"
        return name

    def _paint_drop(self, painter: QPainter) -> None:
        assert self._drop_at is not None
        boxes = self.laid.boxes
        if not len(boxes):
            return
        if self._drop_at < len(boxes):
            x, y, _w, high = boxes[self._drop_at]
            x -= 4
        else:
            x, y, wide, high = boxes[-1]
            x += wide + 4
        painter.fillRect(QRectF(x - 1.5, y - 6, 3, high + 12), WAX)

    def _paint_empty(self) -> None:
        painter = QPainter(self.viewport())
        painter.setFont(font(BODY))
        painter.setPen(WELL_FAINT)
        painter.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter, self._empty_words())

    def _empty_words(self) -> str:
        if not self._s.project.sources:
            return "Open a film with Ctrl+O: its shots will hang here"
        if self._b.query:
            return "No shot is like that"
        if self._b.group == ORDER:
            return (
                "Nothing in this running order yet: choose shots and press R,\n"
                "or mark a range with I and O and press B"
            )
        if self._b.group == ASIDE:
            return "Nothing is set aside: A sets the chosen shots aside"
        return "No shot here yet: drag shots onto the scene, or choose them and press Ctrl+G"

    # the pointer

    def _place(self, position: QPointF) -> QPointF:
        return QPointF(position.x(), position.y() + self.verticalScrollBar().value())

    def _row_at(self, place: QPointF) -> int:
        n = self.laid.at(place.x(), place.y())
        return n if n < len(self._b.rows) else -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._place(event.position())
        n = self._row_at(place)
        keys = event.modifiers()
        adding = bool(keys & Qt.KeyboardModifier.ControlModifier)
        upto = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        key = self._b.rows[n].key if n >= 0 else None
        if event.button() == Qt.MouseButton.RightButton:
            if key is not None and key not in self._b.chosen:
                self._b.click(key)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed = place, key
        if key is None:
            if not adding:
                self._b.choose([])
        elif key not in self._b.chosen or adding or upto:
            self._b.click(key, adding=adding, upto=upto)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place = self._place(event.position())
        if event.buttons() & Qt.MouseButton.LeftButton and self._pressed is not None:
            start, key = self._pressed
            far = (place - start).manhattanLength() >= QApplication.startDragDistance()
            if key is not None and far:
                self._pressed = None
                self._drag(key)
            elif key is None and far:
                self._frame = start, place
                ends = start.x(), start.y(), place.x(), place.y()
                inside = self.laid.inside(*ends)
                self._b.choose([self._b.rows[n].key for n in inside if n < len(self._b.rows)])
                self.viewport().update()
            return
        n = self._row_at(place)
        hover = None
        if n >= 0:
            x, _y, wide, _h = self.laid.boxes[n]
            hover = n, max(0.0, min(1.0, (place.x() - x) / wide))
        if hover != self._hover:
            self._hover = hover
            self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        if self._frame is not None:
            self._frame = None
            self.viewport().update()
            return
        if pressed is None or pressed[1] is None or event.modifiers() != Qt.KeyboardModifier(0):
            return
        if len(self._b.chosen) > 1 and event.button() == Qt.MouseButton.LeftButton:
            self._b.click(pressed[1])

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._row_at(self._place(event.position())) >= 0:
            self.opened.emit()

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = None
        self.viewport().update()
        super().leaveEvent(event)

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            n = self._row_at(self._place(QPointF(event.pos())))
            if n >= 0:
                QToolTip.showText(event.globalPos(), _hint_of(self._b.rows[n]), self.viewport())
            else:
                QToolTip.hideText()
            return True
        return super().viewportEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_size(round(self.size_now * (1.12 if event.angleDelta().y() > 0 else 1 / 1.12)))
            self.zoomed.emit()
            event.accept()
            return
        super().wheelEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        n = self._row_at(self._place(QPointF(event.pos())))
        kind = "board-use" if self._b.group == ORDER else "board-shot"
        self.menu_wanted.emit(kind if n >= 0 else "board", event.globalPos())

    # dragging

    def _drag(self, key: Key) -> None:
        rows = self._b.chosen_rows
        uses = [r.use.id for r in rows if r.use is not None]
        drag = QDrag(self)
        drag.setMimeData(packed(self._b.chosen_refs, uses))
        drag.setPixmap(self._ghost(rows, key))
        drag.exec(Qt.DropAction.MoveAction | Qt.DropAction.CopyAction)

    def _ghost(self, rows: tuple[BoardRow, ...], key: Key) -> QPixmap:
        pixmap = QPixmap(96, 62)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        row = self._b.row_of(key)
        if row is not None and row.source is not None:
            painter.fillRect(0, 0, 88, 52, QColor("#EDEDED"))
            place = QRectF(2, 2, 84, 48)
            self._pictures.draw(painter, place, wanted_at(row, self._b.frame_of(row), place))
        painter.setBrush(WAX)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(82, 48), 13, 13)
        painter.setPen(QColor("#1E1E1E"))
        painter.setFont(font(BODY, strong=True))
        count = QRectF(69, 35, 26, 26)
        painter.drawText(count, Qt.AlignmentFlag.AlignCenter, str(len(rows)))
        painter.end()
        return pixmap

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if unpacked(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        place = self._place(event.position())
        self._drop_at = None
        if self._b.group == ORDER:
            self._drop_at = self.laid.between(place.x(), place.y())
        self.viewport().update()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._drop_at = None
        self.viewport().update()

    def dropEvent(self, event: QDropEvent) -> None:
        held = unpacked(event.mimeData())
        place = self._place(event.position())
        self._drop_at = None
        self.viewport().update()
        if held is not None:
            self.dropped(held.refs, held.uses, place)
            event.acceptProposedAction()

    def dropped(self, refs: tuple[ShotRef, ...], uses: tuple[int, ...], place: QPointF) -> None:
        """Take what was dropped at a place: moved in a running order, else into that scene."""
        if self._b.group == ORDER:
            at = self.laid.between(place.x(), place.y())
            self._actions.drop_into_order(refs, uses, at)
            return
        n = self._row_at(place)
        rows = {r.ref: r for r in self._b.all_rows}
        asides = [r for r in refs if r in rows and _is_aside(rows[r])]
        if asides and self._b.group != ASIDE:
            self._actions.put_aside(asides, False)
        elif n >= 0 and self._b.rows[n].ref not in refs:
            scene = self._s.project.scene_name(self._b.rows[n].scene)
            self._actions.put_in_scene(scene, refs)


def _hint_of(row: BoardRow) -> str:
    """Say what a shot is, in a line or two."""
    if row.shot is None or row.source is None:
        return row.title
    media = row.source.media
    label = timecode_from_frame(media.start + row.shot.start, media.rate, media.drop)
    words = f"{row.title}\n{label}, {length_words(row.shot.length, media.rate)}"
    return f"{words}\n{row.shot.card.note}" if row.shot.card.note else words


def _is_aside(row: BoardRow) -> bool:
    return row.shot is not None and row.shot.card.set_aside


def _kept(value: object, low: int, usual: int, high: int) -> int:
    try:
        return max(low, min(high, int(str(value))))
    except ValueError:
        return usual
