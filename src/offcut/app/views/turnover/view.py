"""The Turnover view put together: every change is planned and checked at once, nothing written."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, fields
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea

from offcut.app.commands.actions import Actions
from offcut.app.session.jobs import Job
from offcut.app.session.soon import soon
from offcut.app.shared.asking import ask_folder
from offcut.app.theme.parts import in_line
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.turnover.outcome import Outcome
from offcut.app.views.turnover.output_choices import OutputChoices
from offcut.app.views.turnover.shot_choices import ShotChoices
from offcut.core.errors import OffcutError
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.handover import Asked, Handover
from offcut.core.store.missing_films import film_there
from offcut.core.turnover.checks import Remark, checked
from offcut.core.turnover.copying import Copying
from offcut.core.turnover.plan import Plan, plan_of
from offcut.core.turnover.writing import Report, copying_for, hand_over, with_handover
from offcut.core.words import many

_OF_ONE_FILM = ("source", "which", "chosen", "scene", "order", "film_order", "offcuts")


class TurnoverView(ViewPage):
    """Choosing on the left and in the middle, check and report on the right."""

    def __init__(self, context: ViewContext, _table: Actions) -> None:
        super().__init__()
        session, settings = context.session, context.settings
        self._s = session
        self._settings = settings
        self.choices = ShotChoices(session)
        self.output = OutputChoices()
        self.outcome = Outcome()
        self.plan: Plan | None = None
        self._films: dict[int, OpenedFilm] = {}
        self._checking: Job | None = None
        self._stale = True
        self._soon = soon(self, 120, self._check)
        middle, row = in_line((0, 0, 0, 0), look="bench")
        area = QScrollArea()
        area.setWidget(self.output)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setObjectName("plain")
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        room = self.output.minimumSizeHint().width() + area.verticalScrollBar().sizeHint().width()
        area.setMinimumWidth(room)
        for side, least, most in ((self.choices, 210, 270), (self.outcome, 280, 400)):
            side.setMinimumWidth(least)
            side.setMaximumWidth(most)
        row.addWidget(area)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.choices, 270)
        box.addWidget(middle, 600)
        box.addWidget(self.outcome, 400)
        self.choices.changed.connect(self._changed)
        self.choices.again.connect(self.take_again)
        self.output.changed.connect(self._changed)
        self.outcome.changed.connect(self._changed)
        self.outcome.wanted.connect(self.hand_over)
        self.outcome.back.connect(self._go_back)
        self.outcome.ask_folder.connect(self._ask_folder)
        session.changed.connect(self._follow)
        session.marked_changed.connect(self._follow)
        session.picked_changed.connect(self._follow)
        self.output.take(_remembered(settings))
        self.outcome.folder.setText(str(settings.value("turnover-folder", "") or ""))

    def _go_back(self, source_id: int, frame: int) -> None:
        """Go to a seam that the check points at."""
        self._s.view_wanted.emit("seams")
        self._s.go_to_seam(source_id, frame)

    # planning

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        which = self._s.handed()
        if which:
            self.choices.show_handing(which)
        self._follow()

    def _follow(self) -> None:
        self._stale = True
        if self.isVisible():
            self.choices.show_shots()
            self._changed()

    def _changed(self) -> None:
        self.outcome.wait()  # what stands there is of before
        if self.isVisible():
            self._soon.start()

    @property
    def folder(self) -> Path | None:
        """Where to write to."""
        text = self.outcome.folder.text().strip()
        return Path(text).expanduser().absolute() if text else None

    def asked(self) -> Asked:
        """Return what is asked for now."""
        return self.output.asked(self.choices.asked())

    def _check(self) -> None:
        """Plan and check off the interface thread; a later change takes its place."""
        s = self._s
        if s.source is None:
            return
        project, held, marked = s.project, s.films, s.marked
        asked, folder = self.asked(), self.folder

        def work(_job: Job) -> tuple[Plan, tuple[Remark, ...], dict[int, OpenedFilm]]:
            plan = plan_of(project, asked, marked)
            films = _films_of(plan, held)
            copying: list[Copying] | None = None
            if plan.way is not None and not plan.way.codec and len(films) == len(plan.sources):
                copying = copying_for(plan, films)
            return plan, checked(plan, folder, films=films, copying=copying), films

        job = self._checking = s.work(
            "Checking", work, lambda got: self._checked(job, *got), quick=True
        )

    def _checked(
        self, job: Job, plan: Plan, remarks: tuple[Remark, ...], films: dict[int, OpenedFilm]
    ) -> None:
        if job is not self._checking:
            return
        self.plan, self._films = plan, films
        self.output.show_plan(plan)
        self.outcome.show_plan(plan, remarks)

    def _ask_folder(self) -> None:
        folder = ask_folder(self, self._s, "turnover", "Hand over to", self.outcome.folder.text())
        if folder:
            self.outcome.folder.setText(folder)
            self._changed()

    # handing over

    def take_again(self, made: Handover) -> None:
        """Ask for the same as a past hand-over."""
        if not self._s.project.holds(made.asked.source):
            self._s.failed.emit("The film of that hand-over was taken out of the project")
            return
        self.output.take(made.asked)
        self.choices.take(made.asked)
        self.outcome.folder.setText(made.folder)
        self.outcome.stack.setCurrentIndex(0)
        self._changed()

    def hand_over_now(self) -> str:
        """Hand over where the check lets it; return what stands against it."""
        outcome = self.outcome
        if outcome.go.isVisible() and outcome.go.isEnabled():
            outcome.go.click()
        elif outcome.go.isVisible() and outcome.remarks.count():
            return str(outcome.remarks.item(0).text())
        return ""

    def hand_over(self) -> None:
        """Write what is planned."""
        plan, folder = self.plan, self.folder
        if plan is None or folder is None or plan.project is not self._s.project:
            self._changed()
            return
        films, over = self._films, self.outcome.over.isChecked()
        self._settings.setValue("turnover", json.dumps(asdict(plan.asked)))
        self._settings.setValue("turnover-folder", str(folder))

        def work(job: Job) -> Report:
            return hand_over(plan, folder, films, overwrite=over, stop=job.stop, progress=job.tell)

        token = self._s.token
        self._s.work(
            "Handing over", work, lambda report: self._handed(plan, report, token),
            whatever=True, failed=self._failed,
        )  # fmt: skip
        self.outcome.go.setEnabled(False)

    def _failed(self, words: str) -> None:
        self._s.lost.emit(words)
        self._changed()

    def _handed(self, plan: Plan, report: Report, token: object) -> None:
        """Record and show what was written; a project that was closed meanwhile records nothing."""
        s = self._s
        if s.token is token:
            s.take_in(lambda p: with_handover(p, report.handover(plan)))
            self.outcome.over.setChecked(False)
            self.outcome.show_report(report)
            s.mark_unsaved()
        else:
            self._changed()
        told = (*report.problems, *report.notes)
        if told:
            s.failed.emit(told[0])
        else:
            stopped = "Stopped: " if report.stopped else ""
            s.said.emit(f"{stopped}{many(len(report.written), 'file')} written to {report.folder}")


def _films_of(plan: Plan, held: Mapping[int, OpenedFilm]) -> dict[int, OpenedFilm]:
    """Return the films of a plan that are there; those not open are opened."""
    films: dict[int, OpenedFilm] = {}
    for source in plan.sources:
        film = held.get(source.id) or film_there(source.media).film
        if film is not None:
            films[source.id] = film
    return films


def _remembered(settings: QSettings) -> Asked:
    """Return what was asked last, as far as it can be read; shots are chosen anew each time."""
    try:
        held: Any = json.loads(str(settings.value("turnover", "") or "{}"))
        plain = Asked()
        given = {}
        for field in fields(Asked):
            usual, value = getattr(plain, field.name), held.get(field.name)
            if isinstance(usual, tuple) and isinstance(value, list):
                value = tuple(str(v) for v in value)
            if type(value) is type(usual) and field.name not in _OF_ONE_FILM:
                given[field.name] = value
        return Asked(**given)
    except (ValueError, AttributeError, OffcutError):
        return Asked()
