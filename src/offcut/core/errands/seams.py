"""Find: the whole errand, from a film to its possible seams, with what is kept of it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from offcut.core.judge.cadence import Pulldown, pulldown
from offcut.core.judge.camera_stops import with_stops_as_cuts
from offcut.core.judge.judge import MARGIN, Settled, seams_found
from offcut.core.measure.film_pass import Watch
from offcut.core.measure.kept_signals import LIMIT, Store
from offcut.core.measure.measuring import Measuring, OnThisThread, measuring_or_here
from offcut.core.measure.ranges import change_signals
from offcut.core.measure.signals import Signals, signals_joined
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.seam import Seam
from offcut.core.model.ticket import Flash
from offcut.core.store.pictures_on_the_way import TAKEN_EVERY, PicturesOnTheWay

FIRST_WORD = 1.0
SELDOM = 40
"""Seconds until what was found so far is told, and then so many times as long as it took to judge:
judging on the way takes a fortieth of the time of a search, however long the film."""


@dataclass(frozen=True)
class Finding:
    """What is known after so many frames: the signals so far and the seams they speak for.

    Attributes: ``seams`` all possible ones in [start, ``reached``); ``complete`` False while
    the search goes on or was stopped.
    """

    signals: Signals
    seams: tuple[Seam, ...]
    start: int
    reached: int
    complete: bool

    @property
    def damaged(self) -> tuple[tuple[int, int], ...]:
        """Stretches [start, end) of frames whose pictures could not be read."""
        held = np.concatenate([[False], self.signals.held, [False]])
        turns = np.flatnonzero(held[1:] != held[:-1]) + self.signals.start
        return tuple(zip(turns[::2].tolist(), turns[1::2].tolist(), strict=True))

    @property
    def pulldown(self) -> Pulldown | None:
        """The pattern of 24 pictures laid into 60 fields, where the film has it."""
        return pulldown(self.signals.woven, self.signals.start)


def finding_of(
    parts: list[Signals],
    start: int,
    end: int,
    settled: Settled | None = None,
    each: Callable[..., object] = map,
    stops: Flash | None = None,
) -> Finding:
    """Judge the signals measured so far; ``settled`` keeps what need not be judged again.

    ``each`` is what windows are judged by: `map`, or that of threads to judge on. With ``stops``
    camera stops are one cut each, and it says with which shot their flash frames stay.
    """
    signals = signals_joined(parts)
    seams = seams_found(signals, start, end, settled, each=each)
    if stops is not None:
        seams = with_stops_as_cuts(seams, signals, stops, start, end)
    return Finding(signals, seams, start, signals.end, signals.end >= end)


def find_seams(
    film: OpenedFilm,
    start: int = 0,
    end: int | None = None,
    *,
    crop: Crop | None = None,
    measuring: Measuring | None = None,
    store: Store | None = None,
    stop: threading.Event | None = None,
    progress: Callable[[int, int], None] | None = None,
    found: Callable[[Finding], None] | None = None,
    limit: int = LIMIT,
    stops: Flash | None = None,
    watches: Sequence[Watch] = (),
    pictures: PicturesOnTheWay | None = None,
) -> Finding:
    """Measure what is not measured yet of frames [start, end), and judge it. Raises MediaError.

    ``measuring`` is where, None for every core of this machine; ``store`` keeps it, None for the
    cache folder. ``progress`` hears (frames done, frames in all) after every run of pictures;
    ``found`` gets the finding so far a few times on the way. After ``stop`` what was measured is
    judged. ``limit`` is the most bytes of signals kept; ``stops`` as in `finding_of`. ``watches``
    and ``pictures`` see every picture that is decoded here; of those the ones about possible seams
    are kept.
    """
    last = film.media.frames if end is None else end
    crop = crop or Crop(first=film.media.fields)
    parts: list[Signals] = []
    settled: Settled = {}
    judged = start
    next_word = time.monotonic() + FIRST_WORD
    watches = (*watches, pictures.watch) if pictures is not None else watches
    with measuring_or_here(measuring) as where:
        each = where.each
        for part in change_signals(
            film, start, last, crop=crop, measuring=where, store=store, stop=stop, limit=limit,
            watches=watches,
        ):  # fmt: skip
            parts.append(part)
            if progress is not None:
                progress(part.end - start, last - start)
            if part.end >= last:
                continue  # it is judged once more below
            if pictures is not None and part.end >= judged + TAKEN_EVERY:
                recent = _recent(parts, judged - 2 * MARGIN)
                judged = part.end
                pictures.take(seams_found(recent, start, last), recent.end, complete=False)
            if found is not None and time.monotonic() >= next_word:
                began = time.monotonic()
                found(finding_of(parts, start, last, settled, each, stops))
                now = time.monotonic()
                next_word = now + max(FIRST_WORD, SELDOM * (now - began))
        if not parts:
            one = min(last, start + 1)
            here = OnThisThread()
            first = change_signals(film, start, one, crop=crop, measuring=here, store=store)
            parts.append(next(first))
        end_of_it = finding_of(parts, start, last, settled, each, stops)
    if pictures is not None:
        pictures.take(end_of_it.seams, end_of_it.reached, complete=True)
    return end_of_it


def _recent(parts: list[Signals], first: int) -> Signals:
    """Return the signals of the parts that reach beyond a frame."""
    return signals_joined([p for p in parts if p.end > first])
