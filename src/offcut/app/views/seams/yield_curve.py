"""The yield curve: shots against sensitivity, the handle running along it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.shared.when_seen import when_seen
from offcut.app.theme import WAX, theme
from offcut.core.model.shots import Yield, yield_of

PAD = 10.0


class YieldCurve(QWidget):
    """Drag or use the arrow keys to choose; ``chosen`` is sent while it moves and at the end."""

    chosen = Signal(int, bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._yield = Yield((1,) * 101, ())
        self._live: int | None = None
        self._rests_on: tuple[object, object, int, int] = (None, None, -1, -1)
        self.setMinimumHeight(84)
        self.setMaximumHeight(112)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sensitivity, 0 to 100")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        when_seen(session.changed, self, self.update)

    def sizeHint(self) -> QSize:
        return QSize(230, 84)

    @property
    def curve(self) -> Yield:
        """The yield that is drawn."""
        source = self._session.source
        if source is not None:
            # the sensitivity itself does not change what each one would give
            rests_on = (source.seams, source.zones, source.start, source.end)
            same = all(
                a is b or a == b for a, b in zip(rests_on[1:], self._rests_on[1:], strict=True)
            )
            if not same or rests_on[0] is not self._rests_on[0]:
                self._rests_on = rests_on
                self._yield = yield_of(source)
        return self._yield

    @property
    def value(self) -> int:
        """The sensitivity shown."""
        if self._live is not None:
            return self._live
        return self._session.source.sensitivity if self._session.source else 50

    def _point(self, sensitivity: float) -> QPointF:
        shots = self.curve.shots
        top = max(2, shots[-1])
        share = (shots[round(sensitivity)] - 1) / (top - 1) if top > 1 else 0
        wide, high = self.width() - 2 * PAD, self.height() - 2 * PAD
        return QPointF(PAD + sensitivity / 100 * wide, self.height() - PAD - share * high)

    def paintEvent(self, event: QPaintEvent) -> None:
        look = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.colour("line"), 1))
        painter.setBrush(look.colour("raised"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        if self._session.source is None:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("tint"))
        for first, last in self._yield.safe:
            left, right = self._point(first).x(), self._point(last).x()
            painter.drawRect(QRectF(left, 4, right - left, self.height() - 8))
        here = self._point(self.value)
        painter.setPen(QPen(look.colour("text"), 1.2, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(here.x(), 5), QPointF(here.x(), self.height() - 5))
        painter.setPen(QPen(look.colour("text"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([self._point(s) for s in range(101)]))
        painter.setPen(QPen(look.colour("text"), 1.6 if not self.hasFocus() else 3))
        painter.setBrush(WAX)
        painter.drawEllipse(here, 6.5, 6.5)

    def _drag_to(self, x: float, final: bool) -> None:
        share = (x - PAD) / max(1.0, self.width() - 2 * PAD)
        self._live = None if final else max(0, min(100, round(100 * share)))
        self.chosen.emit(max(0, min(100, round(100 * share))), final)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._session.source is not None:
            self._drag_to(event.position().x(), False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._live is not None:
            self._drag_to(event.position().x(), False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._live is not None:
            self._drag_to(event.position().x(), True)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Down: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: 1,
            Qt.Key.Key_PageUp: 10,
            Qt.Key.Key_PageDown: -10,
        }
        step = steps.get(Qt.Key(event.key()))
        if step is None or self._session.source is None:
            super().keyPressEvent(event)
            return
        self.chosen.emit(max(0, min(100, self.value + step)), True)
