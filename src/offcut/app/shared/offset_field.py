"""A field for an offset in time: shown as a timecode with a sign, held as frames."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from PySide6.QtGui import QValidator
from PySide6.QtWidgets import QSpinBox

from offcut.app.theme.parts import plain
from offcut.core.errors import OffcutError
from offcut.core.timecode import frame_from_typed, timecode_from_frame

Clock = tuple[Fraction, bool]
MOST = 10_000_000


class OffsetField(QSpinBox):
    """Frames, shown as 01:00:00:00 and −00:00:00:02; frames, or a part of a timecode, may be typed.

    ``clock`` tells rate and drop-frame of the film that is in hand.
    """

    def __init__(self, name: str, clock: Callable[[], Clock]) -> None:
        super().__init__()
        self._clock = clock
        self.setRange(-MOST, MOST)
        self.setAccessibleName(name)
        self.setToolTip(plain(f"{name}: a timecode, or frames; the arrows go by one frame"))
        self.setKeyboardTracking(False)
        self.setObjectName("mono")
        self.lineEdit().setTextMargins(4, 0, 0, 0)

    def textFromValue(self, value: int) -> str:
        rate, drop = self._clock()
        return f"{'−' if value < 0 else ''}{timecode_from_frame(abs(value), rate, drop)}"

    def valueFromText(self, text: str) -> int:
        try:
            return self._read(text)
        except OffcutError:
            return self.value()

    def _read(self, text: str) -> int:
        word = text.strip().replace("−", "-")
        back = word.startswith("-")
        rate, drop = self._clock()
        frames = frame_from_typed(word.lstrip("+-").strip(), rate, drop=drop)
        return -frames if back else frames

    def validate(self, text: str, place: int) -> tuple[QValidator.State, str, int]:
        try:
            inside = abs(self._read(text)) <= MOST
        except OffcutError:
            inside = False
        state = QValidator.State.Acceptable if inside else QValidator.State.Intermediate
        return state, text, place

    def show_value(self, frames: int) -> None:
        """Show an offset without telling of it; the clock may be another by now."""
        self.blockSignals(True)
        self.setValue(frames)
        self.lineEdit().setText(self.textFromValue(frames))
        self.blockSignals(False)
