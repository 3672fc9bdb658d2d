"""The shot under the pointer, or else under the playhead: its picture, and how long it is held."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, HEAD, SMALL, WELL, font, theme
from offcut.app.views.rhythm.study import Study
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.rhythm.comparing import seconds_words, share_words
from offcut.core.rhythm.figures import share_longer_than
from offcut.core.timecode import timecode_from_frame

HIGH = 242
PICTURE = 132


class ShotPane(QWidget):
    """Shows one shot. Attributes: ``place`` which it is, -1 for none."""

    def __init__(
        self, session: Session, study: Study, pictures: ShotPictures, facts: FactsInHand
    ) -> None:
        super().__init__()
        self._facts = facts
        facts.known_changed.connect(self.update)
        self._s = session
        self._study = study
        self._pictures = pictures
        self.place = -1
        self.setFixedHeight(HIGH)
        self.setAccessibleName("The shot under the pointer")
        pictures.arrived.connect(self.update)

    def show_shot(self, place: int) -> None:
        """Show the shot at a place of the study."""
        self.place = place
        shown = self._shown()
        self._pictures.want("rhythm", [shown] if shown is not None else [])
        self.update()

    def _shown(self) -> Wanted | None:
        axis = self._study.axis
        if not 0 <= self.place < len(axis):
            return None
        shot = axis.shots[self.place]
        if not self._s.project.holds(shot.source):
            return None
        source = self._s.project.source(shot.source)
        return Wanted(source, (shot.start + shot.end) // 2, True)

    @property
    def words(self) -> tuple[str, str, str]:
        """What is said of the shot: its name, its length, how that is among the others."""
        lengths = self._study.whole.lengths
        if not 0 <= self.place < len(lengths):
            return "", "", ""
        shot = lengths.shots[self.place]
        name = f"{shot.number}  {shot.title}"
        if shot.title == f"Shot {shot.number}":
            name = shot.title
        length = seconds_words(float(lengths.seconds[self.place]))
        if not lengths.counted[self.place]:
            return name, length, "set aside" if shot.aside else "outside the range"
        share = share_longer_than(lengths, self.place)
        if share is None:
            return name, length, "the only shot here"
        return name, length, share_words(share)

    def _inside(self) -> str:
        """Return what is in the shot, where it is known."""
        axis = self._study.axis
        if not 0 <= self.place < len(axis):
            return ""
        shot = axis.shots[self.place]
        if not self._s.project.holds(shot.source):
            return ""
        inside = self._facts.of(self._s.project.source(shot.source))
        found = inside.get((shot.start, shot.end))
        return found.line if found is not None else ""

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        wanted = self._shown()
        room = QRectF(16, 30, self.width() - 32, PICTURE)
        name, length, told = self.words
        middle = Qt.AlignmentFlag.AlignVCenter
        line = QRectF(16, 4, self.width() - 32, 22)
        painter.setPen(theme().colour("text"))
        if not name:
            painter.setFont(font(SMALL))
            painter.setPen(theme().colour("faint"))
            hint = "Point at a block to see its shot; a click goes there, a drag marks a range"
            wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
            painter.drawText(QRectF(16, 8, self.width() - 32, 60), wrap, hint)
            return
        painter.setFont(font(BODY, mono=True))
        painter.drawText(line, middle | Qt.AlignmentFlag.AlignRight, length)
        used = painter.fontMetrics().horizontalAdvance(length) + 10
        painter.setFont(font(HEAD, strong=True))
        elide = Qt.TextElideMode.ElideRight
        shown = painter.fontMetrics().elidedText(name, elide, int(line.width() - used))
        painter.drawText(line, middle, shown)
        painter.fillRect(room, WELL)
        y = room.bottom() + 6
        if wanted is not None:
            size = fit(*shown_size(wanted.source.media), int(room.width()), int(room.height()))
            place = QRectF(0, 0, *size)
            place.moveCenter(room.center())
            self._pictures.draw(painter, place, wanted)
            media, axis = wanted.source.media, self._study.axis
            start = media.start + axis.shots[self.place].start
            painter.setFont(font(SMALL, mono=True))
            painter.setPen(theme().colour("faint"))
            words = timecode_from_frame(start, media.rate, media.drop)
            painter.drawText(QRectF(16, y, self.width() - 32, 18), middle, words)
            y += 18
        painter.setFont(font(SMALL))
        painter.setPen(theme().colour("faint"))
        painter.drawText(QRectF(16, y, self.width() - 32, 18), middle, told)
        inside = self._inside()
        if inside:
            room = QRectF(16, y + 18, self.width() - 32, 18)
            fitted = painter.fontMetrics().elidedText(inside, elide, int(room.width()))
            painter.drawText(room, middle, fitted)
