"""Undo: the list of earlier values of a project, held as what changed between them.

A project of 3,000 seams shares nearly everything with the one before an edit, but its tuple of
seams is new each time. So a step holds only the seams that differ; thousands of edits then cost
a few kilobytes, and every earlier value can be built again exactly.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import compress, count, islice
from operator import attrgetter, is_not

from offcut.core.model.project import Project, Seam


@dataclass(frozen=True, slots=True)
class _Change:
    gone: tuple[Seam, ...]
    come: tuple[Seam, ...]


@dataclass(frozen=True, slots=True)
class Step:
    """One edit: its words ("Strike the seam at …"), the frame it touched, and what changed."""

    words: str
    frame: int
    before: Project
    after: Project
    seams: _Change


_NO_CHANGE = _Change((), ())


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
        self._saved_at, self._saved_known = self.undoable, True

    def mark_unsaved(self) -> None:
        """Remember that the present value is nowhere on disk."""
        self._saved_known = False

    def replace(self, project: Project) -> None:
        """Put in a new value that is no edit (what detection found, where the film lies now, a
        hand-over made); the steps stay valid.

        Steps hold the seams that an edit touched, so they apply on top of any found ones.
        """
        self.project = project

    def edit(self, project: Project, words: str, frame: int = -1) -> bool:
        """Take an edited value; False when it is the present one."""
        if project is self.project or project == self.project:
            return False
        if self._saved_known and self._saved_at in self._future:
            self._saved_known = False
        self._past.append(_step(self.project, project, words, frame))
        self._future.clear()
        self.project = project
        return True

    def undo(self) -> Step | None:
        """Take the last edit back and return it; None when there is none."""
        if not self._past:
            return None
        step = self._past.pop()
        self._future.append(step)
        self.project = _applied(self.project, step.before, step.seams.come, step.seams.gone)
        return step

    def redo(self) -> Step | None:
        """Do the edit last taken back again and return it; None when there is none."""
        if not self._future:
            return None
        step = self._future.pop()
        self._past.append(step)
        self.project = _applied(self.project, step.after, step.seams.gone, step.seams.come)
        return step


def _bare(project: Project) -> Project:
    return replace(project, sources=tuple(replace(s, seams=()) for s in project.sources))


def _step(before: Project, after: Project, words: str, frame: int) -> Step:
    change = _NO_CHANGE
    if (
        before.sources
        and before.current == after.current
        and len(before.sources) == len(after.sources)
    ):
        if before.source.seams is after.source.seams:
            return Step(words, frame, _bare(before), _bare(after), change)
        old, new = _parts_that_differ(before.source.seams, after.source.seams)
        by_old = dict(zip(map(id, old), old, strict=True))
        by_new = dict(zip(map(id, new), new, strict=True))
        change = _Change(
            tuple(map(by_old.__getitem__, by_old.keys() - by_new.keys())),
            tuple(map(by_new.__getitem__, by_new.keys() - by_old.keys())),
        )
        return Step(words, frame, _bare(before), _bare(after), change)
    return Step(words, frame, before, after, change)


def _parts_that_differ(
    old: tuple[Seam, ...], new: tuple[Seam, ...]
) -> tuple[tuple[Seam, ...], tuple[Seam, ...]]:
    """Return both without the very seams they begin and end with alike."""
    most = min(len(old), len(new))
    head = next(compress(count(), map(is_not, old, new)), most)
    rest = map(is_not, islice(reversed(old), most - head), islice(reversed(new), most - head))
    tail = next(compress(count(), rest), most - head)
    return old[head : len(old) - tail], new[head : len(new) - tail]


def _applied(
    now: Project, bare: Project, gone: tuple[Seam, ...], come: tuple[Seam, ...]
) -> Project:
    if not bare.sources or not now.sources or len(bare.sources) != len(now.sources):
        return bare
    leaving = {s.id for s in gone} | {s.id for s in come}
    seams = [s for s in now.source.seams if s.id not in leaving] + list(come)
    seams.sort(key=attrgetter("frame", "id"))
    sources = [
        replace(then, seams=present.seams, searched=present.searched, media=present.media)
        for then, present in zip(bare.sources, now.sources, strict=True)
    ]
    sources[now.current] = replace(sources[now.current], seams=tuple(seams))
    return replace(
        bare,
        sources=tuple(sources),
        next_id=max(bare.next_id, now.next_id),
        handovers=now.handovers,
    )
