"""What is in hand of the open project: which film, where in it, what is selected. No Qt."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable
from fractions import Fraction
from itertools import takewhile
from pathlib import Path

from offcut.app.session.bench import Bench
from offcut.app.session.document import Document
from offcut.core.errors import OffcutError
from offcut.core.judge.camera_stops import is_stop
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Order, OrderUse, ShotRef
from offcut.core.model.seam import Seam
from offcut.core.model.shots import (
    Shot,
    counted_ids,
    counted_seams,
    doubt_order,
    shot_at,
    shots_of,
    to_judge,
)
from offcut.core.model.slivers import suggested_limit
from offcut.core.model.source import Source
from offcut.core.store.missing_films import FilmThere
from offcut.core.timecode import base_of, frame_from_typed, timecode_from_frame

OPEN_FILMS = 8
"""So many films are kept open; of the others only what was decided, until they are looked at."""


class InHand:
    """What is in hand. Whoever changes it is told whether that made a difference.

    Attributes: ``source_id`` the film that is looked at, 0 in an empty project; ``chosen`` the ids
    of the films that are chosen on the shelf; ``picked`` the shots that are chosen on the Board;
    ``order_id`` the running order in hand, 0 for none; ``handing`` what Turnover is opened for,
    empty for what it showed last; ``sliver_limit`` frames under which a shot is a sliver, 0 for the
    film's own; ``stops_first`` True where camera stops are listed before all else. Of the film in
    hand: ``shots``; ``doubts`` its seams in order of doubt; ``open_doubts`` those still to judge;
    ``counted_ids`` of the seams that count.
    """

    def __init__(self, document: Document) -> None:
        self._document = document
        self.source_id = 0
        self.chosen: tuple[int, ...] = ()
        self.picked: tuple[ShotRef, ...] = ()
        self.order_id = 0
        self.handing = ""
        self.sliver_limit = 0
        self.stops_first = False
        self.shots: tuple[Shot, ...] = ()
        self.doubts: tuple[Seam, ...] = ()
        self.open_doubts: tuple[Seam, ...] = ()
        self.counted_ids: frozenset[int] = frozenset()
        self._benches: dict[int, Bench] = {}
        self._open: list[int] = []
        self._seen = ""
        self._followed: Source | None = None

    # films

    @property
    def source(self) -> Source | None:
        """The source in hand, None in an empty project."""
        sources = self._document.project.sources
        return next((s for s in sources if s.id == self.source_id), None)

    @property
    def bench(self) -> Bench:
        """The bench of the source in hand."""
        return self.bench_of(self.source_id)

    def bench_of(self, source_id: int) -> Bench:
        """Return the bench of a source; it is laid out when first asked for."""
        return self._benches.setdefault(source_id, Bench(source_id))

    @property
    def films(self) -> dict[int, OpenedFilm]:
        """The films that are open now, by the ids of their sources."""
        held = [(i, bench.film) for i, bench in list(self._benches.items())]  # any thread asks
        return {i: film for i, film in held if film is not None}

    @property
    def lies_at(self) -> Path | None:
        """Where the film in hand lies, else the project; None where there is neither."""
        return Path(self.source.media.path) if self.source is not None else self._document.file

    def begin(self, in_hand: int) -> None:
        """Another project was put in: look at one of its films, the first one for 0."""
        project = self._document.project
        self._benches.clear()
        self._open.clear()
        self.chosen = self.picked = ()
        self.order_id = 0
        first = project.sources[0].id if project.sources else 0
        self.source_id = in_hand if project.holds(in_hand) else first

    def take(self, source_id: int) -> bool:
        """Look at another film; tell whether it is another. Those looked at longest ago close."""
        if source_id == self.source_id:
            return False
        self.source_id = source_id
        self.use(source_id)
        return True

    def use(self, source_id: int) -> None:
        """Keep a film open, and let the ones looked at longest ago go."""
        self._open = [source_id, *(i for i in self._open if i != source_id)]
        for old in self._open[OPEN_FILMS:]:
            self.bench_of(old).let_go()
        del self._open[OPEN_FILMS:]

    def let_go_of_the_gone(self) -> None:
        """Close the films that the project does not hold any more."""
        for source_id, bench in self._benches.items():
            if source_id and not self._document.project.holds(source_id):
                bench.let_go()

    def lay(self, source_id: int, there: FilmThere) -> bool:
        """Put on its bench what lies where a film should be; False where no such film is held."""
        bench = self.bench_of(source_id)
        bench.opening = False
        if not self._document.project.holds(source_id):
            return False
        if there.film is not None and bench.plain is not there.film:
            self.use(source_id)
            bench.let_go()
        bench.plain = there.film
        if there.film is None:
            bench.let_go()
        bench.open_as(self._document.project.source(source_id))
        bench.missing = None if there.film is not None else there
        return True

    def choose(self, source_ids: Iterable[int]) -> bool:
        """Choose films of the project; tell whether they are others."""
        before, held = self.chosen, self._document.project.holds
        self.chosen = tuple(i for i in dict.fromkeys(source_ids) if held(i))
        return self.chosen != before

    @property
    def chosen_sources(self) -> tuple[Source, ...]:
        """The chosen films in the order of the project; the one in hand where none is chosen."""
        chosen = set(self.chosen) if self.source_id in self.chosen else {self.source_id}
        return tuple(s for s in self._document.project.sources if s.id in chosen)

    def film_beside(self, way: int) -> int:
        """Return the film after (1) or before (-1) the one in hand, round; 0 where it is alone."""
        ids = [s.id for s in self._document.project.sources]
        return ids[(ids.index(self.source_id) + way) % len(ids)] if len(ids) > 1 else 0

    @property
    def order(self) -> Order | None:
        """The running order in hand, None where there is none."""
        orders = self._document.project.orders
        return next((o for o in orders if o.id == self.order_id), None)

    # what follows from the project

    def follow(self) -> bool:
        """Work out anew what follows from the project; tell whether the film is seen otherwise."""
        source = self.source
        if source is not self._followed or source is None:
            self._followed = source
            self.shots = shots_of(source) if source else ()
            self.counted_ids = counted_ids(source) if source else frozenset()
            self.sort_doubts()
        return self._open_as_set()

    def sort_doubts(self) -> None:
        """Put the seams in order of doubt, camera stops first where that is wanted."""
        source = self.source
        self.doubts = doubt_order(source) if source else ()
        if self.stops_first:
            self.doubts = tuple(sorted(self.doubts, key=_after_stops))
        self.open_doubts = self.doubts[: to_judge(source) if source else 0]

    def _open_as_set(self) -> bool:
        """Take open films as their tickets have them now; tell whether the one in hand changed."""
        changed = False
        for source in self._document.project.sources:
            bench = self._benches.get(source.id)
            if bench is not None and bench.open_as(source):
                changed = changed or source.id == self.source_id
        seen = self.source.ticket.display if self.source is not None else ""
        changed = changed or seen != self._seen
        self._seen = seen
        return changed

    # timecode

    def words_of(self, frame: int) -> str:
        """Return the timecode of a frame of the source in hand."""
        if self.source is None:
            return "00:00:00:00"
        media = self.source.media
        return timecode_from_frame(media.start + frame, media.rate, media.drop)

    @property
    def clock(self) -> tuple[Fraction, bool]:
        """Rate and drop-frame of the film in hand; 25 without a film."""
        source = self.source
        return (source.media.rate, source.media.drop) if source else (Fraction(25), False)

    @property
    def second(self) -> int:
        """Frames in a second of timecode."""
        return base_of(self.source.media.rate) if self.source else 25

    @property
    def sliver_frames(self) -> int:
        """The limit under which a shot is a sliver, in frames: what was set, or suggested."""
        if self.sliver_limit or self.source is None:
            return self.sliver_limit or self.second
        return suggested_limit(self.source, self.second)

    def frame_typed(self, text: str) -> int | None:
        """Return the frame a person typed, None without a film.

        Raises OffcutError with a sentence where it makes no sense.
        """
        if self.source is None:
            return None
        media = self.source.media
        frame = frame_from_typed(
            text, media.rate, drop=media.drop, start=media.start, here=self.bench.playhead
        )
        if not 0 <= frame < media.frames:
            raise OffcutError(f"{text} lies outside the film")
        return frame

    # places in the film

    @property
    def marked(self) -> tuple[int, int] | None:
        """The marked range [in, out), None when nothing is marked; an end not set is the film's."""
        source, bench = self.source, self.bench
        if source is None or (bench.mark_in is None and bench.mark_out is None):
            return None
        first = source.start if bench.mark_in is None else bench.mark_in
        last = source.end if bench.mark_out is None else bench.mark_out
        return (first, last) if first < last else None

    def mark(self, first: int | None, last: int | None) -> None:
        """Set the ends of the marked range; an end that the other one passes is taken away."""
        if first is not None and last is not None and first >= last:
            first, last = (first, None) if first != self.bench.mark_in else (None, last)
        self.bench.mark_in, self.bench.mark_out = first, last

    def go_to(self, frame: int) -> bool:
        """Move the playhead to a frame, kept inside the film; tell whether it moved."""
        if self.source is None:
            return False
        before = self.bench.playhead
        self.bench.playhead = max(0, min(self.source.media.frames - 1, frame))
        return self.bench.playhead != before

    def shot_here(self) -> Shot | None:
        """Return the shot under the playhead."""
        return shot_at(self.shots, self.bench.playhead)

    def use_here(self) -> OrderUse | None:
        """Return what can go into a running order: the marked range, or the shot here."""
        source, shot, marked = self.source, self.shot_here(), self.marked
        if source is None or (marked is None and shot is None):
            return None
        if marked is not None:
            return OrderUse(0, source.id, None, *marked)
        assert shot is not None
        return OrderUse(0, source.id, ref_of(source, shot))

    def seam_here(self) -> Seam | None:
        """Return the seam the playhead is parked on: the selected one, or one at its frame."""
        if self.source is None:
            return None
        seams, here = self.source.seams, self.bench.playhead
        first = bisect_left(seams, here, key=lambda s: s.frame)
        at = list(takewhile(lambda s: s.frame == here, seams[first : first + 8]))
        return max(at, key=self._meant, default=None)

    def _meant(self, seam: Seam) -> tuple[bool, bool, float]:
        """Return what sorts seams at one frame: the selected, one that counts, the likeliest."""
        return seam.id in self.bench.selected, seam.id in self.counted_ids, seam.score

    def next_stops(self) -> list[Seam]:
        """Return the seams a person is likely to go to next: before, after, the next doubtful."""
        counted = counted_seams(self.source) if self.source else ()
        playhead, selected = self.bench.playhead, self.bench.selected
        at = bisect_left(counted, playhead, key=lambda s: s.frame)
        here = at < len(counted) and counted[at].frame == playhead
        stops = [*counted[at + here : at + here + 2], *counted[max(0, at - 1) : at]]
        parked = selected[0] if selected else None
        place = next((i for i, s in enumerate(self.open_doubts) if s.id == parked), -1)
        return [*self.open_doubts[place + 1 : place + 3], *stops]

    @property
    def selected_seams(self) -> tuple[Seam, ...]:
        """The selected seams that there are, in the film's order."""
        if self.source is None or not self.bench.selected:
            return ()
        chosen = set(self.bench.selected)
        return tuple(s for s in self.source.seams if s.id in chosen)


def _after_stops(seam: Seam) -> tuple[bool, bool, int]:
    """Return what sorts open camera stops before all else, in the film's order."""
    stop = is_stop(seam) and not seam.judged
    return not stop, seam.judged, seam.frame if stop else 0
