"""The originals in hand: folders looked through, and which file each shot was made from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from offcut.app.session.jobs import Job
from offcut.app.session.session import Session
from offcut.app.views.tally.paired import Paired, RowTold
from offcut.core.errands.conforming import Conform, Rushes, conformed, original_of, rushes_in
from offcut.core.errors import OffcutError
from offcut.core.model.card import Card
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty
from offcut.core.model.shots import Shot, counted_seams, shots_of
from offcut.core.model.source import Media, Source
from offcut.core.model.verbs.replacing import with_cards
from offcut.core.tally.originals.clips import By, Match, OriginalsOfShot
from offcut.core.tally.versions.changes import Change, What
from offcut.core.timecode import timecode_from_frame
from offcut.core.words import many

SOON = 300


def _doubt(row: Change) -> int:
    return 4 if row.old is None else 3 if row.by_hand else _RANK[row.certainty]


_RANK = {Certainty.DOUBTFUL: 0, Certainty.LIKELY: 1, Certainty.SURE: 2}


class OriginalTally(Paired):
    """What the originals part of Tally shows: the original on the one side, the film on the other.

    Attributes: ``folders`` where the originals lie; ``rushes`` what was found there, None before.
    """

    names = ("original", "film")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.folders: tuple[str, ...] = ()
        self.rushes: Rushes | None = None
        self.conform: Conform | None = None
        self._of: object = None
        self._chosen: dict[int, int] = {}
        self._places: dict[tuple[int, int], OriginalsOfShot] = {}
        self._places_of: Conform | None = None
        self._shots: dict[tuple[int, int], Shot] = {}
        self._shots_of: Source | None = None
        self._job: Job | None = None
        self.works_when_asked(SOON)

    # what there is

    @property
    def old(self) -> Source | None:
        """The original of the shot that is looked at, as a film."""
        match = self.match
        if match is None or self.conform is None:
            return None
        media = self.conform.clips[match.clip].media
        return Source(0, media, 0, media.frames)

    @property
    def new(self) -> Source | None:
        """The film in hand."""
        return self._s.source

    @property
    def flopped(self) -> bool:
        """True where the original has to be flopped to look like the film."""
        return self.match is not None and self.match.reframing.flopped

    @property
    def match(self) -> Match | None:
        """The original of the shot that is looked at."""
        found = self._found_of(self.change)
        return self._match_of(found) if found is not None else None

    def _found_of(self, change: Change | None) -> OriginalsOfShot | None:
        if change is None or self.conform is None:
            return None
        if self._places_of is not self.conform:
            self._places = {f.shot: f for f in self.conform.found}
            self._places_of = self.conform
        return self._places.get(change.new or (0, 0))

    def _match_of(self, found: OriginalsOfShot) -> Match | None:
        chosen = self._chosen.get(found.shot[0], 0)
        return found.matches[chosen] if chosen < len(found.matches) else None

    def _shot_of(self, change: Change) -> Shot | None:
        return self._shot_at(change.new or (0, 0))

    def _shot_at(self, span: tuple[int, int]) -> Shot | None:
        """Return the shot of the film that lies just there, None where none does now."""
        source = self._s.source
        if source is None:
            return None
        if self._shots_of is not source:
            self._shots = {(s.start, s.end): s for s in shots_of(source)}
            self._shots_of = source
        return self._shots.get(span)

    # finding

    def look_in(self, folders: Sequence[str]) -> None:
        """Look for originals in folders."""
        self.folders = tuple(folders)
        self.rushes, self.conform, self._of = None, None, None
        self._chosen.clear()
        self.refresh()

    def _forget(self) -> None:
        if self._job is not None:
            self._job.stop.set()
        self.folders, self.rushes, self.conform, self._of = (), None, None, None
        self._chosen.clear()
        self.rows, self.row, self.busy, self.trouble = [], -1, False, ""
        self.changed.emit()

    def refresh(self) -> None:
        """Show what is known, and have looked for what is not."""
        if not self.alive():
            return
        source = self._s.source
        if not self.folders or source is None or not source.searched:
            self.rows = []
            self.changed.emit()
            return
        key = self._key(source)
        if key != self._of:
            self._of = key
            self.busy, self.trouble, self.share = True, "", 0.0
            self._soon.start()
        self._show()

    def _key(self, source: Source) -> object:
        frames = tuple((s.frame, s.start, s.end) for s in counted_seams(source))
        return source.id, source.start, source.end, source.framing, frames, self.folders

    def _work(self) -> None:
        source = self._s.source
        if source is None or not self.folders:
            return
        if self._job is not None:
            self._job.stop.set()
        key, folders, rushes = self._of, self.folders, self.rushes
        besides = [s.media for s in self._s.project.sources]
        film = self._s.bench_of(source.id).film

        def work(job: Job) -> tuple[Rushes, Conform]:
            held = rushes or rushes_in(folders, besides=besides, stop=job.stop, progress=job.tell)
            return held, conformed(source, held, film, stop=job.stop, progress=job.tell)

        self._job = self._s.work(
            "Looking for originals", work, lambda got: self._take(key, *got), of=[source.id],
            progressed=self._told, failed=lambda words: self._fail(key, words),
        )  # fmt: skip

    def _told(self, done: int, whole: int) -> None:
        self.share = done / max(1, whole)
        self.changed.emit()

    def _take(self, key: object, rushes: Rushes, conform: Conform) -> None:
        if key != self._of:
            return
        self.busy = False
        self.rushes, self.conform = rushes, conform
        self._show()
        self._s.said.emit(
            f"{many(sum(f.best is not None for f in conform.found), 'original')} found "
            f"among {many(len(conform.clips), 'file')}"
        )

    def _fail(self, key: object, words: str) -> None:
        if key == self._of:
            self.busy, self.trouble = False, words
            self.rows = []
            self.changed.emit()

    # showing

    def _show(self) -> None:
        here = self.change
        if self.conform is None:
            self.rows = []
        else:
            rows = [self._row(f) for f in self.conform.found]
            self.rows = rows if self.as_they_run else sorted(rows, key=_doubt)
        self.row = self.row_like(here)
        self.changed.emit()
        self.chosen_changed.emit()

    def said_of(self, change: Change) -> tuple[str, str]:
        """Return what is said where there is no picture."""
        return "no original was found", "the film is not there"

    def sort_again(self) -> None:
        """Put the rows in their order."""
        self._show()

    def _row(self, found: OriginalsOfShot) -> Change:
        match = self._match_of(found)
        if match is None:
            return Change(What.GONE, None, found.shot)
        span = match.span(found.shot[1] - found.shot[0])
        plain = match.speed == 1
        offset = match.first - found.shot[0] if plain else match.first
        certainty = Certainty.SURE if match.by is By.HAND else match.certainty
        return Change(
            What.SAME, span, found.shot, certainty=certainty, reasons=match.reasons,
            speed=match.speed, offset=offset, by_hand=self._is_taken(found, match),
        )  # fmt: skip

    def _is_taken(self, found: OriginalsOfShot, match: Match) -> bool:
        """Tell whether the shot's card has this original."""
        if self.conform is None:
            return False
        shot = self._shot_at(found.shot)
        original = shot.card.original if shot is not None else None
        if original is None or original.file is None or shot is None:
            return False
        clip = self.conform.clips[match.clip].media
        first = original.timecode_at(shot.start) - original.file.start
        return (original.file.path, first, original.speed) == (clip.path, match.first, match.speed)

    def told(self, change: Change) -> RowTold:
        """Return what a row says of a shot and its original."""
        source, shot = self._s.source, self._shot_of(change)
        if source is None or shot is None:
            return RowTold(None, 0, "", "", "")
        media = source.media
        at = timecode_from_frame(media.start + shot.start, media.rate, media.drop)
        middle = (shot.start + shot.end) // 2
        found = self._found_of(change)
        match = self._match_of(found) if found is not None else None
        if match is None or self.conform is None:
            return RowTold(source, middle, shot.title, at, "no original was found", "", True)
        clip = self.conform.clips[match.clip].media
        said = [Path(clip.path).name, f"by its {match.by.value}"]
        if match.reframing.words:
            said.append(match.reframing.words)
        if match.speed != 1:
            said.append(f"at {float(match.speed):.0%}")
        why = ""
        if change.by_hand:
            why = "on its card"
        elif match.certainty is not Certainty.SURE:
            against = [r.text for r in match.reasons if r.against]
            why = ": ".join([match.certainty.value, *against[:1]])
        return RowTold(source, middle, shot.title, at, ", ".join(said), why, not change.by_hand)

    def clip_of(self, change: Change) -> Media | None:
        """Return the file of a shot's original, None where there is none."""
        found = self._found_of(change)
        match = self._match_of(found) if found is not None else None
        if match is None or self.conform is None:
            return None
        return self.conform.clips[match.clip].media

    @property
    def counts(self) -> dict[str, int]:
        """How many shots have an original, by how it was found, in words that are shown."""
        matches = [self._match_of(f) for f in self.conform.found] if self.conform else []
        by = [m.by for m in matches if m is not None]
        return {
            **{f"by {b.value}": by.count(b) for b in (By.TIMECODE, By.NAME, By.PICTURE)},
            "in doubt": sum(c.certainty is Certainty.DOUBTFUL and c.old is not None
                            for c in self.rows),
            "without one": matches.count(None),
            "on their cards": sum(c.by_hand for c in self.rows),
        }  # fmt: skip

    @property
    def to_take(self) -> list[Change]:
        """Originals that are not in doubt and not on the cards of their shots yet."""
        return [
            c for c in self.rows
            if c.old is not None and c.certainty is not Certainty.DOUBTFUL and not c.by_hand
        ]  # fmt: skip

    @property
    def odd_lines(self) -> list[str]:
        """What is odd: shots without an original, files used twice or not at all, notes."""
        if self.conform is None or self._s.source is None:
            return []
        conform = self.settled()
        titles = {s.start: s.title for s in shots_of(self._s.source)}
        said = [f"Without an original: {titles.get(f.shot[0], '')}" for f in conform.without]
        for clip, users in conform.shared:
            names = ", ".join(titles.get(f.shot[0], "") for f in users)
            said.append(f"{Path(clip.media.path).name} is used by {names}")
        said += [f"Not used: {Path(c.media.path).name}" for c in conform.unused]
        return [*said, *(self.rushes.notes if self.rushes is not None else ())]

    # judging

    def next_likely(self) -> bool:
        """Try the next likeliest original of the shot; tell whether there is another."""
        found = self._found_of(self.change)
        if found is None or len(found.matches) < 2:
            return False
        start = found.shot[0]
        self._chosen[start] = (self._chosen.get(start, 0) + 1) % len(found.matches)
        self._show()
        return True

    def lock(self, old: int, new: int) -> bool:
        """Let a frame of the original be the one of the film; it is then said by hand."""
        found, match, conform = self._found_of(self.change), self.match, self.conform
        if found is None or match is None or conform is None:
            return False
        first = old - round((new - found.shot[0]) * match.speed)
        said = replace(match, first=first, by=By.HAND, certainty=Certainty.SURE, reasons=())
        rest = tuple(m for m in found.matches if m is not match)
        now = replace(found, matches=(said, *rest))
        self.conform = replace(
            conform, found=tuple(now if f is found else f for f in conform.found)
        )
        self._chosen.pop(found.shot[0], None)
        self._show()
        return True

    def take(self, changes: Sequence[Change]) -> int:
        """Put the originals of shots on their cards; return how many were put there."""
        source, conform = self._s.source, self.conform
        if source is None or conform is None:
            return 0
        made: dict[int, Match] = {}
        for change in changes:
            found = self._found_of(change)
            match = self._match_of(found) if found is not None else None
            if found is not None and match is not None and not change.by_hand:
                made[found.shot[0]] = match

        def verb(project: Project) -> Project:
            held = project.source(source.id)
            by_ref = {ref_of(held, s): s for s in shots_of(held) if s.start in made}

            def with_original(ref: object, card: Card) -> Card:
                shot = by_ref[ref]  # type: ignore[index]
                match = made[shot.start]
                original = original_of(match, conform.clips[match.clip], shot.start)
                comments = card.original.comments if card.original is not None else ()
                kept = tuple(dict.fromkeys((*comments, *original.comments)))
                return replace(card, original=replace(original, comments=kept))

            return with_cards(project, by_ref, with_original)

        words = "take an original" if len(made) == 1 else f"take {many(len(made), 'original')}"
        return len(made) if made and self._s.edit_project(verb, words) else 0

    def leave(self, change: Change) -> bool:
        """Take the original off a shot's card."""
        source, shot = self._s.source, self._shot_of(change)
        if source is None or shot is None or shot.card.original is None:
            return False
        ref = ref_of(source, shot)
        return self._s.edit_project(
            lambda p: with_cards(p, [ref], lambda _r, card: replace(card, original=None)),
            "take an original off",
        )

    def settled(self) -> Conform:
        """Return what each shot was made from, with what a person chose first. Raises OffcutError
        where nothing was found yet.
        """
        if self.conform is None:
            raise OffcutError("no originals were looked for yet")
        found = []
        for one in self.conform.found:
            best = self._match_of(one)
            rest = tuple(m for m in one.matches if m is not best)
            found.append(replace(one, matches=(best, *rest) if best is not None else ()))
        return replace(self.conform, found=tuple(found))
