"""The open project: its history, its benches and which is in hand; the one place of all edits."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable
from fractions import Fraction
from itertools import takewhile
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from offcut.app.session.bench import Bench
from offcut.app.session.file_places import FilePlaces
from offcut.app.session.jobs import Hearer, Job, Jobs
from offcut.app.session.picture_budget import PictureBudget
from offcut.core.errors import OffcutError
from offcut.core.judge.camera_stops import is_stop
from offcut.core.measure.kept_signals import LIMIT as SIGNALS_LIMIT
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.proxy import LIMIT as PROXY_LIMIT
from offcut.core.model.history import History, Step
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.seam import Seam
from offcut.core.model.shots import Shot, counted_seams, doubt_order, shot_at, shots_of
from offcut.core.model.slivers import suggested_limit
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import seam_by_id
from offcut.core.model.verbs.ticket import for_each
from offcut.core.store.missing_films import FilmThere
from offcut.core.store.thumbnails import LIMIT as PICTURES_LIMIT
from offcut.core.timecode import base_of, frame_from_typed, timecode_from_frame

OPEN_FILMS = 8
"""So many films are kept open; of the others only what was decided, until they are looked at."""

Verb = Callable[[Project, int], Project]


class Session(QObject):
    """What the window shows. Views ask it and call its methods; it alone changes what is open.

    Attributes: ``history`` the project and its undo; ``token`` what is another object in every
    project that is put in; ``file`` where the project is saved;
    ``in_hand`` the id of the source that is looked at, 0 in an empty project; ``chosen`` the ids of
    the films that are chosen on the shelf; ``picked`` the shots that are chosen on the Board;
    ``order_id`` the running order in hand, 0 for none; ``handing`` what Turnover is opened for,
    empty for what it showed last; ``view`` the id of the view that is open;
    ``counted_ids`` of its seams that count; ``cache_limit``, ``pictures_limit`` and ``proxy_limit``
    the most bytes of signals, small pictures and proxies kept on disk; ``proxy_folder`` where
    proxies lie, None for the usual place; ``places`` where kinds of files went last;
    ``pictures`` the budget of those held in memory; ``sliver_limit`` frames under which a shot is
    a sliver, 0 for the film's own; ``searching`` True while seams are found; ``stops_first`` True
    where camera stops are listed before all else.

    Signals: ``said`` what was done; ``failed`` why something a person asked for makes no sense;
    ``lost`` what work did not come, or was refused, and what can be done: it is told until it is
    read; ``changed`` the project, or what follows from it; ``film_changed`` another film is in
    hand, or it was opened, or is gone, or is seen otherwise; ``film_wanted`` one that is not open
    is looked at; ``moved`` the playhead; ``dragging`` tells (frame, start, end) of a seam while it
    is dragged, None at the end; ``view_wanted`` another view is asked for by its id;
    ``project_changed`` another project was put in; ``chosen_changed`` other films are chosen;
    ``picked_changed`` other shots; ``order_changed`` another running order is in hand;
    ``shot_wanted`` a shot of another project is asked for: its path, source and seam;
    ``proxy_changed`` there is more of a film's proxy, or less; ``stretch_changed`` another
    stretch of the film in hand is shown.
    """

    changed = Signal()
    film_changed = Signal()
    film_wanted = Signal(int)
    moved = Signal(int)
    selection_changed = Signal()
    marked_changed = Signal()
    dragging = Signal(object)
    said = Signal(str)
    failed = Signal(str)
    lost = Signal(str)
    view_wanted = Signal(str)
    project_changed = Signal()
    chosen_changed = Signal()
    picked_changed = Signal()
    order_changed = Signal()
    shot_wanted = Signal(str, int, int)
    proxy_changed = Signal(int)
    stretch_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(Project())
        self.token = object()
        self.jobs = Jobs(self)
        self.file: Path | None = None
        self.in_hand = 0
        self.view = ""
        self.sliver_limit = 0
        self.stops_first = False
        self.searching = False
        self.cache_limit = SIGNALS_LIMIT
        self.pictures_limit = PICTURES_LIMIT
        self.proxy_limit = PROXY_LIMIT
        self.proxy_folder: Path | None = None
        self.places = FilePlaces()
        self.pictures = PictureBudget()
        self.chosen: tuple[int, ...] = ()
        self.picked: tuple[ShotRef, ...] = ()
        self.order_id = 0
        self.handing = ""
        self.counted_ids: frozenset[int] = frozenset()
        self._waited: list[Callable[[], bool]] = []
        self._lacking: list[Callable[[], bool]] = []
        self._seen = ""
        self._benches: dict[int, Bench] = {}
        self._open: list[int] = []
        self._shots: tuple[Shot, ...] = ()
        self._doubts: tuple[Seam, ...] = ()
        self._open_doubts: tuple[Seam, ...] = ()

    # what there is

    @property
    def project(self) -> Project:
        """The present value of the project."""
        return self.history.project

    @property
    def source(self) -> Source | None:
        """The source in hand, None in an empty project."""
        return next((s for s in self.project.sources if s.id == self.in_hand), None)

    @property
    def bench(self) -> Bench:
        """The bench of the source in hand."""
        return self.bench_of(self.in_hand)

    def bench_of(self, source_id: int) -> Bench:
        """Return the bench of a source; it is laid out when first asked for."""
        return self._benches.setdefault(source_id, Bench(source_id))

    @property
    def film(self) -> OpenedFilm | None:
        """The film in hand, None while it is not open."""
        return self.bench.film

    @property
    def films(self) -> dict[int, OpenedFilm]:
        """The films that are open now, by the ids of their sources."""
        held = [(i, bench.film) for i, bench in list(self._benches.items())]  # any thread asks
        return {i: film for i, film in held if film is not None}

    @property
    def film_missing(self) -> bool:
        """True when the film in hand is not where it should be."""
        return self.bench.missing is not None

    @property
    def lies_at(self) -> Path | None:
        """Where the film in hand lies, else the project; None where there is neither."""
        return Path(self.source.media.path) if self.source is not None else self.file

    @property
    def playhead(self) -> int:
        """The frame of the source in hand that is looked at."""
        return self.bench.playhead

    @property
    def selected(self) -> tuple[int, ...]:
        """The ids of the selected seams, the one parked on first."""
        return self.bench.selected

    @property
    def mark_in(self) -> int | None:
        """Where the marked range begins, None where not set."""
        return self.bench.mark_in

    @property
    def mark_out(self) -> int | None:
        """Where the marked range ends, None where not set."""
        return self.bench.mark_out

    @property
    def trace(self) -> NDArray[np.float32]:
        """The change per frame of the film in hand, as far as measured."""
        return self.bench.trace

    @property
    def trace_start(self) -> int:
        """The frame at which the trace begins."""
        return self.bench.trace_start

    @property
    def damaged(self) -> tuple[tuple[int, int], ...]:
        """The damaged stretches of the film in hand."""
        return self.bench.damaged

    @property
    def shots(self) -> tuple[Shot, ...]:
        """The shots of the source in hand."""
        return self._shots

    @property
    def doubts(self) -> tuple[Seam, ...]:
        """The seams in order of doubt."""
        return self._doubts

    @property
    def open_doubts(self) -> tuple[Seam, ...]:
        """The seams still to judge, in order of doubt; judged ones always come last."""
        return self._open_doubts

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

    def set_sliver_limit(self, frames: int) -> None:
        """Set the limit of slivers, 0 for the film's own."""
        self.sliver_limit = frames
        self.changed.emit()

    def set_stops_first(self, first: bool) -> None:
        """List camera stops before all else, in the film's order, or every seam by doubt."""
        self.stops_first = first
        self.refresh()

    @property
    def marked(self) -> tuple[int, int] | None:
        """The marked range [in, out), None when nothing is marked; an end not set is the film's."""
        source = self.source
        if source is None or (self.mark_in is None and self.mark_out is None):
            return None
        first = source.start if self.mark_in is None else self.mark_in
        last = source.end if self.mark_out is None else self.mark_out
        return (first, last) if first < last else None

    def mark(self, first: int | None, last: int | None) -> None:
        """Set the ends of the marked range; an end that the other one passes is taken away."""
        if first is not None and last is not None and first >= last:
            first, last = (first, None) if first != self.mark_in else (None, last)
        self.bench.mark_in, self.bench.mark_out = first, last
        self.marked_changed.emit()

    def show_stretch(self, left: float, right: float) -> None:
        """Show frames [left, right) of the film in hand wherever it is laid along a scale."""
        if (left, right) != self.bench.stretch:
            self.bench.stretch = left, right
            self.stretch_changed.emit()

    def shot_here(self) -> Shot | None:
        """Return the shot under the playhead."""
        return shot_at(self._shots, self.playhead)

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
        seams = self.source.seams
        first = bisect_left(seams, self.playhead, key=lambda s: s.frame)
        at = list(takewhile(lambda s: s.frame == self.playhead, seams[first : first + 8]))
        return max(at, key=self._meant, default=None)

    def _meant(self, seam: Seam) -> tuple[bool, bool, float]:
        """Return what sorts seams at one frame: the selected, one that counts, the likeliest."""
        return seam.id in self.selected, seam.id in self.counted_ids, seam.score

    def next_stops(self) -> list[Seam]:
        """Return the seams a person is likely to go to next: before, after, the next doubtful."""
        counted = counted_seams(self.source) if self.source else ()
        at = bisect_left(counted, self.playhead, key=lambda s: s.frame)
        here = at < len(counted) and counted[at].frame == self.playhead
        stops = [*counted[at + here : at + here + 2], *counted[max(0, at - 1) : at]]
        open_ones = self.open_doubts
        parked = self.selected[0] if self.selected else None
        place = next((i for i, s in enumerate(open_ones) if s.id == parked), -1)
        return [*open_ones[place + 1 : place + 3], *stops]

    # work off the interface thread

    def work(
        self,
        words: str,
        work: Callable[[Job], Any],
        done: Hearer | None = None,
        *,
        of: Iterable[int] = (),
        whatever: bool = False,
        failed: Hearer | None = None,
        progressed: Hearer | None = None,
        partial: Hearer | None = None,
        ended: Hearer | None = None,
        quick: bool = False,
    ) -> Job:
        """Begin work on a thread; what comes of it is heard on the interface thread.

        ``done`` hears the answer, ``failed`` a sentence (`lost` tells it where nothing else does),
        ``progressed`` (done, whole), ``partial`` what comes on the way, ``ended`` the end, always.
        The answer belongs to the project that is open now, and to the films ``of`` these ids: it is
        dropped once another project is open or one of them is gone or is another film. With
        ``whatever`` it belongs to none and is always heard. ``quick`` is what a person waits for.
        """
        token, media = self.token, {i: self._is_of(i) for i in of}

        def holds() -> bool:
            same = all(self._is_of(i) == known for i, known in media.items())
            return self.token is token and same

        job = self.jobs.start(words, work, quick=quick, holds=None if whatever else holds)

        def tell(words: str) -> None:
            if not job.stop.is_set():
                self.lost.emit(words)

        heard = (
            (job.done, done), (job.failed, failed or tell), (job.progressed, progressed),
            (job.partial, partial), (job.ended, ended),
        )  # fmt: skip
        for word, hearer in heard:
            if hearer is not None:
                word.connect(hearer)
        return job

    def _is_of(self, source_id: int) -> str:
        """Return by what a film is known, empty where the project does not hold it."""
        if not self.project.holds(source_id):
            return ""
        media = self.project.source(source_id).media
        return media.fingerprint or media.path

    # edits

    def edit(self, verb: Verb, words: str, frame: int | None = None) -> bool:
        """Apply a verb to the source in hand as one undoable edit; False when it changed nothing.

        The verb is called with the project and the id of that source.
        """
        if self.source is None:
            return False
        source_id = self.in_hand
        return self._edit(lambda p: verb(p, source_id), words, source_id, frame)

    def edit_project(self, verb: Callable[[Project], Project], words: str) -> bool:
        """Apply a verb to the project as a whole as one undoable edit."""
        return self._edit(verb, words, self.in_hand, None)

    def _edit(
        self,
        verb: Callable[[Project], Project],
        words: str,
        source_id: int,
        frame: int | None,
    ) -> bool:
        at = self.playhead if frame is None else frame
        try:
            made = verb(self.project)
        except OffcutError as error:
            self.failed.emit(str(error))
            return False
        try:
            if not self.history.edit(made, words, source_id, at):
                return False
        except OffcutError as error:
            self.lost.emit(f"{words}: {error}")
            return False
        self._stay_in_the_project()
        self.refresh()
        self.said.emit(words)
        return True

    def take_in(self, change: Callable[[Project], Project]) -> bool:
        """Put in what is no edit: what was found, where a film lies, a hand-over made."""
        try:
            self.history.replace(change)
        except OffcutError as error:
            self.lost.emit(str(error))
            return False
        return True

    def undo(self) -> None:
        """Take the last edit back, and go where it was, in the film it was in."""
        self._went(self.history.undo(), "Undone", "Nothing to undo")

    def redo(self) -> None:
        """Do the edit last taken back again."""
        self._went(self.history.redo(), "Redone", "Nothing to redo")

    def _went(self, step: Step | None, done: str, nothing: str) -> None:
        if step is None:
            self.said.emit(nothing)
            return
        if self.project.holds(step.source):
            self._take_in_hand(step.source)
        self._stay_in_the_project()
        self.refresh()
        if step.source == self.in_hand:
            self.go_to(step.frame)
        self.said.emit(f"{done}: {step.words}")

    def set_searching(self, searching: bool) -> None:
        """Say whether seams are found that a person waits for: they come first."""
        self.searching = searching

    def let_wait(self, waited: Callable[[], bool]) -> None:
        """Let work that nobody waits for stand still while ``waited`` tells that pictures are.

        It is asked on any thread.
        """
        self._waited.append(waited)

    def let_go_before(self, lacking: Callable[[], bool]) -> None:
        """Let pictures that are all a place has go before those of the ribbon, while they lack."""
        self._lacking.append(lacking)

    def pictures_lack(self) -> bool:
        """Tell whether places stand empty that pictures are decoded for. Any thread may ask."""
        return any(lacking() for lacking in tuple(self._lacking))

    def someone_waits(self) -> bool:
        """Tell whether pictures are waited for. Any thread may ask."""
        return any(waited() for waited in tuple(self._waited))

    def mark_saved(self, step: Step | None, file: Path) -> None:
        """Remember that the value after a step is saved in a file."""
        self.file = file
        self.history.mark_saved_after(step)
        self.refresh()

    def mark_unsaved(self) -> None:
        """Remember that what is open is nowhere on disk."""
        self.history.mark_unsaved()
        self.refresh()

    def refresh(self) -> None:
        """Work out anew what follows from the project, and tell."""
        source = self.source
        self._shots = shots_of(source) if source else ()
        self._doubts = doubt_order(source) if source else ()
        if self.stops_first:
            self._doubts = tuple(sorted(self._doubts, key=_after_stops))
        self._open_doubts = tuple(s for s in self._doubts if not s.judged)
        counted = counted_seams(source) if source else ()
        self.counted_ids = frozenset(s.id for s in counted)
        if self._open_as_set():
            self.film_changed.emit()
        self.changed.emit()

    def _open_as_set(self) -> bool:
        """Take open films as their tickets have them now; tell whether the one in hand changed."""
        changed = False
        for source in self.project.sources:
            bench = self._benches.get(source.id)
            if bench is not None and bench.open_as(source):
                changed = changed or source.id == self.in_hand
        seen = self.source.ticket.display if self.source is not None else ""
        changed = changed or seen != self._seen
        self._seen = seen
        return changed

    # films

    def take_in_hand(self, source_id: int) -> None:
        """Look at another film of the project; its bench is as it was left."""
        if source_id != self.in_hand and self.project.holds(source_id):
            self._take_in_hand(source_id)
            self.refresh()

    def choose(self, source_ids: Iterable[int]) -> None:
        """Choose films of the project; the one in hand is always among them."""
        known = [i for i in dict.fromkeys(source_ids) if self.project.holds(i)]
        if known and self.in_hand not in known:
            self.take_in_hand(known[-1])
        if tuple(known) != self.chosen:
            self.chosen = tuple(known)
            self.chosen_changed.emit()

    def pick(self, refs: Iterable[ShotRef]) -> None:
        """Choose shots of any films, in the order they are named in."""
        picked = tuple(dict.fromkeys(refs))
        if picked != self.picked:
            self.picked = picked
            self.picked_changed.emit()

    def hand_over(self, which: str) -> None:
        """Open Turnover for what is chosen on the Board (picked), or the running order in hand."""
        self.handing = which
        self.view_wanted.emit("turnover")

    def take_order(self, order_id: int) -> None:
        """Take a running order in hand, 0 for none."""
        if order_id != self.order_id:
            self.order_id = order_id
            self.order_changed.emit()

    @property
    def order(self) -> Order | None:
        """The running order in hand, None where there is none."""
        return next((o for o in self.project.orders if o.id == self.order_id), None)

    @property
    def chosen_sources(self) -> tuple[Source, ...]:
        """The chosen films in the order of the project; the one in hand where none is chosen."""
        chosen = set(self.chosen) if self.in_hand in self.chosen else {self.in_hand}
        return tuple(s for s in self.project.sources if s.id in chosen)

    def edit_chosen(self, verb: Verb, words: str) -> bool:
        """Apply a verb to every chosen film as one undoable edit."""
        ids = [s.id for s in self.chosen_sources]
        if not ids:
            return False
        return self._edit(lambda p: for_each(p, ids, verb), words, self.in_hand, None)

    def step_film(self, way: int) -> None:
        """Look at the film after (1) or before (-1) the one in hand, round and round."""
        ids = [s.id for s in self.project.sources]
        if len(ids) < 2:
            self.said.emit("There is no other film in the project")
            return
        self.take_in_hand(ids[(ids.index(self.in_hand) + way) % len(ids)])

    def _take_in_hand(self, source_id: int) -> None:
        if source_id == self.in_hand:
            return
        self.in_hand = source_id
        self._use(source_id)
        self.film_changed.emit()
        self.selection_changed.emit()
        self.marked_changed.emit()
        self.moved.emit(self.playhead)
        self._want_film()

    def _want_film(self) -> None:
        bench = self.bench
        if self.source is not None and bench.film is None and not bench.opening:
            self.film_wanted.emit(self.in_hand)

    def _use(self, source_id: int) -> None:
        """Keep a film open, and let the ones looked at longest ago go."""
        self._open = [source_id, *(i for i in self._open if i != source_id)]
        for old in self._open[OPEN_FILMS:]:
            self.bench_of(old).let_go()
        del self._open[OPEN_FILMS:]

    def _stay_in_the_project(self) -> None:
        """Take another film in hand where the one in hand was taken out."""
        gone = [i for i in self._benches if i and not self.project.holds(i)]
        for source_id in gone:
            self._benches[source_id].let_go()
        if self.source is None:
            rest = self.project.sources
            self.in_hand = 0 if rest else self.in_hand
            if rest:
                self._take_in_hand(rest[-1].id)
            else:
                self.film_changed.emit()

    def film_opening(self, source_id: int) -> None:
        """Remember that a film is being opened."""
        self.bench_of(source_id).opening = True

    def film_is_there(self, source_id: int, there: FilmThere) -> None:
        """Take in what lies where a film should be: the film itself, or that it is gone."""
        bench = self.bench_of(source_id)
        bench.opening = False
        if not self.project.holds(source_id):
            return
        if there.film is not None and bench.plain is not there.film:
            self._use(source_id)
            bench.let_go()
        bench.plain = there.film
        if there.film is None:
            bench.let_go()
        bench.open_as(self.project.source(source_id))
        bench.missing = None if there.film is not None else there
        if source_id == self.in_hand:
            self.film_changed.emit()

    def put_in(
        self, project: Project, file: Path | None, in_hand: int = 0, *, begun: bool = False
    ) -> None:
        """Put another project in; ``in_hand`` is the film to look at, the first one for 0.

        ``begun`` is what comes of the empty project that is open: work asked for in that goes on.
        """
        if not begun:
            self.token = object()
        self.history = History(project)
        self.history.mark_saved()
        self.file = file
        self._benches.clear()
        self._open.clear()
        self.chosen = self.picked = ()
        self.order_id = 0
        first = project.sources[0].id if project.sources else 0
        self.in_hand = in_hand if project.holds(in_hand) else first
        self.project_changed.emit()
        self.film_changed.emit()
        self.refresh()
        self.selection_changed.emit()
        self.marked_changed.emit()
        self.moved.emit(0)

    def measured(
        self,
        source_id: int,
        trace: NDArray[np.float32],
        start: int,
        damaged: tuple[tuple[int, int], ...] | None = None,
    ) -> None:
        """Take in the trace that was measured of a film, and what of it is damaged."""
        bench = self.bench_of(source_id)
        bench.trace, bench.trace_start = trace, start
        if damaged is not None:
            gaps = bench.film.holes if bench.film is not None else ()
            bench.damaged = (*damaged, *((f, f) for f in gaps))

    # the playhead

    def go_to(self, frame: int) -> None:
        """Move the playhead to a frame, kept inside the film."""
        if self.source is None:
            return
        to = max(0, min(self.source.media.frames - 1, frame))
        if to != self.playhead:
            self.bench.playhead = to
            self.moved.emit(to)

    def frame_typed(self, text: str) -> int | None:
        """Return the frame a person typed; None, with a sentence, when it makes no sense."""
        if self.source is None:
            return None
        media = self.source.media
        try:
            frame = frame_from_typed(
                text, media.rate, drop=media.drop, start=media.start, here=self.playhead
            )
        except OffcutError as error:
            self.failed.emit(str(error))
            return None
        if not 0 <= frame < media.frames:
            self.failed.emit(f"{text} lies outside the film")
            return None
        return frame

    def select(self, seam_id: int | None) -> None:
        """Select a seam and park on it."""
        self.bench.selected = () if seam_id is None else (seam_id,)
        if seam_id is not None and self.source is not None:
            self.go_to(seam_by_id(self.source, seam_id).frame)
        self.selection_changed.emit()

    def select_many(self, seam_ids: Iterable[int]) -> None:
        """Select several seams at once; the playhead stays where it is."""
        self.bench.selected = tuple(dict.fromkeys(seam_ids))
        self.selection_changed.emit()

    @property
    def selected_seams(self) -> tuple[Seam, ...]:
        """The selected seams that there are, in the film's order."""
        if self.source is None or not self.selected:
            return ()
        chosen = set(self.selected)
        return tuple(s for s in self.source.seams if s.id in chosen)

    def go_to_seam(self, source_id: int, frame: int) -> None:
        """Go to a frame of a film, and park on the seam there."""
        self.take_in_hand(source_id)
        self.go_to(frame)
        here = self.seam_here()
        self.select(here.id if here else None)


def _after_stops(seam: Seam) -> tuple[bool, bool, int]:
    """Return what sorts open camera stops before all else, in the film's order."""
    stop = is_stop(seam) and not seam.judged
    return not stop, seam.judged, seam.frame if stop else 0
