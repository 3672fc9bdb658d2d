"""The tally in hand: which film is held against which, and what became of each shot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.views.tally.paired import Paired, RowTold
from offcut.core.errands.held_against import films_compared
from offcut.core.errors import OffcutError
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project, Ruling, ShotRef
from offcut.core.model.seam import Certainty
from offcut.core.model.shots import counted_seams, shots_of
from offcut.core.model.source import Source
from offcut.core.model.verbs.rulings import rule_shot, take_ruling_back
from offcut.core.tally.versions.carrying import Carried, Carry, carried_over
from offcut.core.tally.versions.changes import Change, Comparison
from offcut.core.tally.versions.locked import Lock, locked, timecode_offset
from offcut.core.tally.versions.ruled import doubt_first, with_rulings
from offcut.core.timecode import timecode_from_frame

SOON = 200
_NOTHING = Comparison(())
_PLAIN = "Locked by hand: nothing is told of what changed, so nothing is judged"


class VersionTally(Paired):
    """What the versions part of Tally shows.

    Attributes: ``other_id`` the film that the one in hand is held against, 0 for none; ``swapped``
    True where the film in hand is the new one; ``comparison`` what became of each shot, rulings
    and all; ``looks_closer`` True while the frames are still told by fine prints; ``held_by`` what
    holds both to the same frame, ``offset`` old frame = new frame + offset where that is no tie.
    """

    _came_first = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.other_id = 0
        self.swapped = False
        self.held_by, self.offset = Lock.PICTURES, 0
        self.comparison = _NOTHING
        self._found: tuple[object, Comparison] | None = None
        self._asked: object = None
        self._taken: ShotRef | None = None
        self._shown_of: object = None
        self._job: Job | None = None
        self.looks_closer = False
        self._came_first.connect(self._take_first)
        self.works_when_asked(SOON)

    # which films

    @property
    def old(self) -> Source | None:
        """The old version, None where there is none."""
        return self._film(self.other_id if self.swapped else self._s.in_hand)

    @property
    def new(self) -> Source | None:
        """The new version, None where there is none."""
        return self._film(self._s.in_hand if self.swapped else self.other_id)

    def _film(self, source_id: int) -> Source | None:
        return self._s.project.source(source_id) if self._s.project.holds(source_id) else None

    @property
    def others(self) -> list[Source]:
        """The films that the one in hand can be held against."""
        return [s for s in self._s.project.sources if s.id != self._s.in_hand]

    def hold_against(self, source_id: int) -> None:
        """Hold the film in hand against another."""
        self.other_id = source_id
        self.row = -1
        self._by_plain_lock()
        self.refresh()

    def swap(self) -> None:
        """Let the film in hand be the new version, or the old one."""
        self.swapped = not self.swapped
        self.row = -1
        self.offset = -self.offset
        self._by_plain_lock()
        self.refresh()

    def lock_by(self, lock: Lock) -> None:
        """Hold both to the same frame by something else."""
        self.held_by = lock
        self._by_plain_lock()
        self._shown_of = None
        self.refresh()

    def set_offset(self, offset: int) -> None:
        """Lock both at an offset: old frame = new frame + offset."""
        self.held_by, self.offset = Lock.OFFSET, offset
        self._shown_of = None
        self.refresh()

    @property
    def tells(self) -> bool:
        """False where a plain lock says nothing of what changed."""
        return self.held_by is Lock.PICTURES

    def _by_plain_lock(self) -> None:
        """Take the offset from the timecodes, where these lock."""
        old, new = self.old, self.new
        if self.held_by is Lock.TIMECODE and old is not None and new is not None:
            self.offset = timecode_offset(old.media, new.media)

    def _forget(self) -> None:
        self.other_id, self.swapped, self.row = 0, False, -1
        self.held_by, self.offset = Lock.PICTURES, 0
        self._found = self._shown_of = None
        self.comparison, self.rows = _NOTHING, []
        if self._job is not None:
            self._job.stop.set()
        self.refresh()

    def _choose_other(self) -> None:
        """Hold the film in hand against the one most like it by its name and length."""
        here = self._s.source
        others = self.others
        if any(s.id == self.other_id for s in others) or here is None:
            return
        self.other_id = max(others, key=lambda s: _likely(here, s)).id if others else 0

    # what follows

    def refresh(self) -> None:
        """Show what is known, and have worked out what is not."""
        if not self.alive():
            return
        self._choose_other()
        old, new = self.old, self.new
        if self.held_by is not Lock.PICTURES and old is not None and new is not None:
            self._show_locked(old, new)
            return
        key = _key(old, new)
        if key is None or old is None or new is None:
            self.comparison, self.rows, self.busy = _NOTHING, [], False
            self.changed.emit()
            return
        if self._found is not None and self._found[0] == key:
            self._show(old, new)
        elif self._asked != key:
            self._asked = key
            self.busy, self.trouble, self.share = True, "", 0.0
            self._soon.start()
            self.changed.emit()

    def _show_locked(self, old: Source, new: Source) -> None:
        self.busy, self.trouble = False, ""
        self._by_plain_lock()
        here, self._asked = self.change, None
        self.comparison = locked(old, new, self.offset)
        self.rows = list(self.comparison.changes)
        self.row = self.row_like(here)
        self.changed.emit()
        self.chosen_changed.emit()

    def along(self) -> list[Change]:
        """Return what became of every shot, in the new film's order."""
        return list(self.comparison.changes)

    def marks(self, side: int) -> Sequence[int]:
        """Return the seams of a film."""
        source = self.new if side else self.old
        return [s.frame for s in counted_seams(source)] if source is not None else ()

    def sort_again(self) -> None:
        """Put the rows in their order."""
        self._shown_of = None
        self.refresh()

    def _show(self, old: Source, new: Source) -> None:
        assert self._found is not None
        shown_of = (self._found[1], self._s.project.rulings, old.seams, new.seams)
        if self._shown_of is not None and all(
            a is b
            for a, b in zip(shown_of, self._shown_of, strict=True)  # type: ignore[call-overload]
        ):
            self.changed.emit()
            return
        self._shown_of = shown_of
        here = self.change
        self.comparison = with_rulings(self._found[1], self._s.project, old.id, new.id)
        changes = self.comparison.changes
        self.rows = list(changes) if self.as_they_run else doubt_first(changes)
        self.row = self.row_like(here)
        self.changed.emit()
        self.chosen_changed.emit()

    def _work(self) -> None:
        old, new = self.old, self.new
        key = _key(old, new)
        if old is None or new is None or key is None:
            return
        if self._job is not None:
            self._job.stop.set()
        films = (self._s.bench_of(old.id).film, self._s.bench_of(new.id).film)

        def work(job: Job) -> Comparison:
            found = films_compared(
                old, new, films, stop=job.stop, progress=job.tell,
                first=lambda known: self._came_first.emit(key, known),
            )  # fmt: skip
            if not found.tied:
                raise OffcutError(
                    f"{Path(new.media.path).name} and {Path(old.media.path).name} have no shot in "
                    "common: they are two films"
                )
            return found

        self._job = self._s.work(
            "Holding versions against each other", work, lambda found: self._take(key, found),
            of=[old.id, new.id], progressed=self._told,
            failed=lambda words: self._fail(key, words),
        )  # fmt: skip

    def _told(self, done: int, whole: int) -> None:
        self.share = done / max(1, whole)
        self.changed.emit()

    def _take_first(self, key: object, found: Comparison) -> None:
        if found.tied:
            self._take(key, found, closer=True)

    def _take(self, key: object, found: Comparison, closer: bool = False) -> None:
        if key != self._asked:
            return
        self.busy, self.looks_closer, self.share = False, closer, 0.0
        self._found = key, found
        old, new = self.old, self.new
        if old is not None and new is not None and _key(old, new) == key:
            self._show(old, new)
        else:
            self.refresh()

    def _fail(self, key: object, words: str) -> None:
        if key != self._asked:
            return
        self.busy, self.trouble = False, words
        self.comparison, self.rows, self.row = _NOTHING, [], -1
        self._found = self._shown_of = None
        self.changed.emit()

    # looking and judging

    def told(self, change: Change) -> RowTold:
        """Return what a row says: of the new film, of the old one where the shot is gone."""
        source, span = (self.new, change.new) if change.new else (self.old, change.old)
        if source is None or span is None:
            return RowTold(None, 0, "", "", change.words)
        media = source.media
        at = timecode_from_frame(media.start + span[0], media.rate, media.drop)
        told = RowTold(source, sum(span) // 2, self._title(change), at, change.words)
        if self.tells:
            return replace(told, why=_why(change), warned=not change.by_hand)
        words = "nothing lies under it" if change.old is None else f"locked by {self.held_by.value}"
        return replace(told, words=words, signed=False)

    def _title(self, change: Change) -> str:
        """Return what the shot is called: by the old version where that has a name for it."""
        names = []
        for source, span in ((self.old, change.old), (self.new, change.new)):
            if source is not None and span is not None:
                names += [s for s in shots_of(source) if s.start == span[0]][:1]
        named = next((s.title for s in names if s.card.name), "")
        return named or (names[-1].title if names else "")

    def new_ref(self, change: Change) -> ShotRef | None:
        """Return the name of the shot of the new version that a change is about."""
        return _ref_at(self.new, change.new)

    def old_ref(self, change: Change) -> ShotRef | None:
        """Return the name of the shot of the old version that a change is about."""
        return _ref_at(self.old, change.old)

    def _judged(self) -> Change | None:
        """Return what can be judged now."""
        if not self.tells:
            self._s.said.emit(_PLAIN)
            return None
        return self.change

    def agree(self) -> bool:
        """Say that what was found of the shot is so."""
        change = self._judged()
        if change is None or change.new is None or self.old is None:
            return False
        new, against = self.new_ref(change), self.old.id
        old = self.old_ref(change) if change.old is not None else None
        if new is None or (change.old is not None and old is None):
            self._s.said.emit("A seam is missing there in one version: place or strike it first")
            return False
        ruling = Ruling(new, against, old, change.offset if old is not None else None)
        return self._s.edit_project(lambda p: rule_shot(p, ruling), "agree to a tie")

    def untie(self) -> bool:
        """Say that the shot was made from nothing in the old version."""
        change = self._judged()
        if change is None or change.new is None or change.old is None or self.old is None:
            return False
        new, against = self.new_ref(change), self.old.id
        if new is None:
            self._s.said.emit("A seam is missing there in one version: place or strike it first")
            return False
        ruling = Ruling(new, against, None)
        return self._s.edit_project(lambda p: rule_shot(p, ruling), "untie a shot")

    def tie(self, old: ShotRef, new: ShotRef, offset: int | None = None) -> bool:
        """Say that a shot was made from another."""
        if self.old is None:
            return False
        ruling = Ruling(new, self.old.id, old, offset)
        return self._s.edit_project(lambda p: rule_shot(p, ruling), "tie two shots")

    def lock(self, offset: int) -> bool:
        """Lock where old frame = new frame + offset: the two shots that are looked at, or both
        films where no tie holds them.
        """
        if not self.tells:
            self.set_offset(offset)
            return True
        change = self.change
        if change is None:
            return False
        old, new = self.old_ref(change), self.new_ref(change)
        return old is not None and new is not None and self.tie(old, new, offset)

    def take_old(self) -> str:
        """Take the old shot that is looked at for a tie by hand; return what was done, in words."""
        if not self.tells:
            return _PLAIN
        change = self.change
        ref = self.old_ref(change) if change is not None else None
        if ref is None:
            return "Look at a shot of the old version first, above"
        self._taken = ref
        return "Taken; now look at a shot of the new version, and tie it"

    def tie_to_taken(self) -> str:
        """Tie the new shot that is looked at to the old one that was taken; say what was done."""
        if not self.tells:
            return _PLAIN
        change = self.change
        new = self.new_ref(change) if change is not None else None
        if self._taken is None or self.old is None or self._taken.source != self.old.id:
            return "Take a shot of the old version first"
        if new is None:
            return "Look at a shot of the new version first, below"
        return "Tied by hand" if self.tie(self._taken, new) else "They are tied already"

    def take_back(self) -> bool:
        """Let the pictures tell again."""
        change = self._judged()
        if change is None or change.new is None or self.old is None:
            return False
        new, against = self.new_ref(change), self.old.id
        if new is None:
            return False
        return self._s.edit_project(lambda p: take_ruling_back(p, new, against), "untie by hand")

    def carry(self, what: list[Carry]) -> Carried | None:
        """Carry over what was decided to the new version; return what could not be placed."""
        old, new = self.old, self.new
        if old is None or new is None or not self.comparison.changes or not self.tells:
            return None
        old_id, new_id, comparison = old.id, new.id, self.comparison
        told: list[Carried] = []

        def verb(project: Project) -> Project:
            carried = carried_over(project, old_id, new_id, comparison, what)
            told.append(carried)
            return carried.project

        self._s.edit_project(verb, "carry over to the new version")
        return told[-1] if told else None


def _ref_at(source: Source | None, span: tuple[int, int] | None) -> ShotRef | None:
    if source is None or span is None:
        return None
    for shot in shots_of(source):
        if (shot.start, shot.end) == span:
            return ref_of(source, shot)
    return None


def _key(old: Source | None, new: Source | None) -> object:
    """Return what a comparison depends on, None where it cannot be made."""
    if old is None or new is None or not (old.searched and new.searched):
        return None
    parts: list[Any] = []
    for source in (old, new):
        seams = tuple((s.frame, s.start, s.end) for s in counted_seams(source))
        parts.append(
            (source.id, source.start, source.end, source.framing, source.media.rate, seams)
        )
    return tuple(parts)


def _likely(one: Source, other: Source) -> float:
    mine, theirs = (Path(s.media.path).stem.lower() for s in (one, other))
    alike = SequenceMatcher(None, mine, theirs).ratio()
    return alike + min(one.media.frames, other.media.frames) / max(
        one.media.frames, other.media.frames
    )


def _why(change: Change) -> str:
    """Return why a change is in doubt, empty where it is not."""
    if change.by_hand:
        return "said by hand"
    if change.certainty is Certainty.SURE:
        return ""
    against = [r.text for r in change.reasons if r.against] or [r.text for r in change.reasons]
    return f"{change.certainty.value}: {against[0]}" if against else change.certainty.value
