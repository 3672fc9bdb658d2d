"""Starting the window, and drawing it to a picture where there is no screen."""

from __future__ import annotations

import contextlib
import faulthandler
import logging
import os
import platform
import sys
import tempfile
import threading
from collections.abc import Sequence
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType
from typing import NoReturn

from PySide6.QtCore import (
    QElapsedTimer,
    QEventLoop,
    QObject,
    QSettings,
    QTimer,
    Signal,
    qVersion,
)
from PySide6.QtWidgets import QApplication
from shiboken6 import isValid

from offcut import __version__
from offcut.app.shared.known_folders import keep_folders
from offcut.app.shell.error_report import fall_file, log_file
from offcut.app.shell.warm_up import load_statistics_soon
from offcut.app.shell.window import Window
from offcut.app.theme import load_fonts
from offcut.core.errors import OffcutError
from offcut.core.machine.memory import keep_little
from offcut.demo import FILM
from offcut.demo.cards import with_demo_cards
from offcut.demo.originals import made_originals
from offcut.demo.roll import made_roll
from offcut.demo.second_version import made_second_version

log = logging.getLogger("offcut")


def _application(offscreen: bool = False) -> QApplication:
    keep_little()
    if offscreen:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    elif not has_display():
        raise OffcutError(
            "there is no display to open a window on; "
            "“offcut demo --screenshot FILE.png” draws it to a picture"
        )
    there = QApplication.instance()
    app = there if isinstance(there, QApplication) else QApplication(["offcut"])
    app.setApplicationName("Offcut")
    load_fonts()
    return app


def has_display() -> bool:
    """Tell whether a window can be opened."""
    if os.environ.get("QT_QPA_PLATFORM") in ("offscreen", "minimal"):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def run_window(paths: Sequence[str] = ()) -> int:
    """Open the window, with films or a project where they are named; return the exit status."""
    app = _application()
    window = Window()
    window.start_theme()
    window.show()
    load_statistics_soon()
    watch_over(window)
    window.troubles.offer_left_work()
    if paths:
        window.files.open_anything(paths)
    return _until_closed(app, window)


_KEPT: list[Window] = []
"""The window that was closed: nothing of it is taken apart while the process ends."""


def _until_closed(app: QApplication, window: Window) -> int:
    _KEPT.append(window)
    return app.exec()


def leave(status: int) -> NoReturn:
    """End the process at once: the window has ended its work and let go of everything.

    Python would take thousands of Qt's objects apart in no order, while libraries that are still
    being loaded or decode run on their threads: it fell there once, with all work done.
    """
    logging.shutdown()
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(OSError, ValueError, AttributeError):
            stream.flush()
    os._exit(status)


class _Unexpected(QObject):
    """Brings what nobody expected from any thread to the interface thread."""

    came = Signal(str)


def watch_over(window: Window) -> None:
    """Write a log, and catch what nobody expected: keep the work, say so, go on."""
    with contextlib.suppress(OSError):
        log_file().parent.mkdir(parents=True, exist_ok=True)
        kept = RotatingFileHandler(log_file(), maxBytes=1 << 20, backupCount=3)
        kept.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        log.addHandler(kept)
        log.setLevel(logging.INFO)
        log.info("Offcut %s, Python %s, Qt %s", __version__, platform.python_version(), qVersion())
        if not faulthandler.is_enabled():
            faulthandler.enable(fall_file().open("a"))  # Python keeps the file open

    hop = _Unexpected(window)

    def show(what: str) -> None:
        with contextlib.suppress(Exception):
            window.recovery.keep_at_once()
        window.troubles.show_unexpected(what)

    hop.came.connect(show)

    def unexpected(
        kind: type[BaseException], error: BaseException | None, trace: TracebackType | None
    ) -> None:
        log.critical("unexpected", exc_info=(kind, error or kind(), trace))
        if isValid(hop):
            hop.came.emit(f"{kind.__name__}: {error}")

    sys.excepthook = unexpected
    threading.excepthook = lambda got: unexpected(got.exc_type, got.exc_value, got.exc_traceback)
    sys.unraisablehook = lambda got: unexpected(got.exc_type, got.exc_value, got.exc_traceback)


def run_demo(screenshot: str | None = None, theme: str | None = None) -> int:
    """Open the demo film, or draw the window with it, analysed, to a picture."""
    if screenshot is None:
        app = _application()
        window = Window()
        window.set_theme(theme) if theme else window.start_theme()
        window.show()
        load_statistics_soon()
        watch_over(window)
        put_demo_beside(window)
        window.files.open_films([FILM])
        put_demo_cards(window)
        return _until_closed(app, window)
    _application(offscreen=True)
    with tempfile.TemporaryDirectory() as folder:
        settings = QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat)
        window = Window(settings)
        window.set_theme(theme or "day")
        window.resize(1280, 800)
        window.show()
        window.files.open_films([FILM])
        settle(window)
        window.seam_actions.next_doubtful()
        settle(window)
        done = window.grab().save(screenshot)
        window.session.history.mark_saved()
        window.close()
    if not done:
        raise OffcutError(f"{screenshot}: cannot be written")
    print(f"The window was drawn to {screenshot}", file=sys.stderr)
    return 0


def put_demo_beside(window: Window) -> None:
    """Bring in the demo roll and the second version, made one after the other on first use; then
    the camera files, which Tally offers to look in.
    """
    session = window.session

    def brought(path: Path) -> None:
        window.files.open_films([path], stay=True, given=True)

    def offer(folder: Path) -> None:
        for source in session.project.sources:
            if Path(source.media.path) == FILM:
                keep_folders(window.settings, source.media.fingerprint, [str(folder)])

    wanted = [
        ("Making the demo roll", made_roll, brought),
        ("Making the demo’s second version", made_second_version, brought),
        ("Making the demo’s camera files", made_originals, offer),
    ]

    def make(place: int) -> None:
        if place == len(wanted):
            return
        words, made, then = wanted[place]
        job = session.work(words, lambda _job: made(), then)
        job.done.connect(lambda _path: make(place + 1))
        job.failed.connect(lambda _words: make(place + 1))

    def begin(path: str) -> None:
        if Path(path) == FILM:
            window.files.opened.disconnect(begin)
            make(0)

    window.files.opened.connect(begin)


def put_demo_cards(window: Window) -> None:
    """Name and sort the demo film's shots once they are found."""
    session = window.session

    def found() -> None:
        source = next((s for s in session.project.sources if Path(s.media.path) == FILM), None)
        if source is None or not source.searched:
            return
        session.changed.disconnect(found)
        session.take_in(lambda p: with_demo_cards(p, source.id))
        session.refresh()

    session.changed.connect(found)


def settle(window: Window, limit: float = 120.0) -> None:
    """Wait until no work is under way and every picture wanted is there."""
    clock = QElapsedTimer()
    clock.start()
    quiet = 0
    while quiet < 5 and clock.elapsed() < limit * 1000:
        turn = QEventLoop()
        QTimer.singleShot(50, turn.quit)
        turn.exec()
        busy = window.session.jobs.running or not window.large.idle or not window.small.idle
        quiet = 0 if busy else quiet + 1
