"""The open project: its history, where it is saved, and by what an answer knows it again. No Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from offcut.core.errors import OffcutError
from offcut.core.model.history import History, Step
from offcut.core.model.project import Project


class RefusedError(OffcutError):
    """An edit that was made but breaks what a project may hold; the message says which."""


class Document:
    """The open project.

    Attributes: ``history`` the project and its undo; ``file`` where it is saved, None for nowhere;
    ``token`` what is another object in every project that is put in.
    """

    def __init__(self) -> None:
        self.history = History(Project())
        self.file: Path | None = None
        self.token = object()

    @property
    def project(self) -> Project:
        """The present value of the project."""
        return self.history.project

    def put_in(self, project: Project, file: Path | None, *, begun: bool = False) -> None:
        """Put another project in.

        ``begun`` is what comes of the empty project that is open: work asked for in that goes on.
        """
        if not begun:
            self.token = object()
        self.history = History(project)
        self.history.mark_saved()
        self.file = file

    def edit(
        self, verb: Callable[[Project], Project], words: str, source_id: int, frame: int
    ) -> bool:
        """Apply a verb as one undoable edit; False when it changed nothing.

        Raises OffcutError where the verb makes no sense, RefusedError where what it made is nothing
        that a project may hold.
        """
        made = verb(self.project)
        try:
            return self.history.edit(made, words, source_id, frame)
        except OffcutError as error:
            raise RefusedError(f"{words}: {error}") from error

    def take_in(self, change: Callable[[Project], Project]) -> None:
        """Put in what is no edit: what was found, where a film lies, a hand-over made.

        Raises OffcutError.
        """
        self.history.replace(change)

    def saved_in(self, step: Step | None, file: Path) -> None:
        """Remember that the value after a step is saved in a file."""
        self.file = file
        self.history.mark_saved_after(step)

    def is_of(self, source_id: int) -> str:
        """Return by what a film is known, empty where the project does not hold it."""
        if not self.project.holds(source_id):
            return ""
        media = self.project.source(source_id).media
        return media.fingerprint or media.path

    def still(self, of: Iterable[int]) -> Callable[[], bool]:
        """Return what tells, at any time, whether this project and its films are still there.

        ``of`` are the ids of the films that an answer will be about.
        """
        token, known = self.token, {i: self.is_of(i) for i in of}

        def holds() -> bool:
            same = all(self.is_of(i) == film for i, film in known.items())
            return self.token is token and same

        return holds
