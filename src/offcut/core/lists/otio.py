"""OpenTimelineIO timelines, written with its own library."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from offcut.core.errors import ListError
from offcut.core.lists.events import Event, EventList, write_text


def timeline_of(events: EventList) -> Any:
    """Return the list as a Timeline: one video track, a clip for every event.

    Each clip points into the whole film (its available range), trimmed to the shot, with the
    shot's markers; our own words lie in its metadata under "offcut".
    """
    import opentimelineio as otio  # slow to load, so only where it is used

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
    import opentimelineio as otio

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
        path = Path(events.path)
        whole = otio.schema.ExternalReference(
            target_url=path.as_uri() if path.is_absolute() else events.path,
            available_range=stretch(events.source_start, events.source_frames),
        )
        whole.name = events.clip
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
    import opentimelineio as otio

    text: str = otio.adapters.write_to_string(value, "otio_json")
    return text + "\n"


def write_with_adapter(events: EventList, path: str | Path, adapter: str) -> Path:
    """Write the list with an installed OpenTimelineIO adapter. Raises ListError."""
    import opentimelineio as otio

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
    import opentimelineio as otio

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
    return write_text(path, otio_text(events))
