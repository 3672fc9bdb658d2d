"""What is in the shot under the playhead, in words, and the stills of it that tell most."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.theme import WAX, WELL, theme
from offcut.app.theme.parts import label, plain
from offcut.core.facts.best_stills import telling_frames
from offcut.core.facts.fact import Fact, Sort
from offcut.core.facts.fact_words import SHOWN, fact_words, rows_in_words
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.shots import Shot
from offcut.core.timecode import length_words

STILLS, GAP = 3, 4
_AFTER = 200
"""Milliseconds at one shot until its stills are chosen."""


class TellingStills(QWidget):
    """The stills that tell most; a click goes there."""

    chosen = Signal(int)

    def __init__(self, session: Session, pictures: PicturesInHand) -> None:
        super().__init__()
        self._s = session
        self._pictures = pictures
        self.frames: tuple[int, ...] = ()
        self.setFixedHeight(46)
        self.setAccessibleName("Stills that tell most")
        pictures.came.connect(self.update)
        session.moved.connect(self.update)

    def show_frames(self, frames: tuple[int, ...]) -> None:
        """Show other stills."""
        self.frames = tuple(sorted(frames))
        self._want()
        self.update()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._want()

    def _tile(self) -> tuple[int, int]:
        source = self._s.source
        room = (max(8, (self.width() - GAP * (STILLS - 1)) // STILLS), self.height())
        return fit(*shown_size(source.media), *room) if source is not None else room

    def _want(self) -> None:
        self._pictures.want("telling", self.frames, *self._tile())

    def _place(self, n: int) -> QRectF:
        wide, high = self._tile()
        step = (self.width() - GAP * (STILLS - 1)) / STILLS + GAP
        return QRectF(n * step, 0, wide, high)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for n, frame in enumerate(self.frames):
            place = self._place(n)
            painter.fillRect(place, WELL)
            image = self._pictures.picture(frame, *self._tile())
            if image is not None:
                painter.drawImage(place, image)
            if frame == self._s.playhead:
                painter.setPen(QPen(WAX, 2))
                painter.drawRect(place.adjusted(1, 1, -1, -1))
        if not self.frames:
            painter.setPen(theme().colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "not looked at yet")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for n, frame in enumerate(self.frames):
            if self._place(n).contains(event.position()):
                self.chosen.emit(frame)


class _Row(QLabel):
    """Words that fold and stand at the right."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)

    def minimumSizeHint(self) -> QSize:
        return QSize(60, super().minimumSizeHint().height())


class ContentsDrawer(QWidget):
    """Rows of what is in the shot, and a button where nobody looked yet."""

    def __init__(self, session: Session, facts: FactsInHand, pictures: PicturesInHand) -> None:
        super().__init__()
        self._s = session
        self._facts = facts
        self._shown: tuple[object, ...] = ()
        self._job: Job | None = None
        self._title, self._length = label("", "head"), label("", "mono")
        self._heads: dict[Sort, QLabel] = {sort: label("", "faint") for sort in SHOWN}
        self._rows: dict[Sort, _Row] = {sort: _Row() for sort in SHOWN}
        self._why = label("", "faint")
        self._why.setWordWrap(True)
        self._stills_head = label("Stills that tell most", "head")
        self.stills = TellingStills(session, pictures)
        self.stills.chosen.connect(session.go_to)
        self.look = QPushButton("Look what is in the film")
        self.look.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.look.clicked.connect(self._look)
        self._soon = soon(self, _AFTER, self._choose_stills)
        self._lay_out()
        for told in (session.changed, session.moved, session.film_changed, facts.came,
                     facts.known_changed):  # fmt: skip
            told.connect(self._show)

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 10, 18, 12)
        box.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addStretch()
        head.addWidget(self._length)
        box.addLayout(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for place, sort in enumerate(SHOWN):
            grid.addWidget(self._heads[sort], place, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(self._rows[sort], place, 1)
        box.addLayout(grid)
        box.addWidget(self._why)
        box.addWidget(self.look)
        box.addSpacing(8)
        box.addWidget(self._stills_head)
        box.addWidget(self.stills)
        box.addStretch()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._shown = ()
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        shot = self._s.shot_here()
        facts = self._facts.of_shot(shot).facts if shot is not None else ()
        now = (shot, facts, self._s.in_hand, self._facts.looking)
        if now == self._shown:
            return
        other = not self._shown or self._shown[:3:2] != now[:3:2] or self._shown[1] != facts
        self._shown = now
        self._show_rows(shot, facts)
        if other:
            self.stills.show_frames(())
            self._soon.start()

    def _show_rows(self, shot: Shot | None, facts: tuple[Fact, ...]) -> None:
        source = self._s.source
        self._title.setText(f"Shot {shot.number}" if shot is not None else "Outside the range")
        if shot is not None and source is not None:
            self._length.setText(length_words(shot.length, source.media.rate))
        else:
            self._length.setText("")
        told = {sort: (head, words) for sort, head, words in rows_in_words(facts)}
        for sort in SHOWN:
            head, words = told.get(sort, ("", ""))
            self._heads[sort].setText(head)
            self._rows[sort].setText(words)
            self._heads[sort].setVisible(bool(words))
            self._rows[sort].setVisible(bool(words))
            each = [fact_words(f) for f in facts if f.sort is sort]
            self._rows[sort].setToolTip(plain("\n".join(each[:12])))
        self._why.setVisible(not facts)
        self.look.setVisible(not facts and shot is not None and not self._facts.looking)
        self._why.setText(
            "Looking what is in the film ..." if self._facts.looking
            else "Nobody looked yet what is in this film." if source is not None else ""
        )  # fmt: skip
        self._stills_head.setVisible(bool(facts))
        self.stills.setVisible(bool(facts))

    def _look(self) -> None:
        """Look what is in the film in hand, this once."""
        source = self._s.source
        if source is not None:
            self._facts.look_through([source])
            self._show()

    def _choose_stills(self) -> None:
        source, shot = self._s.source, self._s.shot_here()
        if source is None or shot is None or not self._facts.of_shot(shot).facts:
            return
        if self._job is not None:
            self._job.stop.set()

        def take(frames: tuple[int, ...]) -> None:
            if self._s.shot_here() == shot:
                self.stills.show_frames(frames)

        self._job = self._s.work(
            "Choosing stills",
            lambda _job: telling_frames(source, shot.start, shot.end, STILLS),
            take,
            of=(source.id,),
            quick=True,
        )
