"""The rules a project keeps: asked when a file is read, when a person edits, when a file is saved.

Whatever these functions let pass can be saved and opened again; whatever they do not is refused
before it is taken, whoever brings it: a verb, a list, a merge, detection or a file.
"""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from offcut.core.model.card import NO_CARD, Card, Original, OriginalFile
from offcut.core.model.handover import Handover
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.run import Run
from offcut.core.model.seam import Seam
from offcut.core.model.source import Framing, Marker, Media, Source, Zone
from offcut.core.model.ticket import MOST_SQUEEZE, Ticket

MAX_SEAMS = 500_000
MAX_SOURCES = 10_000
MAX_HANDOVERS = 10_000
MAX_FRAME = 100_000_000
MAX_NUMBER = 10**12
"""No still has a higher number."""
MAX_ID = 10**15
"""Ids lie below it, so that there is always a next one."""
MAX_REASONS = 50
MAX_SPEED = 1000
FRACTION_LONG = 40
MOST_COMMENTS, MOST_LONG = 40, 400
MAX_HOLES = 100_000
LONGEST_NAME = 4096


def fault_of_project(project: Project) -> str:
    """Return in words what cannot be in a project, empty when all of it can."""
    if len(project.sources) > MAX_SOURCES:
        return f"more than {MAX_SOURCES:,} films"
    if len(project.handovers) > MAX_HANDOVERS:
        return f"more than {MAX_HANDOVERS:,} hand-overs"
    if not 1 <= project.next_id <= MAX_ID:
        return "the next id is out of range"
    ids = [s.id for s in project.sources]
    if len(set(ids)) != len(ids):
        return "two films have the same id"
    return (
        _first(fault_of_source(s) for s in project.sources)
        or fault_of_scenes(project)
        or fault_of_orders(project)
        or fault_of_waved(project)
        or fault_of_rulings(project)
        or _first(_fault_of_handover(h) for h in project.handovers)
    )


def fault_of_scenes(project: Project) -> str:
    """Return what is wrong with the scenes and orders as a whole, empty when nothing is."""
    for things, words in ((project.scenes, "scenes"), (project.orders, "running orders")):
        ids = [t.id for t in things]
        if len(ids) > MAX_SEAMS:
            return f"more than {MAX_SEAMS:,} {words}"
        if len(set(ids)) != len(ids):
            return f"two {words} have the same id"
        if any(not 1 <= i < MAX_ID for i in ids):
            return f"an id of the {words} is out of range"
    known = {0, *(s.id for s in project.scenes)}
    for source in project.sources:
        if not {source.first.scene, *(s.opening.scene for s in source.seams)} <= known:
            return "a shot names a scene that is not there"
    return ""


def fault_of_orders(project: Project) -> str:
    """Return what is wrong with the running orders, empty when nothing is."""
    return _first(_fault_of_order(o) for o in project.orders)


def fault_of_waved(project: Project) -> str:
    """Return what is wrong with the suggestions that were waved away, empty when nothing is."""
    if sum(len(group) for group in project.waved) > MAX_SEAMS:
        return f"more than {MAX_SEAMS:,} shots were waved away"
    refs = (ref for group in project.waved for ref in group)
    return "" if all(map(_is_ref, refs)) else "a shot that was waved away is out of range"


def fault_of_rulings(project: Project) -> str:
    """Return what is wrong with what was said of versions, empty when nothing is."""
    if len(project.rulings) > MAX_SEAMS:
        return f"more than {MAX_SEAMS:,} shots of versions were ruled on"
    for ruling in project.rulings:
        if not _is_ref(ruling.new) or not (ruling.old is None or _is_ref(ruling.old)):
            return "a shot that was ruled on is out of range"
        if not 1 <= ruling.against < MAX_ID or abs(ruling.offset or 0) > MAX_FRAME:
            return "what a shot was tied to is out of range"
    return ""


def fault_of_source(source: Source) -> str:
    """Return what cannot be in a source, empty when all of it can."""
    return fault_of_frame(source) or fault_of_seams(source.seams)


def fault_of_frame(source: Source) -> str:
    """Return what is wrong with a source beside its seams, empty when nothing is."""
    media = source.media
    if not 1 <= source.id < MAX_ID:
        return "the id of a film is out of range"
    fault = fault_of_media(media) or _fault_of_ticket(source.ticket)
    if fault:
        return fault
    if not 0 <= source.start < source.end <= media.frames:
        return "the range does not fit the film"
    if not 0 <= source.sensitivity <= 100:
        return "sensitivity is out of range"
    if not framing_fits(source.framing, media):
        return "the framing does not fit the film"
    if len(source.zones) > MAX_SEAMS or len(source.markers) > MAX_SEAMS:
        return f"more than {MAX_SEAMS:,} zones or markers"
    return (
        _first(_fault_of_zone(z) for z in source.zones)
        or _first(_fault_of_marker(m, media) for m in source.markers)
        or fault_of_card(source.first)
    )


def fault_of_ids(seams: tuple[Seam, ...]) -> str:
    """Return what is wrong with the number of seams or with their ids, empty when nothing is."""
    if len(seams) > MAX_SEAMS:
        return f"more than {MAX_SEAMS:,} seams"
    return "two seams have the same id" if len({s.id for s in seams}) != len(seams) else ""


def fault_of_seams(seams: tuple[Seam, ...]) -> str:
    """Return what is wrong with the seams of a source, empty when nothing is."""
    return fault_of_ids(seams) or _first(fault_of_seam(s) for s in seams)


def fault_of_seam(seam: Seam) -> str:
    """Return what is wrong with a seam, empty when nothing is."""
    if not 0 <= seam.id < MAX_ID:
        return "the id of a seam is out of range"
    if not 0 <= seam.frame <= MAX_FRAME:
        return "the frame of a seam is out of range"
    if not (0 <= seam.start <= MAX_FRAME and 0 <= seam.end <= MAX_FRAME):
        return f"the span of the seam at frame {seam.frame} lies outside the film"
    if seam.end < seam.start:
        return f"the seam at frame {seam.frame} ends before it starts"
    if not 0 <= seam.score <= 100:
        return f"the score of the seam at frame {seam.frame} is out of range"
    if len(seam.reasons) > MAX_REASONS:
        return f"the seam at frame {seam.frame} has more than {MAX_REASONS} reasons"
    for reason in seam.reasons:
        if not 0 <= reason.weight <= 1:
            return f"the weight of a reason at frame {seam.frame} is out of range"
    former = seam.former
    if former is not None and not (
        0 <= former.before <= MAX_FRAME and 0 <= former.after <= MAX_FRAME
    ):
        return f"the former span of the seam at frame {seam.frame} is out of range"
    if seam.as_found is not None and not 0 <= seam.as_found.frame <= MAX_FRAME:
        return f"where the seam at frame {seam.frame} was found is out of range"
    return "" if seam.opening is NO_CARD else fault_of_card(seam.opening)


def fault_of_card(card: Card) -> str:
    """Return what is wrong with a card, empty when nothing is."""
    if not 0 <= card.scene <= MAX_ID:
        return "the id of a scene is out of range"
    return fault_of_original(card.original) if card.original is not None else ""


def fault_of_original(original: Original) -> str:
    """Return what is wrong with an original, empty when nothing is."""
    if abs(original.start) > MAX_FRAME:
        return "its source timecode is out of range"
    if abs(original.at) > MAX_FRAME:
        return "its place in the film is out of range"
    if abs(original.speed) > MAX_SPEED:
        return f"its speed is over {MAX_SPEED}"
    if not _short(original.speed):
        return "its speed is no plain number"
    if len(original.comments) > MOST_COMMENTS or any(len(c) > MOST_LONG for c in original.comments):
        return "its comments are too long"
    return _fault_of_file(original.file) if original.file is not None else ""


def _fault_of_file(file: OriginalFile) -> str:
    if not file.path or len(file.path) > MOST_LONG * 10:
        return "its file has no path, or one that is too long"
    if not 0 <= file.start <= MAX_FRAME or not 1 <= file.frames <= MAX_FRAME:
        return "its file's frames are out of range"
    if not (0 <= file.width <= MAX_FRAME and 0 <= file.height <= MAX_FRAME):
        return "its file's picture is out of range"
    return ""


def framing_fits(framing: Framing, media: Media) -> bool:
    """Tell whether a framing leaves something of a picture."""
    sides = (framing.left, framing.top, framing.right, framing.bottom)
    return min(sides) >= 0 and min(framing.size(media)) >= 1


def fault_of_media(media: Media) -> str:
    """Return what cannot be said of a film, empty when all of it can."""
    if not 1 <= media.frames <= MAX_FRAME:
        return "the number of frames is out of range"
    if not (1 <= media.width <= 100_000 and 1 <= media.height <= 100_000):
        return "the size of the picture is out of range"
    if abs(media.start) > MAX_FRAME:
        return "the start timecode is out of range"
    for value, words in ((media.rate, "rate"), (media.pixel_shape, "shape of a pixel")):
        if not 0 < value <= 1000 or not _short(value):
            return f"the {words} is out of range"
    if abs(media.rotation) > 360:
        return "the rotation is out of range"
    if len(media.codec) > MOST_LONG:
        return "the name of the codec is too long"
    if media.fields not in ("", "top", "bottom"):
        return "which field comes first makes no sense"
    return _fault_of_run(media.run, media.frames) if media.run is not None else ""


def _fault_of_run(run: Run, frames: int) -> str:
    names = (run.head, run.tail)
    if any("/" in name or "\0" in name or len(name) > LONGEST_NAME for name in names):
        return "the name of a run of stills makes no sense"
    if not (0 <= run.first <= run.last <= MAX_NUMBER and 1 <= run.digits <= 30):
        return "the numbers of a run of stills are out of range"
    if len(run.missing) > MAX_HOLES:
        return f"a run of stills has more than {MAX_HOLES:,} holes"
    at = run.first
    for start, end in run.missing:
        if not at < start < end <= run.last:
            return "the holes of a run of stills make no sense"
        at = end
    return "" if run.frames == frames else "the frames of a run of stills are not its numbers"


def _fault_of_ticket(ticket: Ticket) -> str:
    own = ticket.own_rate
    if own is not None and (not 0 < own <= 1000 or not _short(own)):
        return "the rate of the file is out of range"
    if ticket.own_start is not None and abs(ticket.own_start) > MAX_FRAME:
        return "the start timecode of the file is out of range"
    if not Fraction(1, MOST_SQUEEZE) <= ticket.squeeze <= MOST_SQUEEZE or not _short(
        ticket.squeeze
    ):
        return "the squeeze of the lens is out of range"
    if len(ticket.reel) > MOST_LONG or len(ticket.display) > LONGEST_NAME:
        return "a name on the ticket is too long"
    return ""


def _fault_of_zone(zone: Zone) -> str:
    if not 0 <= zone.start <= zone.end <= MAX_FRAME:
        return "a zone lies outside the film"
    level = zone.sensitivity
    return "" if level is None or 0 <= level <= 100 else "the sensitivity of a zone is out of range"


def _fault_of_marker(marker: Marker, media: Media) -> str:
    if not 0 <= marker.id < MAX_ID:
        return "the id of a marker is out of range"
    inside = 0 <= marker.start < marker.end <= media.frames
    return "" if inside else "a marker lies outside the film"


def _fault_of_order(order: Order) -> str:
    if len(order.uses) > MAX_SEAMS:
        return f"a running order has more than {MAX_SEAMS:,} shots"
    ids = [u.id for u in order.uses]
    if len(set(ids)) != len(ids) or any(not 1 <= i < MAX_ID for i in ids):
        return "two places of a running order have the same id, or one out of range"
    return _first(_fault_of_use(u) for u in order.uses)


def _fault_of_use(use: OrderUse) -> str:
    if not 0 <= use.source <= MAX_ID or (use.shot is not None and not _is_ref(use.shot)):
        return "a running order names a shot out of range"
    if use.shot is not None and use.shot.source != use.source:
        return "a running order names a shot of another film than its own"
    ends = [f for f in (use.start, use.end) if f is not None]
    if any(not 0 <= f <= MAX_FRAME for f in ends):
        return "the in or out of a place of a running order is out of range"
    if len(ends) == 2 and ends[0] >= ends[1]:
        return "a place of a running order ends before it begins"
    return "a piece has no in or no out" if use.shot is None and len(ends) < 2 else ""


def _is_ref(ref: ShotRef) -> bool:
    return 0 <= ref.source <= MAX_ID and 0 <= ref.seam <= MAX_ID


def _fault_of_handover(handover: Handover) -> str:
    asked = handover.asked
    for name in ("handles", "first", "step", "padding", "shortest"):
        if not 0 <= getattr(asked, name) <= MAX_FRAME:
            return f"{name} of a hand-over are out of range"
    picked = (n for pair in asked.picked for n in pair)
    ids = (asked.source, asked.scene, asked.order, *asked.chosen, *picked)
    if not all(0 <= n <= MAX_ID for n in ids) or len(ids) > MAX_SEAMS:
        return "a shot asked of a hand-over is out of range"
    if len(handover.files) > MAX_SEAMS:
        return "a hand-over has too many files"
    return "" if 0 <= handover.seconds <= 1e9 else "the seconds of a hand-over are out of range"


def _short(value: Fraction) -> bool:
    return len(f"{value.numerator}/{value.denominator}") <= FRACTION_LONG


def _first(faults: Iterable[str]) -> str:
    return next((f for f in faults if f), "")
