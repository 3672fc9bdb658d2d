"""The framing: which part of the picture is the film, found by itself or drawn by hand."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.jobs import Job
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.app.shared.pictures import Pictures
from offcut.app.theme import WAX, WELL
from offcut.app.theme.parts import label, number
from offcut.core.media.framing import find_framing
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.source import SMALLEST, WHOLE, Framing, Media
from offcut.core.model.verbs.searching import set_framing

_SIDES = ("left", "top", "right", "bottom")
_SEEN = (640, 480)
_NEAR = 12.0


class FramingPicture(QWidget):
    """A frame with what is left out darkened; its four edges can be dragged."""

    dragged = Signal(object)

    def __init__(self, pictures: Pictures, media: Media) -> None:
        super().__init__()
        self._pictures = pictures
        self._media = media
        self.framing = WHOLE
        self.frame = 0
        self._side = ""
        self._seen = fit(*shown_size(media), *_SEEN)
        self.setFixedSize(QSize(self._seen[0] + 24, self._seen[1] + 24))
        self.setMouseTracking(True)
        pictures.arrived.connect(self.update)

    def show_frame(self, frame: int) -> None:
        """Show another frame."""
        self.frame = frame
        self._pictures.want("framing", [frame], *self._seen)
        self.update()

    def inside(self) -> QRectF:
        """Return where the framing lies on the widget."""
        wide, high = self._seen
        across, down = wide / self._media.width, high / self._media.height
        f = self.framing
        left, top = 12 + f.left * across, 12 + f.top * down
        return QRectF(left, top, 12 + wide - f.right * across - left,
                      12 + high - f.bottom * down - top)  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), WELL)
        place = QRectF(12, 12, *self._seen)
        image = self._pictures.picture(self.frame, *self._seen)
        if image is not None:
            painter.drawImage(place, image)
        inside = self.inside()
        dark = QColor(150, 150, 150, 150)
        for part in (
            QRectF(place.left(), place.top(), place.width(), inside.top() - place.top()),
            QRectF(place.left(), inside.bottom(), place.width(), place.bottom() - inside.bottom()),
            QRectF(place.left(), inside.top(), inside.left() - place.left(), inside.height()),
            QRectF(inside.right(), inside.top(), place.right() - inside.right(), inside.height()),
        ):
            painter.fillRect(part, dark)
        painter.setPen(QPen(WAX, 2))
        painter.drawRect(inside)

    def _side_at(self, at: QPointF) -> str:
        inside = self.inside()
        edges = (inside.left(), inside.top(), inside.right(), inside.bottom())
        away = {
            side: abs((at.x() if side in ("left", "right") else at.y()) - edge)
            for side, edge in zip(_SIDES, edges, strict=True)
        }
        near = min(away, key=lambda s: away[s])
        return near if away[near] <= _NEAR else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._side = self._side_at(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._side:
            side = self._side_at(event.position())
            shapes = Qt.CursorShape
            across = side in ("left", "right")
            shape = shapes.SizeHorCursor if across else shapes.SizeVerCursor
            self.setCursor(shape if side else shapes.ArrowCursor)
            return
        at, (wide, high) = event.position(), self._seen
        x = (at.x() - 12) * self._media.width / wide
        y = (at.y() - 12) * self._media.height / high
        out = {
            "left": x,
            "top": y,
            "right": self._media.width - x,
            "bottom": self._media.height - y,
        }
        sides = {s: getattr(self.framing, s) for s in _SIDES}
        across = self._side in ("left", "right")
        whole = self._media.width if across else self._media.height
        other = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}[self._side]
        most = whole - sides[other] - SMALLEST
        sides[self._side] = max(0, min(most, round(out[self._side] / 2) * 2))
        self.dragged.emit(Framing(**sides))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._side = ""


class FramingSheet(QDialog):
    """Picture, four numbers, and the search for black bars; taken as one edit."""

    def __init__(
        self, session: Session, search: SeamSearch, pictures: Pictures, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Framing")
        self._s = session
        self._search = search
        self._job: Job | None = None
        source = session.source
        assert source is not None
        self._of = source.id
        self._media = source.media
        self.picture = FramingPicture(pictures, source.media)
        self.picture.dragged.connect(self.show_framing)
        self.place = QSlider(Qt.Orientation.Horizontal)
        self.place.setAccessibleName("Frame that is shown")
        self.place.setRange(source.start, source.end - 1)
        self.place.valueChanged.connect(self.picture.show_frame)
        self.fields: dict[str, QSpinBox] = {}
        for side in _SIDES:
            field = number(0, 100_000, f"Left out at the {side}", " px")
            field.setFixedWidth(84)
            field.setSingleStep(2)
            field.valueChanged.connect(self._typed)
            self.fields[side] = field
        self._size = label("", "large")
        self._why = label("", "faint")
        self._why.setWordWrap(True)
        self.find_it = QPushButton("Find black bars")
        self.find_it.clicked.connect(self.look_for_bars)
        self.whole = QPushButton("Whole picture")
        self.whole.clicked.connect(lambda: self.show_framing(WHOLE))
        self.take = QPushButton()
        self.take.setObjectName("main")
        self.take.setMinimumHeight(36)
        self.take.setDefault(True)
        self.take.clicked.connect(self.take_it)
        self._lay_out()
        self.show_framing(source.framing)
        at = min(max(session.playhead, source.start), source.end - 1)
        self.place.setValue(at)
        self.picture.show_frame(at)

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.picture)
        left.addWidget(self.place)
        left.addStretch()
        right = QVBoxLayout()
        right.setSpacing(7)
        right.addWidget(self._size)
        right.addWidget(self._why)
        right.addSpacing(6)
        right.addWidget(label("Left out", "head"))
        grid = QGridLayout()
        for row, (side, field) in enumerate(self.fields.items()):
            grid.addWidget(label(f"at the {side}"), row, 0)
            grid.addWidget(field, row, 1)
        right.addLayout(grid)
        both = QHBoxLayout()
        both.addWidget(self.find_it)
        both.addWidget(self.whole)
        right.addSpacing(6)
        right.addLayout(both)
        right.addStretch()
        right.addWidget(self.take)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 16)
        box.setSpacing(18)
        box.addLayout(left)
        box.addLayout(right)

    @property
    def framing(self) -> Framing:
        """What is chosen now."""
        return self.picture.framing

    def show_framing(self, framing: Framing) -> None:
        """Show a framing in numbers and on the picture."""
        self.picture.framing = framing
        for side, field in self.fields.items():
            field.blockSignals(True)
            across = side in ("left", "right")
            field.setMaximum((self._media.width if across else self._media.height) - SMALLEST)
            field.setValue(getattr(framing, side))
            field.blockSignals(False)
        width, height = framing.size(self._media)
        good = min(width, height) >= SMALLEST
        self._size.setText(f"{width} × {height}" if good else "nothing is left")
        shape = width * self._media.pixel_shape / height if good else 0
        self._why.setText(f"{float(shape):.2f} : 1 on the screen" if good else "")
        source = self._s.source
        changed = source is not None and framing != source.framing
        self.take.setEnabled(good)
        again = changed and source is not None and source.searched
        self.take.setText("Take it and find the seams again" if again else "Take it")
        self.picture.update()

    def _typed(self) -> None:
        self.show_framing(Framing(**{side: f.value() for side, f in self.fields.items()}))

    def look_for_bars(self) -> None:
        """Look for black bars in the background."""
        film, source = self._s.film, self._s.source
        if film is None or source is None:
            self._s.failed.emit("The film is missing: its bars cannot be looked for")
            return
        self._why.setText("looking for bars …")

        def work(job: Job) -> Framing:
            return find_framing(film, source.start, source.end, job.stop)

        job = self._job = self._s.jobs.start("Looking for black bars", work)
        job.done.connect(lambda framing: self._found(job, framing))
        job.failed.connect(self._s.failed)

    def _found(self, job: Job, framing: Framing) -> None:
        if job is not self._job:
            return
        self.show_framing(framing)
        if not framing:
            self._why.setText("no black bars in this film")

    def take_it(self) -> None:
        """Take what is chosen as one edit; seams that were looked for are looked for again."""
        self._s.take_in_hand(self._of)
        source, framing = self._s.source, self.framing
        if source is not None and framing != source.framing:
            width, height = framing.size(self._media)
            self._s.edit(lambda p, s: set_framing(p, s, framing), f"Frame {width}x{height}")
            if source.searched:
                self._search.find(source.id)
        self.accept()

    def done(self, result: int) -> None:
        self._job = None
        super().done(result)
