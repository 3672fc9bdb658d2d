"""What went wrong, told as notices with the ways out: left work, films gone, projects held."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QWidget

from offcut.app.session.film_finding import FilmFinding
from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.recovery_saver import left_words
from offcut.app.session.session import Session
from offcut.app.shared.asking import ask_folder
from offcut.app.shell.error_report import report_text
from offcut.app.shell.notices import Notice, Notices
from offcut.core.store.missing_films import FilmThere, difference
from offcut.core.store.recovery import LeftWork, left_work

log = logging.getLogger("offcut")
Ways = list[tuple[str, Callable[[], object]]]


class Troubles(QObject):
    """Listens for what goes wrong and says what can be done about it."""

    def __init__(
        self,
        session: Session,
        files: ProjectFiles,
        finding: FilmFinding,
        notices: Notices,
        save_as: Callable[[], None],
        leave_then: Callable[[Callable[[], object]], None],
        owner: QWidget,
    ) -> None:
        super().__init__(owner)
        self._s = session
        self._files = files
        self._finding = finding
        self._notices = notices
        self._save_as, self._leave_then = save_as, leave_then
        self._owner = owner
        files.missing.connect(self._show_missing)
        files.copied.connect(self._show_copied)
        session.lost.connect(self.show_lost)

    # what did not come

    def show_lost(self, words: str) -> None:
        """Tell of work that did not come, or was refused, until it is read; it goes to the log."""
        log.error("%s", words)
        self._notices.tell(Notice(f"lost {words}", words, [("Put away", lambda: None)], bad=True))

    # work that was left

    def offer_left_work(self) -> None:
        """Offer back what a fallen Offcut left, the newest first."""
        self._s.work(
            "Looking for left work", lambda _job: left_work(),
            lambda left: self._show_left(left[0]) if left else None, whatever=True, quick=True,
        )  # fmt: skip

    def _show_left(self, left: LeftWork) -> None:
        ways: Ways = [
            ("Bring it back", lambda: self._leave_then(lambda: self._files.bring_back(left))),
            ("Forget it", lambda: self._forget_left(left)),
        ]
        self._notices.tell(Notice("left", left_words(left), ways))

    def _forget_left(self, left: LeftWork) -> None:
        left.forget()
        self.offer_left_work()

    # films that are not there

    def _show_missing(self, there: FilmThere | None) -> None:
        source = self._s.source
        if there is None or source is None:
            self._notices.take_away("missing")
            return
        other = there.other
        ways: Ways = []
        if other is not None:
            found = Path(other.media.path)
            words = f"{found.name} in {found.parent} {difference(source.media, other.media)}"
            ways.append(("Use it anyway", lambda: self._finding.use_other(other)))
        else:
            words = f"{there.problem or Path(source.media.path).name}. All else can be worked on"
        ways.append(("Look in a folder…", self.ask_folder))
        ways.append(("Leave it" if other else "Later", lambda: None))
        self._notices.tell(Notice("missing", words, ways))

    def ask_folder(self) -> None:
        """Ask for a folder and look for the missing films in it."""
        folder = ask_folder(self._owner, self._s, "missing", "Look for the missing films in")
        if folder:
            self._finding.look_for_films(folder)

    # projects that another window holds

    def _show_copied(self, held: str) -> None:
        words = f"{held}. This is a copy and saves under a name of its own"
        ways: Ways = [("Save the copy as…", self._save_as), ("Only look", lambda: None)]
        self._notices.tell(Notice("copied", words, ways))

    # what nobody expected

    def show_unexpected(self, what: str) -> None:
        """Say that something went wrong, and let a person copy a report."""
        words = f"Something went wrong ({what}). Your work is kept; go on, or save"

        def copy() -> None:
            QGuiApplication.clipboard().setText(report_text(what))
            self._s.said.emit("A report is on the clipboard: versions and the log, no pictures")

        ways: Ways = [("Copy a report", copy), ("Go on", lambda: None)]
        self._notices.tell(Notice("unexpected", words, ways))
