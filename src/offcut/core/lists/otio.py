"""OpenTimelineIO timelines, written with its own library."""

from __future__ import annotations

from pathlib import Path

from offcut.core.lists.events import EventList, write_text


def otio_text(events: EventList) -> str:
    """Return the list as an .otio document: one video track, a clip for every event.

    Each clip points into the whole film (its available range), trimmed to the shot.
    """
    import opentimelineio as otio  # slow to load, so only where it is used

    rate = float(events.rate)

    def time(frame: int) -> otio.opentime.RationalTime:
        return otio.opentime.RationalTime(frame, rate)

    timeline = otio.schema.Timeline(events.title)
    start = events.events[0].record_in if events.events else 0
    timeline.global_start_time = time(start)
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    for event in events.events:
        whole = otio.schema.ExternalReference(
            target_url=Path(events.path).as_uri()
            if Path(events.path).is_absolute()
            else events.path,
            available_range=otio.opentime.TimeRange(
                time(events.source_start), time(events.source_frames)
            ),
        )
        whole.name = events.clip
        clip = otio.schema.Clip(
            name=event.name,
            media_reference=whole,
            source_range=otio.opentime.TimeRange(time(event.source_in), time(event.length)),
        )
        clip.metadata["offcut"] = {
            "number": event.number,
            "note": event.note,
            "joined_by": event.joined_by.value,
            "mixed": event.mixed,
        }
        track.append(clip)
    text: str = otio.adapters.write_to_string(timeline, "otio_json")
    return text + "\n"


def write_otio(events: EventList, path: str | Path) -> Path:
    """Write the list as an OTIO timeline. Raises ListError."""
    return write_text(path, otio_text(events))
