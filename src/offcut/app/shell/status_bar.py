"""The status bar: the playhead's timecode to type in, what was done last, whether it is saved."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from offcut.app.session.session import Session
from offcut.app.session.soon import soon
from offcut.app.theme import theme
from offcut.app.theme.parts import label
from offcut.core.timecode import rate_words


class StatusBar(QWidget):
    """The bar under everything.

    ``left`` tells that a person is done typing in it, ``roll_typed`` the frame a seam is to be
    rolled to.
    """

    left = Signal()
    roll_typed = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(32)
        self._session = session
        self._rolls = False
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 16, 0)
        row.setSpacing(14)
        self.place = QLineEdit()
        self.place.setObjectName("playhead")
        self.place.setFixedWidth(128)
        self.place.setToolTip("Type a timecode, a frame number or +10  (T)")
        self.place.setAccessibleName("Timecode of the playhead")
        self.place.returnPressed.connect(self._typed)
        self.place.editingFinished.connect(self._left_field)
        self._frame = label("", "faint")
        self._range = label("", "faint")
        self.told = label("", "faint")
        self.told.setAccessibleName("What was done last")
        self._saved = label("", "faint")
        row.addWidget(self.place)
        row.addWidget(self._frame)
        row.addWidget(self._range)
        row.addStretch()
        row.addWidget(self.told)
        row.addStretch()
        row.addWidget(self._saved)
        self._quiet = soon(self, 6000, lambda: self.told.setText(""))
        session.said.connect(self.say)
        session.failed.connect(self.warn)
        session.changed.connect(self._show)
        session.moved.connect(self.show_place)
        session.marked_changed.connect(self._show_range)

    def _show(self) -> None:
        s = self._session
        saved = "saved" if s.history.saved else "not saved"
        self._saved.setText("" if s.source is None or s.file is None else saved)
        self.show_place()
        self._show_range()

    def show_place(self) -> None:
        """Show where the playhead is."""
        s = self._session
        if not self.place.hasFocus():
            self.place.setText(s.words_of(s.playhead))
        if s.source is None:
            self._frame.setText("")
            return
        media = s.source.media
        self._frame.setText(f"frame {s.playhead} of {media.frames}   {rate_words(media.rate)} fps")

    def _show_range(self) -> None:
        marked = self._session.marked
        words = ""
        if marked is not None:
            of = self._session.words_of
            words = f"marked {of(marked[0])} to {of(marked[1])}, {marked[1] - marked[0]} frames"
        self._range.setText(words)

    def say(self, words: str) -> None:
        """Say what was done."""
        self.told.setStyleSheet("")
        self.told.setText(words)
        self._quiet.start()

    def warn(self, words: str) -> None:
        """Say what went wrong; it stays until something else is said."""
        self._quiet.stop()
        self.told.setStyleSheet(f"color: {theme().warn};")
        self.told.setText(words)

    def type_roll(self) -> None:
        """Let a person type where the seam is to be rolled."""
        self.type_place()
        self._rolls = True
        self._frame.setText("roll the seam to this timecode, frame or +3")

    def type_place(self, first: str = "") -> None:
        """Let a person type where to go."""
        self._rolls = False
        self.place.setFocus()
        self.place.setText(first)
        if not first:
            self.place.setText(self._session.words_of(self._session.playhead))
            self.place.selectAll()

    def _left_field(self) -> None:
        self._rolls = False
        self.show_place()

    def _typed(self) -> None:
        text, rolls = self.place.text(), self._rolls
        self._rolls = False
        self.left.emit()
        if text != self._session.words_of(self._session.playhead):
            frame = self._session.frame_typed(text)
            if frame is not None and rolls:
                self.roll_typed.emit(frame)
            elif frame is not None:
                self._session.go_to(frame)
        self.show_place()
