"""The framing: which part of the picture is the film, found by itself or drawn by hand."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
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
from offcut.app.shared.framing_picture import FramingPicture
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.theme.parts import label, number
from offcut.core.media.live_picture import FoundFraming, find_framing
from offcut.core.model.source import SMALLEST, WHOLE, Framing
from offcut.core.model.verbs.searching import set_framing

_SIDES = ("left", "top", "right", "bottom")
_SEEN = (640, 480)


class FramingSheet(QDialog):
    """Picture, four numbers, and the search for black bars; taken as one edit."""

    def __init__(
        self, session: Session, search: SeamSearch, pictures: PicturesInHand, parent: QWidget
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
        self.picture = FramingPicture(pictures, "framing")
        self.picture.setFixedSize(QSize(_SEEN[0] + 24, _SEEN[1] + 24))
        self.picture.show_media(source.media)
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
        self.find_it = QPushButton("Find bars and gate")
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
            self._s.failed.emit("The film is missing: nothing can be looked for in it")
            return
        self._why.setText("looking for bars and gate …")

        def work(job: Job) -> FoundFraming:
            return find_framing(film, source.start, source.end, job.stop, thorough=True)

        job = self._job = self._s.work(
            "Looking for bars and gate", work, lambda found: self._found(job, found),
            of=[source.id],
        )  # fmt: skip

    def _found(self, job: Job, found: FoundFraming) -> None:
        if job is not self._job:
            return
        self.show_framing(found.framing)
        if not found.framing:
            self._why.setText("no bars and no gate in this film")
        else:
            told = f"{found.words}, {found.certainty.value}, in {found.pictures} pictures"
            self._why.setText(f"{self._why.text()}; {told}")

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
