"""Lanes: light and colours, movement and loudness along the axis of what is studied."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import MediaError
from offcut.core.measure.loudness import kept_loudness
from offcut.core.measure.ranges import kept_trace
from offcut.core.measure.small_pictures import crop_of
from offcut.core.measure.tones import CELLS, colours_of, kept_tones, light_of
from offcut.core.media.display import display_of
from offcut.core.model.source import Source
from offcut.core.rhythm.lengths import Floats, ShotLengths, StudiedShot

BUNDLE = 32
_HAIR = 1e-6
"""Seconds by which a column may begin before its frame and still be that frame's."""
_UNKNOWN = 43
"""What is not known yet is drawn in the grey of the well."""


@dataclass(frozen=True, eq=False)
class FilmSignals:
    """What is known of each frame of a film, from frame 0 on.

    Attributes: ``colours`` uint8 (n, 10, 3) RGB of ten strips from the top down; ``light``
    float32 (n,) 0 to 100; ``movement`` float32 (n,) change from the frame before; ``loudness``
    float32 (n,) LUFS. NaN where something is not known. ``seen`` and ``heard`` tell whether light
    and loudness are known at all.
    """

    colours: NDArray[np.uint8]
    light: NDArray[np.float32]
    movement: NDArray[np.float32]
    loudness: NDArray[np.float32]
    seen: bool
    heard: bool


def signals_of(source: Source) -> FilmSignals:
    """Read what was measured of a film and kept; also where the film is gone."""
    media = source.media
    n = media.frames
    crop = crop_of(source)
    tones, known = kept_tones(media, 0, n, crop)
    light = light_of(tones)
    light[~known] = np.nan
    colours = np.full((n, CELLS, 3), _UNKNOWN, np.uint8)
    colours[known] = colours_of(tones[known], media)
    try:
        display = display_of(source.ticket.display)
    except MediaError:
        display = None  # a cube that is gone: the colours as they are
    if display is not None and known.any():
        colours[known] = display.seen(colours[known])
    movement = np.full(n, np.nan, np.float32)
    trace = kept_trace(media, source.start, source.end, crop)
    movement[source.start : source.start + len(trace)] = trace
    heard = kept_loudness(media)
    loudness = np.full(n, np.nan, np.float32)
    if heard is not None:
        loudness[:] = heard
    return FilmSignals(
        colours, light, movement, loudness, bool(known.any()), heard is not None,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Lanes:
    """Signals along an axis, a row for each frame in the order it is seen.

    Attributes: ``times`` float64 (k + 1,) when each frame begins on the axis, and when the last
    ends; the others as in `FilmSignals`, (k, ...), but joins are no movement. ``shot``
    int64 (k,) in which shot each lies.
    """

    times: Floats
    colours: NDArray[np.uint8]
    light: NDArray[np.float32]
    movement: NDArray[np.float32]
    loudness: NDArray[np.float32]
    shot: NDArray[np.int64]
    seen: bool
    heard: bool

    @cached_property
    def _coarse(self) -> NDArray[np.uint8]:
        """The colours in bundles of frames, (k / 32, 10, 3)."""
        whole = len(self.colours) // BUNDLE * BUNDLE
        if not whole:
            return self.colours[:1]
        bundles = self.colours[:whole].reshape(-1, BUNDLE, CELLS, 3)
        made: NDArray[np.uint8] = bundles.mean(axis=1, dtype=np.float32).astype(np.uint8)
        return made

    @cached_property
    def most_movement(self) -> float:
        """The movement that all but the strongest of 200 frames stay under, at least 1."""
        known = self.movement[np.isfinite(self.movement)]
        return max(1.0, float(np.percentile(known, 99.5))) if len(known) else 1.0

    @cached_property
    def moves(self) -> bool:
        """True where movement is known of any frame."""
        return bool(np.isfinite(self.movement).any())

    def columns(self, first: float, last: float, count: int) -> Columns:
        """Return the lanes between two moments of the axis, in ``count`` columns."""
        edges = np.linspace(first, last, count + 1)
        at = np.searchsorted(self.times, edges + _HAIR, side="right") - 1
        k = len(self.shot)
        inside = (edges[:-1] < self.times[-1]) & (edges[1:] > self.times[0])
        begin = np.clip(at[:-1], 0, max(0, k - 1))
        return Columns(
            self._colours(begin, np.clip(at[1:], 0, k), inside),
            _most(self.movement, begin, inside),
            _most(self.loudness, begin, inside),
        )

    def _colours(
        self, begin: NDArray[np.int64], end: NDArray[np.int64], inside: NDArray[np.bool_]
    ) -> NDArray[np.uint8]:
        colours = np.full((len(begin), CELLS, 3), _UNKNOWN, np.uint8)
        if not len(self.shot):
            return colours
        held = self.colours
        if len(begin) and (int(end[-1]) - int(begin[0])) >= BUNDLE * len(begin):
            held = self._coarse
            begin = np.minimum(begin // BUNDLE, len(held) - 1)
        made = _means(held, begin)
        colours[inside] = made[inside]
        return colours

    def a_shot(self, values: NDArray[np.float32], shots: int) -> Floats:
        """Return the mean of a signal in each shot, float64 (shots,), NaN where it is unknown."""
        known = np.isfinite(values)
        many = np.bincount(self.shot[known], minlength=shots)
        sums = np.bincount(self.shot[known], weights=values[known], minlength=shots)
        return np.where(many > 0, sums / np.maximum(1, many), np.nan)


@dataclass(frozen=True, eq=False)
class Columns:
    """Lanes for drawing: ``colours`` uint8 (c, 10, 3); ``movement`` and ``loudness`` float32 (c,).

    The last two are the most there is in a column, NaN where nothing is known.
    """

    colours: NDArray[np.uint8]
    movement: NDArray[np.float32]
    loudness: NDArray[np.float32]


def _means(values: NDArray[np.uint8], begin: NDArray[np.int64]) -> NDArray[np.uint8]:
    """Return the mean of the rows from each place of ``begin`` (rising) to the next."""
    first = int(begin[0])
    step = int(np.diff(begin).max()) if len(begin) > 1 else 1
    if step <= 1:
        return np.asarray(values[begin])
    part = values[first : min(len(values), int(begin[-1]) + step)]
    places, which = np.unique(begin - first, return_inverse=True)
    sums = np.add.reduceat(part, places, axis=0, dtype=np.uint32)
    many = np.diff([*places.tolist(), len(part)])
    made: NDArray[np.uint8] = (sums // many[:, None, None])[which].astype(np.uint8)
    return made


def _most(
    values: NDArray[np.float32], begin: NDArray[np.int64], inside: NDArray[np.bool_]
) -> NDArray[np.float32]:
    most = np.full(len(begin), np.nan, np.float32)
    if not len(values):
        return most
    first = int(begin[0])
    step = int(np.diff(begin).max()) if len(begin) > 1 else 1
    part = values[first : min(len(values), int(begin[-1]) + max(1, step))]
    places, which = np.unique(begin - first, return_inverse=True)
    found = np.fmax.reduceat(part, places)[which]
    most[inside] = found[inside]
    return most


def lanes_of(lengths: ShotLengths, films: Mapping[int, FilmSignals]) -> Lanes | None:
    """Lay the signals of films along the axis of some lengths.

    None where nothing is known of any, as of a list.
    """
    places = [n for n, shot in enumerate(lengths.shots) if shot.source in films]
    shots = [lengths.shots[n] for n in places]
    starts = np.array([max(0, s.start) for s in shots], np.int64)
    ends = np.array([min(len(films[s.source].light), s.end) for s in shots], np.int64)
    counts = np.maximum(0, ends - starts)
    if not counts.sum():
        return None
    offsets = np.cumsum(counts) - counts
    within = np.arange(counts.sum()) - np.repeat(offsets, counts)
    frames = np.repeat(starts, counts) + within
    wide = lengths.seconds[places] / np.maximum(1, counts)
    times = np.repeat(lengths.begins[places], counts) + np.repeat(wide, counts) * within
    film_of = np.repeat(np.array([s.source for s in shots], np.int64), counts)
    used = [(films[i], film_of == i) for i in dict.fromkeys(s.source for s in shots)]

    def laid(name: str) -> NDArray[Any]:
        if len(used) == 1:
            return np.asarray(getattr(used[0][0], name)[frames])
        first = getattr(used[0][0], name)
        whole = np.empty((len(frames), *first.shape[1:]), first.dtype)
        for film, mine in used:
            whole[mine] = getattr(film, name)[frames[mine]]
        return whole

    movement = laid("movement")
    after = [*(s.mixed for s in lengths.shots[1:]), 0]
    _leave_joins_out(movement, offsets, counts, shots, [after[n] for n in places])
    return Lanes(
        np.append(times, lengths.whole),
        laid("colours"),
        laid("light"),
        movement,
        laid("loudness"),
        np.repeat(np.array(places, np.int64), counts),
        any(film.seen for film, _ in used),
        any(film.heard for film, _ in used),
    )


def _leave_joins_out(
    movement: NDArray[np.float32],
    offsets: NDArray[np.int64],
    counts: NDArray[np.int64],
    shots: Sequence[StudiedShot],
    mixed_after: Sequence[int],
) -> None:
    """Put what lies beside them in the place of the frames that joins change.

    A cut changes a shot's first frame, a gradual join half its span on either side.
    """
    cut = offsets[counts > 1]
    movement[cut] = movement[cut + 1]
    movement[offsets[counts == 1]] = np.nan
    for n in [n for n, s in enumerate(shots) if s.mixed or mixed_after[n]]:
        still = movement[offsets[n] : offsets[n] + counts[n]]
        first, last = 1 + (shots[n].mixed + 1) // 2, len(still) - (mixed_after[n] + 1) // 2
        if first >= last:
            still[:] = np.nan
            continue
        still[:first] = still[first]
        still[last:] = still[last - 1]
