"""Proxies made in a pass of their own, of films that are measured already."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, as_completed
from itertools import pairwise

from offcut.core.errors import MediaError
from offcut.core.measure.crew import cores, give_way_to_others
from offcut.core.measure.plan import LONGEST, PART
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.proxy import ProxyMaker, ProxyPieces
from offcut.core.media.readers import Purpose, open_reader


def make_proxy(
    film: OpenedFilm,
    pieces: ProxyPieces,
    start: int = 0,
    end: int | None = None,
    *,
    threads: int = 0,
    gently: bool = False,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> int:
    """Make what is missing of a film's proxy in frames [start, end); return how many were made.

    What was made before a stop stays; ``gently`` as in `crew`. Raises MediaError where it cannot be
    written.
    """
    stop = stop or threading.Event()
    failed = threading.Event()
    threads = threads or cores()
    gaps = pieces.gaps(start, film.media.frames if end is None else end)
    parts = [part for gap in gaps for part in _parts(film, *gap)]
    whole = sum(last - first for first, last in parts)
    one = len(parts) == 1 and parts[0][1] - parts[0][0] > LONGEST
    done = [0] * len(parts)
    made = 0

    def work(place: int) -> int:
        first, last = parts[place]
        maker = ProxyMaker(pieces)
        try:
            with open_reader(film, Purpose.SMALL, threads=0 if one else 1) as reader:
                for number, picture in reader.frames(first, last):
                    if stop.is_set() or failed.is_set() or maker.trouble:
                        break
                    maker.see(number, picture)
                    done[place] = number + 1 - first
                    if progress is not None and number % 16 == 0:
                        progress(sum(done), whole)
        finally:
            maker.end()
        if maker.trouble:
            raise MediaError(maker.trouble)
        return maker.made

    with ThreadPoolExecutor(
        1 if one else threads,
        thread_name_prefix="offcut-proxy",
        initializer=give_way_to_others if gently else None,
    ) as pool:
        jobs = [pool.submit(work, place) for place in range(len(parts))]
        try:
            for job in as_completed(jobs):
                made += job.result()
        except MediaError:
            failed.set()
            raise
    if progress is not None and not stop.is_set():
        progress(whole, whole)
    return made


def _parts(film: OpenedFilm, start: int, end: int) -> list[tuple[int, int]]:
    """Divide frames at keyframes, so that none is decoded twice; one part where they are rare."""
    if film.index.by_count:
        return [(start, end)]
    bounds = [start]
    for key in film.index.keys[(film.index.keys > start) & (film.index.keys < end)].tolist():
        if key - bounds[-1] >= PART:
            bounds.append(key)
    bounds.append(end)
    return list(pairwise(bounds))
