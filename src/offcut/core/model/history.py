"""Undo: the list of earlier values of a project, held as what changed between them.

A project of 3,000 seams shares nearly everything with the one before an edit, but its tuple of
seams is new each time. So a step holds only what an edit changed, source by source: the fields
and the seams that differ. Thousands of edits then cost a few kilobytes, every earlier value can
be built again exactly, and what came in beside the edits (seams found, a film that moved) stays.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from itertools import compress, count, islice
from operator import attrgetter, is_not
from typing import Any

from offcut.core.errors import OffcutError
from offcut.core.model import rules
from offcut.core.model.project import Project
from offcut.core.model.seam import Seam
from offcut.core.model.source import Source


@dataclass(frozen=True, slots=True)
class _SourceChange:
    """What an edit changed in one source.

    ``before`` and ``after`` are the source without its seams where only it changed, whole where
    the edit brought it in or took it out (the other one is None); ``place`` is where it stands
    among the sources; ``gone`` and ``come`` are the seams that differ.
    """

    id: int
    before: Source | None
    after: Source | None
    place: int
    gone: tuple[Seam, ...] = ()
    come: tuple[Seam, ...] = ()

    def turned(self) -> _SourceChange:
        """Return the change the other way."""
        return _SourceChange(self.id, self.after, self.before, self.place, self.come, self.gone)


@dataclass(frozen=True, slots=True)
class Step:
    """One edit: its words ("Strike the seam at …"), where it was, and what it changed.

    ``source`` is the id of the source it was made in (0 for the project as a whole), ``frame``
    the frame of it.
    """

    words: str
    source: int
    frame: int
    sources: tuple[_SourceChange, ...]
    before: dict[str, Any]
    after: dict[str, Any]
    next_ids: tuple[int, int]

    def turned(self) -> Step:
        """Return the step the other way."""
        turned = tuple(c.turned() for c in reversed(self.sources))
        way = self.next_ids[::-1]
        return Step(self.words, self.source, self.frame, turned, self.after, self.before, way)


_PARTS = ("name", "scenes", "orders", "record_start", "waved", "rulings")
_FIELDS = tuple(f.name for f in fields(Source) if f.name not in ("id", "seams"))


class History:
    """The present project and the way back and forth.

    Attributes: ``project`` the present value; ``saved`` True when it is what was last saved.
    """

    def __init__(self, project: Project) -> None:
        self.project = project
        self._past: list[Step] = []
        self._future: list[Step] = []
        self._saved_at: Step | None = None
        self._saved_known = True
        self._highest = project.next_id
        self._floor = 1
        self._searched: set[int] = set()

    @property
    def undoable(self) -> Step | None:
        """The edit that undo would take back."""
        return self._past[-1] if self._past else None

    @property
    def redoable(self) -> Step | None:
        """The edit that redo would do again."""
        return self._future[-1] if self._future else None

    @property
    def saved(self) -> bool:
        """True when nothing was edited since the last saving."""
        return self._saved_known and self.undoable is self._saved_at

    def mark_saved(self) -> None:
        """Remember that the present value is on disk."""
        self.mark_saved_after(self.undoable)

    def mark_saved_after(self, step: Step | None) -> None:
        """Remember that the value after a step is on disk, None for the one before all."""
        self._saved_at, self._saved_known = step, True

    def mark_unsaved(self) -> None:
        """Remember that the present value is nowhere on disk."""
        self._saved_known = False

    def replace(self, change: Callable[[Project], Project]) -> None:
        """Put in a new value that is no edit (what detection found, where the film lies now, a
        hand-over made); the steps stay valid.

        Ids it gives are never those of a step that was undone. Raises OffcutError, and changes
        nothing, for what a project cannot hold.
        """
        now = self.project
        free = max(self._highest, now.next_id)
        raised = replace(now, next_id=free) if free != now.next_id else now
        made = change(raised)
        if made is raised:
            return
        _check(made, _changes(raised, made), raised)
        if made.next_id == free:
            made = replace(made, next_id=now.next_id) if free != now.next_id else made
        else:
            self._floor = made.next_id
        self._highest = max(self._highest, made.next_id)
        self._searched |= {s.id for s in made.sources if s.searched}
        self.project = made

    def edit(self, project: Project, words: str, source: int = 0, frame: int = -1) -> bool:
        """Take an edited value; False when it is the present one.

        Raises OffcutError, and changes nothing, for what a project cannot hold.
        """
        if project is self.project or project == self.project:
            return False
        step = _step(self.project, project, words, source, frame)
        _check(project, step.sources, self.project)
        if any(step is self._saved_at for step in self._future):
            self._saved_known = False
        self._past.append(step)
        self._future.clear()
        self._highest = max(self._highest, project.next_id)
        self.project = project
        return True

    def undo(self) -> Step | None:
        """Take the last edit back and return it; None when there is none."""
        return self._move(self._past, self._future, back=True)

    def redo(self) -> Step | None:
        """Do the edit last taken back again and return it; None when there is none."""
        return self._move(self._future, self._past, back=False)

    def _move(self, out_of: list[Step], into: list[Step], *, back: bool) -> Step | None:
        if not out_of:
            return None
        step = out_of.pop()
        way = step.turned() if back else step
        kept = _with_present(way, self.project)
        held = step if kept is way else kept.turned() if back else kept
        if step is self._saved_at:
            self._saved_at = held
        into.append(held)
        self.project = self._applied(way)
        return held

    def _applied(self, step: Step) -> Project:
        sources = list(self.project.sources)
        for change in step.sources:
            at = next((i for i, s in enumerate(sources) if s.id == change.id), None)
            if change.after is None:
                if at is not None:
                    del sources[at]
            elif at is None:
                if change.before is None:
                    sources.insert(min(change.place, len(sources)), change.after)
            elif change.before is not None:
                sources[at] = self._changed(sources[at], change)
        return replace(
            self.project,
            sources=tuple(sources),
            next_id=max(step.next_ids[1], self._floor),
            **step.after,
        )

    def _changed(self, now: Source, change: _SourceChange) -> Source:
        """Return a source with what an edit changed, all else as it is now."""
        before, after = change.before, change.after
        assert before is not None
        assert after is not None
        differ = {
            name: getattr(after, name)
            for name in _FIELDS
            if getattr(before, name) != getattr(after, name)
        }
        if "searched" in differ and now.id in self._searched:
            differ["searched"] = True
        if not change.gone and not change.come:
            return replace(now, **differ)
        leaving = {s.id for s in change.gone} | {s.id for s in change.come}
        present = {s.id: s for s in now.seams if s.id in leaving}
        then = {s.id: s for s in change.gone}
        seams = [s for s in now.seams if s.id not in leaving]
        seams += [_put_onto(present.get(s.id), then.get(s.id), s) for s in change.come]
        seams.sort(key=attrgetter("frame", "id"))
        return replace(now, seams=tuple(seams), **differ)


_SEAM_FIELDS = tuple(f.name for f in fields(Seam))


def _put_onto(now: Seam | None, before: Seam | None, after: Seam) -> Seam:
    """Return a seam as it is now with what an edit changed of it.

    So what a search tells of it since (its score, its reasons) is not taken back with the edit.
    """
    if now is None or before is None or now is before:
        return after
    differ = [n for n in _SEAM_FIELDS if getattr(before, n) != getattr(after, n)]
    return replace(now, **{n: getattr(after, n) for n in differ})


def _with_present(step: Step, project: Project) -> Step:
    """Return a step that holds the sources it takes out as they are now, to bring them back so."""
    if not any(c.after is None for c in step.sources):
        return step
    present = {s.id: s for s in project.sources}
    return replace(
        step,
        sources=tuple(
            replace(c, before=present.get(c.id, c.before)) if c.after is None else c
            for c in step.sources
        ),
    )


def _bare(source: Source) -> Source:
    return replace(source, seams=())


def _changes(before: Project, after: Project) -> tuple[_SourceChange, ...]:
    """Return which sources differ, and in what."""
    old = {s.id: s for s in before.sources}
    new = {s.id: s for s in after.sources}
    changes = [
        _SourceChange(s.id, s, None, place)
        for place, s in enumerate(before.sources)
        if s.id not in new
    ]
    for place, now in enumerate(after.sources):
        then = old.get(now.id)
        if then is None:
            changes.append(_SourceChange(now.id, None, now, place))
        elif then is not now:
            gone, come = _seams_that_differ(then.seams, now.seams)
            changes.append(_SourceChange(now.id, _bare(then), _bare(now), place, gone, come))
    return tuple(changes)


def _step(before: Project, after: Project, words: str, source: int, frame: int) -> Step:
    differ = [n for n in _PARTS if getattr(before, n) != getattr(after, n)]
    return Step(
        words,
        source,
        frame,
        _changes(before, after),
        {n: getattr(before, n) for n in differ},
        {n: getattr(after, n) for n in differ},
        (before.next_id, after.next_id),
    )


def _seams_that_differ(
    old: tuple[Seam, ...], new: tuple[Seam, ...]
) -> tuple[tuple[Seam, ...], tuple[Seam, ...]]:
    """Return the seams that are only in the old, and only in the new."""
    if old is new:
        return (), ()
    most = min(len(old), len(new))
    head = next(compress(count(), map(is_not, old, new)), most)
    rest = map(is_not, islice(reversed(old), most - head), islice(reversed(new), most - head))
    tail = next(compress(count(), rest), most - head)
    left, come = old[head : len(old) - tail], new[head : len(new) - tail]
    by_old = dict(zip(map(id, left), left, strict=True))
    by_new = dict(zip(map(id, come), come, strict=True))
    return (
        tuple(map(by_old.__getitem__, by_old.keys() - by_new.keys())),
        tuple(map(by_new.__getitem__, by_new.keys() - by_old.keys())),
    )


def _check(after: Project, changes: tuple[_SourceChange, ...], before: Project) -> None:
    """Hold what differs against the rules of a project file. Raises OffcutError."""
    fault = ""
    if len(after.sources) > rules.MAX_SOURCES:
        fault = f"more than {rules.MAX_SOURCES:,} films"
    named = {s.id for s in after.scenes} | {0}
    for change in changes:
        if change.after is None or fault:
            continue
        source = after.source(change.id)
        fault = rules.fault_of_frame(source)
        if change.before is None:
            fault = fault or rules.fault_of_seams(source.seams)
            come = source.seams
        else:
            come = change.come
            fault = fault or next(filter(None, map(rules.fault_of_seam, come)), "")
            if {s.id for s in come} != {s.id for s in change.gone}:
                fault = fault or rules.fault_of_ids(source.seams)
        if source.first.scene not in named or any(s.opening.scene not in named for s in come):
            fault = fault or "a shot names a scene that is not there"
    shared = ("scenes", "orders", "waved", "rulings")
    if not fault and any(getattr(after, n) is not getattr(before, n) for n in shared):
        fault = (
            rules.fault_of_scenes(after)
            or rules.fault_of_orders(after)
            or rules.fault_of_waved(after)
            or rules.fault_of_rulings(after)
        )
    if fault:
        raise OffcutError(f"that cannot be kept in a project: {fault}; nothing was changed")
