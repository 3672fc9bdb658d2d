"""The film in hand, large: its framing with handles, its holes, and pictures from along it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from offcut.app.session.session import Session
from offcut.app.shared.film_pictures import FilmPictures
from offcut.app.shared.framing_picture import FramingPicture
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.player import Player
from offcut.app.theme import WELL
from offcut.app.theme.parts import in_line, label, stacked
from offcut.core.media.display import display_words
from offcut.core.media.labels import lacking_words, one_or_differ
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Project
from offcut.core.model.run import Holes
from offcut.core.model.source import Framed, Framing
from offcut.core.model.verbs.searching import set_framing
from offcut.core.model.verbs.ticket import set_holes
from offcut.core.store.pictures_on_the_way import STEP
from offcut.core.words import many

ALONG = 8
ALONG_HIGH = 54
_EMPTY = (
    "Bring films in",
    "Drop them anywhere, or Ctrl+O for films, Ctrl+Alt+O for a folder, Ctrl+V for what was copied",
    "Numbered pictures are one film; what lies in a folder is looked through",
    "Their seams are found as they come; what is set of a film goes for every shot of it",
)
_HOLES = {
    Holes.HOLD: "Hold the one before",
    Holes.BLACK: "Leave holes black",
    Holes.CLOSE: "Close the gap",
}


class AlongStrip(QWidget):
    """Pictures from along the film; a click goes there."""

    def __init__(self, session: Session, pictures: PicturesInHand) -> None:
        super().__init__()
        self._s = session
        self._pictures = pictures
        self.setFixedHeight(ALONG_HIGH)
        self.setAccessibleName("Pictures from along the film")
        pictures.came.connect(self.update)
        session.film_changed.connect(self._want)
        session.changed.connect(self._want)

    def frames(self) -> list[int]:
        """Return which frames are shown."""
        source = self._s.source
        if source is None:
            return []
        whole = source.media.frames
        frames = [whole * (2 * k + 1) // (2 * ALONG) for k in range(ALONG)]
        return [f // STEP * STEP if whole > 4 * STEP * ALONG else f for f in frames]

    def _size(self) -> tuple[int, int]:
        source = self._s.source
        scale = self.devicePixelRatioF()
        room = (self.width() - 2 * (ALONG - 1)) / ALONG * scale
        if source is None:
            return 2, 2
        wide, high = shown_size(source.media)
        return fit(wide, high, 4 * int(room), int(ALONG_HIGH * scale))

    def _want(self) -> None:
        if self.isVisible():
            self._pictures.want("along", self.frames(), *self._size())
            self.update()

    def showEvent(self, event: object) -> None:
        self._want()

    def hideEvent(self, event: object) -> None:
        self._pictures.want("along", [], 2, 2)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._want()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        room = (self.width() - 2 * (ALONG - 1)) / ALONG
        size = self._size()
        for place, frame in enumerate(self.frames()):
            cell = QRectF(place * (room + 2), 0, room, ALONG_HIGH)
            painter.fillRect(cell, WELL)
            image = self._pictures.picture(frame, *size)
            if image is None:
                continue
            scale = max(cell.width() / image.width(), cell.height() / image.height())
            wide, high = cell.width() / scale, cell.height() / scale
            part = QRectF((image.width() - wide) / 2, (image.height() - high) / 2, wide, high)
            painter.drawImage(cell, image, part)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        frames = self.frames()
        if frames:
            at = int(event.position().x() * ALONG / max(1, self.width()))
            self._s.go_to(frames[max(0, min(ALONG - 1, at))])


class LiveView(QWidget):
    """The large picture and what belongs to it.

    ``searched_again`` tells ids of films whose seams must be found again after what was set.
    """

    searched_again = Signal(object)

    def __init__(
        self,
        session: Session,
        player: Player,
        large: PicturesInHand,
        small: PicturesInHand,
        films: FilmPictures,
    ) -> None:
        super().__init__()
        self._s = session
        self._playing = player
        self._films = films
        self.picture = FramingPicture(large, "live", 14)
        self.picture.empty_words = _EMPTY
        self.picture.dropped.connect(self.take_framing)
        self.picture.dragged.connect(lambda _framing: self._show_words())
        self.place = QSlider(Qt.Orientation.Horizontal)
        self.place.setAccessibleName("Frame that is shown")
        self.place.valueChanged.connect(self._slid)
        self._found = label("", "wellfaint")
        self._seen = label("", "wellfaint")
        self.along = AlongStrip(session, small)
        self.holes = label("", "warning")
        self.holes.setWordWrap(True)
        self.buttons: dict[Holes, QPushButton] = {}
        self._row, row = in_line((0, 0, 0, 0), 8)
        for holes, words in _HOLES.items():
            button = self.buttons[holes] = QPushButton(words)
            button.setCheckable(True)
            button.clicked.connect(lambda _on=False, h=holes: self.set_holes(h))
            row.addWidget(button)
        self._foot = label("", "faint")
        well, inside = stacked((0, 0, 0, 10), 4, look="well")
        inside.addWidget(self.picture, 1)
        told = QHBoxLayout()
        told.setContentsMargins(16, 0, 16, 0)
        told.addWidget(self._found)
        told.addStretch()
        told.addWidget(self._seen)
        inside.addLayout(told)
        slide = QHBoxLayout()
        slide.setContentsMargins(14, 2, 14, 0)
        slide.addWidget(self.place)
        inside.addLayout(slide)
        box = QVBoxLayout(self)
        box.setContentsMargins(14, 14, 14, 10)
        box.setSpacing(10)
        box.addWidget(well, 1)
        box.addWidget(self.along)
        box.addWidget(self.holes)
        box.addWidget(self._row)
        box.addWidget(self._foot)
        session.changed.connect(self.show_film)
        session.film_changed.connect(self.show_film)
        session.chosen_changed.connect(self.show_film)
        session.moved.connect(self._moved)
        self.show_film()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.show_film()

    def show_film(self) -> None:
        """Show the film in hand as it is now, once it is looked at."""
        if not self.isVisible():
            return
        source = self._s.source
        self.picture.show_media(source.media if source is not None else None)
        self.place.setEnabled(source is not None)
        chosen = self._s.chosen_sources
        words = lacking_words(chosen)
        self.holes.setText(words)
        self.holes.setVisible(bool(words))
        gaps = any(s.media.run is not None and s.media.run.missing for s in chosen)
        self._row.setVisible(gaps)
        if gaps:
            now = one_or_differ(
                s.media.run.holes for s in chosen if s.media.run is not None and s.media.run.missing
            )
            for holes, button in self.buttons.items():
                button.setChecked(holes is now)
        if source is None:
            self._found.setText("")
            self._seen.setText("")
            self._foot.setText("")
            return
        self.place.blockSignals(True)
        self.place.setRange(0, source.media.frames - 1)
        self.place.blockSignals(False)
        self.picture.show_framing(source.framing)
        self._moved(self._s.playhead)
        self._show_words()
        many_chosen = len(chosen)
        device = self._s.film.device if self._s.film is not None else ""
        origin = f"From {device}. " if device and many_chosen == 1 else ""
        self._foot.setText(
            f"Whatever is set on the right goes for all {many(many_chosen, 'film')} chosen, "
            "and for every shot of them."
            if many_chosen > 1
            else f"{origin}Whatever is set on the right goes for every shot of this film."
        )

    def _show_words(self) -> None:
        source = self._s.source
        if source is None:
            return
        wide, high = self.picture.framing.size(source.media)
        found = f"{wide}×{high}"
        if source.framed is Framed.FOUND and self.picture.framing == source.framing:
            found += ", found by itself" if source.framing else ": nothing to leave out"
        self._found.setText(found)
        seen = []
        if source.media.pixel_shape != 1:
            seen.append("unsqueezed")
        if source.ticket.display:
            seen.append(display_words(source.ticket.display))
        self._seen.setText(f"seen: {', '.join(seen)}" if seen else "")

    def _moved(self, frame: int) -> None:
        if not self.isVisible():
            return
        self.picture.show_frame(frame)
        if self._playing.speed and self.isVisible():
            self._playing.count_picture(self.picture.is_there())
        if self.place.value() != frame:
            self.place.blockSignals(True)
            self.place.setValue(frame)
            self.place.blockSignals(False)

    def _slid(self, frame: int) -> None:
        self._s.go_to(frame)

    def take_framing(self, framing: Framing) -> None:
        """Take a framing for all chosen films of the size of the one in hand."""
        source = self._s.source
        if source is None:
            return
        size = (source.media.width, source.media.height)
        alike = [s for s in self._s.chosen_sources if (s.media.width, s.media.height) == size]

        def framed(project: Project, source_id: int) -> Project:
            media = project.source(source_id).media
            if (media.width, media.height) != size:
                return project
            return set_framing(project, source_id, framing)

        wide, high = framing.size(source.media)
        films = f" in {many(len(alike), 'film')}" if len(alike) > 1 else ""
        if self._s.edit_chosen(framed, f"Frame {wide}×{high}{films}"):
            self.searched_again.emit([s.id for s in alike if s.searched])
        self.show_film()

    def set_holes(self, holes: Holes) -> None:
        """Say what stands in for pictures that are missing, in all chosen runs."""
        words = {"hold": "Hold the picture before a hole", "black": "Leave holes black",
                 "close": "Close the gaps"}[holes.value]  # fmt: skip
        before = [s.id for s in self._s.chosen_sources if s.searched]
        if self._s.edit_chosen(lambda p, i: set_holes(p, i, holes), words):
            self._films.forget()
            self.searched_again.emit(before)
        self.show_film()
