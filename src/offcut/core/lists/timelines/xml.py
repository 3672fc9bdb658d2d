"""XML: the xmeml interchange form, by OpenTimelineIO's adapter for it.

The adapter leaves out what a timecode counts as, reels, speeds and colours; they are put in its
document afterwards, in the places the form has for them. Which those are is common practice (no
published standard); what the in and out of a clip count where its speed is changed is from memory:
frames of the clip as it runs, not of its source.
"""

from __future__ import annotations

import xml.etree.ElementTree as ElementTree
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from offcut.core.errors import ListError
from offcut.core.lists.marker_colours import SHADES
from offcut.core.lists.outgoing import Event, EventList, with_plain_texts, write_list
from offcut.core.lists.timelines.writing import reel_spans, text_by_adapter, timeline_of
from offcut.core.model.kinds import KINDS
from offcut.core.model.seam import Kind
from offcut.core.model.source import Marker
from offcut.core.timecode import Rate, timecode_from_frame

_WIPE = "Edge Wipe"


def xml_text(events: EventList) -> str:
    """Return the list as xmeml, version 4. Raises ListError."""
    if any(e.film.run is not None and not e.reel for e in events.events):
        raise ListError("XML has no place for numbered stills: hand over an OTIO timeline")
    events = with_plain_texts(events)
    timeline = timeline_of(events)
    root = ElementTree.fromstring(text_by_adapter(timeline, "fcp_xml", "XML"))
    _complete(root, events)
    ElementTree.indent(root, "  ")
    body = ElementTree.tostring(root, encoding="unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE xmeml>\n{body}\n'


def write_xml(events: EventList, path: str | Path) -> Path:
    """Write the list as XML. Raises ListError naming the file."""
    try:
        text = xml_text(events)
    except ListError as error:
        raise ListError(f"{path}: {error}") from error
    return write_list(path, text)


def _complete(root: ElementTree.Element, events: EventList) -> None:
    """Put into the adapter's document what it leaves out."""
    for parent in root.iter():
        _once(parent, "rate")
    sequence = next(root.iter("sequence"))
    for clock in sequence.findall("timecode"):
        _count(clock, events.events[0].record_in, events.rate, events.drop)
    spans = reel_spans(events.events)
    files: dict[str, ElementTree.Element] = {}
    clips = list(root.iter("clipitem"))
    for event, clip in zip(events.events, clips, strict=True):
        file = clip.find("file")
        assert file is not None
        known = files.setdefault(file.get("id", ""), file)
        begins = spans[event.reel][0] if event.reel else event.film.start
        told = known.find("timecode")
        if told is not None:
            _count(told, begins, events.rate, event.source_drop)
            reel = event.reel or event.film.reel
            if reel and told.find("reel") is None:
                ElementTree.SubElement(ElementTree.SubElement(told, "reel"), "name").text = reel
        frames = spans[event.reel][1] - begins if event.reel else event.film.frames
        _run(clip, event, begins, frames)
        for place, marker in zip(clip.findall("marker"), event.markers, strict=True):
            _mark(place, marker, event, begins)
        if event.note:
            said = ElementTree.SubElement(clip, "comments")
            ElementTree.SubElement(said, "mastercomment1").text = event.note
        if event.scene:
            info = ElementTree.SubElement(clip, "logginginfo")
            ElementTree.SubElement(info, "scene").text = event.scene
    for effect, kind in zip(root.iter("transitionitem"), _kinds(events), strict=True):
        if KINDS[kind].wipe:
            for name in ("effect/name", "effect/effectid"):
                found = effect.find(name)
                if found is not None:
                    found.text = _WIPE


def _kinds(events: EventList) -> Iterator[Kind]:
    for event in events.events:
        if event.mix is not None:
            yield from (event.mix.kind,) * (2 if KINDS[event.mix.kind].through_black else 1)


def _once(parent: ElementTree.Element, tag: str) -> None:
    for again in parent.findall(tag)[1:]:
        parent.remove(again)


def _count(told: ElementTree.Element, frame: int, rate: Rate, drop: bool) -> None:
    """Let a timecode say its frame, its label, and whether it counts drop-frame."""
    values = {
        "string": timecode_from_frame(frame, rate, drop),
        "frame": str(frame),
        "displayformat": "DF" if drop else "NDF",
    }
    for tag, text in values.items():
        found = told.find(tag)
        (found if found is not None else ElementTree.SubElement(told, tag)).text = text


def _run(clip: ElementTree.Element, event: Event, begins: int, frames: int) -> None:
    """Say a clip's speed, and count its in and out as it runs; its file has so many frames."""
    if event.speed == 1:
        return
    effect = ElementTree.SubElement(ElementTree.SubElement(clip, "filter"), "effect")
    for tag, text in (
        ("name", "Time Remap"), ("effectid", "timeremap"), ("effectcategory", "motion"),
        ("effecttype", "motion"), ("mediatype", "video"),
    ):  # fmt: skip
        ElementTree.SubElement(effect, tag).text = text
    percent = abs(event.speed) * 100
    for tag, text in (
        ("variablespeed", "0"), ("speed", f"{float(percent):.6g}"),
        ("reverse", "TRUE" if event.speed < 0 else "FALSE"), ("frameblending", "FALSE"),
    ):  # fmt: skip
        parameter = ElementTree.SubElement(effect, "parameter")
        ElementTree.SubElement(parameter, "parameterid").text = tag
        ElementTree.SubElement(parameter, "name").text = tag
        ElementTree.SubElement(parameter, "value").text = text
    if not event.speed:
        return
    source, shown = clip.find("in"), clip.find("out")
    assert source is not None
    assert shown is not None
    assert source.text
    assert shown.text
    length = int(shown.text) - int(source.text)
    ahead = event.source_in - begins - int(source.text)  # what a mix takes before it
    passed = event.source_in - begins
    if event.speed < 0:  # it is counted from the file's end
        passed = frames - (event.source_out - begins)
    first = round(Fraction(passed) / abs(event.speed)) - ahead
    source.text, shown.text = str(first), str(first + length)


def _mark(place: ElementTree.Element, marker: Marker, event: Event, begins: int) -> None:
    """Let a marker count from its file's first frame, and say its note and colour."""
    first = event.source_in + marker.start - event.start - begins
    ends = -1 if marker.point else first + marker.end - marker.start
    for tag, text in (("in", str(first)), ("out", str(ends))):
        found = place.find(tag)
        (found if found is not None else ElementTree.SubElement(place, tag)).text = text
    if marker.note:
        ElementTree.SubElement(place, "comment").text = marker.note
    if marker.colour in SHADES:
        colour = ElementTree.SubElement(place, "color")
        shades = zip(("alpha", "red", "green", "blue"), (0, *SHADES[marker.colour]), strict=True)
        for tag, level in shades:
            ElementTree.SubElement(colour, tag).text = str(level)
