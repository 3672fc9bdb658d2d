"""Conforming: a folder of originals looked through, and each shot of a film tied to its own."""

from __future__ import annotations

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from offcut.core.errands.looking_along import measure_missing
from offcut.core.errors import MediaError, OffcutError
from offcut.core.lists.incoming import ReadList
from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.prints import kept_fine_prints, kept_prints
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.measure.registry import FINE, PRINTS
from offcut.core.measure.small_pictures import Crop, crop_of
from offcut.core.media.arrivals import arrived
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.card import Original, OriginalFile
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media, Source
from offcut.core.model.verbs.replacing import with_cards
from offcut.core.tally.naming import key_of_name
from offcut.core.tally.originals.clips import Clip, Match, OriginalsOfShot
from offcut.core.tally.originals.finding import originals_found
from offcut.core.tally.originals.pictures import FilmsRead
from offcut.core.words import many

Progress = Callable[[int, int], None]
_MEASURERS = (PRINTS, FINE)
_TOLD = 20
"""So many files that cannot be read are named, the others only counted."""
_HELD = 96
"""So many clips' prints are held in memory at once."""
_N = TypeVar("_N", bound=np.generic)
_read: OrderedDict[tuple[str, int], tuple[Any, Any]] = OrderedDict()


@dataclass(frozen=True)
class Rushes:
    """The originals that were found in folders: ``clips``, and sentences about what is odd."""

    clips: tuple[Clip, ...]
    notes: tuple[str, ...] = ()


def rushes_in(
    paths: Iterable[str | Path],
    *,
    bins: Sequence[ReadList] = (),
    besides: Sequence[Media] = (),
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> Rushes:
    """Return the originals in files and folders, opened and measured where that was not done yet.

    ``bins`` are lists that tell reels and timecodes of clips by their names; ``besides`` are films
    that are no originals though they lie there. What cannot be read is told and left. Raises
    OffcutError where there is none.
    """
    asked = [Path(p) for p in paths]
    for path in asked:
        if not path.exists():
            raise OffcutError(f"{path}: is not there")
    came = arrived(asked, stop)  # whole disks are named by mistake
    notes = list(came.problems)
    unread: list[str] = []
    known = {m.fingerprint for m in besides}
    clips: list[Clip] = []
    for n, path in enumerate(came.paths):
        if stop is not None and stop.is_set():
            break
        try:
            film = open_source(path)
            if film.media.fingerprint not in known:
                clips.append(_measured(film, stop))
        except MediaError as error:
            unread.append(str(error))
        if progress is not None:
            progress(n + 1, len(came.paths))
    notes += unread[:_TOLD]
    if len(unread) > _TOLD:
        notes.append(f"{len(unread) - _TOLD:,} more files cannot be read".replace(",", " "))
    if came.left:
        notes.append(came.left_words)
    if not clips:
        stopped = stop is not None and stop.is_set()
        why = "stopped" if stopped else "there is no film in it to be an original"
        raise OffcutError(f"{asked[0] if asked else ''}: {why}")
    return Rushes(tuple(_told_by(bins, c) for c in clips), tuple(notes))


def _measured(film: OpenedFilm, stop: threading.Event | None) -> Clip:
    """Return an opened original, measured."""
    for _ in measure_range(film, 0, film.media.frames, measurers=_MEASURERS, stop=stop):
        pass
    KeptSignals(film.media).use()
    return Clip(film.media, film.reel)


def _told_by(bins: Sequence[ReadList], clip: Clip) -> Clip:
    """Return a clip with the reel and the timecode that a bin gives it."""
    path = Path(clip.media.path)
    keys = {key_of_name(path.stem), key_of_name(path.name)}
    for listed in bins:
        for row in listed.events:
            if key_of_name(row.clip) in keys and listed.bin:
                media = replace(clip.media, start=row.source_in, drop=row.drop)
                return Clip(media, row.reel or clip.reel)
    return clip


class ClipPrints:
    """The prints of a film or an original as they are kept; read when they are asked for."""

    def __init__(self, source: Source | Clip) -> None:
        self.media = source.media
        if isinstance(source, Source):
            self._range = source.start, source.end
            self._crop: Crop | None = crop_of(source)
        else:
            self._range, self._crop = (0, source.media.frames), None

    @property
    def missing(self) -> bool:
        """True where not all of it was measured."""
        return bool(missing_ranges(self.media, *self._range, crop=self._crop, measurers=_MEASURERS))

    @property
    def coarse(self) -> NDArray[np.float32]:
        """Its prints, float32 (n, 96)."""
        return _lately("coarse", self, lambda: kept_prints(self.media, *self._range, self._crop)[0])

    @property
    def fine(self) -> NDArray[np.uint8]:
        """Its fine prints, uint8 (n, 640)."""
        fine = kept_fine_prints
        return _lately("fine", self, lambda: fine(self.media, *self._range, self._crop)[0])


_reading = threading.Lock()


def _lately(kind: str, prints: ClipPrints, read: Callable[[], NDArray[_N]]) -> NDArray[_N]:
    """Return what was read of a clip lately, or read it."""
    key = kind, id(prints)
    with _reading:
        known = _read.get(key)
        if known is not None and known[0] is prints:
            _read.move_to_end(key)
            kept: NDArray[_N] = known[1]
            return kept
    made = read()
    with _reading:
        _read[key] = prints, made
        while len(_read) > _HELD:
            _read.popitem(last=False)
    return made


@dataclass(frozen=True)
class Conform:
    """Each shot of a film with its originals: ``found`` in the film's order, of ``clips``."""

    source: Source
    clips: tuple[Clip, ...]
    found: tuple[OriginalsOfShot, ...]

    @property
    def without(self) -> tuple[OriginalsOfShot, ...]:
        """Shots no original was found for."""
        return tuple(f for f in self.found if f.best is None)

    @property
    def unused(self) -> tuple[Clip, ...]:
        """Originals that no shot uses."""
        used = {f.best.clip for f in self.found if f.best is not None}
        return tuple(c for n, c in enumerate(self.clips) if n not in used)

    @property
    def shared(self) -> tuple[tuple[Clip, tuple[OriginalsOfShot, ...]], ...]:
        """Originals that several shots use, each with these."""
        users: dict[int, list[OriginalsOfShot]] = defaultdict(list)
        for found in self.found:
            if found.best is not None:
                users[found.best.clip].append(found)
        return tuple((self.clips[n], tuple(f)) for n, f in sorted(users.items()) if len(f) > 1)


def conformed(
    source: Source,
    rushes: Rushes,
    opened: OpenedFilm | None = None,
    *,
    stop: threading.Event | None = None,
    progress: Progress | None = None,
) -> Conform:
    """Return the originals of every shot of a film; what was not measured of it yet is.

    Where the film is gone and was not measured, only reels, timecodes and names tell. After
    ``stop`` the shots that were not looked at have none.
    """
    film: ClipPrints | None = ClipPrints(source)
    if film is not None and film.missing:
        measure_missing(source, opened, _MEASURERS, stop=stop, progress=progress)
        film = None if film.missing else film

    def told(done: int, whole: int) -> bool:
        if progress is not None:
            progress(done, whole)
        return stop is not None and stop.is_set()

    prints = [ClipPrints(c) for c in rushes.clips]
    reading = FilmsRead(source, opened, rushes.clips)
    try:
        found = originals_found(
            shots_of(source), source.media.rate, film, source.start, rushes.clips, prints,
            reading=reading, told=told,
        )  # fmt: skip
    finally:
        reading.close()
    return Conform(source, rushes.clips, tuple(found))


def original_of(match: Match, clip: Clip, at: int) -> Original:
    """Return a match as what is kept of it on a shot's card; ``at`` is the shot's first frame."""
    media = clip.media
    said = [w for w in (match.reframing.words,) if w]
    return Original(
        reel=clip.reel or Path(media.path).stem,
        start=media.start + match.first,
        at=at,
        clip=Path(media.path).stem,
        drop=media.drop,
        speed=match.speed,
        comments=tuple(said),
        file=OriginalFile(media.path, media.start, media.frames, media.width, media.height),
    )


def with_originals(
    project: Project, conform: Conform, *, certainties: Sequence[Certainty] = tuple(Certainty)
) -> Project:
    """Return the project with the originals on the cards of the shots they were found for.

    Only those of some ``certainties``. A shot's comments of a list stay.
    """
    source = project.source(conform.source.id)
    by_start = {f.shot[0]: f.best for f in conform.found if f.best is not None}
    made: dict[Any, Original] = {}
    for shot in shots_of(source):
        match = by_start.get(shot.start)
        if match is not None and match.certainty in certainties:
            original = original_of(match, conform.clips[match.clip], shot.start)
            before = shot.card.original
            if before is not None:
                comments = tuple(dict.fromkeys((*before.comments, *original.comments)))
                original = replace(original, comments=comments)
            made[ref_of(source, shot)] = original
    return with_cards(project, made, lambda ref, card: replace(card, original=made[ref]))


class Pull(NamedTuple):
    """What is needed of an original: frames [start, end) with handles, for so many shots, by their
    numbers.
    """

    clip: Clip
    start: int
    end: int
    shots: tuple[int, ...]


def pulls_of(conform: Conform, handles: int = 0) -> list[Pull]:
    """Return the frames that are needed of each original, what touches put together."""
    wanted: dict[int, list[tuple[int, int, int]]] = defaultdict(list)
    for number, found in enumerate(conform.found, start=1):
        match = found.best
        if match is None:
            continue
        first, last = match.span(found.shot[1] - found.shot[0])
        frames = conform.clips[match.clip].media.frames
        low, high = max(0, first - handles), min(frames, last + handles)
        if high > low:
            wanted[match.clip].append((low, high, number))
    made: list[Pull] = []
    for place in sorted(wanted, key=lambda n: conform.clips[n].media.path):
        joined: list[Pull] = []
        for low, high, number in sorted(wanted[place]):
            if joined and low <= joined[-1].end:
                last_one = joined[-1]
                joined[-1] = Pull(
                    last_one.clip, last_one.start, max(last_one.end, high),
                    (*last_one.shots, number),
                )  # fmt: skip
            else:
                joined.append(Pull(conform.clips[place], low, high, (number,)))
        made += joined
    return made


def conform_words(conform: Conform) -> list[str]:
    """Return what is odd with the originals of a film, in sentences."""
    said = []
    if conform.without:
        said.append(f"{many(len(conform.without), 'shot')} without an original")
    if conform.shared:
        said.append(f"{many(len(conform.shared), 'original')} used by several shots")
    if conform.unused:
        said.append(f"{many(len(conform.unused), 'original')} not used")
    return said
