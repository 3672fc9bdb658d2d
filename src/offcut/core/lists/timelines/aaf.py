"""AAF by OpenTimelineIO's adapter, completed with pyaaf2.

The adapter knows no rates but whole ones, no drop-frame, no reels, speeds, wipes nor markers; they
are put into its file afterwards. Names of operations and parameters are those of the AAF Edit
Protocol and of its object specification as pyaaf2 has them.
"""

from __future__ import annotations

import pickle
import subprocess
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any
from uuid import UUID

from offcut.core.errors import ListError
from offcut.core.files import whole_file
from offcut.core.lists.marker_colours import COLOUR_WORDS, SHADES, USUAL_COLOUR
from offcut.core.lists.outgoing import Event, EventList, with_plain_texts
from offcut.core.lists.timelines.writing import library, timeline_of
from offcut.core.machine.loading import apart
from offcut.core.model.kinds import KINDS
from offcut.core.timecode import base_of, can_drop

_DISSOLVE = "0c3bea40-fc05-11d2-8a29-0050040ef7d2"
_WIPE = "0c3bea44-fc05-11d2-8a29-0050040ef7d2"
_SPEED_CONTROL = UUID("9d2ea890-0968-11d3-8a38-0050040ef7d2")
_SPEED_RATIO = UUID("72559a80-24d7-11d3-8a50-0050040ef7d2")


def write_aaf(events: EventList, path: str | Path) -> Path:
    """Write the list as an AAF, whole or not at all. Raises ListError naming the file."""
    file = Path(path)
    if any(e.film.run is not None and not e.reel for e in events.events):
        words = "AAF has no place for numbered stills: hand over an OTIO timeline"
        raise ListError(f"{file}: {words}")
    try:
        with whole_file(file) as aside:
            aside.unlink()  # the adapter takes a file that is there for one to go on with
            _write_apart(with_plain_texts(events), aside)
    except OSError as error:
        raise ListError(f"{file}: cannot be written ({error.strerror or error})") from error
    except RuntimeError as error:
        raise ListError(f"{file}: it cannot be put in an AAF ({error})") from error
    return file


def _write_apart(events: EventList, aside: Path) -> None:
    """Write in a process of its own: it takes long, and would hold up everything else in this one.

    Raises RuntimeError with what the adapter said.
    """
    ran = subprocess.run(
        apart("offcut.core.lists.timelines.aaf", str(aside)), input=pickle.dumps(events),
        capture_output=True, check=False,
    )  # fmt: skip
    if ran.returncode or not aside.exists():
        words = ran.stderr.decode(errors="replace").strip().splitlines() or ["it broke off"]
        raise RuntimeError(words[-1][:160])


def main(path: str) -> None:
    """Write the events that lie pickled on standard input."""
    import aaf2

    events: EventList = pickle.loads(sys.stdin.buffer.read())
    library().adapters.write_to_file(
        _timeline(events), path, adapter_name="AAF", use_empty_mob_ids=True
    )
    with aaf2.open(path, "rw") as opened:
        _Completing(opened, events).run()


def _timeline(events: EventList) -> Any:
    """Return the timeline with what the adapter asks of transitions and pictures."""
    otio = library()
    timeline = timeline_of(events)
    mixes = [
        e.mix.kind
        for e in events.events
        if e.mix is not None
        for _ in range(2 if KINDS[e.mix.kind].through_black else 1)
    ]
    transitions = timeline.find_children(otio.schema.Transition)
    for transition, kind in zip(transitions, mixes, strict=True):
        transition.transition_type = otio.schema.TransitionTypes.SMPTE_Dissolve
        wipe = KINDS[kind].wipe
        transition.metadata["AAF"] = {
            "CutPoint": int(transition.in_offset.value),
            "PointList": [{"Value": 0, "Time": 0}, {"Value": 1, "Time": 1}],
            "OperationGroup": {
                "Operation": {
                    "Identification": _WIPE if wipe else _DISSOLVE,
                    "Name": "SMPTE Video Wipe" if wipe else "Video Dissolve",
                    "Description": "",
                    "IsTimeWarp": False,
                    "Bypass": 0,
                    "NumberInputs": 2,
                    "OperationCategory": "OperationCategory_Effect",
                    "DataDefinition": {"Name": "Picture"},
                }
            },
        }
    for clip, event in zip(timeline.find_clips(), events.events, strict=True):
        clip.effects.clear()  # the adapter leaves them out anyway
        clip.markers.clear()
        film = event.film
        clip.media_reference.metadata["AAF"] = {
            "EssenceDescription": {
                "StoredWidth": film.width or 1920,
                "StoredHeight": film.height or 1080,
                "ImageAspectRatio": f"{film.width or 16}/{film.height or 9}",
            }
        }
    return timeline


class _Completing:
    """Puts into the adapter's file what it leaves out."""

    def __init__(self, opened: Any, events: EventList) -> None:
        self.f, self.events = opened, events
        self.rate = f"{events.rate.numerator}/{events.rate.denominator}"
        (self.whole,) = opened.content.compositionmobs()

    def run(self) -> None:
        for mob in self.f.content.mobs:
            for slot in mob.slots:
                slot.edit_rate = self.rate
            descriptor = getattr(mob, "descriptor", None)
            if descriptor is not None and "SampleRate" in descriptor:
                descriptor["SampleRate"].value = self.rate
        picture = None
        for slot in self.whole.slots:
            if slot.segment.media_kind == "Picture":
                picture = slot
            else:
                self._count(slot.segment, self.events.drop)
        assert picture is not None
        picture["PhysicalTrackNumber"].value = 1
        self._clips(picture)
        self._markers(picture)

    def _count(self, timecode: Any, drop: bool) -> None:
        timecode.fps = base_of(self.events.rate)
        timecode.drop = drop and can_drop(self.events.rate)

    def _clips(self, picture: Any) -> None:
        components = picture.segment["Components"]
        events = iter(self.events.events)
        made = []
        held = list(components.value)
        components.value = []  # what is put inside an operation must lie nowhere else
        for component in held:
            if type(component).__name__ == "SourceClip":
                event = next(events)
                self._source(component, event)
                if event.speed != 1:
                    component = self._slowed(component, event)
            made.append(component)
        components.value = made

    def _source(self, clip: Any, event: Event) -> None:
        """Name the tape a clip comes from, and let it count as that does."""
        master = clip.mob
        if event.note:
            master.comments["Comments"] = event.note
        if event.scene:
            master.comments["Scene"] = event.scene
        file = master.slots[0].segment.mob
        tape = file.slots[0].segment.mob
        tape.name = event.reel or event.film.reel or Path(event.film.name).stem
        if event.reel:
            tape.descriptor = self.f.create.TapeDescriptor()
            master.comments["Tape"] = event.reel
        for slot in tape.slots:
            if type(slot.segment).__name__ == "Timecode":
                self._count(slot.segment, event.source_drop)
                slot["PhysicalTrackNumber"].value = 1
            else:
                slot.segment.start = 0
        for slot in master.slots:
            for mark in ("MarkIn", "MarkOut"):
                if mark in slot:
                    del slot[mark]

    def _slowed(self, clip: Any, event: Event) -> Any:
        """Return a clip inside the operation that plays it at another speed."""
        f = self.f
        operation = f.create.OperationDef(_SPEED_CONTROL, "Motion Control")
        f.dictionary.register_def(operation)
        operation.media_kind = "picture"
        operation["IsTimeWarp"].value = True
        operation["Bypass"].value = 0
        operation["NumberInputs"].value = 1
        operation["OperationCategory"].value = "OperationCategory_Effect"
        rational = f.dictionary.lookup_typedef("Rational")
        definition = f.create.ParameterDef(_SPEED_RATIO, "SpeedRatio", "", rational)
        f.dictionary.register_def(definition)
        group = f.create.OperationGroup(operation, clip.length)
        group.media_kind = "picture"
        # the ratio is of lengths, out to in; a picture that stands still has its own length
        speed = event.speed or Fraction(1, clip.length)
        ratio = f"{speed.denominator * (1 if speed > 0 else -1)}/{abs(speed.numerator)}"
        told = f.create.ConstantValue(definition, ratio)
        group.parameters.append(told)
        length = max(1, round(clip.length * abs(speed)))
        clip.length = length
        group.segments.append(clip)
        return group

    def _markers(self, picture: Any) -> None:
        placed = [(e, m) for e in self.events.events for m in e.markers]
        if not placed:
            return
        f = self.f
        first = self.events.events[0].record_in
        slot = f.create.EventMobSlot()
        slot.slot_id = max(s.slot_id for s in self.whole.slots) + 1
        slot["EditRate"].value = self.rate
        slot["PhysicalTrackNumber"].value = 1
        sequence = f.create.Sequence(media_kind="DescriptiveMetadata")
        slot.segment = sequence
        for event, marker in placed:
            told = f.create.DescriptiveMarker()
            told["DescribedSlots"].value = {picture.slot_id}
            told["Position"].value = event.record_in - first + marker.start - event.start
            told["Length"].value = marker.end - marker.start
            told["Comment"].value = marker.name or marker.note
            colour = marker.colour or COLOUR_WORDS[USUAL_COLOUR]
            shades = zip(("red", "green", "blue"), SHADES[colour], strict=True)
            told["CommentMarkerColor"].value = {n: level * 257 for n, level in shades}
            sequence.components.append(told)
        self.whole.slots.append(slot)
