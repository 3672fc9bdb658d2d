"""OpenTimelineIO timelines, written with its own library."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

from offcut.core.errors import ListError
from offcut.core.lists.marker_colours import USUAL_COLOUR
from offcut.core.lists.outgoing import Event, EventList, Mix, with_unicode_texts, write_list
from offcut.core.machine.loading import loaded_apart
from offcut.core.model.kinds import KINDS
from offcut.core.model.seam import Kind
from offcut.core.model.source import Marker


@cache
def library() -> Any:
    """Return OpenTimelineIO; it is slow to load, so it is loaded where it is first used."""
    return loaded_apart("opentimelineio")


def timeline_of(events: EventList) -> Any:
    """Return the list as a Timeline: one video track, a clip for every event.

    Each clip points into its whole film (its available range), trimmed to the shot, with the
    shot's markers; our own words lie in its metadata under "offcut". Between originals a mix is
    made again: a transition at the seam, a fade as one to a gap of no length and one out of it.
    """
    otio, events = library(), with_unicode_texts(events)

    timeline = otio.schema.Timeline(events.title)
    start = events.events[0].record_in if events.events else 0
    timeline.global_start_time = otio.opentime.RationalTime(start, float(events.rate))
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    spans = reel_spans(events.events)
    for event in events.events:
        if event.mix is not None:
            track.extend(_transitions(otio, float(events.rate), event.mix, event.record_in))
        track.append(clip_of(events, event, spans=spans))
    return timeline


def _transitions(otio: Any, rate: float, mix: Mix, middle: int) -> list[Any]:
    """Return what leads from one clip to the next over a mix."""

    def transition(kind: Kind, before: int, after: int) -> Any:
        types = otio.schema.TransitionTypes
        custom = KINDS[kind].custom
        return otio.schema.Transition(
            name=kind.value.capitalize(),
            transition_type=types.Custom if custom else types.SMPTE_Dissolve,
            in_offset=otio.opentime.RationalTime(before, rate),
            out_offset=otio.opentime.RationalTime(after, rate),
        )

    dark, light = middle - mix.start, mix.end - middle
    if not KINDS[mix.kind].through_black:
        return [transition(mix.kind, dark, light)]
    nothing = otio.opentime.TimeRange(
        otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(0, rate)
    )
    black = otio.schema.Gap(source_range=nothing)
    return [transition(Kind.DISSOLVE, dark, 0), black, transition(Kind.DISSOLVE, 0, light)]


def subclips_of(events: EventList) -> Any:
    """Return the list as a collection of clips that stay whole: each points into the film with
    its handles, the shot itself marked inside.
    """
    otio, events = library(), with_unicode_texts(events)

    shelf = otio.schema.SerializableCollection(events.title)
    for event in events.events:
        clip = clip_of(events, event, event.head, event.tail)
        rate = float(events.rate)
        own = otio.opentime.TimeRange(
            otio.opentime.RationalTime(event.source_in, rate),
            otio.opentime.RationalTime(event.source_out - event.source_in, rate),
        )
        clip.markers.append(otio.schema.Marker(name="shot", marked_range=own))
        shelf.append(clip)
    return shelf


def text_by_adapter(value: Any, adapter: str, form: str, **options: Any) -> str:
    """Return what an adapter makes of a timeline or a bin. Raises ListError naming the form."""
    try:
        text: str = library().adapters.write_to_string(value, adapter, **options)
    except Exception as error:  # an adapter may raise anything
        words = (str(error).strip().splitlines() or [type(error).__name__])[0]
        raise ListError(f"it cannot be put in {form} ({words[:160]})") from error
    return text


Spans = dict[str, tuple[int, int]]
"""What is used of each reel, by its name: source frames [first, after)."""


def reel_spans(events: Iterable[Event]) -> Spans:
    """Return what the events use of their originals, mixes and all."""
    spans: Spans = {}
    for event in events:
        if event.reel:
            first, last = spans.get(event.reel, (event.source_in, event.source_out))
            ahead = event.mix.source_in if event.mix is not None else event.source_in
            behind = event.source_in + event.length
            spans[event.reel] = (
                min(first, event.source_in, ahead), max(last, event.source_out, behind)
            )  # fmt: skip
    return spans


def clip_of(
    events: EventList, event: Event, head: int = 0, tail: int = 0, spans: Spans | None = None
) -> Any:
    """Return an event as a Clip that points into its film or its original, with its handles."""
    otio = library()
    rate = float(events.rate)

    def time(frame: int) -> Any:
        return otio.opentime.RationalTime(frame, rate)

    def stretch(first: int, frames: int) -> Any:
        return otio.opentime.TimeRange(time(first), time(frames))

    length = event.source_out - event.source_in if event.speed == 1 else event.length
    clip = otio.schema.Clip(
        name=event.name,
        media_reference=_media(otio, event, rate, stretch, spans or {}),
        source_range=stretch(event.source_in - head, length + head + tail),
    )
    if not event.speed:
        clip.effects.append(otio.schema.FreezeFrame())
    elif event.speed != 1:
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
        **({"shows": dict(event.shows)} if event.shows else {}),
    }
    for marker in event.markers:
        inside = event.source_in + marker.start - event.start
        clip.markers.append(_marker(otio, marker, stretch(inside, marker.end - marker.start)))
    return clip


def _media(otio: Any, event: Event, rate: float, stretch: Any, spans: Spans) -> Any:
    """Return what a clip is taken from: its original by name, or the film's file or files."""
    if event.reel:
        whole = otio.schema.MissingReference(name=event.reel)
        if event.reel in spans:
            first, last = spans[event.reel]
            whole.available_range = stretch(first, last - first)
        return whole
    film = event.film
    path = Path(film.path)
    available = stretch(film.start, film.frames)
    if film.run is None:
        url = path.as_uri() if path.is_absolute() else film.path
        whole = otio.schema.ExternalReference(target_url=url, available_range=available)
    else:
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
            available_range=available,
        )
    whole.name = film.name
    return whole


def _marker(otio: Any, marker: Marker, marked: Any) -> Any:
    return otio.schema.Marker(
        name=marker.name,
        marked_range=marked,
        color=marker.colour.value.upper() or USUAL_COLOUR,
        comment=marker.note,
        metadata={"offcut": {"note": marker.note, "colour": marker.colour.value}},
    )


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
    text: str = library().adapters.write_to_string(value, "otio_json")
    return text + "\n"


def write_otio(events: EventList, path: str | Path) -> Path:
    """Write the list as an OTIO timeline. Raises ListError."""
    return write_list(path, otio_text(events))


def write_subclips(events: EventList, path: str | Path) -> Path:
    """Write the shots as subclips in an OTIO collection. Raises ListError."""
    return write_list(path, subclips_text(events))
