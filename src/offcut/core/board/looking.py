"""Looking through shots: how each looks, which look like one place, which are used twice."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from offcut.core.board.rows import BoardRow
from offcut.core.errors import OffcutError
from offcut.core.facts.looks import Picture, ShotLook, frames_to_look_at, look_of
from offcut.core.facts.places import Match, PlaceFinder, alike_groups
from offcut.core.facts.repeats import MovingPictures, candidates, pictures_of, repeat_of
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.reader import Reader
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.shots import shot_at, shots_of
from offcut.core.model.source import Source
from offcut.core.store.pictures_on_the_way import STEP, kept_size
from offcut.core.store.thumbnails import Thumbnails, film_key

Told = Callable[[int, int], None]
OPEN_FILMS = 3
MOST_REPEATS = 400
"""So many pairs of shots are looked at for the same pictures, the likeliest first."""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Shots that look like one place, to be taken or waved away.

    ``likeness`` 0 to 100; ``setup`` True where they are of one set-up.
    """

    refs: tuple[ShotRef, ...]
    likeness: float
    setup: bool

    @property
    def words(self) -> str:
        """What they have in common, in words."""
        return "one set-up" if self.setup else "one place"


@dataclass(frozen=True, slots=True)
class UsedTwice:
    """Two shots that have the same pictures, and in words how."""

    first: ShotRef
    second: ShotRef
    words: str


Span = tuple[ShotRef, int, int]
"""A shot and its frames: another span of the same shot is looked at anew."""


@dataclass
class Compared:
    """What was compared before: pairs of shots, and pairs that may be repeats, in words how.

    ``alike`` holds None where they are not; so does ``twice``.
    """

    alike: dict[tuple[Span, Span], Match | None] = field(default_factory=dict)
    twice: dict[tuple[Span, Span, bool], str | None] = field(default_factory=dict)
    most: int = 300_000

    def trim(self) -> None:
        """Forget all where it grew too much."""
        if len(self.alike) + len(self.twice) > self.most:
            self.alike.clear()
            self.twice.clear()


class FramePictures:
    """Small pictures of frames of any films: those kept on disk, or decoded and kept.

    Belongs to one thread; `close` it. ``opened`` are films that are open already; ``before`` is
    called before a picture is decoded, to let others go first.
    """

    def __init__(
        self,
        opened: Mapping[int, OpenedFilm] | None = None,
        before: Callable[[], object] = lambda: None,
    ) -> None:
        self._opened = dict(opened or {})
        self._before = before
        self._kept: OrderedDict[str, Thumbnails] = OrderedDict()
        self._readers: OrderedDict[str, Reader | None] = OrderedDict()
        self._films: dict[str, OpenedFilm | None] = {}
        self._keys: OrderedDict[tuple[str, int], Picture] = OrderedDict()

    def picture(
        self, source: Source, frame: int, size: tuple[int, int] | None = None
    ) -> Picture | None:
        """Return a picture of a frame at a size, the usual small one for None.

        None where there is none and the film cannot be read.
        """
        picture = self.kept(source, frame, size)
        if picture is not None:
            return picture
        wanted = size or kept_size(source.media)
        kept = self._of(source)
        try:
            reader = self.reader(source)
            if reader is not None:
                self._before()
                picture = rgb_of(reader.frame(frame), *wanted)
                return _as_it_comes_back(kept.keep(frame, picture), picture)
        except (OffcutError, ValueError):
            pass
        return kept.at_any_size(frame, *wanted)

    def kept(
        self, source: Source, frame: int, size: tuple[int, int] | None = None
    ) -> Picture | None:
        """Return a picture that is kept on disk, None where it would have to be decoded."""
        wanted = size or kept_size(source.media)
        kept = self._of(source)
        picture = kept.get(frame, *wanted)
        least = 0 if size is None else wanted[0] * 3 // 4
        return picture if picture is not None else kept.at_any_size(frame, *wanted, least=least)

    def at_once(self, source: Source, frame: int) -> Picture | None:
        """Return a small picture of the same shot that is decoded at once, None where none is."""
        try:
            reader = self.reader(source)
        except OffcutError:
            return None
        film = self._films.get(_name_of(source))
        if reader is None or film is None:
            return None
        shot = shot_at(shots_of(source), frame)
        span = (shot.start, shot.end) if shot is not None else (source.start, source.end)
        key = film.index.key_in_place_of(frame, *span)
        if key is None:
            return None
        known = _name_of(source), key
        if known not in self._keys:  # several frames of a shot are stood in for by one
            try:
                self._keys[known] = rgb_of(reader.key(key), *kept_size(source.media))
            except (OffcutError, ValueError):
                return None
            while len(self._keys) > 64:
                self._keys.popitem(last=False)
        return self._keys[known]

    def reader(self, source: Source) -> Reader | None:
        """Return what reads a film, None where it is gone. Raises OffcutError."""
        name = _name_of(source)
        if name in self._readers:
            self._readers.move_to_end(name)
            return self._readers[name]
        media = source.media
        film = self._opened.get(source.id)
        if film is not None and (film.media.path, film.media.frames) != (media.path, media.frames):
            film = None  # of another project
        if film is None and (Path(media.path).exists() or media.run is not None):
            film = as_set(open_source(media.path, media.run), source)
        reader = None if film is None else open_reader(film, Purpose.SMALL, threads=1)
        self._readers[name] = reader
        self._films[name] = film
        while len(self._readers) > OPEN_FILMS:
            old = self._readers.popitem(last=False)[1]
            if old is not None:
                old.close()
        return reader

    def _of(self, source: Source) -> Thumbnails:
        name = _name_of(source)
        if name not in self._kept:
            self._kept[name] = Thumbnails(film_key(source.media))
            while len(self._kept) > OPEN_FILMS:
                self._kept.popitem(last=False)[1].close()
        self._kept.move_to_end(name)
        return self._kept[name]

    def close(self) -> None:
        """Let all files go."""
        for kept in self._kept.values():
            kept.close()
        for reader in self._readers.values():
            if reader is not None:
                reader.close()


def _as_it_comes_back(coded: bytes, picture: Picture) -> Picture:
    """Return a picture as it is once it was kept: the same, first and later."""
    back = cv2.imdecode(np.frombuffer(coded, np.uint8), cv2.IMREAD_COLOR) if coded else None
    return picture if back is None else np.ascontiguousarray(back[..., ::-1])


def _name_of(source: Source) -> str:
    """Return what tells a film from all others: ids are of one project alone."""
    media = source.media
    return f"{film_key(media)} {media.path} {media.frames} {source.ticket.fields.value}"


def look_through(
    rows: Sequence[BoardRow],
    pictures: FramePictures,
    told: Told | None = None,
    stop: threading.Event | None = None,
) -> Iterator[tuple[ShotRef, ShotLook]]:
    """Yield how each shot looks, in the films' order; shots that cannot be read are left out."""
    for done, row in enumerate(rows, start=1):
        if stop is not None and stop.is_set():
            return
        source, shot, ref = row.source, row.shot, row.ref
        if source is not None and shot is not None and ref is not None:
            frames = frames_to_look_at(shot, row.clean_end, STEP)
            seen = [p for f in frames if (p := pictures.picture(source, f)) is not None]
            if seen:
                yield ref, look_of(frames[: len(seen)], seen)
        if told is not None:
            told(done, len(rows))


def find_places(
    rows: Sequence[BoardRow],
    looks: Mapping[ShotRef, ShotLook],
    pictures: FramePictures,
    told: Told | None = None,
    stop: threading.Event | None = None,
    compared: Compared | None = None,
) -> tuple[tuple[Suggestion, ...], tuple[UsedTwice, ...]]:
    """Return which shots look like one place, and which have the same pictures.

    Films whose pictures have another shape are looked at apart. ``compared`` is what is known of
    before; what is compared now is put into it.
    """
    memory = compared or Compared()
    known = [r for r in rows if r.ref is not None and r.ref in looks]
    shots = _Looked(known, [looks[r.ref] for r in known if r.ref is not None], pictures)
    finder = PlaceFinder(shots.looks, shots.picture_of, before := shots.remembered(memory))
    pairs = finder.pairs(told, stop)
    memory.alike.update({(shots.spans[a], shots.spans[b]): m for (a, b), m in before.items()})
    groups = alike_groups(len(known), pairs)
    places = tuple(
        Suggestion(tuple(shots.ref(n) for n in g.shots), g.likeness, g.setup) for g in groups
    )
    twice = _used_twice(shots, candidates(finder, pairs, stop)[:MOST_REPEATS], memory, stop)
    memory.trim()
    return places, twice


class _Looked:
    """Shots whose looks are known, by number; of the last ones read the moving pictures stay."""

    def __init__(
        self, rows: Sequence[BoardRow], looks: Sequence[ShotLook], pictures: FramePictures
    ) -> None:
        self._rows, self.looks, self._pictures = rows, looks, pictures
        self.spans = [(r.ref, r.shot.start, r.shot.end) for r in rows if r.ref and r.shot]
        self._runs: OrderedDict[int, MovingPictures | None] = OrderedDict()

    def ref(self, n: int) -> ShotRef:
        return self.spans[n][0]

    def picture_of(self, n: int, k: int) -> Picture | None:
        """Return the k-th picture of a shot's look."""
        source, look = self._rows[n].source, self.looks[n]
        if source is None or k >= len(look.frames):
            return None
        return self._pictures.picture(source, look.frames[k])

    def remembered(self, memory: Compared) -> dict[tuple[int, int], Match | None]:
        """Return what is known of pairs of these shots."""
        numbers = {span: n for n, span in enumerate(self.spans)}
        return {
            (numbers[a], numbers[b]): m
            for (a, b), m in memory.alike.items()
            if a in numbers and b in numbers
        }

    def run_of(self, n: int) -> MovingPictures | None:
        """Return the moving pictures of a shot, None where they cannot be read."""
        if n not in self._runs:
            self._runs[n] = _read(self._rows[n], self._pictures)
            while len(self._runs) > 24:
                self._runs.popitem(last=False)
        self._runs.move_to_end(n)
        return self._runs[n]


def _used_twice(
    shots: _Looked,
    pairs: Sequence[tuple[int, int, bool]],
    memory: Compared,
    stop: threading.Event | None,
) -> tuple[UsedTwice, ...]:
    """Return which pairs have the same pictures."""
    twice = []
    for a, b, flopped in pairs:
        if stop is not None and stop.is_set():
            break
        key = shots.spans[a], shots.spans[b], flopped
        if key not in memory.twice:
            first, second = shots.run_of(a), shots.run_of(b)
            if first is None or second is None:
                continue
            repeat = repeat_of(first, second, flopped=flopped)
            memory.twice[key] = repeat.words if repeat is not None else None
        words = memory.twice[key]
        if words is not None:
            twice.append(UsedTwice(shots.ref(a), shots.ref(b), words))
    return tuple(twice)


def _read(row: BoardRow, pictures: FramePictures) -> MovingPictures | None:
    source, shot = row.source, row.shot
    if source is None or shot is None:
        return None
    try:
        reader = pictures.reader(source)
        start = max(shot.start, shot.opened_by.end if shot.opened_by else 0)
        if reader is None or row.clean_end <= start:
            return None
        return pictures_of(reader, start, row.clean_end)
    except (OffcutError, ValueError):
        return None


def still_open(
    suggestions: Sequence[Suggestion], project: Project, rows: Sequence[BoardRow]
) -> tuple[Suggestion, ...]:
    """Return the suggestions that are still worth something.

    Shots that are gone or set aside are left out of them; those that were waved away, and those
    whose shots are in one scene already, are not told again.
    """
    if not suggestions:
        return ()
    there = {r.ref: r for r in rows if r.shot is not None and not r.shot.card.set_aside}
    waved = [frozenset(group) for group in project.waved]
    left = []
    for suggestion in suggestions:
        refs = tuple(ref for ref in suggestion.refs if ref in there)
        scenes = {there[ref].scene for ref in refs}
        if len(refs) < 2 or (len(scenes) == 1 and scenes != {0}):
            continue
        if any(group.issuperset(refs) for group in waved):
            continue
        left.append(Suggestion(refs, suggestion.likeness, suggestion.setup))
    return tuple(left)
