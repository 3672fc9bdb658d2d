"""An opened film: its facts and its index, as its file has them or as its ticket does."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from offcut.core.errors import TimecodeError
from offcut.core.media.index import FrameIndex
from offcut.core.media.sound import SoundTrack
from offcut.core.media.stills import index_of_run
from offcut.core.model.source import Media, Source
from offcut.core.model.ticket import Fields
from offcut.core.timecode import Rate, can_drop, frame_from_timecode


@dataclass(frozen=True)
class OpenedFilm:
    """A film ready to be read: its facts, its index, and what is not right with it.

    Attributes: ``notes`` sentences that name the file; ``holes`` frames before which pictures
    are missing; ``fields`` True where pictures are interlaced, ``field_order`` how, as FFmpeg
    numbers it (0 where the file does not say); ``tracks`` of sound that can be decoded;
    ``log`` True where its pictures are densities; ``reel`` and ``device`` as its header names
    them; ``own_rate`` where sound and packets run at another rate than was set.
    """

    media: Media
    index: FrameIndex
    notes: tuple[str, ...] = ()
    title: str = ""
    holes: tuple[int, ...] = ()
    fields: bool = False
    field_order: int = 0
    tracks: tuple[SoundTrack, ...] = ()
    log: bool = False
    reel: str = ""
    device: str = ""
    own_rate: Rate | None = None


def as_set(film: OpenedFilm, source: Source) -> OpenedFilm:
    """Return an opened film with what the ticket of its source says in place of the file's word.

    Where another rate was set the pictures keep their number and come at that rate; sound and
    packets do not follow, so sound is left out.
    """
    media = replace(film.media, **{n: getattr(source.media, n) for n in _SET})
    order = {Fields.TOP: _TOP_FIRST, Fields.BOTTOM: _BOTTOM_FIRST}.get(source.ticket.fields, 0)
    fields = {Fields.AS_FILE: film.fields, Fields.NONE: False}.get(source.ticket.fields, True)
    if media == film.media and fields == film.fields and (not order or order == film.field_order):
        return film
    changes: dict[str, Any] = {"media": media, "fields": fields}
    if order or not fields:
        changes["field_order"] = order
    own = film.own_rate or film.media.rate
    if media.run is not None:
        changes["media"] = replace(media, frames=media.run.frames)
        changes["index"] = index_of_run(media.run, media.rate)
    elif media.rate != own and not film.own_rate:
        scale = own / media.rate
        changes["index"] = replace(film.index, time_base=film.index.time_base * scale)
        changes |= {"tracks": (), "own_rate": own}
    return replace(film, **changes)


def first_of(fields: bool, order: int) -> str:
    """Return "top" or "bottom" for FFmpeg's number of a field order, empty for whole pictures.

    Where nobody says which, the top one it is, as in most films.
    """
    if not fields:
        return ""
    return "bottom" if order in (3, 4) else "top"


_SET = ("rate", "start", "drop", "pixel_shape", "run")
_TOP_FIRST, _BOTTOM_FIRST = 2, 3
"""AV_FIELD_TT and AV_FIELD_BB of FFmpeg's AVFieldOrder."""


def start_of(written: str, rate: Rate) -> tuple[int | None, bool]:
    """Return the frame of a start timecode and whether it drops; None for one without sense."""
    if not written:
        return 0, False
    try:
        return frame_from_timecode(written, rate), ";" in written and can_drop(rate)
    except TimecodeError:
        return None, False
