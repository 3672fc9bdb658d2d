"""The settings: what is held in memory and on disk, and the look; all take effect at once."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.limits import MB, Limits
from offcut.app.session.session import Session
from offcut.app.theme.parts import label, number
from offcut.core.store.caches import cache_bytes, empty_caches

_LINES = (
    ("On disk", "signals-bytes", "Measured films", "so that a film is measured once"),
    ("On disk", "thumbnails-bytes", "Small pictures", "so that ribbon and lists fill at once"),
    ("On disk", "proxies-bytes", "Proxies", "so that heavy films play"),
    ("In memory", "pictures-bytes", "Pictures", "so that what was looked at is there at once"),
)
_KEPT = ("signals-bytes", "thumbnails-bytes", "proxies-bytes")


class SettingsSheet(QDialog):
    """One page. ``changed`` is called after each change; ``grades_wanted`` asks for their sheet."""

    grades_wanted = Signal()

    def __init__(
        self,
        limits: Limits,
        settings: QSettings,
        session: Session,
        changed: Callable[[], None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self._limits = limits
        self._settings = settings
        self._s = session
        self._changed = changed
        self.fields: dict[str, QSpinBox] = {}
        self._sizes = {name: label("", "mono") for name in _KEPT}
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
        row = self._lay_proxies(grid, row)
        grid.setColumnStretch(2, 1)
        self.empty = QPushButton("Empty what is kept on disk")
        self.empty.setToolTip("Nothing is lost: it is made again when it is wanted")
        self.empty.clicked.connect(self._empty)
        self.grades = QPushButton("What counts as shaky, dark, soft…")
        self.grades.clicked.connect(self.grades_wanted)
        done = QPushButton("Done")
        done.setDefault(True)
        done.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.addWidget(self.empty)
        foot.addWidget(self.grades)
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

    def _lay_proxies(self, grid: QGridLayout, row: int) -> int:
        """Lay out where proxies lie, and what happens when films come in."""
        grid.setRowMinimumHeight(row, 12)
        self.folder = QPushButton()
        self.folder.setToolTip("Choose a folder on a fast disk with room")
        self.folder.clicked.connect(self._ask_folder)
        grid.addWidget(label("Films that come in", "head"), row + 1, 0, 1, 3)
        grid.addWidget(label("Proxies lie in"), row + 2, 0)
        grid.addWidget(self.folder, row + 2, 1, 1, 2)
        self.at_once = QCheckBox("Find the seams of films as soon as they come in")
        self.at_once.setChecked(bool(self._settings.value("search-at-once", True, type=bool)))
        self.at_once.toggled.connect(self._set_at_once)
        grid.addWidget(self.at_once, row + 3, 0, 1, 4)
        self.library = QCheckBox(
            "Know saved projects in the library, to find their shots everywhere"
        )
        self.library.setChecked(bool(self._settings.value("library", True, type=bool)))
        self.library.toggled.connect(self._set_library)
        grid.addWidget(self.library, row + 4, 0, 1, 4)
        self._show_folder()
        return row + 5

    def _proxies(self) -> Path | None:
        chosen = str(self._settings.value("proxy-folder", "") or "")
        return Path(chosen) if chosen else None

    def _show_folder(self) -> None:
        chosen = self._proxies()
        self.folder.setText(str(chosen) if chosen else "the cache folder")

    def _ask_folder(self) -> None:
        start = str(self._proxies() or Path.home())
        folder = QFileDialog.getExistingDirectory(self, "Proxies lie in", start)
        if folder:
            self.set_folder(folder)

    def set_folder(self, folder: str) -> None:
        """Let proxies lie in a folder; those that were made before stay where they are."""
        self._settings.setValue("proxy-folder", folder)
        self._show_folder()
        self._changed()
        self._measure()

    def _set_at_once(self, on: bool) -> None:
        self._settings.setValue("search-at-once", on)
        self._changed()

    def _set_library(self, on: bool) -> None:
        self._settings.setValue("library", on)
        self._changed()

    def _set(self, name: str, value: int) -> None:
        self._limits.set(name, value * MB)
        self._changed()

    def _measure(self) -> None:
        proxies = self._proxies()
        self._s.work(
            "Measuring the caches", lambda _job: cache_bytes(proxies), self._show_sizes,
            whatever=True,
        )  # fmt: skip

    def _show_sizes(self, sizes: tuple[int, int, int]) -> None:
        for shown, size in zip(self._sizes.values(), sizes, strict=True):
            shown.setText(f"{size / MB:.1f} MB")

    def _empty(self) -> None:
        proxies = self._proxies()
        self._s.work(
            "Emptying the caches", lambda _job: empty_caches(proxies), self._emptied,
            whatever=True,
        )  # fmt: skip

    def _emptied(self, _none: object) -> None:
        self._measure()
