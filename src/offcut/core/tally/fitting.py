"""Fitting: how a cut list lies on a film, what the film says to it, and what does not fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from offcut.core.lists.incoming import ReadEvent, ReadList, markers_of_list
from offcut.core.model.kinds import spans
from offcut.core.model.seam import Origin, Seam
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Media, Source
from offcut.core.tally.joins import Join, Joins
from offcut.core.timecode import base_of, frames_per_day, rate_words, timecode_from_frame
from offcut.core.words import many


@dataclass(frozen=True, slots=True)
class Fit:
    """How a list lies on a film: film frame = record frame - ``offset``.

    ``agree`` of ``whole`` joins lie on a found seam to the frame (inside its span for a gradual
    one); ``why`` says how the offset was come by.
    """

    offset: int
    agree: int
    whole: int
    why: str


def found_fit(joins: Joins, source: Source, *, drop: bool = False) -> Fit:
    """Find by itself how a list lies on a film.

    The film's own timecode is tried, whole hours off it, and the list's beginning at the film's;
    then the offset at which most joins fall on found seams, to the frame. The simplest one that
    agrees best is taken.
    """
    media = source.media
    seams = [s for s in counted_seams(source) if s.origin is not Origin.LISTED]
    hour = frames_per_day(media.rate, media.drop or drop) // 24
    tried: dict[int, str] = {media.start: "by the film's own timecode"}
    begins = joins.first_frame - media.start
    if begins // hour:
        tried.setdefault(media.start + begins // hour * hour, "a whole hour off the film's own")
    tried.setdefault(joins.first_frame, "the list begins where the film does")
    voted = _voted(joins, seams)
    if voted is not None:
        tried.setdefault(voted, "most joins fall on found seams")
    fits = [
        Fit(offset, agreeing(joins, seams, offset), len(joins.joins), why)
        for offset, why in tried.items()
    ]

    def inside(fit: Fit) -> int:
        return sum(0 < j.frame - fit.offset < media.frames for j in joins.joins)

    return max(fits, key=lambda fit: (fit.agree, inside(fit)))


def found_place(listed: ReadList, media: Media) -> Fit:
    """Find by itself how a list that only marks places lies on a film: most of them inside.

    The film's own timecode is tried, whole hours off it, and where its first place would be the
    film's first frame.
    """
    frames = [m.frame for m in markers_of_list(listed)]
    if listed.from_zero or not frames:
        return Fit(0, len(frames), len(frames), "by the time from the film’s first frame")
    hour = frames_per_day(media.rate, media.drop or listed.drop) // 24
    tried = {media.start: "by the film’s own timecode"}
    begins = min(frames) - media.start
    tried.setdefault(media.start + begins // hour * hour, "a whole hour off the film’s own")
    tried.setdefault(0, "as frames of the film")
    tried.setdefault(min(frames), "the first place where the film begins")

    def fit(offset: int) -> Fit:
        inside = sum(0 <= f - offset < media.frames for f in frames)
        return Fit(offset, inside, len(frames), tried[offset])

    return max(map(fit, tried), key=lambda fit: fit.agree)


def _voted(joins: Joins, seams: Sequence[Seam]) -> int | None:
    """Return the offset that most pairs of a join and a seam share, None when there are none."""
    cuts = np.array(
        [j.frame for j in joins.joins if not spans(j.kind)] or [j.frame for j in joins.joins],
        np.int64,
    )
    found = np.array(
        [s.frame for s in seams if not spans(s.kind)] or [s.frame for s in seams], np.int64
    )
    if not len(cuts) or not len(found):
        return None
    cuts, found = cuts[:4000], found[:4000]
    offsets, votes = np.unique((cuts[:, None] - found[None, :]).ravel(), return_counts=True)
    return int(offsets[int(votes.argmax())])


def agreeing(joins: Joins, seams: Sequence[Seam], offset: int) -> int:
    """Count the joins that lie on a seam: at its frame, or inside its span for a gradual one."""
    frames = {s.frame for s in seams}
    spans = [(s.start, s.end) for s in seams if s.gradual]
    count = 0
    for join in joins.joins:
        at = join.frame - offset
        count += at in frames or any(start <= at <= end for start, end in spans)
    return count


@dataclass(frozen=True, slots=True)
class Verdict:
    """What the film says to one join: the nearest found seam within reach, and how far off."""

    join: Join
    frame: int
    seam: Seam | None
    off: int

    @property
    def agrees(self) -> bool:
        """True when it lies on a seam to the frame."""
        return self.seam is not None and self.off == 0


def verdicts(
    joins: Joins, source: Source, offset: int, *, reach: int = 12
) -> tuple[tuple[Verdict, ...], tuple[Seam, ...]]:
    """Return for each join what the film says to it, and the counted seams the list has not.

    Pairs within ``reach`` frames are matched nearest first, each seam once; inside the span of a
    gradual one nothing is off.
    """
    seams = [s for s in counted_seams(source) if s.origin is not Origin.LISTED]
    pairs: list[tuple[int, int, int]] = []
    at = 0
    for n, join in enumerate(joins.joins):
        frame = join.frame - offset
        while at < len(seams) and max(seams[at].frame, seams[at].end) < frame - reach:
            at += 1
        k = at
        while k < len(seams) and min(seams[k].frame, seams[k].start) <= frame + reach:
            off = frames_off(frame, seams[k])
            if abs(off) <= reach:
                pairs.append((abs(off), n, k))
            k += 1
    taken: dict[int, int] = {}
    used: set[int] = set()
    for _, n, k in sorted(pairs):
        if n not in taken and k not in used:
            taken[n] = k
            used.add(k)
    told = tuple(
        Verdict(
            join,
            join.frame - offset,
            seams[taken[n]] if n in taken else None,
            frames_off(join.frame - offset, seams[taken[n]]) if n in taken else 0,
        )
        for n, join in enumerate(joins.joins)
    )
    first, last = joins.first_frame - offset, joins.last_frame - offset
    missed = tuple(s for k, s in enumerate(seams) if k not in used and first < s.frame < last)
    return told, missed


def frames_off(frame: int, seam: Seam) -> int:
    """Return how many frames later than a seam a frame lies, 0 inside a gradual one's span."""
    if seam.gradual and seam.start <= frame <= seam.end:
        return 0
    return frame - seam.frame


# what is said before anything is changed


def misgivings(listed: ReadList, joins: Joins | None, media: Media, offset: int) -> tuple[str, ...]:
    """Return in sentences what does not fit: rate, ends, overlaps, gaps, how many lines are lost.

    Where a film is not to be cut by the list, ``joins`` is None and nothing is said of them. The
    lines themselves are told by ``listed.troubles``.
    """
    said: list[str] = []

    def words(frame: int) -> str:
        return timecode_from_frame(frame, media.rate, media.drop)

    if listed.lost:
        said.append(f"{many(listed.lost, 'line')} could not be used")
    if listed.odd:
        said.append(f"{many(listed.odd, 'line')} with something odd, used all the same")
    if listed.told_rate is not None and listed.told_rate != media.rate:
        said.append(
            f"The list tells {rate_words(listed.told_rate)} frames a second, "
            f"the film has {rate_words(media.rate)}"
        )
    base = base_of(media.rate)
    if listed.highest >= base:
        said.append(
            f"The list counts frames up to {listed.highest}, the film only to {base - 1}: "
            "it is for another rate"
        )
    if joins is None:
        return tuple(said)
    length = joins.last_frame - joins.first_frame
    if media.frames and listed.form != "plain list":
        ratio = length / media.frames
        for other in (24, 25, 30, 50, 60):
            if other != base and abs(ratio * base / other - 1) < 0.004 and abs(ratio - 1) > 0.01:
                said.append(
                    f"The list lasts as long as the film would at {other} frames per second: "
                    "it may be for another rate"
                )
                break
    past = [j for j in joins.joins if j.frame - offset >= media.frames]
    if past:
        said.append(
            f"{many(len(past), 'join')} past the film’s end, the first at {words(past[0].frame)}"
        )
    early = [j for j in joins.joins if j.frame - offset <= 0]
    if early:
        said.append(
            f"{many(len(early), 'join')} before the film’s start, "
            f"the first at {words(early[0].frame)}"
        )
    over, gaps = _laps(listed)
    if over:
        said.append(
            f"{many(len(over), 'event')} over the one before on the record side, the first "
            f"{_event_words(over[0])}"
        )
    if gaps:
        said.append(f"{many(len(gaps), 'gap')}, the first before {_event_words(gaps[0])}")
    keys = sum(e.over for e in listed.events)
    if keys:
        said.append(f"{many(keys, 'key')} laid over the picture: no join of its own")
    return tuple(said)


def _laps(listed: ReadList) -> tuple[list[ReadEvent], list[ReadEvent]]:
    over: list[ReadEvent] = []
    gaps: list[ReadEvent] = []
    lowest = min((e.track for e in listed.events if e.track), default=1)
    at: int | None = None
    for event in listed.events:
        if event.over or event.track not in (0, lowest):
            continue
        if at is not None and event.record_in < at:
            over.append(event)
        elif at is not None and event.record_in > at:
            gaps.append(event)
        at = max(at or 0, event.record_out)
    return over, gaps


def _event_words(event: ReadEvent) -> str:
    return f"event {event.number}" + (f" (line {event.line})" if event.line else "")
