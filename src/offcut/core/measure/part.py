"""One part of a film measured, wherever its file can be seen: values in, values out.

Everything it takes and gives can be pickled. It needs no window, no store, no event and no threads,
so that processes and other machines measure with it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from offcut.core.errors import MediaError
from offcut.core.measure.film_pass import FilmPass, Measured
from offcut.core.measure.plan import parts_between, reading_from
from offcut.core.measure.registry import measurers_named
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.media.stills import index_of_run
from offcut.core.model.run import Run


def measure_part(
    path: str,
    fingerprint: str,
    run: Run | None,
    crop: Crop,
    start: int,
    end: int,
    names: Sequence[str],
    *,
    fields: bool | None = None,
) -> list[Measured]:
    """Return the signals of frames [start, end) of the film at a path, those of the whole film.

    ``fingerprint`` is the film's that is meant; ``run`` how its stills are taken; ``names`` the
    measurers'; ``fields`` whether its pictures are taken for interlaced, None as its file says.
    Raises MediaError where another film lies there or it cannot be read, OffcutError for a measurer
    that is not there.
    """
    film = _opened(path, fingerprint)
    if run is not None and run != film.media.run:
        index = index_of_run(run, film.media.rate)
        film = replace(film, media=replace(film.media, run=run, frames=run.frames), index=index)
    if fields is not None and fields != film.fields:
        film = replace(film, fields=fields)
    with FilmPass(film, measurers_named(names), crop) as along:
        begin = reading_from(film.index, start, along.history)
        return list(along.measured(parts_between(film.index, begin, end), start))


@lru_cache(maxsize=4)
def _opened(path: str, fingerprint: str) -> OpenedFilm:
    """Return a film that several parts are measured of; that it is the same is asked at each."""
    film = open_source(path)
    if film.media.fingerprint != fingerprint:
        raise MediaError(f"{path}: another film lies here than the one that is to be measured")
    return film
