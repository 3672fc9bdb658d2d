"""Writing: all that a plan says, whole files only, several movies at once."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from offcut.core.errors import OffcutError
from offcut.core.lists.outgoing import write_list_bytes
from offcut.core.media.display import display_of
from offcut.core.media.framing import Cut
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import fit, rgb_of
from offcut.core.media.probe import shown_size
from offcut.core.model.handover import Handover
from offcut.core.model.project import Project
from offcut.core.model.shots import clean_span, shot_at, shots_of
from offcut.core.turnover.copying import Copying, PacketMap, copy_movie, copying_of
from offcut.core.turnover.movies import Stopped, write_movie
from offcut.core.turnover.plan import STILL_SUFFIXES, STILLS, Item, Plan, over_a_film, sheet_name
from offcut.core.turnover.readers_in_use import ReadersInUse, TrailingReader
from offcut.core.turnover.sheet import Page, PdfSheet, Picture, pages_of, png_of
from offcut.core.turnover.stills import still_frame, write_still
from offcut.core.turnover.work_shares import Shares
from offcut.core.words import many

Films = Mapping[int, OpenedFilm]
"""The films that are there, by the ids of their sources."""


@dataclass(frozen=True)
class Report:
    """What a hand-over came to: the files written, what could not be, and how long it took.

    ``problems`` are files that are not there for it, ``notes`` what came otherwise than a person
    would expect.
    """

    folder: Path
    written: tuple[tuple[str, int], ...]
    problems: tuple[str, ...]
    seconds: float
    stopped: bool = False
    notes: tuple[str, ...] = ()

    @property
    def size(self) -> int:
        """Bytes written."""
        return sum(size for _, size in self.written)

    def handover(self, plan: Plan) -> Handover:
        """Return what is kept of it with the project."""
        return Handover(
            when=datetime.now(UTC).isoformat(timespec="seconds"),
            folder=str(self.folder),
            asked=plan.asked,
            files=tuple(name for name, _ in self.written),
            seconds=round(self.seconds, 2),
        )


def with_handover(project: Project, handover: Handover) -> Project:
    """Return the project with a hand-over kept; the last fifty are."""
    return replace(project, handovers=(*project.handovers, handover)[-50:])


def hand_over(
    plan: Plan,
    folder: str | Path,
    films: Films,
    *,
    overwrite: bool = False,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
    workers: int = 0,
) -> Report:
    """Write everything a plan says into a folder, which is made where it is missing.

    ``films`` are those that are there, by the ids of their sources.
    Every file appears whole or not at all; one that is there already is only replaced with
    ``overwrite``. A file that cannot be written is told and the others go on. ``progress`` hears
    (work done, work in all), in frames. Raises OffcutError before anything is written.
    """
    place = Path(folder)
    if plan.problem:
        raise OffcutError(plan.problem)
    if not plan.outputs:
        raise OffcutError("there is nothing to hand over")
    gone = [s for s in plan.sources if s.id not in films]
    if plan.needs_films and gone:
        raise OffcutError(f"{gone[0].media.path}: the film is missing")
    try:
        place.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OffcutError(f"{place}: cannot be made ({error.strerror})") from error
    films = _as_set(plan, films)
    film_name = over_a_film(plan, place)
    if film_name:
        raise OffcutError(f"{place / film_name}: is the film itself; nothing was written")
    there = [o.name for o in plan.outputs if (place / o.name).exists()]
    if there and not overwrite:
        raise OffcutError(f"{place / there[0]}: is there already; nothing was written")
    return _Writing(plan, place, films, stop or threading.Event(), progress, workers).run()


def _as_set(plan: Plan, films: Films) -> dict[int, OpenedFilm]:
    """Return the films as the tickets of their sources say they are."""
    return {s.id: as_set(films[s.id], s) for s in plan.sources if s.id in films}


class _Writing:
    def __init__(
        self,
        plan: Plan,
        place: Path,
        films: Films,
        stop: threading.Event,
        progress: Callable[[int, int], None] | None,
        workers: int,
    ) -> None:
        self.plan, self.place, self.films = plan, place, films
        self.stop, self.progress = stop, progress
        self.cores = workers or len(os.sched_getaffinity(0))
        self.written: list[tuple[str, int]] = []
        self.problems: list[str] = []
        self.notes: list[str] = []
        self.lock = threading.Lock()
        self.done = 0
        self.whole = self._work()

    def _work(self) -> int:
        """Return the work there is, a frame of a movie counting as one."""
        plan = self.plan
        work = len(plan.formats)
        work += 8 * len(plan.items) * bool(plan.asked.stills)
        work += 4 * len(plan.items) * bool(plan.asked.sheets)
        if plan.way is not None:
            work += sum(i.frames for i in plan.items)
        return max(1, work)

    def told(self, work: int) -> None:
        with self.lock:
            self.done += work
            done = min(self.done, self.whole)
        if self.progress is not None:
            self.progress(done, self.whole)

    def say(self, words: str) -> None:
        """Keep account of what came otherwise than a person would expect."""
        with self.lock:
            self.notes.append(words)

    @contextmanager
    def one(self, name: str) -> Iterator[Path]:
        """Write one file, and keep account of it."""
        path = self.place / name
        try:
            if self.stop.is_set():
                raise Stopped(f"{path}: stopped")
            yield path
            with self.lock:
                self.written.append((name, path.stat().st_size))
        except Stopped:
            raise
        except (OffcutError, OSError) as error:
            with self.lock:
                self.problems.append(str(error))

    def run(self) -> Report:
        began = time.monotonic()
        stopped = False
        try:
            self._lists()
            self._sheets()
            self._stills()
            self._movies()
        except Stopped:
            stopped = True
        order = {o.name: n for n, o in enumerate(self.plan.outputs)}
        return Report(
            self.place,
            tuple(sorted(self.written, key=lambda w: order.get(w[0], 0))),
            tuple(self.problems),
            time.monotonic() - began,
            stopped,
            tuple(self.notes),
        )

    def _lists(self) -> None:
        for form in self.plan.formats:
            with self.one(f"{self.plan.stem}{form.suffix}") as path:
                assert form.write is not None
                form.write(self.plan.events(form), path)
            self.told(1)

    def _span(self, place: int) -> tuple[int, int]:
        """Return the frames of a shot that no transition mixes with another's."""
        item = self.plan.items[place]
        shots = shots_of(item.source)
        after = shot_at(shots, item.shot.end)
        if after is not None and after.start != item.shot.end:
            after = None  # it is trimmed, or a piece
        return clean_span(item.shot, after)

    def _sheets(self) -> None:
        """Draw the contact sheets page by page; no more than a page's pictures are held."""
        plan = self.plan
        if not plan.asked.sheets:
            return
        pdf = (
            PdfSheet(f"{plan.project.name}, contact sheet", plan.asked.paper)
            if "pdf" in plan.asked.sheets
            else None
        )
        pages = pages_of(plan)
        with ReadersInUse(self.films) as readers:
            for number, page in enumerate(pages, start=1):
                pictures = self._pictures(page, readers)
                if pdf is not None:
                    pdf.draw(page, pictures)
                if "png" in plan.asked.sheets:
                    with self.one(sheet_name(plan.stem, number, len(pages))) as path:
                        write_list_bytes(path, png_of(plan, page, pictures))
        if pdf is not None:
            with self.one(f"{plan.stem}.pdf") as path:
                write_list_bytes(path, pdf.data())

    def _pictures(self, page: Page, readers: ReadersInUse) -> dict[int, Picture]:
        """Return a frame of each shot on a page, grey where it cannot be read."""
        pictures: dict[int, Picture] = {}
        for box in page.boxes:
            if self.stop.is_set():
                raise Stopped("stopped")
            item = self.plan.items[box.place]
            size = fit(*shown_size(self.plan.written_of(item.source)), 480, 360)
            span = self._span(box.place)
            cut = Cut(self.plan.framing_of(item.source))
            try:
                reader = readers.of(item.source)
                frame = still_frame(self.plan.asked.sheet_still, span, reader, item.source)
                picture = cut(reader.frame(frame))
                display = display_of(item.source.ticket.display)
                pictures[box.place] = rgb_of(picture, *size, display=display)
                self._say_damage(item, reader, frame, "the contact sheet")
            except OffcutError as error:
                pictures[box.place] = np.full((size[1], size[0], 3), 43, np.uint8)
                self.say(f"The contact sheet shows shot {item.shot.number} grey: {error}")
            self.told(4)
        return pictures

    def _say_damage(self, item: Item, reader: TrailingReader, frame: int, where: str) -> None:
        if frame in reader.reader.missing:
            shot = f"shot {item.shot.number}"
            self.say(f"Frame {frame} of {shot} is damaged: in {where} the one before stands in")

    def _stills(self) -> None:
        asked = self.plan.asked
        if asked.stills not in STILLS:
            return
        suffix = STILL_SUFFIXES.get(asked.still_format, ".png")
        with ReadersInUse(self.films) as readers:
            for place, item in enumerate(self.plan.items):
                media = self.plan.written_of(item.source)
                cut = Cut(self.plan.framing_of(item.source))
                with self.one(f"{item.name}{suffix}") as path:
                    reader = readers.of(item.source)
                    frame = still_frame(asked.stills, self._span(place), reader, item.source)
                    write_still(
                        cut(reader.frame(frame)), media, path, asked.still_format,
                        display_of(item.source.ticket.display),
                    )  # fmt: skip
                    self._say_damage(item, reader, frame, path.name)
                self.told(8)

    def _movies(self) -> None:
        plan, way = self.plan, self.plan.way
        if way is None:
            return
        items = plan.items
        if not way.codec:
            maps = {s.id: PacketMap(self.films[s.id].index) for s in plan.sources}
            for item in items:
                with self.one(f"{item.name}{plan.movie_suffix(item)}") as path:
                    copy_movie(
                        self.films[item.source.id], item.start, item.end, path,
                        maps[item.source.id], stop=self.stop, told=self.told, say=self.say,
                    )  # fmt: skip
            return
        side_by_side = max(1, min(self.cores, len(items)))
        # two threads a shot at least: the last shots would leave cores idle
        threads = min(self.cores, max(2, self.cores // side_by_side))
        shares = Shares(items, side_by_side)
        behind = 2 * plan.asked.handles

        def work(worker: int) -> None:
            """Write shot after shot with one reader for each film."""
            with ReadersInUse(self.films, behind=behind, threads=threads) as readers:
                while (item := shares.next(worker)) is not None:
                    film = self.films[item.source.id]
                    with self.one(f"{item.name}{plan.movie_suffix(item)}") as file:
                        reader = readers.of(item.source)
                        write_movie(
                            film, item.start, item.end, file, way,
                            framing=plan.framing_of(item.source), reader=reader,
                            display=display_of(plan.display_of(item.source)),
                            threads=threads, stop=self.stop, told=self.told, say=self.say,
                        )  # fmt: skip
                        damaged = len(reader.reader.missing & {*range(item.start, item.end)})
                        if damaged:
                            what = many(damaged, "picture")
                            self.say(f"{file.name}: {what} could not be read; others stand in")

        with ThreadPoolExecutor(side_by_side, thread_name_prefix="offcut-turnover") as pool:
            writing = [pool.submit(work, n) for n in range(side_by_side)]
            try:
                for future in writing:
                    future.result()
            except BaseException:  # Ctrl+C, too, waits for the shots under way only to give up
                self.stop.set()
                raise


def copying_for(plan: Plan, films: Films) -> list[Copying]:
    """Return what copying would give for each shot of a plan. Raises MediaError."""
    found: dict[int, list[Copying]] = {}
    if any(s.media.run is not None for s in plan.sources):
        return []  # stills have no packets, as the check says
    films = _as_set(plan, films)
    for source in plan.sources:
        spans = [(i.start, i.end) for i in plan.items if i.source.id == source.id]
        found[source.id] = copying_of(films[source.id], spans)[::-1]
    return [found[i.source.id].pop() for i in plan.items]
