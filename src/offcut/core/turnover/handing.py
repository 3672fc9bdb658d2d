"""Handing over: writing what a plan says, whole files only, several movies at once."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from offcut.core.errors import OffcutError
from offcut.core.lists.events import write_bytes
from offcut.core.media.framing import Cut
from offcut.core.media.index import FrameIndex
from offcut.core.media.pictures import fit, rgb_of
from offcut.core.media.probe import OpenedFilm, shown_size
from offcut.core.media.reader import FrameReader
from offcut.core.media.sound import tracks_of
from offcut.core.model.handover import Handover
from offcut.core.model.project import Project
from offcut.core.turnover.copying import Copying, PacketMap, copy_movie, copying_of
from offcut.core.turnover.movies import Stopped, write_movie
from offcut.core.turnover.plan import STILL_SUFFIXES, STILLS, Item, Plan, over_a_film, sheet_name
from offcut.core.turnover.sharing import Shares, TrailingReader
from offcut.core.turnover.sheet import Page, PdfSheet, Picture, pages_of, png_of
from offcut.core.turnover.stills import clean_span, still_frame, write_still


@dataclass(frozen=True)
class Report:
    """What a hand-over came to: the files written, what could not be, and how long it took."""

    folder: Path
    written: tuple[tuple[str, int], ...]
    problems: tuple[str, ...]
    seconds: float
    stopped: bool = False

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
    film: OpenedFilm | None,
    *,
    overwrite: bool = False,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
    workers: int = 0,
) -> Report:
    """Write everything a plan says into a folder, which is made where it is missing.

    Every file appears whole or not at all; one that is there already is only replaced with
    ``overwrite``. A file that cannot be written is told and the others go on. ``progress`` hears
    (work done, work in all), in frames. Raises OffcutError before anything is written.
    """
    place = Path(folder)
    if plan.problem:
        raise OffcutError(plan.problem)
    if not plan.outputs:
        raise OffcutError("there is nothing to hand over")
    needs_film = bool(plan.way or plan.asked.stills or plan.asked.sheets)
    if needs_film and film is None:
        raise OffcutError(f"{plan.media.path}: the film is missing")
    try:
        place.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OffcutError(f"{place}: cannot be made ({error.strerror})") from error
    film_name = over_a_film(plan, place)
    if film_name:
        raise OffcutError(f"{place / film_name}: is the film itself; nothing was written")
    there = [o.name for o in plan.outputs if (place / o.name).exists()]
    if there and not overwrite:
        raise OffcutError(f"{place / there[0]}: is there already; nothing was written")
    return _Writing(plan, place, film, stop or threading.Event(), progress, workers).run()


class _Writing:
    def __init__(
        self,
        plan: Plan,
        place: Path,
        film: OpenedFilm | None,
        stop: threading.Event,
        progress: Callable[[int, int], None] | None,
        workers: int,
    ) -> None:
        self.plan, self.place, self.film = plan, place, film
        self.stop, self.progress = stop, progress
        self.cores = workers or len(os.sched_getaffinity(0))
        self.written: list[tuple[str, int]] = []
        self.problems: list[str] = []
        self.lock = threading.Lock()
        self.done = 0
        self.whole = self._work()

    def _work(self) -> int:
        """Return the work there is, a frame of a movie counting as one."""
        plan = self.plan
        work = len(plan.forms)
        work += 8 * len(plan.items) * bool(plan.asked.stills)
        work += 4 * len(plan.items) * bool(plan.asked.sheets)
        if plan.way is not None:
            work += sum(i.end - i.start for i in plan.items)
        return max(1, work)

    def told(self, work: int) -> None:
        with self.lock:
            self.done += work
            done = min(self.done, self.whole)
        if self.progress is not None:
            self.progress(done, self.whole)

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
            if self.film is not None:
                self._sheets(self.film)
                self._stills(self.film)
                self._movies(self.film)
        except Stopped:
            stopped = True
        order = {o.name: n for n, o in enumerate(self.plan.outputs)}
        return Report(
            self.place,
            tuple(sorted(self.written, key=lambda w: order.get(w[0], 0))),
            tuple(self.problems),
            time.monotonic() - began,
            stopped,
        )

    def _lists(self) -> None:
        for form in self.plan.forms:
            with self.one(f"{self.plan.stem}{form.suffix}") as path:
                form.write(self.plan.events(form), path)
            self.told(1)

    def _after(self, place: int) -> Item | None:
        items = self.plan.items
        after = items[place + 1] if place + 1 < len(items) else None
        return after if after and after.shot.start == items[place].shot.end else None

    def _span(self, place: int) -> tuple[int, int]:
        after = self._after(place)
        return clean_span(self.plan.items[place].shot, after.shot if after else None)

    def _sheets(self, film: OpenedFilm) -> None:
        """Draw the contact sheets page by page; no more than a page's pictures are held."""
        plan = self.plan
        if not plan.asked.sheets:
            return
        pdf = PdfSheet(plan) if "pdf" in plan.asked.sheets else None
        pages = pages_of(plan)
        with FrameReader(film.media.path, film.index) as reader:
            for number, page in enumerate(pages, start=1):
                pictures = self._pictures(page, reader)
                if pdf is not None:
                    pdf.draw(page, pictures)
                if "png" in plan.asked.sheets:
                    with self.one(sheet_name(plan.stem, number, len(pages))) as path:
                        write_bytes(path, png_of(plan, page, pictures))
        if pdf is not None:
            with self.one(f"{plan.stem}.pdf") as path:
                write_bytes(path, pdf.data())

    def _pictures(self, page: Page, reader: FrameReader) -> dict[int, Picture]:
        """Return the middle frame of each shot on a page, grey where it cannot be read."""
        cut = Cut(self.plan.framing)
        size = fit(*shown_size(self.plan.written), 480, 360)
        pictures: dict[int, Picture] = {}
        for box in page.boxes:
            if self.stop.is_set():
                raise Stopped("stopped")
            start, end = self._span(box.place)
            try:
                pictures[box.place] = rgb_of(cut(reader.frame((start + end) // 2)), *size)
            except OffcutError:
                pictures[box.place] = np.full((size[1], size[0], 3), 43, np.uint8)
            self.told(4)
        return pictures

    def _stills(self, film: OpenedFilm) -> None:
        asked = self.plan.asked
        if asked.stills not in STILLS:
            return
        suffix = STILL_SUFFIXES.get(asked.still_format, ".png")
        cut, media = Cut(self.plan.framing), self.plan.written
        with FrameReader(film.media.path, film.index) as reader:
            for place, item in enumerate(self.plan.items):
                with self.one(f"{item.name}{suffix}") as path:
                    frame = still_frame(asked.stills, self._span(place), reader, film.media)
                    write_still(cut(reader.frame(frame)), media, path, asked.still_format)
                self.told(8)

    def _movies(self, film: OpenedFilm) -> None:
        way = self.plan.way
        if way is None:
            return
        items = self.plan.items
        suffix = way.suffix or Path(film.media.path).suffix
        if not way.codec:
            packets = PacketMap(film.media.path, film.index)
            for item in items:
                with self.one(f"{item.name}{suffix}") as path:
                    copy_movie(
                        film, item.start, item.end, path, packets, stop=self.stop, told=self.told
                    )
            return
        tracks = tracks_of(film.media.path)
        side_by_side = max(1, min(self.cores, len(items)))
        # two threads a shot at least: the last shots would leave cores idle
        threads = min(self.cores, max(2, self.cores // side_by_side))
        shares = Shares(items, side_by_side)
        behind = 2 * self.plan.asked.handles

        def work(worker: int) -> None:
            """Write shot after shot with one reader."""
            path = film.media.path
            with TrailingReader(path, film.index, behind, threads=threads) as reader:
                while (item := shares.next(worker)) is not None:
                    with self.one(f"{item.name}{suffix}") as file:
                        write_movie(
                            film, item.start, item.end, file, way, framing=self.plan.framing,
                            reader=reader, tracks=tracks, threads=threads,
                            stop=self.stop, told=self.told,
                        )  # fmt: skip

        with ThreadPoolExecutor(side_by_side, thread_name_prefix="offcut-turnover") as pool:
            writing = [pool.submit(work, n) for n in range(side_by_side)]
            try:
                for future in writing:
                    future.result()
            except BaseException:  # Ctrl+C, too, waits for the shots under way only to give up
                self.stop.set()
                raise


def copying_for(plan: Plan, index: FrameIndex) -> list[Copying]:
    """Return what copying would give for each shot of a plan. Raises MediaError."""
    return copying_of(plan.media.path, index, [(i.start, i.end) for i in plan.items])
