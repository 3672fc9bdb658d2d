"""OpenTimelineIO timelines, read and written with its own library and its adapters."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError, TimecodeError
from offcut.core.lists.incoming import MAX_BYTES, ListMarker, ReadEvent, ReadList, Trouble
from offcut.core.lists.outgoing import Event, EventList, write_list
from offcut.core.loading import loaded_apart
from offcut.core.model.seam import Kind
from offcut.core.timecode import Rate, can_drop, rate_from


@cache
def _library() -> Any:
    """Return OpenTimelineIO; it is slow to load, so it is loaded where it is first used."""
    return loaded_apart("opentimelineio")


def read_otio(path: str | Path, rate: Rate, drop: bool = False) -> ReadList:
    """Read a timeline with OpenTimelineIO; its times are brought to ``rate``.

    Raises ListError naming the file when it is not a timeline, or has no clip.
    """
    file = Path(path)
    timeline = _timeline(file)
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


def _timeline(file: Path) -> Any:
    """Return the timeline a file holds. Raises ListError."""
    otio = _library()
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
    return timeline


def rate_of_timeline(path: str | Path) -> Rate | None:
    """Return the rate a timeline runs at by its first clip, None where it tells none.

    Raises ListError when it cannot be read.
    """
    try:
        timeline = _timeline(Path(path))
        first = next(iter(timeline.find_clips()), None)
        span = first.source_range if first is not None else None
        told = span.duration.rate if span is not None else None
        start = timeline.global_start_time
        told = start.rate if start is not None else told
        return rate_from(float(told)) if told and told > 1 else None
    except (TimecodeError, AttributeError):
        return None


class _Reading:
    def __init__(self, rate: Rate) -> None:
        self.rate = rate
        self.events: list[ReadEvent] = []
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
        otio = _library()

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

    def _event(self, clip: Any, number: int, place: int, at: int, length: int) -> ReadEvent:
        otio = _library()

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
        event = ReadEvent(
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


def _with_original(event: ReadEvent, told: Any) -> ReadEvent:
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


# writing


def timeline_of(events: EventList) -> Any:
    """Return the list as a Timeline: one video track, a clip for every event.

    Each clip points into its whole film (its available range), trimmed to the shot, with the
    shot's markers; our own words lie in its metadata under "offcut".
    """
    otio = _library()

    timeline = otio.schema.Timeline(events.title)
    start = events.events[0].record_in if events.events else 0
    timeline.global_start_time = otio.opentime.RationalTime(start, float(events.rate))
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    for event in events.events:
        track.append(_clip(otio, events, event, 0, 0))
    return timeline


def subclips_of(events: EventList) -> Any:
    """Return the list as a collection of clips that stay whole: each points into the film with
    its handles, the shot itself marked inside.
    """
    otio = _library()

    shelf = otio.schema.SerializableCollection(events.title)
    for event in events.events:
        clip = _clip(otio, events, event, event.head, event.tail)
        rate = float(events.rate)
        own = otio.opentime.TimeRange(
            otio.opentime.RationalTime(event.source_in, rate),
            otio.opentime.RationalTime(event.source_out - event.source_in, rate),
        )
        clip.markers.append(otio.schema.Marker(name="shot", marked_range=own))
        shelf.append(clip)
    return shelf


def _clip(otio: Any, events: EventList, event: Event, head: int, tail: int) -> Any:
    rate = float(events.rate)

    def time(frame: int) -> Any:
        return otio.opentime.RationalTime(frame, rate)

    def stretch(first: int, frames: int) -> Any:
        return otio.opentime.TimeRange(time(first), time(frames))

    if event.reel:
        whole = otio.schema.MissingReference(name=event.reel)
    else:
        film = event.film
        path = Path(film.path)
        if film.run is not None:
            run = film.run
            folder = path.parent
            whole = otio.schema.ImageSequenceReference(
                target_url_base=f"{folder.as_uri() if folder.is_absolute() else folder}/",
                name_prefix=run.head,
                name_suffix=run.tail,
                start_frame=run.first,
                frame_step=1,
                rate=rate,
                frame_zero_padding=run.digits,
                available_range=stretch(film.start, film.frames),
            )
        else:
            whole = otio.schema.ExternalReference(
                target_url=path.as_uri() if path.is_absolute() else film.path,
                available_range=stretch(film.start, film.frames),
            )
        whole.name = film.name
    length = event.source_out - event.source_in if event.speed == 1 else event.length
    clip = otio.schema.Clip(
        name=event.name,
        media_reference=whole,
        source_range=stretch(event.source_in - head, length + head + tail),
    )
    if event.speed != 1:
        clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=float(event.speed)))
    if event.reel:
        clip.metadata["cmx_3600"] = {"reel": event.reel}
    clip.metadata["offcut"] = {
        "number": event.number,
        "note": event.note,
        "joined_by": event.joined_by.value,
        "mixed": event.mixed,
        "scene": event.scene,
        "original": _original(event),
    }
    for marker in event.markers:
        inside = event.source_in + marker.start - event.start
        clip.markers.append(
            otio.schema.Marker(
                name=marker.name,
                marked_range=stretch(inside, marker.end - marker.start),
                metadata={"offcut": {"note": marker.note}},
            )
        )
    return clip


def _original(event: Event) -> dict[str, Any] | None:
    """Return what the shot was made from, its frames at the shot's two ends."""
    original = event.original
    if original is None:
        return None
    first, last = event.original_span
    return {
        "reel": original.reel,
        "clip": original.clip,
        "in": first,
        "out": last,
        "drop": original.drop,
        "speed": f"{original.speed.numerator}/{original.speed.denominator}",
        "comments": list(original.comments),
    }


def otio_text(events: EventList) -> str:
    """Return the list as an .otio document."""
    return _text(timeline_of(events))


def subclips_text(events: EventList) -> str:
    """Return the subclips as an .otio document."""
    return _text(subclips_of(events))


def _text(value: Any) -> str:
    otio = _library()

    text: str = otio.adapters.write_to_string(value, "otio_json")
    return text + "\n"


def write_with_adapter(events: EventList, path: str | Path, adapter: str) -> Path:
    """Write the list with an installed OpenTimelineIO adapter. Raises ListError."""
    otio = _library()

    file = Path(path)
    try:
        otio.adapters.write_to_file(timeline_of(events), str(file), adapter_name=adapter)
    except Exception as error:  # an adapter may raise anything
        words = (str(error).strip().splitlines() or [type(error).__name__])[0]
        raise ListError(f"{file}: the adapter {adapter} cannot write it ({words[:160]})") from error
    return file


def writing_adapters() -> tuple[tuple[str, str, str], ...]:
    """Return (name, suffix, what it says of itself) of each installed adapter that writes.

    OpenTimelineIO's own forms are left out: those are ours to write.
    """
    otio = _library()

    found = []
    for adapter in otio.plugins.ActiveManifest().adapters:
        if adapter.name.startswith("otio") or not (
            adapter.has_feature("write_to_file") or adapter.has_feature("write_to_string")
        ):
            continue
        about = " ".join((getattr(adapter.module(), "__doc__", "") or "").split())
        suffix = adapter.suffixes[0] if adapter.suffixes else adapter.name
        found.append((adapter.name, f".{suffix}", about.split(". ")[0][:90]))
    return tuple(sorted(found))


def write_otio(events: EventList, path: str | Path) -> Path:
    """Write the list as an OTIO timeline. Raises ListError."""
    return write_list(path, otio_text(events))


def write_subclips(events: EventList, path: str | Path) -> Path:
    """Write the shots as subclips in an OTIO collection. Raises ListError."""
    return write_list(path, subclips_text(events))


def reading_suffixes() -> frozenset[str]:
    """Return the suffixes, without the point, that installed OTIO adapters can read."""
    otio = _library()

    return frozenset(otio.adapters.suffixes_with_defined_adapters(read=True)) - {"txt"}
