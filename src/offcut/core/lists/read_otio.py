"""Reading OpenTimelineIO timelines, and whatever other formats its installed adapters know."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError
from offcut.core.lists.listed import MAX_BYTES, ListedEvent, ListMarker, ReadList, Trouble
from offcut.core.model.project import Kind
from offcut.core.timecode import Rate, can_drop, rate_from


def read_otio(path: str | Path, rate: Rate, drop: bool = False) -> ReadList:
    """Read a timeline with OpenTimelineIO; its times are brought to ``rate``.

    Raises ListError naming the file when it is not a timeline, or has no clip.
    """
    import opentimelineio as otio  # slow to load, so only where it is used

    file = Path(path)
    try:
        if file.stat().st_size > MAX_BYTES:
            raise ListError(f"{file}: too large for a cut list")
        timeline: Any = otio.adapters.read_from_file(str(file))
    except ListError:
        raise
    except OSError as error:
        raise ListError(f"{file}: cannot be read ({error.strerror})") from error
    except Exception as error:  # an adapter may raise anything
        words = str(error).strip().splitlines() or [type(error).__name__]
        raise ListError(f"{file}: not a timeline ({words[0][:120]})") from error
    if isinstance(timeline, otio.schema.SerializableCollection):
        timeline = next((t for t in timeline if isinstance(t, otio.schema.Timeline)), None)
    if not isinstance(timeline, otio.schema.Timeline):
        raise ListError(f"{file}: there is no timeline in it")
    reading = _Reading(rate)
    start = reading.frames(timeline.global_start_time) if timeline.global_start_time else 0
    number = 0
    for place, track in enumerate(timeline.video_tracks(), start=1):
        number = reading.track(track, place, start, number)
    if not reading.events:
        raise ListError(f"{file}: not one clip can be read in it")
    sound = sum(1 for t in timeline.audio_tracks() for _ in t.find_clips())
    return ReadList(
        path=str(file),
        form="OTIO",
        rate=rate,
        drop=drop and can_drop(rate),
        title=timeline.name or "",
        events=tuple(reading.events),
        markers=tuple(reading.markers),
        sound=sound,
        troubles=tuple(reading.troubles),
    )


class _Reading:
    def __init__(self, rate: Rate) -> None:
        self.rate = rate
        self.events: list[ListedEvent] = []
        self.markers: list[ListMarker] = []
        self.troubles: list[Trouble] = []
        self.told_rates: set[float] = set()

    def frames(self, time: Any) -> int:
        """Return a time as frames at the list's rate, counted, not rescaled by a hair."""
        if abs(float(time.rate) - float(self.rate)) < 0.01:
            return round(float(time.value))
        if time.rate > 1 and time.rate not in self.told_rates:
            self.told_rates.add(time.rate)
            words = f"has times at {time.rate:g} frames per second, the film runs at another rate"
            self.troubles.append(Trouble(0, "", words))
        return round(Fraction(time.value) / rate_from(float(time.rate)) * self.rate)

    def track(self, track: Any, place: int, start: int, number: int) -> int:
        import opentimelineio as otio

        at = start
        mix: Any = None
        for child in track:
            if isinstance(child, otio.schema.Transition):
                mix = child
                continue
            length = self.frames(child.duration())
            if isinstance(child, otio.schema.Gap):
                at += length
                continue
            number += 1
            for clip in [child] if isinstance(child, otio.schema.Clip) else child.find_clips():
                event = self._event(clip, number, place, at, length)
                break
            else:
                at += length
                continue
            if mix is not None:
                kind = Kind.DISSOLVE if "issolve" in mix.transition_type else Kind.WIPE
                span = (at - self.frames(mix.in_offset), at + self.frames(mix.out_offset))
                event = replace(event, kind=kind, mix_in=span[0], mix_out=span[1])
            mix = None
            self.events.append(event)
            for marker in child.markers:
                inside = marker.marked_range.start_time
                first = child.trimmed_range().start_time
                self.markers.append(ListMarker(at + self.frames(inside - first), marker.name))
            at += length
        return number

    def _event(self, clip: Any, number: int, place: int, at: int, length: int) -> ListedEvent:
        import opentimelineio as otio

        taken = clip.trimmed_range()
        first = self.frames(taken.start_time)
        natural = length
        speed = Fraction(1)
        for effect in clip.effects:
            if isinstance(effect, otio.schema.LinearTimeWarp):
                speed = Fraction(effect.time_scalar).limit_denominator(10_000)
                natural = round(length * abs(speed))
        media = clip.media_reference
        reel = str(clip.metadata.get("cmx_3600", {}).get("reel", "") or "")
        ours = clip.metadata.get("offcut", {})
        name = str(getattr(media, "name", "") or "") if media is not None else ""
        url = str(getattr(media, "target_url", "") or "")
        event = ListedEvent(
            number=str(number),
            line=0,
            reel=reel or name or Path(url).stem,
            source_in=first,
            source_out=first + natural,
            record_in=at,
            record_out=at + length,
            track=place,
            clip=clip.name or "",
            note=str(ours.get("note", "") or ""),
            scene=str(ours.get("scene", "") or ""),
            speed=speed,
        )
        return _with_original(event, ours.get("original"))


def _with_original(event: ListedEvent, told: Any) -> ListedEvent:
    """Return an event with the original that Offcut wrote of it; itself where there is none."""
    try:
        first, last, speed = int(told["in"]), int(told["out"]), Fraction(str(told["speed"])[:40])
        if last <= first or not speed or abs(speed) > 1000:
            return event
        return replace(
            event,
            reel=str(told["reel"]),
            source_in=first,
            source_out=last,
            drop=bool(told["drop"]),
            speed=speed,
            comments=tuple(str(c) for c in told["comments"]),
        )
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return event
