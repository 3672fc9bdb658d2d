"""The bag under the rails: what is set aside, lying as it fell; shots are dropped into it."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QApplication, QWidget

from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, WAX, WELL_FAINT, WELL_LINE, WELL_TEXT, font
from offcut.app.views.board.board_shots import BoardShots, Key
from offcut.app.views.board.dragged import packed, unpacked
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import shape_of, wanted_at

HIGH = 116
STEP = 122
_GROUND = QColor("#202020")


class Bag(QWidget):
    """What is set aside. ``menu_wanted`` tells of what kind of thing a menu is asked for."""

    menu_wanted = Signal(str, QPoint)

    def __init__(self, shots: BoardShots, actions: ShotActions, pictures: ShotPictures) -> None:
        super().__init__()
        self._b = shots
        self._actions = actions
        self._pictures = pictures
        self._left = 0
        self._dropping = False
        self._pressed: QPointF | None = None
        self.setFixedHeight(HIGH)
        self.setAcceptDrops(True)
        self.setAccessibleName("Set aside")
        shots.changed.connect(self._changed)
        shots.renamed.connect(self.update)
        shots.chosen_changed.connect(self.update)
        pictures.arrived.connect(self.update)

    def _changed(self) -> None:
        self._left = max(0, min(self._left, self._most()))
        self.update()

    def _most(self) -> int:
        return max(0, len(self._b.bag) * STEP + 32 - self.width())

    def _box(self, n: int) -> QRectF:
        return QRectF(16 + n * STEP - self._left, 36, 104, 70)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), _GROUND)
        painter.fillRect(0, 0, self.width(), 2, WAX if self._dropping else WELL_LINE)
        painter.setFont(font(BODY, strong=True))
        painter.setPen(WELL_TEXT)
        title = "Set aside" if not self._b.bag else f"Set aside, {len(self._b.bag)}"
        painter.drawText(QPointF(16, 22), title)
        taken = painter.fontMetrics().horizontalAdvance(title)
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        words = "stays in the project, out of the hand-over; drop here, or A"
        painter.drawText(QPointF(16 + taken + 16, 22), words)
        wanted: list[Wanted] = []
        chosen = set(self._b.chosen)
        first = max(0, (self._left - 16) // STEP)
        for n in range(first, min(len(self._b.bag), first + self.width() // STEP + 2)):
            row, box = self._b.bag[n], self._box(n)
            if row.source is None or row.shot is None:
                continue
            shape = shape_of(row)
            wide = min(box.width(), box.height() * shape)
            high = wide / shape
            painter.save()
            painter.translate(box.center())
            painter.rotate((row.shot.start * 7919 % 17 - 8) * 0.9)
            place = QRectF(-wide / 2, -high / 2, wide, high)
            painter.setBrush(QColor("#101010"))
            if row.key in chosen:
                painter.setPen(QPen(WAX, 3))
            else:
                painter.setPen(QPen(QColor("#8C8C8C"), 1))
            painter.drawRect(place.adjusted(-2, -2, 2, 2))
            frame = self._b.frame_of(row)
            painter.setOpacity(1.0 if row.key in chosen else 0.72)
            wanted.append(wanted_at(row, frame, place))
            self._pictures.draw(painter, place, wanted[-1])
            painter.restore()
        painter.end()
        self._pictures.want("bag", wanted)

    def _key_at(self, place: QPointF) -> Key | None:
        n = int((place.x() - 16 + self._left) // STEP)
        inside = place.y() > 30 and 0 <= n < len(self._b.bag)
        return self._b.bag[n].key if inside else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self._key_at(event.position())
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self._pressed = event.position() if key is not None else None
        if key is not None and (adding or key not in self._b.chosen):
            self._b.click(key, adding=adding)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        far = QApplication.startDragDistance()
        pressed = self._pressed
        if pressed is not None and (event.position() - pressed).manhattanLength() >= far:
            self._pressed = None
            drag = QDrag(self)
            drag.setMimeData(packed(self._b.chosen_refs))
            drag.exec(Qt.DropAction.MoveAction)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self._key_at(QPointF(event.pos())) is not None:
            self.menu_wanted.emit("board-shot", event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        self._left = max(0, min(self._most(), self._left - turn))
        self.update()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if unpacked(event.mimeData()) is not None:
            self._dropping = True
            self.update()
            event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._dropping = False
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        held = unpacked(event.mimeData())
        self._dropping = False
        self.update()
        if held is not None:
            self._actions.put_aside(held.refs)
            event.acceptProposedAction()
