"""A hand at the real window: presses its keys, clicks in it, waits as a person does, and measures.

Used by `errands.py` in a process of its own on a screen of its own (Xvfb).
"""

from __future__ import annotations

import resource
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit, QMessageBox, QWidget

from offcut.app.shell.main import _application, watch_over
from offcut.app.shell.warm_up import load_statistics_soon
from offcut.app.shell.window import Window

BEAT_MS = 20


class Waits:
    """How long the interface thread did not answer, and how busy it was.

    Attributes: ``longest`` milliseconds between two beats, less what they lie apart.
    """

    def __init__(self) -> None:
        self.longest = 0.0
        self.where = ""
        self.doing = ""
        self._last = time.perf_counter()
        self._beat = QTimer()
        self._beat.setTimerType(Qt.TimerType.PreciseTimer)
        self._beat.timeout.connect(self._heard)
        self._beat.start(BEAT_MS)
        self._began = time.perf_counter(), time.thread_time()

    def _heard(self) -> None:
        now = time.perf_counter()
        waited = 1000 * (now - self._last) - BEAT_MS
        if waited > self.longest:
            self.longest, self.where = waited, self.doing
        self._last = now

    def begin(self) -> None:
        """Count how busy the thread is from now on."""
        self._began = time.perf_counter(), time.thread_time()

    def busy(self) -> float:
        """Return the share of time that the interface thread worked since `begin`."""
        wall, worked = self._began
        return (time.thread_time() - worked) / max(1e-9, time.perf_counter() - wall)


class Hand:
    """The window, and what a person does with it."""

    def __init__(self) -> None:
        began = time.perf_counter()
        self.app = _application()
        self.window = Window()
        self.window.set_theme("day")
        self.window.show()
        load_statistics_soon()
        watch_over(self.window)
        self.waits = Waits()
        self.session = self.window.session
        self.lost: list[str] = []
        self.session.lost.connect(self.lost.append)
        self.said: list[str] = []
        for told in (self.session.said, self.session.failed, self.session.lost):
            told.connect(self.said.append)
        self.turn(0.2)
        self.window.activateWindow()
        self.started = time.perf_counter() - began

    # waiting

    def turn(self, seconds: float) -> None:
        """Let the window work for a while."""
        loop = QEventLoop()
        QTimer.singleShot(int(1000 * seconds), loop.quit)
        loop.exec()

    def until(self, there: Callable[[], object], what: str, seconds: float = 120) -> float:
        """Wait until something is so; return how long that took. AssertionError when it is late."""
        began = time.perf_counter()
        self.waits.doing = what
        while not there():
            if time.perf_counter() - began > seconds:
                raise AssertionError(f"{what}: not after {seconds:.0f} s; said: {self.said[-6:]}")
            loop = QEventLoop()
            QTimer.singleShot(60, loop.quit)
            loop.exec()
        return time.perf_counter() - began

    def quiet(self, seconds: float = 120) -> None:
        """Wait until no work is under way that a person waits for."""
        gently = ("Making a proxy", "Looking at the film again")
        self.until(
            lambda: all(j.words in gently for j in self.session.jobs.running),
            "no work under way",
            seconds,
        )

    def found(self, seconds: float = 1800) -> float:
        """Wait until every film of the project is searched."""
        sources = self.session.project.sources

        def all_found() -> bool:
            return bool(self.session.project.sources) and not self.window.search.unfinished_ids

        took = self.until(all_found, "seams found", seconds)
        sources = self.session.project.sources
        lacking = [s.media.path for s in sources if not s.searched]
        assert not lacking, (lacking, self.lost)
        return took

    # doing

    @property
    def target(self) -> QWidget:
        """What has the keys."""
        return QApplication.activeModalWidget() or QApplication.focusWidget() or self.window

    def press(self, *keys: str) -> None:
        """Press keys by their names, one after another: press("Ctrl+S"), press("D", "Return")."""
        for name in keys:
            self._be_active()
            self.waits.doing = f"key {name}"
            combination = QKeySequence(name)[0]
            QTest.keyClick(self.target, combination.key(), combination.keyboardModifiers())
            self.turn(0.01)

    def _be_active(self) -> None:
        """Give the keys to the window again after a dialog, as a window manager does."""
        if QApplication.activeModalWidget() is None and QApplication.activeWindow() is None:
            self.window.activateWindow()
            self.until(lambda: QApplication.activeWindow() is not None, "an active window", 10)

    def type(self, text: str) -> None:
        """Type text where the keys are."""
        self.waits.doing = f"typing {text[:20]}"
        QTest.keyClicks(self.target, text)
        self.turn(0.01)

    def click(self, widget: QWidget) -> None:
        """Click in the middle of a widget."""
        self.waits.doing = f"click {widget.accessibleName() or widget.objectName()}"
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
        self.turn(0.02)

    def fill(self, field: QLineEdit, text: str) -> None:
        """Click into a field and type something in place of what stands there."""
        self.click(field)
        field.selectAll()
        QTest.keyClicks(field, text)
        self.turn(0.02)

    def command(self, words: str) -> None:
        """Do what the command finder finds by its words."""
        self.press("Ctrl+K")
        QTest.keyClicks(QApplication.focusWidget(), words)
        self.turn(0.05)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        self.turn(0.05)

    @contextmanager
    def answering(self, *paths: Path) -> Iterator[list[str]]:
        """Answer the file dialogs that come with paths, one after another; tell where they began."""
        left, began_in = list(paths), []
        answered: list[QFileDialog] = []

        def look() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, QMessageBox):
                raise AssertionError(f"a question: {dialog.text()}")
            if not isinstance(dialog, QFileDialog):
                return
            if dialog not in answered:
                if not left:
                    return
                answered.append(dialog)
                began_in.append(dialog.directory().absolutePath())
            _answer(dialog, left)

        timer = QTimer()
        timer.timeout.connect(look)
        timer.start(120)
        try:
            yield began_in
        finally:
            timer.stop()
        assert not left, f"no dialog asked for {left}"

    def save(self, path: Path) -> list[str]:
        """Save by key; the first time the dialog is answered. Return where dialogs began."""
        first = self.session.file is None
        with self.answering(*([path] if first else [])) as began_in:
            self.press("Ctrl+S")
            self.until(lambda: self.session.history.saved and self.session.file, "saved", 60)
        return began_in

    # looking

    def picture(self, path: Path) -> None:
        """Draw the window to a picture."""
        self.window.grab().save(str(path))

    def figures(self) -> dict[str, float | str]:
        """Return peak memory in MB and the longest wait of the interface thread in ms."""
        return {
            "peak MB": round(peak_mb()),
            "longest wait ms": round(self.waits.longest),
            "while": self.waits.where,
        }

    def close(self) -> None:
        """Close the window, unsaved or not."""
        self.session.history.mark_saved()
        self.window.close()
        self.turn(0.05)


def _answer(dialog: QFileDialog, left: list[Path]) -> None:
    """Type the first path left, and press Return once it is what the dialog would take.

    Qt's dialog chooses folders on the way while they are being read, and the names it proposes may
    keep the first Return for themselves: then a person types once more, and so does this hand.
    """
    path = left[0]
    field = dialog.findChild(QLineEdit, "fileNameEdit")
    if field.text() != str(path) or dialog.selectedFiles() != [str(path)]:
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, str(path))
        return
    QTest.keyClick(field, Qt.Key.Key_Return)
    if not dialog.isVisible():
        left.pop(0)


def peak_mb() -> float:
    """Return the most memory this process held, in MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
