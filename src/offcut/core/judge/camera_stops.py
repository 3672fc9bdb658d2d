"""Camera stops: where a camera stopped and started again on a roll, as one cut each.

A camera that slows down exposes its last pictures longer, and one that starts its first ones: for
a few frames the picture burns out, and the next one comes out of the white (common practice, no
published source). Several cuts lie there for a judge of single pictures, or none.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.bursts import flash_runs
from offcut.core.judge.judge import certainty_of
from offcut.core.judge.planes import hat_of
from offcut.core.judge.reasons import STOP, stop_reasons
from offcut.core.measure.signals import Signals
from offcut.core.model.seam import Kind, Origin, Seam
from offcut.core.model.ticket import Flash

LONGEST = 12
"""Frames that a flash lasts at most."""
_ROUND = 16
_FLAT = 4.0
"""Grey levels by which light still falls from frame to frame while a picture comes out of the
white."""
_LIGHTER = 14.0
"""Grey levels by which a flash is lighter than what lies on either side."""
_APART = 7.0
"""Grey levels by which tiny pictures before and after differ at least, exposure and all."""
_SCORE = 88.0


@dataclass(frozen=True)
class CameraStop:
    """Frames [start, end) are flash frames, ``brightest`` is among them; ``apart`` is how far the
    pictures before and after are from one another, in grey levels."""

    start: int
    end: int
    brightest: int
    apart: float


def is_stop(seam: Seam) -> bool:
    """Tell whether a seam is a camera stop."""
    return any(r.code == STOP for r in seam.reasons)


def flashes(signals: Signals) -> list[CameraStop]:
    """Return the flashes between pictures that differ, in order."""
    light = signals.stats[:, 0].astype(np.float32)
    many_frames = len(light)
    found: list[CameraStop] = []
    at = 2
    while at < many_frames - 2:
        before = float(np.median(light[max(0, at - _ROUND) : at]))
        if light[at] <= before + _LIGHTER or light[at] < light[at - 1] + 3:
            at += 1
            continue
        stop = _flash_at(signals, light, at, before)
        if stop is None:
            at += 1
        else:
            found.append(stop)
            at = stop.end - signals.start + 2
    return found


def _flashes_of(seams: Sequence[Seam], signals: Signals) -> list[CameraStop]:
    """Return the flashes between pictures that differ, and those of seams told as stops."""
    found = flashes(signals)
    told = [s for s in seams if is_stop(s) and not any(_near(s, f.start, f.end) for f in found)]
    if not told:
        return found
    light = signals.stats[:, 0].astype(np.float32)
    runs = [(a + signals.start, b + signals.start) for a, b in flash_runs(hat_of(light))]
    for seam in told:
        for start, end in runs:
            if _near(seam, start, end):
                top = start + int(light[start - signals.start : end - signals.start].argmax())
                found.append(CameraStop(start, end, top, 2 * _APART))
                break
    return sorted(found, key=lambda f: f.start)


def _near(seam: Seam, start: int, end: int) -> bool:
    return start - 2 <= seam.frame <= end + 1


def _flash_at(
    signals: Signals, light: NDArray[np.float32], first: int, before: float
) -> CameraStop | None:
    """Return the flash that begins at a place in the signals, None where it is none."""
    top = first
    last = 0
    for t in range(first + 1, min(len(light) - 1, first + LONGEST + 1)):
        if light[t] > light[top]:
            top = t
        elif light[t] < light[top] - _LIGHTER and light[t + 1] > light[t] - _FLAT:
            last = t
            break
    if not last or light[top] - before < _LIGHTER:
        return None
    gap = last - first + 1
    if gap > signals.far.shape[1]:
        return None
    apart = float(signals.far[last, gap - 1])
    usual = float(np.median(signals.far[max(0, first - 8) : first, min(gap, 8) - 1]))
    if apart < _APART or apart < 2.5 * usual:
        return None
    start = signals.start
    return CameraStop(start + first, start + last, start + top, apart)


def with_stops_as_cuts(
    seams: Sequence[Seam], signals: Signals, flash: Flash, start: int, end: int
) -> tuple[Seam, ...]:
    """Return possible seams of frames (start, end) with those at a camera stop as one cut.

    ``flash`` says where that lies: after the flash frames, before them, or where the picture
    changes among them (at the brightest, where that cannot be told).
    """
    kept = list(seams)
    for stop in _flashes_of(seams, signals):
        inside = [s for s in kept if _near(s, stop.start, stop.end)]
        frame = {Flash.BEFORE: stop.end, Flash.AFTER: stop.start}.get(flash)
        if frame is None:
            frame = _changes_at(stop, inside, signals)
        if not start < frame < end:
            continue
        kept = [s for s in kept if s not in inside]
        kept.append(_cut_of(stop, frame, inside))
    return tuple(sorted(kept, key=lambda s: s.frame))


def _changes_at(stop: CameraStop, inside: Sequence[Seam], signals: Signals) -> int:
    cuts = [s for s in inside if s.kind is Kind.CUT and stop.start <= s.frame <= stop.end]
    if cuts:
        return max(cuts, key=lambda s: (s.score, -abs(s.frame - stop.brightest))).frame
    span = slice(stop.start - signals.start, stop.end + 1 - signals.start)
    unlike = signals.unlike[span, 0].astype(np.float32)
    return stop.start + int(np.argmax(unlike)) if unlike.max() > 1 else stop.brightest


def _cut_of(stop: CameraStop, frame: int, inside: Sequence[Seam]) -> Seam:
    long = stop.end - stop.start
    best = max(inside, key=lambda s: s.score, default=None)
    score = max(_SCORE if stop.apart > 2 * _APART else 70.0, best.score if best else 0.0)
    said = stop_reasons(long)
    good = (
        (r for r in best.reasons if not r.against and r.code not in (STOP, "burnt")) if best else ()
    )
    others = tuple(good)[:2]
    certainty = certainty_of(score)
    base = best or Seam(id=0, frame=frame, start=frame, end=frame, kind=Kind.CUT,
                        score=score, certainty=certainty, origin=Origin.FOUND)  # fmt: skip
    return replace(
        base, frame=frame, start=frame, end=frame, kind=Kind.CUT, score=score,
        certainty=certainty, reasons=(*said, *others),
    )  # fmt: skip
