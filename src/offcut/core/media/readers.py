"""Where readers are handed out, by what they are for; nobody else asks what a film is made of."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum
from fractions import Fraction
from pathlib import Path

import numpy as np
from av.container import InputContainer

from offcut.core.errors import MediaError
from offcut.core.media.bands import Bands
from offcut.core.media.movie import MovieReader
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.opening import open_film
from offcut.core.media.reader import Reader
from offcut.core.media.same_film import check_same
from offcut.core.media.sound import (
    CHANNELS,
    RATE,
    Samples,
    SoundTrack,
    samples_from,
    time_of_frame,
)
from offcut.core.media.stills import StillsReader


class Purpose(StrEnum):
    """What frames are read for: what may be left out, and which stand-in may be used."""

    PLAY = "play"
    SMALL = "small"
    MEASURE = "measure"
    HAND_OVER = "hand over"


_QUICK = {"skip_loop_filter": "all"}
"""What cannot be seen in small pictures is not worked out for them."""
_QUARTER = {"lowres": "2"}
"""Of blocks of 8 by 8 no more is decoded than two pixels by two."""


def measured_small(film: OpenedFilm) -> bool:
    """Tell whether pictures to be measured are decoded at a quarter of their size.

    Of large MPEG-2 pictures that takes half the time; where there are fields they would be mixed.
    """
    media = film.media
    large = media.width * media.height >= 1280 * 720
    return large and media.codec.startswith("MPEG-2") and not film.fields


def open_reader(
    film: OpenedFilm, purpose: Purpose, *, threads: int = 0, bands: Bands | None = None
) -> Reader:
    """Return a reader of a film; ``threads`` its decoder may use, 0 for as many as there are.

    With ``bands`` no other rows of its pictures are decoded. The file is opened at the first read.
    Raises MediaError where another film lies there now.
    """
    media = film.media
    check_same(media)
    if media.run is not None:
        size = (media.width, media.height)
        return StillsReader(Path(media.path).parent, media.run, size, film.index)
    options = _QUICK if purpose in (Purpose.SMALL, Purpose.MEASURE) else None
    if purpose is Purpose.MEASURE and measured_small(film):
        options = _QUICK | _QUARTER
    return MovieReader(film.media.path, film.index, threads=threads, options=options, bands=bands)


def sound_of(
    film: OpenedFilm, time: Fraction, track: SoundTrack | None = None
) -> Iterator[Samples]:
    """Yield a film's sound from a time on. Raises MediaError where there is none."""
    if film.media.run is not None or film.own_rate is not None:
        raise MediaError(f"{film.media.path}: has no sound at the rate it runs at")
    return samples_from(film.media.path, time, track)


def sound_back_to_back(
    stretches: Iterable[tuple[OpenedFilm | None, int, int, Fraction]],
) -> Iterator[Samples]:
    """Yield the sound of stretches one after another, without a gap and to the sample.

    Each is a film, its frames [start, end), and the rate it runs at; silence stands in for a film
    without sound, and for None.
    """
    clock, given = Fraction(0), 0
    for film, start, end, rate in stretches:
        clock += (end - start) / rate
        left = round(clock * RATE) - given
        given += left
        if film is not None and film.tracks:
            try:
                for piece in sound_of(film, time_of_frame(film.index, start, rate)):
                    yield piece[:left]
                    left -= min(left, len(piece))
                    if left <= 0:
                        break
            except MediaError:
                pass  # silence stands in
        while left > 0:
            yield np.zeros((min(left, RATE), CHANNELS), np.int16)
            left -= min(left, RATE)


def open_packets(film: OpenedFilm) -> InputContainer:
    """Open a film to copy its packets as they are. Raises MediaError."""
    if film.media.run is not None:
        raise MediaError(f"{film.media.path}: stills have no packets to copy")
    return open_film(film.media.path, threads=1)[0]
