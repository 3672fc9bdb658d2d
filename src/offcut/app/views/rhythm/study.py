"""The study in hand: what is studied, what is beside it, and all that follows from it."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QSettings, Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.views.rhythm.signals_work import SignalsWork
from offcut.core.errands.study import studied
from offcut.core.model.project import Project
from offcut.core.rhythm.figures import Figures, figures_of
from offcut.core.rhythm.lanes import Lanes, lanes_of
from offcut.core.rhythm.lengths import ShotLengths, lengths_of_seconds
from offcut.core.rhythm.subjects import StudyOf, Subject, lengths_of_subject, subject_from
from offcut.core.rhythm.usual import LIMIT, SMOOTHEST, SMOOTHING
from offcut.core.rhythm.whole_study import Manner, WholeStudy, whole_study

MOST_BESIDE = 6
KEPT_PROJECTS = 40
_NOTHING = lengths_of_seconds("", [])


@dataclass(frozen=True, eq=False)
class HeldBeside:
    """One thing beside: where it comes from (a subject's key or a file), and its lengths."""

    key: str
    lengths: ShotLengths


class Study(QObject):
    """What Rhythm shows. ``changed`` tells that figures or curves are others.

    ``laid`` tells that other shots lie along the axis, or the same ones elsewhere; ``signals_came``
    that more is known of light, movement and loudness; ``placed`` that the list of what is beside
    changed.

    Attributes: ``subject`` what is studied; ``axis`` all its shots, also those that do not count;
    ``whole`` what a page would show; ``part`` seconds [first, last) of the axis that a person
    marked where the axis is no film's; ``aside`` True where what was set aside counts too;
    ``alive`` tells whether anybody looks.
    """

    changed = Signal()
    laid = Signal()
    signals_came = Signal()
    placed = Signal()

    def __init__(self, session: Session, settings: QSettings) -> None:
        super().__init__()
        self._s = session
        self._settings = settings
        self.alive: Callable[[], bool] = lambda: True
        self.subject = Subject(StudyOf.FILM, session.in_hand)
        self.axis = _NOTHING
        self.aside = settings.value("rhythm-aside", False, type=bool) is True
        self.part: tuple[float, float] | None = None
        self.manner = _manner_in(settings)
        self.beside: list[HeldBeside] = []
        self.whole = WholeStudy("", _NOTHING, figures_of(_NOTHING))
        self._figures: dict[int, tuple[ShotLengths, float, Figures]] = {}
        self._told: object = None
        self._laid_of: object = None
        self._beside_of: tuple[object, bool, list[HeldBeside]] = (None, False, [])
        self._lanes: Lanes | None = None
        self._jobs: list[Job] = []
        self._loaded_for: object = None
        self.signals = SignalsWork(session)
        self.signals.came.connect(self._take_signals)
        session.changed.connect(self.refresh)
        session.film_changed.connect(self._follow_film)
        session.marked_changed.connect(self._follow_marked)
        session.project_changed.connect(self._forget)

    @property
    def project(self) -> Project:
        """The project whose films are studied."""
        return self._s.project

    # what is studied

    def choose(self, subject: Subject) -> None:
        """Study something else."""
        self.part = None
        self.subject = subject
        self.refresh()

    def _forget(self) -> None:
        for job in self._jobs:
            job.stop.set()
        self.beside.clear()
        self._loaded_for = None
        self.part = None
        self.subject = Subject(StudyOf.FILM, self._s.in_hand)
        self.placed.emit()
        self.refresh()

    def _follow_film(self) -> None:
        """Another film is in hand: where a film was studied, it is."""
        if (
            self.subject.what in (StudyOf.FILM, StudyOf.RANGE)
            and self.subject.id != self._s.in_hand
        ):
            self.subject = Subject(StudyOf.FILM, self._s.in_hand)
        self.refresh()

    def _follow_marked(self) -> None:
        if self.subject.what is StudyOf.RANGE:
            if self._s.marked is None:
                self.subject = Subject(StudyOf.FILM, self._s.in_hand)
            self.refresh()
        else:
            self.changed.emit()

    def mark_part(self, first: float, last: float) -> None:
        """Study the shots between two moments of the axis alone.

        On a film's own axis that is its marked range.
        """
        if self.axis.film:
            if self.axis.film != self._s.in_hand:
                return
            source = self._s.project.source(self.axis.film)
            a, b = (round(t * float(source.media.rate)) for t in (first, last))
            a, b = max(0, a), min(source.media.frames, b)
            if b > a:
                self.subject = Subject(StudyOf.RANGE, source.id)
                self._s.mark(a, b)  # which is heard, and followed
        elif last > first:
            self.part = first, last
            self.refresh()

    def whole_again(self) -> None:
        """Study the whole of what is shown again."""
        self.part = None
        if self.subject.what is StudyOf.RANGE:
            self.subject = Subject(StudyOf.FILM, self.subject.id)
            self._s.mark(None, None)
        self.refresh()

    @property
    def marked(self) -> tuple[float, float] | None:
        """The moments of the axis between which shots count, None for all of it."""
        if not self._s.project.holds(self.axis.film):
            return self.part
        if self._s.marked is not None and self.axis.film == self._s.in_hand:
            rate = float(self._s.project.source(self.axis.film).media.rate)
            return self._s.marked[0] / rate, self._s.marked[1] / rate
        return self.part

    # working it out

    def refresh(self) -> None:
        """Work everything out anew, once somebody looks."""
        if not self.alive():
            return
        project, session = self._s.project, self._s
        if self.subject.what is StudyOf.RANGE and (
            self.subject.id != session.in_hand or session.marked is None
        ):
            self.subject = Subject(StudyOf.FILM, self.subject.id)
        same = self._lay_axis()
        axis = self.axis
        marked = self.marked if self.subject.what is StudyOf.RANGE else self.part
        counted = axis.within(*marked) if marked is not None else axis
        self._load_beside()
        self._hold_beside()
        if not same:
            self._lanes = lanes_of(axis, self.signals.films)
        self._work_out(counted)
        self.signals.want([project.source(i) for i in axis.films if project.holds(i)])
        if not same:
            self.laid.emit()
        self.changed.emit()

    def _lay_axis(self) -> bool:
        """Lay the shots of the subject along the axis; tell whether they are the same as before."""
        project, session = self._s.project, self._s
        base = self.subject
        if base.what is StudyOf.RANGE:
            base = Subject(StudyOf.FILM, base.id)
        told = (base, self.aside, session.chosen)
        if project is self._laid_of and told == self._told:
            return True
        lengths = lengths_of_subject(project, base, chosen=session.chosen, aside=self.aside)
        if lengths is None and session.source is not None:
            self.subject = base = Subject(StudyOf.FILM, session.in_hand)
            lengths = lengths_of_subject(project, base, aside=self.aside)
        self._laid_of, self._told = project, (base, self.aside, session.chosen)
        axis = lengths or _NOTHING
        if _same_axis(axis, self.axis):
            return True
        self.axis = axis
        return False

    def _work_out(self, lengths: ShotLengths) -> None:
        project, others = self._s.project, [one.lengths for one in self.beside]
        self.whole = whole_study(
            project.name, lengths, others, self.manner, project.scenes, self._lanes,
            count=self._figures_of,
        )  # fmt: skip

    def _figures_of(self, lengths: ShotLengths, limit: float) -> Figures:
        """Return figures, remembered of the last lengths asked for."""
        known = self._figures.get(id(lengths))
        if known is not None and known[0] is lengths and known[1] == limit:
            return known[2]
        figures = figures_of(lengths, limit)
        if len(self._figures) > 4 * MOST_BESIDE:
            self._figures.clear()
        self._figures[id(lengths)] = (lengths, limit, figures)
        return figures

    def _take_signals(self) -> None:
        self._lanes = lanes_of(self.axis, self.signals.films)
        self.whole = replace(self.whole, lanes=self._lanes)
        self.signals_came.emit()

    # how it is shown

    def set_manner(self, **changes: Any) -> None:
        """Show it otherwise, and remember it."""
        manner = replace(self.manner, **changes)
        if manner == self.manner:
            return
        anew = manner.limit != self.manner.limit
        self.manner = manner
        for name in ("limit", "smoothing", "log", "true_time", "window"):
            self._settings.setValue(f"rhythm-{name}", getattr(manner, name))
        self.whole = replace(self.whole, manner=manner)
        if anew:
            self._work_out(self.whole.lengths)
        self.changed.emit()

    def set_aside(self, count: bool) -> None:
        """Count what was set aside too, or not."""
        self.aside = count
        self._settings.setValue("rhythm-aside", count)
        self.refresh()

    # beside

    def hold_subject(self, subject: Subject) -> None:
        """Hold something of the project beside."""
        self._hold(subject.key, self._lengths_of_key(subject.key))
        self._remember()

    def hold_file(self, path: str, *, quietly: bool = False) -> None:
        """Hold a film, a list, another project or a reference set beside; it is read in a job."""
        words = f"Reading {Path(path).name}"
        likely = self._s.source.media.rate if self._s.source is not None else None

        def came(found: Any) -> None:
            if job.stop.is_set():
                return
            for number, one in enumerate(found):
                key = f"file:{path}" if len(found) == 1 else f"file:{path}\n{number}"
                if one.lengths.note:
                    self._s.said.emit(f"{one.lengths.name}: {one.lengths.note}")
                self._hold(key, one.lengths)
            if not quietly:
                self._remember()

        def failed(words: str) -> None:
            if not job.stop.is_set():
                (self._s.said if quietly else self._s.lost).emit(words)

        job = self._s.work(
            words, lambda job: studied(path, likely=likely, stop=job.stop, progress=job.tell),
            came, failed=failed, ended=lambda: self._jobs.remove(job),
        )  # fmt: skip
        self._jobs.append(job)

    def _hold(self, key: str, lengths: ShotLengths | None) -> None:
        if lengths is None or any(b.key == key for b in self.beside):
            return
        if len(self.beside) >= MOST_BESIDE:
            self._s.said.emit(f"No more than {MOST_BESIDE} things fit beside; take one away first")
            return
        self.beside.append(HeldBeside(key, lengths))
        self.placed.emit()
        self.refresh()

    def take_away(self, place: int) -> None:
        """Take something from beside."""
        if 0 <= place < len(self.beside):
            del self.beside[place]
            self._remember()
            self.placed.emit()
            self.refresh()

    def _lengths_of_key(self, key: str) -> ShotLengths | None:
        subject = subject_from(key)
        if subject is None:
            return None
        return lengths_of_subject(self._s.project, subject, aside=self.aside)

    def _hold_beside(self) -> None:
        """Take what of the project lies beside as it is now; what is gone is taken away."""
        if self._beside_of[0] is self._s.project and self._beside_of[1:] == (
            self.aside,
            self.beside,
        ):
            return
        fresh: list[HeldBeside] = []
        for one in self.beside:
            if one.key.startswith("file:"):
                fresh.append(one)
                continue
            lengths = self._lengths_of_key(one.key)
            if lengths is not None:
                same = _same_axis(lengths, one.lengths)
                fresh.append(one if same else HeldBeside(one.key, lengths))
        gone = len(fresh) != len(self.beside)
        self.beside = fresh
        self._beside_of = (self._s.project, self.aside, list(fresh))
        if gone:
            self.placed.emit()

    # remembered for each project

    @property
    def _place(self) -> str:
        return str(self._s.file) if self._s.file is not None else ""

    def _remember(self) -> None:
        if not self._place:
            return
        kept = _kept_beside(self._settings)
        kept.pop(self._place, None)
        keys = [b.key.partition("\n")[0] for b in self.beside]
        if keys:
            kept[self._place] = list(dict.fromkeys(keys))
        newest = dict(list(kept.items())[-KEPT_PROJECTS:])
        self._settings.setValue("rhythm-beside", json.dumps(newest))

    def _load_beside(self) -> None:
        """Lay beside a project what lay there when it was looked at last."""
        if not self._place or self._loaded_for == self._place:
            return
        self._loaded_for = self._place
        for key in _kept_beside(self._settings).get(self._place, ()):
            if key.startswith("file:"):
                if Path(key.removeprefix("file:")).exists():
                    self.hold_file(key.removeprefix("file:"), quietly=True)
                continue
            lengths = self._lengths_of_key(key)
            if lengths is not None and len(self.beside) < MOST_BESIDE:
                self.beside.append(HeldBeside(key, lengths))
        self.placed.emit()


def _same_axis(a: ShotLengths, b: ShotLengths) -> bool:
    """Tell whether two lengths are of the very same shots at the same places."""
    return (
        a.shots == b.shots
        and a.name == b.name
        and a.film == b.film
        and bool((a.seconds == b.seconds).all())
        and bool((a.begins == b.begins).all())
        and bool((a.counted == b.counted).all())
    )


def _manner_in(settings: QSettings) -> Manner:
    """Return how it was shown last; what makes no sense is as it comes."""

    def number(name: str, otherwise: float, low: float, high: float) -> float:
        try:
            return max(low, min(high, float(str(settings.value(f"rhythm-{name}", otherwise)))))
        except ValueError:
            return otherwise

    return Manner(
        number("limit", LIMIT, 0.04, 600),
        int(number("smoothing", SMOOTHING, 1, SMOOTHEST)),
        settings.value("rhythm-log", False, type=bool) is True,
        settings.value("rhythm-true_time", False, type=bool) is True,
        number("window", 0.0, 0.0, 600),
    )


def _kept_beside(settings: QSettings) -> dict[str, list[str]]:
    try:
        kept = json.loads(str(settings.value("rhythm-beside", "{}")))
    except ValueError:
        return {}
    if not isinstance(kept, dict):
        return {}
    return {str(k): [str(x) for x in v] for k, v in kept.items() if isinstance(v, list)}
