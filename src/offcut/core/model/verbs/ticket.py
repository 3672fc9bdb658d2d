"""The ticket of a film: rate, start, reel, squeeze, display and the like, set for all its shots."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from fractions import Fraction
from typing import Any

from offcut.core.errors import OffcutError
from offcut.core.model.card import Card
from offcut.core.model.project import Project
from offcut.core.model.run import Holes, Run
from offcut.core.model.source import Source
from offcut.core.model.ticket import MOST_SQUEEZE, Fields, Flash, ProxyUse
from offcut.core.model.verbs.replacing import clean_name, with_source
from offcut.core.timecode import base_of, can_drop

Verb = Callable[[Project, int], Project]


def for_each(project: Project, source_ids: Iterable[int], verb: Verb) -> Project:
    """Return a project in which a verb was done to several films."""
    for source_id in source_ids:
        project = verb(project, source_id)
    return project


def set_rate(project: Project, source_id: int, rate: Fraction | None) -> Project:
    """Set the frames per second of a film, None for what its file says.

    The label of its first frame stays as it is written, as far as the rate has such a label.
    OffcutError for a rate that no film has.
    """
    source = project.source(source_id)
    media, ticket = source.media, source.ticket
    own = media.rate if ticket.own_rate is None else ticket.own_rate
    wanted = own if rate is None else rate
    if not Fraction(1) <= wanted <= 1000:
        raise OffcutError("a film runs at 1 to 1000 frames per second")
    if wanted == media.rate:
        return project
    start = _same_label(media.start, media.rate, wanted)
    held = None if wanted == own else own
    told = media.run is None or media.run.rate_told or rate is not None
    run = media.run and replace(media.run, rate_told=told)
    return with_source(
        project,
        replace(
            source,
            media=replace(
                media, rate=wanted, start=start, drop=media.drop and can_drop(wanted), run=run
            ),
            ticket=replace(ticket, own_rate=held),
        ),
    )


def rate_is_right(project: Project, source_id: int) -> Project:
    """Remember that the rate taken for stills that tell none is the right one."""
    source = project.source(source_id)
    run = source.media.run
    if run is None or run.rate_told:
        return project
    media = replace(source.media, run=replace(run, rate_told=True))
    return with_source(project, replace(source, media=media))


def _same_label(start: int, rate: Fraction, wanted: Fraction) -> int:
    """Return the frame that has the label at another rate that ``start`` has at this one."""
    old, new = base_of(rate), base_of(wanted)
    seconds, frames = divmod(start, old)
    return seconds * new + min(frames, new - 1)


def set_start(project: Project, source_id: int, start: int | None, drop: bool = False) -> Project:
    """Set the timecode of a film's first frame, in frames; None for what its file says."""
    source = project.source(source_id)
    media, ticket = source.media, source.ticket
    own = media.start if ticket.own_start is None else ticket.own_start
    own_drop = media.drop if ticket.own_start is None else ticket.own_drop
    wanted, drops = (own, own_drop) if start is None else (start, drop and can_drop(media.rate))
    if (wanted, drops) == (media.start, media.drop):
        return project
    back = (wanted, drops) == (own, own_drop)
    ticket = replace(ticket, own_start=None if back else own, own_drop=not back and own_drop)
    media = replace(media, start=wanted, drop=drops)
    return with_source(project, replace(source, media=media, ticket=ticket))


def set_squeeze(project: Project, source_id: int, squeeze: Fraction) -> Project:
    """Set how much a lens squeezed the pictures of a film; they are shown so much wider.

    OffcutError for what no lens does.
    """
    source = project.source(source_id)
    if not Fraction(1, MOST_SQUEEZE) <= squeeze <= MOST_SQUEEZE:
        raise OffcutError(f"a lens squeezes a picture up to {MOST_SQUEEZE} times")
    squeeze = squeeze.limit_denominator(10_000)
    shape = source.media.pixel_shape / source.ticket.squeeze * squeeze
    media = replace(source.media, pixel_shape=shape)
    ticket = replace(source.ticket, squeeze=squeeze)
    return with_source(project, replace(source, media=media, ticket=ticket))


def set_reel(project: Project, source_id: int, reel: str) -> Project:
    """Name the reel of a film."""
    return _with_ticket(project, source_id, reel=clean_name(reel))


def set_display(project: Project, source_id: int, display: str) -> Project:
    """Set the transform that the pictures of a film are seen through, empty for none."""
    return _with_ticket(project, source_id, display=display)


def set_fields(project: Project, source_id: int, fields: Fields) -> Project:
    """Set which lines of a frame are the earlier moment."""
    return _with_ticket(project, source_id, fields=fields)


def set_proxy_use(project: Project, source_id: int, proxy: ProxyUse) -> Project:
    """Set when a film gets a proxy."""
    return _with_ticket(project, source_id, proxy=proxy)


def set_stops(project: Project, source_id: int, stops: bool | None) -> Project:
    """Set whether camera stops are one cut each; None for "on a scan"."""
    return _with_ticket(project, source_id, stops=stops)


def set_flash(project: Project, source_id: int, flash: Flash) -> Project:
    """Set which shot the flash frames of a camera stop stay with."""
    return _with_ticket(project, source_id, flash=flash)


def set_like(project: Project, like_id: int, source_ids: Iterable[int]) -> Project:
    """Set of films what is set of another one, all but start, reel and range.

    The framing goes to those whose pictures have the same size.
    """
    like = project.source(like_id)
    media, ticket = like.media, like.ticket
    for source_id in source_ids:
        there = project.source(source_id).media
        if ticket.own_rate is not None or (media.run is not None and there.run is not None):
            project = rate_is_right(set_rate(project, source_id, media.rate), source_id)
        project = set_squeeze(project, source_id, ticket.squeeze)
        project = _with_ticket(
            project, source_id, display=ticket.display, fields=ticket.fields, proxy=ticket.proxy,
            stops=ticket.stops, flash=ticket.flash,
        )  # fmt: skip
        source = project.source(source_id)
        changes: dict[str, Any] = {"sensitivity": like.sensitivity}
        if (there.width, there.height) == (media.width, media.height):
            changes |= {"framing": like.framing, "framed": like.framed}
        project = with_source(project, replace(source, **changes))
    return project


def set_file_numbers(project: Project, source_id: int, file_numbers: bool) -> Project:
    """Set whether lists count the frames of a run as its files are numbered."""
    return _with_ticket(project, source_id, file_numbers=file_numbers)


def _with_ticket(project: Project, source_id: int, **changes: object) -> Project:
    source = project.source(source_id)
    ticket = replace(source.ticket, **changes)  # type: ignore[arg-type]
    return with_source(project, replace(source, ticket=ticket))


def set_holes(project: Project, source_id: int, holes: Holes) -> Project:
    """Set what stands in where a run has no picture of a number.

    Where that changes how frames are counted, all that is decided moves along with its pictures;
    what lay on a missing one moves to the next there is. A movie is left as it is.
    """
    source = project.source(source_id)
    run = source.media.run
    if run is None or run.holes is holes:
        return project
    now = replace(run, holes=holes)
    media = replace(source.media, run=now, frames=now.frames)
    changed = replace(source, media=media)
    if now.frames != run.frames:
        changed = _moved(changed, run, now)
    return with_source(project, changed)


def _moved(source: Source, before: Run, now: Run) -> Source:
    """Return a source whose frames are counted as a run does now, all that is in it moved."""

    def at(frame: int) -> int:
        return now.frame_of(before.number_of(frame))

    def end(frame: int) -> int:
        return now.frame_of(before.number_of(frame - 1)) + 1 if frame else 0

    def card(held: Card) -> Card:
        if held.original is None:
            return held
        return replace(held, original=replace(held.original, at=at(held.original.at)))

    last = now.frames
    start = min(at(source.start), last - 1)
    return replace(
        source,
        start=start,
        end=last if source.end == before.frames else max(start + 1, min(last, end(source.end))),
        first=card(source.first),
        seams=tuple(
            replace(
                s,
                frame=at(s.frame),
                start=at(s.start),
                end=at(s.end),
                opening=card(s.opening),
                as_found=s.as_found and replace(s.as_found, frame=at(s.as_found.frame)),
            )
            for s in source.seams
        ),
        zones=tuple(replace(z, start=at(z.start), end=at(z.end)) for z in source.zones),
        markers=tuple(
            replace(
                m,
                start=min(at(m.start), last - 1),
                end=max(min(at(m.start), last - 1) + 1, min(last, end(m.end))),
            )
            for m in source.markers
        ),
    )
