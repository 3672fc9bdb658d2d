"""The session: the one place of all edits, and what tells the window of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from offcut.app.session.bench import Bench
from offcut.app.session.document import Document, RefusedError
from offcut.app.session.file_places import FilePlaces
from offcut.app.session.in_hand import InHand
from offcut.app.session.jobs import Hearer, Job, Jobs
from offcut.app.session.picture_budget import PictureBudget
from offcut.app.session.room import Room
from offcut.core.errors import OffcutError
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.history import History, Step
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.seam import Seam
from offcut.core.model.shots import Shot
from offcut.core.model.source import Source
from offcut.core.model.verbs.replacing import seam_by_id
from offcut.core.model.verbs.ticket import for_each
from offcut.core.store.missing_films import FilmThere

Verb = Callable[[Project, int], Project]


class Session(QObject):
    """What the window shows. Views ask it and call its methods; it alone changes what is open.

    It is the face of two things without a window: the `Document` (project, undo, file) and what is
    `InHand` of it. What they say is said here in their words; what changes them is told by signals.

    Attributes: ``document``; ``hand``; ``view`` the id of the view that is open; ``room`` the most
    that may be kept on disk; ``places`` where kinds of files went last; ``pictures`` the budget of
    those held in memory; ``searching`` True while seams are found.

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
        self.document = Document()
        self.hand = InHand(self.document)
        self.jobs = Jobs(self)
        self.view = ""
        self.searching = False
        self.room = Room()
        self.places = FilePlaces()
        self.pictures = PictureBudget()
        self._waited: list[Callable[[], bool]] = []
        self._lacking: list[Callable[[], bool]] = []

    # the document

    @property
    def history(self) -> History:
        """The project and its undo."""
        return self.document.history

    @property
    def project(self) -> Project:
        """The present value of the project."""
        return self.document.project

    @property
    def file(self) -> Path | None:
        """Where the project is saved, None for nowhere."""
        return self.document.file

    @property
    def token(self) -> object:
        """What is another object in every project that is put in."""
        return self.document.token

    # what is in hand

    @property
    def in_hand(self) -> int:
        """The id of the source that is looked at, 0 in an empty project."""
        return self.hand.source_id

    @property
    def source(self) -> Source | None:
        """The source in hand, None in an empty project."""
        return self.hand.source

    @property
    def bench(self) -> Bench:
        """The bench of the source in hand."""
        return self.hand.bench

    def bench_of(self, source_id: int) -> Bench:
        """Return the bench of a source; it is laid out when first asked for."""
        return self.hand.bench_of(source_id)

    @property
    def film(self) -> OpenedFilm | None:
        """The film in hand, None while it is not open."""
        return self.bench.film

    @property
    def films(self) -> dict[int, OpenedFilm]:
        """The films that are open now, by the ids of their sources. Any thread may ask."""
        return self.hand.films

    @property
    def film_missing(self) -> bool:
        """True when the film in hand is not where it should be."""
        return self.bench.missing is not None

    @property
    def lies_at(self) -> Path | None:
        """Where the film in hand lies, else the project; None where there is neither."""
        return self.hand.lies_at

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
    def marked(self) -> tuple[int, int] | None:
        """The marked range [in, out), None when nothing is marked; an end not set is the film's."""
        return self.hand.marked

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
        return self.hand.shots

    @property
    def doubts(self) -> tuple[Seam, ...]:
        """The seams in order of doubt."""
        return self.hand.doubts

    @property
    def open_doubts(self) -> tuple[Seam, ...]:
        """The seams still to judge, in order of doubt; judged ones always come last."""
        return self.hand.open_doubts

    @property
    def counted_ids(self) -> frozenset[int]:
        """The ids of the seams that count."""
        return self.hand.counted_ids

    @property
    def chosen(self) -> tuple[int, ...]:
        """The ids of the films that are chosen on the shelf."""
        return self.hand.chosen

    @property
    def chosen_sources(self) -> tuple[Source, ...]:
        """The chosen films in the order of the project; the one in hand where none is chosen."""
        return self.hand.chosen_sources

    @property
    def picked(self) -> tuple[ShotRef, ...]:
        """The shots that are chosen on the Board."""
        return self.hand.picked

    @property
    def order_id(self) -> int:
        """The running order in hand, 0 for none."""
        return self.hand.order_id

    @property
    def order(self) -> Order | None:
        """The running order in hand, None where there is none."""
        return self.hand.order

    @property
    def clock(self) -> tuple[Fraction, bool]:
        """Rate and drop-frame of the film in hand; 25 without a film."""
        return self.hand.clock

    @property
    def second(self) -> int:
        """Frames in a second of timecode."""
        return self.hand.second

    @property
    def sliver_limit(self) -> int:
        """Frames under which a shot is a sliver, 0 for the film's own limit."""
        return self.hand.sliver_limit

    @property
    def sliver_frames(self) -> int:
        """The limit under which a shot is a sliver, in frames: what was set, or suggested."""
        return self.hand.sliver_frames

    @property
    def stops_first(self) -> bool:
        """True where camera stops are listed before all else."""
        return self.hand.stops_first

    @property
    def selected_seams(self) -> tuple[Seam, ...]:
        """The selected seams that there are, in the film's order."""
        return self.hand.selected_seams

    def words_of(self, frame: int) -> str:
        """Return the timecode of a frame of the source in hand."""
        return self.hand.words_of(frame)

    def shot_here(self) -> Shot | None:
        """Return the shot under the playhead."""
        return self.hand.shot_here()

    def use_here(self) -> OrderUse | None:
        """Return what can go into a running order: the marked range, or the shot here."""
        return self.hand.use_here()

    def seam_here(self) -> Seam | None:
        """Return the seam the playhead is parked on: the selected one, or one at its frame."""
        return self.hand.seam_here()

    def next_stops(self) -> list[Seam]:
        """Return the seams a person is likely to go to next: before, after, the next doubtful."""
        return self.hand.next_stops()

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
        holds = None if whatever else self.document.still(of)
        job = self.jobs.start(words, work, quick=quick, holds=holds)

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

    # edits

    def edit(self, verb: Verb, words: str, frame: int | None = None) -> bool:
        """Apply a verb to the source in hand as one undoable edit; False when it changed nothing.

        The verb is called with the project and the id of that source.
        """
        if self.source is None:
            return False
        source_id = self.in_hand
        return self._edit(lambda p: verb(p, source_id), words, frame)

    def edit_project(self, verb: Callable[[Project], Project], words: str) -> bool:
        """Apply a verb to the project as a whole as one undoable edit."""
        return self._edit(verb, words)

    def edit_chosen(self, verb: Verb, words: str) -> bool:
        """Apply a verb to every chosen film as one undoable edit."""
        ids = [s.id for s in self.chosen_sources]
        return bool(ids) and self._edit(lambda p: for_each(p, ids, verb), words)

    def _edit(
        self, verb: Callable[[Project], Project], words: str, frame: int | None = None
    ) -> bool:
        at = self.playhead if frame is None else frame
        try:
            if not self.document.edit(verb, words, self.in_hand, at):
                return False
        except RefusedError as error:
            self.lost.emit(str(error))
            return False
        except OffcutError as error:
            self.failed.emit(str(error))
            return False
        self._stay_in_the_project()
        self.refresh()
        self.said.emit(words)
        return True

    def take_in(self, change: Callable[[Project], Project]) -> bool:
        """Put in what is no edit: what was found, where a film lies, a hand-over made."""
        try:
            self.document.take_in(change)
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

    def mark_saved(self, step: Step | None, file: Path) -> None:
        """Remember that the value after a step is saved in a file."""
        self.document.saved_in(step, file)
        self.refresh()

    def mark_unsaved(self) -> None:
        """Remember that what is open is nowhere on disk."""
        self.history.mark_unsaved()
        self.refresh()

    def put_in(
        self, project: Project, file: Path | None, in_hand: int = 0, *, begun: bool = False
    ) -> None:
        """Put another project in; ``in_hand`` is the film to look at, the first one for 0.

        ``begun`` as `Document.put_in` has it.
        """
        self.document.put_in(project, file, begun=begun)
        self.hand.begin(in_hand)
        self.project_changed.emit()
        self.film_changed.emit()
        self.refresh()
        self.selection_changed.emit()
        self.marked_changed.emit()
        self.moved.emit(0)

    def refresh(self) -> None:
        """Work out anew what follows from the project, and tell."""
        if self.hand.follow():
            self.film_changed.emit()
        self.changed.emit()

    # what waits for what

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

    # films

    def take_in_hand(self, source_id: int) -> None:
        """Look at another film of the project; its bench is as it was left."""
        if source_id != self.in_hand and self.project.holds(source_id):
            self._take_in_hand(source_id)
            self.refresh()

    def _take_in_hand(self, source_id: int) -> None:
        if not self.hand.take(source_id):
            return
        self.film_changed.emit()
        self.selection_changed.emit()
        self.marked_changed.emit()
        self.moved.emit(self.playhead)
        bench = self.bench
        if self.source is not None and bench.film is None and not bench.opening:
            self.film_wanted.emit(self.in_hand)

    def _stay_in_the_project(self) -> None:
        """Take another film in hand where the one in hand was taken out."""
        self.hand.let_go_of_the_gone()
        if self.source is None:
            rest = self.project.sources
            if rest:
                self._take_in_hand(rest[-1].id)
            else:
                self.film_changed.emit()

    def step_film(self, way: int) -> None:
        """Look at the film after (1) or before (-1) the one in hand, round and round."""
        beside = self.hand.film_beside(way)
        if not beside:
            self.said.emit("There is no other film in the project")
            return
        self.take_in_hand(beside)

    def film_opening(self, source_id: int) -> None:
        """Remember that a film is being opened."""
        self.bench_of(source_id).opening = True

    def film_is_there(self, source_id: int, there: FilmThere) -> None:
        """Take in what lies where a film should be: the film itself, or that it is gone."""
        if self.hand.lay(source_id, there) and source_id == self.in_hand:
            self.film_changed.emit()

    def measured(
        self,
        source_id: int,
        trace: NDArray[np.float32],
        start: int,
        damaged: tuple[tuple[int, int], ...] | None = None,
    ) -> None:
        """Take in the trace that was measured of a film, and what of it is damaged."""
        self.bench_of(source_id).take_measured(trace, start, damaged)

    # what is chosen

    def choose(self, source_ids: Iterable[int]) -> None:
        """Choose films of the project; the one in hand is always among them."""
        known = [i for i in dict.fromkeys(source_ids) if self.project.holds(i)]
        if known and self.in_hand not in known:
            self.take_in_hand(known[-1])
        if self.hand.choose(known):
            self.chosen_changed.emit()

    def pick(self, refs: Iterable[ShotRef]) -> None:
        """Choose shots of any films, in the order they are named in."""
        picked = tuple(dict.fromkeys(refs))
        if picked != self.picked:
            self.hand.picked = picked
            self.picked_changed.emit()

    def take_order(self, order_id: int) -> None:
        """Take a running order in hand, 0 for none."""
        if order_id != self.order_id:
            self.hand.order_id = order_id
            self.order_changed.emit()

    def hand_over(self, which: str) -> None:
        """Open Turnover for what is chosen on the Board (picked), or the running order in hand."""
        self.hand.handing = which
        self.view_wanted.emit("turnover")

    def handed(self) -> str:
        """Return what Turnover is opened for, once: empty for what it showed last."""
        which, self.hand.handing = self.hand.handing, ""
        return which

    def set_sliver_limit(self, frames: int) -> None:
        """Set the limit of slivers, 0 for the film's own."""
        self.hand.sliver_limit = frames
        self.changed.emit()

    def set_stops_first(self, first: bool) -> None:
        """List camera stops before all else, in the film's order, or every seam by doubt."""
        self.hand.stops_first = first
        self.hand.sort_doubts()
        self.refresh()

    # the playhead

    def go_to(self, frame: int) -> None:
        """Move the playhead to a frame, kept inside the film."""
        if self.hand.go_to(frame):
            self.moved.emit(self.playhead)

    def frame_typed(self, text: str) -> int | None:
        """Return the frame a person typed; None, with a sentence, when it makes no sense."""
        try:
            return self.hand.frame_typed(text)
        except OffcutError as error:
            self.failed.emit(str(error))
            return None

    def mark(self, first: int | None, last: int | None) -> None:
        """Set the ends of the marked range; an end that the other one passes is taken away."""
        self.hand.mark(first, last)
        self.marked_changed.emit()

    def show_stretch(self, left: float, right: float) -> None:
        """Show frames [left, right) of the film in hand wherever it is laid along a scale."""
        if (left, right) != self.bench.stretch:
            self.bench.stretch = left, right
            self.stretch_changed.emit()

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

    def go_to_seam(self, source_id: int, frame: int) -> None:
        """Go to a frame of a film, and park on the seam there."""
        self.take_in_hand(source_id)
        self.go_to(frame)
        here = self.seam_here()
        self.select(here.id if here else None)
