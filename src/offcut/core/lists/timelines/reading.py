"""OpenTimelineIO timelines as cut lists: flattened, with fades, speeds and markers in their places.

Runs where OpenTimelineIO is loaded, in a process of its own
(`offcut.core.lists.timelines.reading_apart`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.incoming import (
    MAX_EVENTS,
    ListMarker,
    ListTroubles,
    ReadEvent,
    ReadList,
    marks_only,
)
from offcut.core.lists.timelines.metadata import (
    colour_of,
    note_of,
    part_of,
    rate_told,
    remapped,
    text_in,
    with_original,
)
from offcut.core.model.seam import Kind
from offcut.core.timecode import Rate, can_drop, rate_from
from offcut.core.words import many

Exact = Fraction | int
"""Frames, or how many of them: whole ones as plain numbers, which are many times as quick."""
MOST_DEEP = 40
"""Tracks and stacks inside one another, no deeper than so many."""
MOST_FRAMES = 10**12
_BLACK = ("black", "slug", "black video")
_UNFIT = (
    ValueError,
    TypeError,
    OverflowError,
    AttributeError,
    ZeroDivisionError,
    KeyError,
    TimecodeError,
)


@dataclass(frozen=True, slots=True)
class _Where:
    """How an item lies on the record side: its own time ``origin`` is at ``at``, seen [lo, hi).

    ``scale`` is how many of its frames pass in one of the record's; all at the list's rate.
    """

    at: Exact
    origin: Exact
    scale: Exact
    lo: Exact
    hi: Exact

    def record(self, time: Exact) -> Exact:
        """Return the record place of a time of the item's own."""
        if self.scale == 1:
            return self.at + time - self.origin
        return self.at + Fraction(time - self.origin) / self.scale


@dataclass(frozen=True, slots=True)
class _Mixed:
    """A transition of an upper track to what lies below it: its place and span."""

    layer: int
    at: int
    start: int
    end: int
    kind: Kind


class TimelineReading:
    """Reads one timeline into events, markers and troubles."""

    def __init__(self, file: Path, rate: Rate, library: Any, form: str = "otio") -> None:
        self.rate = rate
        self._rate = float(rate)
        self.form = form
        self.otio = library
        self.events: list[ReadEvent] = []
        self.markers: list[ListMarker] = []
        self.troubles = ListTroubles(file)
        self.disabled = 0
        self._told_rates: set[float] = set()
        self._layer = self._number = 0
        self._mixed: list[_Mixed] = []

    def read(self, timeline: Any, form: str, drop: bool) -> ReadList:
        """Return the timeline as a list. Raises ListError when it has no clip."""
        otio, file = self.otio, self.troubles.path
        start: Exact = 0
        if timeline.global_start_time is not None:
            try:
                start = self.frames(timeline.global_start_time)
            except _UNFIT:
                self.troubles.add(0, "", "its start time makes no sense, 0 is taken", used=True)
        where = _Where(start, 0, 1, start, start + MOST_FRAMES)
        tracks = timeline.tracks
        sound = 0
        self._mark(tracks, where)
        for child in tracks:
            if getattr(child, "kind", "") == otio.schema.TrackKind.Audio:
                sound += sum(1 for _ in child.find_clips())
            elif _enabled(child):
                self._nested(child, where, 0, 0)
            else:
                self.disabled += 1
        if self.disabled:
            words = f"{many(self.disabled, 'disabled item')} left out"
            self.troubles.add(0, "", words, used=True)
        if not self.events:
            what = "it has sound alone, no picture" if sound else "not one clip can be read in it"
            raise self.troubles.refusal(what)
        events = tuple(self._mixed_in())
        listed = ReadList(
            path=str(file),
            form=form,
            rate=self.rate,
            drop=drop and can_drop(self.rate),
            title=text_in(timeline.name),
            events=events,
            markers=tuple(self.markers),
            sound=sound,
            told_rate=rate_told(timeline),
            marks=marks_only(events, self.markers),
        )
        return self.troubles.told_by(listed)

    def frames(self, time: Any) -> Exact:
        """Return a time as frames at the list's rate, exactly. Raises one of _UNFIT."""
        value, rate = float(time.value), float(time.rate)
        if not (math.isfinite(value) and math.isfinite(rate)) or abs(value) > MOST_FRAMES:
            raise ValueError("a time that is no number")
        if abs(rate - self._rate) < 0.01:
            return int(value) if value.is_integer() else Fraction(value).limit_denominator(1000)
        if rate > 1 and rate not in self._told_rates:
            self._told_rates.add(rate)
            words = f"has times at {rate:g} frames per second, the film runs at another rate"
            self.troubles.add(0, "", words, used=True)
        return Fraction(value) / rate_from(rate) * self.rate if value else 0

    # what lies where

    def _item(self, item: Any, where: _Where, depth: int) -> None:
        """Lay a track or a stack out, its own time beginning at ``where.origin``."""
        otio = self.otio
        if depth > MOST_DEEP:
            raise ListError(f"{self.troubles.path}: nested more than {MOST_DEEP} deep")
        if isinstance(item, otio.schema.Track):
            self._track(item, where, depth)
            return
        self._mark(item, where)
        for child in item:
            if not _enabled(child):
                self.disabled += 1
            elif getattr(child, "kind", "") != otio.schema.TrackKind.Audio:
                self._nested(child, where, depth, 0)

    def _nested(self, child: Any, where: _Where, depth: int, pos: Exact) -> None:
        """Lay out an item that begins at ``pos`` of the time of what it is in."""
        otio = self.otio
        first: Exact
        length: Exact
        try:
            if child.source_range is None and isinstance(child, otio.schema.Track):
                first, length = 0, MOST_FRAMES  # whatever is in it
            else:
                first, length = self._trim(child)
        except _UNFIT:
            self.troubles.add(0, text_in(child.name), "has no length that makes sense:")
            return
        if not isinstance(child, otio.schema.Track | otio.schema.Stack):
            self._layer += 1
            inside = self._inside(where, pos, 0, length, 1)
            self._clip(child, inside, self._layer, None)
            return
        scale = self._speed(child)
        if scale <= 0:
            words = "is nested and runs backwards or stands still: taken as it runs forward"
            self.troubles.add(0, text_in(child.name), words + ":", used=True)
            scale = Fraction(1)
        self._item(child, self._inside(where, pos, first, length, scale), depth + 1)

    @staticmethod
    def _inside(where: _Where, pos: Exact, origin: Exact, length: Exact, scale: Exact) -> _Where:
        at, end = where.record(pos), where.record(pos + length)
        return _Where(at, origin, where.scale * scale, max(at, where.lo), min(end, where.hi))

    def _trim(self, item: Any) -> tuple[Exact, Exact]:
        """Return the first frame of an item's own time that is seen, and how many are.

        Raises one of _UNFIT, which OpenTimelineIO's own errors are made to.
        """
        try:
            span = item.trimmed_range()
        except Exception as error:  # a clip without a range
            raise ValueError(str(error)) from error
        first, length = self.frames(span.start_time), self.frames(span.duration)
        if length < 0:
            raise ValueError("a length below zero")
        return first, length

    def _track(self, track: Any, where: _Where, depth: int) -> None:
        otio = self.otio
        self._layer += 1
        layer = self._layer
        self._mark(track, where)
        pos: Exact = 0
        mix, fading = None, None
        children = list(track)
        for n, child in enumerate(children):
            if isinstance(child, otio.schema.Transition):
                if mix is not None:  # one out of the picture, the next into it
                    fading = self._span(mix, where.record(pos), where.scale)
                mix = child
                continue
            try:
                _, length = self._trim(child)
            except _UNFIT:
                words = "has no length that makes sense, what follows may lie too early:"
                self.troubles.add(0, text_in(child.name), words)
                mix = None
                continue
            inside = self._inside(where, pos, 0, length, 1)
            span = self._span(mix, inside.at, where.scale)
            if inside.lo > inside.at:
                span = None  # it lies before what is seen of the track
            if isinstance(child, otio.schema.Gap) and not length:
                fading = span or fading  # a fade to black that is no frame long
                mix = None
                continue
            if fading is not None:
                span = (fading[0], span[1] if span else round(inside.at), Kind.FADE)
                fading = None
            clear = isinstance(child, otio.schema.Gap) or not _enabled(child)
            if clear:
                self.disabled += not isinstance(child, otio.schema.Gap)
                self._mark(child, inside)
                follows = children[n + 1] if n + 1 < len(children) else None
                faded = isinstance(follows, otio.schema.Transition)
                self._gap(inside, layer, span, faded)
            elif isinstance(child, otio.schema.Track | otio.schema.Stack):
                known = len(self.events)
                self._nested(child, where, depth, pos)
                self._join(known, span)
            else:
                self._clip(child, inside, layer, span)
            pos += length
            mix = None

    def _span(self, mix: Any, at: Exact, scale: Exact) -> tuple[int, int, Kind] | None:
        """Return the record frames a transition mixes about ``at``, and its kind."""
        if mix is None:
            return None
        try:
            start = at - self.frames(mix.in_offset) / Fraction(scale)
            end = at + self.frames(mix.out_offset) / Fraction(scale)
        except _UNFIT:
            self.troubles.add(0, "", "a transition without a length is taken as a cut", used=True)
            return None
        told, name = str(mix.transition_type), str(mix.name).lower()
        if self.form == "aaf":
            operation = part_of(mix.metadata, "AAF", "OperationGroup", "Operation")
            name = str(operation.get("Name", "")).lower()
        dissolve = "issolve" in told if self.form == "otio" else "wipe" not in name
        if dissolve or "issolve" in name:
            kind = Kind.DISSOLVE
        else:
            kind = Kind.WHIP if "whip" in name else Kind.WIPE
        return (round(start), round(end), kind) if end > start else None

    def _gap(
        self, where: _Where, layer: int, span: tuple[int, int, Kind] | None, faded: bool
    ) -> None:
        """Take a gap that something fades to or from as black; what lies below may show in it."""
        start, end = round(where.lo), round(where.hi)
        if span is not None:
            self._mixed.append(_Mixed(layer, start, *span))
        if (span is None and not faded) or end <= start:
            return
        mix = span[:2] if span is not None else (0, 0)
        self._add(
            ReadEvent(
                "", 0, "", start, start, start, end, track=0, black=True,
                kind=Kind.DISSOLVE if span is not None else Kind.CUT, mix_in=mix[0], mix_out=mix[1],
            )
        )  # fmt: skip

    def _join(self, known: int, span: tuple[int, int, Kind] | None) -> None:
        """Give the first event of a nested item the transition that leads into it."""
        if span is None or len(self.events) <= known:
            return
        first = min(range(known, len(self.events)), key=lambda n: self.events[n].record_in)
        self.events[first] = _joined(self.events[first], span)

    def _clip(
        self, clip: Any, where: _Where, layer: int, span: tuple[int, int, Kind] | None
    ) -> None:
        start, end = round(where.lo), round(where.hi)
        if end <= start:
            return  # not seen, or no frame long
        try:
            first, _ = self._trim(clip)
            event = self._event(clip, start, end, layer, where, first)
        except _UNFIT as error:
            name = text_in(getattr(clip, "name", ""))
            self.troubles.add(0, name, f"a clip makes no sense ({str(error)[:80]}):")
            return
        self._add(_joined(event, span) if span is not None else event)
        if self.form == "xml":  # its markers count from the file's first frame
            first -= self._media_start(clip.media_reference)
        self._mark(clip, replace(where, origin=first))

    def _add(self, event: ReadEvent) -> None:
        if len(self.events) >= MAX_EVENTS:
            raise ListError(f"{self.troubles.path}: more than {MAX_EVENTS:,} events")
        if event.track:
            self._number += 1
            event = replace(event, number=str(self._number))
        self.events.append(event)

    # one clip

    def _event(
        self, clip: Any, start: int, end: int, layer: int, where: _Where, first: Exact
    ) -> ReadEvent:
        own = self._speed(clip)
        media = clip.media_reference
        if self.form == "xml" and own and own != 1:
            first = self._run_back(media, first, end - start, Fraction(own))
        speed = Fraction(own * where.scale).limit_denominator(10_000)
        length = end - start
        source_in = round(first + (start - where.at) * where.scale * own)
        natural = max(1, round(length * abs(speed))) if speed else 1
        name = text_in(getattr(media, "name", "")) if media is not None else ""
        url = text_in(getattr(media, "target_url", "")) if media is not None else ""
        told = clip.metadata
        ours: Mapping[str, Any] = part_of(told, "offcut")
        if self.form == "xml":
            ours = {
                "note": part_of(told, "fcp_xml", "comments").get("mastercomment1"),
                "scene": part_of(told, "fcp_xml", "logginginfo").get("scene"),
            }
        if self.form == "aaf":
            said = part_of(told, "AAF", "UserComments")
            ours = {"note": said.get("Comments"), "scene": said.get("Scene")}
        reel = text_in(part_of(told, "cmx_3600").get("reel")) or self._reel_told(clip, media)
        event = ReadEvent(
            number="",
            line=0,
            reel=reel or name or Path(url).stem,
            source_in=source_in,
            source_out=source_in + natural,
            record_in=start,
            record_out=end,
            track=layer,
            clip=text_in(clip.name),
            note=text_in(ours.get("note")),
            scene=text_in(ours.get("scene")),
            speed=speed,
            black=str(getattr(media, "generator_kind", "")).lower() in _BLACK,
        )
        return with_original(event, ours.get("original"))

    def _speed(self, item: Any) -> Exact:
        """Return how many of its source's frames pass in one, 0 for one that stands still."""
        otio = self.otio
        speed: Exact = 1
        for effect in item.effects:
            if isinstance(effect, otio.schema.LinearTimeWarp):
                told = float(effect.time_scalar)
                if not math.isfinite(told):
                    raise ValueError("a speed that is no number")
                speed *= Fraction(told).limit_denominator(10_000)
            elif self.form == "xml" and part_of(effect.metadata, "fcp_xml").get("effectid") == (
                "timeremap"
            ):
                speed *= remapped(part_of(effect.metadata, "fcp_xml").get("parameter"))
            elif isinstance(effect, otio.schema.TimeEffect):
                words = "changes its speed in a way that cannot be read:"
                self.troubles.add(0, text_in(item.name), words, used=True)
        return speed

    def _reel_told(self, clip: Any, media: Any) -> str:
        """Return the reel that the form tells in its own place, empty where it tells none."""
        if self.form == "aaf":  # the file that a clip is in comes from a tape, or was brought in
            for held in clip.media_references().values():
                kind = part_of(held.metadata, "AAF", "EssenceDescription").get("ClassName")
                if kind in ("TapeDescriptor", "ImportDescriptor"):
                    return text_in(held.name)
        if self.form != "xml" or media is None:
            return ""
        return text_in(part_of(media.metadata, "fcp_xml", "timecode", "reel").get("name"))

    def _run_back(self, media: Any, first: Exact, length: int, speed: Fraction) -> Exact:
        """Return the lowest source frame of a clip whose in and out are counted as it runs.

        One that runs backwards is counted from its file's end.
        """
        begins = self._media_start(media)
        passed = (first - begins) * abs(speed)
        span = getattr(media, "available_range", None)
        if speed > 0 or span is None:
            return begins + passed
        return begins + self.frames(span.duration) - passed - round(length * abs(speed))

    def _media_start(self, media: Any) -> Exact:
        span = getattr(media, "available_range", None)
        return self.frames(span.start_time) if span is not None else 0

    # markers

    def _mark(self, item: Any, where: _Where) -> None:
        """Take an item's markers whose places are seen."""
        for marker in item.markers:
            try:
                span = marker.marked_range
                start = where.record(self.frames(span.start_time))
                end = start + self.frames(span.duration) / Fraction(where.scale)
            except _UNFIT:
                self.troubles.add(0, text_in(marker.name), "a marker without a place:")
                continue
            if not where.lo <= start < where.hi or len(self.markers) >= MAX_EVENTS:
                continue
            frame = round(start)
            self.markers.append(
                ListMarker(
                    frame,
                    text_in(marker.name),
                    max(1, round(end) - frame),
                    text_in(getattr(marker, "comment", "")) or note_of(marker),
                    colour_of(marker, self.form),
                )
            )

    def _mixed_in(self) -> Iterator[ReadEvent]:
        """Yield the events, with what upper tracks fade to mixed in where it lies below them."""
        for mixed in self._mixed:
            below = [
                (e.track, n)
                for n, e in enumerate(self.events)
                if 0 < e.track < mixed.layer and e.record_in <= mixed.at < e.record_out
            ]
            if not below:
                continue
            n = max(below)[1]
            event = self.events[n]
            ahead = mixed.at - event.record_in
            if ahead:
                moved = event.source_in + round(ahead * event.speed)
                held = replace(event, record_out=mixed.at, source_out=max(event.source_in, moved))
                self.events[n] = held
                later = replace(event, record_in=mixed.at, source_in=min(moved, event.source_out))
                self.events.append(_joined(later, (mixed.start, mixed.end, mixed.kind)))
            else:
                self.events[n] = _joined(event, (mixed.start, mixed.end, mixed.kind))
        yield from self.events


def _joined(event: ReadEvent, span: tuple[int, int, Kind]) -> ReadEvent:
    start, end, kind = span
    end = min(end, event.record_out)
    return replace(event, kind=kind, mix_in=start, mix_out=end) if end > start else event


def _enabled(item: Any) -> bool:
    if str(part_of(item.metadata, "fcp_xml").get("enabled", "")).upper() == "FALSE":
        return False
    return bool(getattr(item, "enabled", True))
