"""The settings: what is held in memory and on disk, and the look; all take effect at once."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.jobs import Jobs
from offcut.app.session.limits import MB, Limits
from offcut.app.theme.parts import label, number
from offcut.core.store.caches import cache_bytes, empty_caches

_LINES = (
    ("On disk", "signals-bytes", "Measured films", "so that a film is measured once"),
    ("On disk", "thumbnails-bytes", "Thumbnails", "so that the ribbon fills at once"),
    ("In memory", "large-bytes", "Large pictures", "of the frames near the playhead"),
    ("In memory", "small-bytes", "Small pictures", "of the ribbon and the list"),
)


class SettingsSheet(QDialog):
    """One page. ``changed`` is called after each change."""

    def __init__(
        self, limits: Limits, jobs: Jobs, changed: Callable[[], None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self._limits = limits
        self._jobs = jobs
        self._changed = changed
        self.fields: dict[str, QSpinBox] = {}
        self._sizes = {name: label("", "mono") for name in ("signals-bytes", "thumbnails-bytes")}
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(7)
        row = 0
        group = ""
        for head, name, words, why in _LINES:
            if head != group:
                if group:
                    grid.setRowMinimumHeight(row, 12)
                    row += 1
                grid.addWidget(label(head, "head"), row, 0, 1, 2)
                if head == "On disk":
                    grid.addWidget(label("now", "faint"), row, 3, Qt.AlignmentFlag.AlignRight)
                row += 1
                group = head
            field = self.fields[name] = number(8, 1 << 20, f"{words}, at most", " MB")
            field.setValue(limits.get(name) // MB)
            field.setFixedWidth(110)
            field.setKeyboardTracking(False)
            field.valueChanged.connect(lambda value, n=name: self._set(n, value))
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
            grid.addWidget(label(why, "faint"), row, 2)
            if name in self._sizes:
                grid.addWidget(self._sizes[name], row, 3, Qt.AlignmentFlag.AlignRight)
            row += 1
        grid.setColumnStretch(2, 1)
        self.empty = QPushButton("Empty what is kept on disk")
        self.empty.setToolTip("Nothing is lost: it is made again when it is wanted")
        self.empty.clicked.connect(self._empty)
        done = QPushButton("Done")
        done.setDefault(True)
        done.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addWidget(self.empty)
        foot.addStretch()
        foot.addWidget(done)
        box = QVBoxLayout(self)
        box.setContentsMargins(26, 20, 26, 18)
        box.setSpacing(12)
        box.addLayout(grid)
        box.addWidget(
            label(
                "The oldest go first when a limit is reached; decisions are never cached.", "faint"
            )
        )
        box.addLayout(foot)
        self.setMinimumWidth(560)
        self._measure()

    def _set(self, name: str, value: int) -> None:
        self._limits.set(name, value * MB)
        self._changed()

    def _measure(self) -> None:
        job = self._jobs.start("Measuring the caches", lambda _job: cache_bytes())
        job.done.connect(self._show_sizes)

    def _show_sizes(self, sizes: tuple[int, int]) -> None:
        for shown, size in zip(self._sizes.values(), sizes, strict=True):
            shown.setText(f"{size / MB:.1f} MB")

    def _empty(self) -> None:
        job = self._jobs.start("Emptying the caches", lambda _job: empty_caches())
        job.done.connect(lambda _none: self._measure())
