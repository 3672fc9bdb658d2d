"""Lengths: how long each shot is held, of whatever is studied, on a time axis of its own."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from itertools import groupby, pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from offcut.core.errors import ListError
from offcut.core.lists.incoming import ReadList
from offcut.core.model.orders import uses_of
from offcut.core.model.project import Order, Project
from offcut.core.model.scenes import shots_in_scene
from offcut.core.model.seam import Kind
from offcut.core.model.shots import Shot, shot_at, shots_of
from offcut.core.model.source import Source
from offcut.core.tally.joins import joins_of

Floats = NDArray[np.float64]


class StudiedShot(NamedTuple):
    """A shot as it is studied.

    ``source`` is the film it is of, 0 where there is none; [``start``, ``end``) its frames there.
    ``kind`` is how it is joined to the one before, None where nothing lies before it; ``mixed``
    the frames of a gradual join. ``number`` counts as the film or the list does.
    """

    number: int
    title: str
    source: int
    start: int
    end: int
    kind: Kind | None = None
    mixed: int = 0
    scene: int = 0
    aside: bool = False


@dataclass(frozen=True, eq=False)
class ShotLengths:
    """Shots with how long they are held, in order.

    Attributes: ``name`` what is studied; ``shots`` (n,); ``begins`` float64 (n,) where each begins
    on the axis, in seconds; ``seconds`` float64 (n,) how long each is held; ``mixed`` float64 (n,)
    seconds of the join that opens it; ``counted`` bool (n,) which go into the figures: not those
    set aside, nor those outside a range; ``film`` the id of the source whose own time the axis is,
    0 where shots are laid end to end; ``note`` what has to be said of it, in a sentence.
    """

    name: str
    shots: tuple[StudiedShot, ...]
    begins: Floats
    seconds: Floats
    mixed: Floats
    counted: NDArray[np.bool_]
    film: int = 0
    note: str = ""

    def __len__(self) -> int:
        return len(self.shots)

    @cached_property
    def held(self) -> Floats:
        """How long the shots that count are held, float64 (m,), seconds."""
        return self.seconds[self.counted]

    @cached_property
    def places(self) -> NDArray[np.int64]:
        """Where in ``shots`` those stand that count."""
        return np.flatnonzero(self.counted)

    @cached_property
    def ends(self) -> Floats:
        """Where each shot ends on the axis, in seconds."""
        return self.begins + self.seconds

    @property
    def whole(self) -> float:
        """Where the axis ends, in seconds."""
        return float(self.ends[-1]) if len(self) else 0.0

    @cached_property
    def middles(self) -> Floats:
        """The middles of the shots that count, in seconds on the axis."""
        return self.begins[self.counted] + self.held / 2

    @cached_property
    def scenes(self) -> list[tuple[int, int, int]]:
        """Stretches of shots of one scene: (scene, first place, place after the last)."""
        found: list[tuple[int, int, int]] = []
        place = 0
        for scene, group in groupby(s.scene for s in self.shots):
            count = sum(1 for _ in group)
            if scene:
                found.append((scene, place, place + count))
            place += count
        return found

    @cached_property
    def films(self) -> tuple[int, ...]:
        """The ids of the films that shots are of, in order."""
        return tuple(dict.fromkeys(s.source for s in self.shots if s.source))

    def at(self, moment: float) -> int:
        """Return which shot is seen at a moment of the axis, -1 for none."""
        place = int(np.searchsorted(self.begins, moment, side="right")) - 1
        return place if place >= 0 and moment < self.ends[place] else -1

    def moment_of(self, source: int, frame: int) -> float | None:
        """Return when a frame of a film is first seen along the axis, None where it is not."""
        begins, ends = self._spans
        holds = (self._sources == source) & (begins <= frame) & (frame < ends)
        place = int(np.argmax(holds)) if len(holds) else 0
        if not len(holds) or not holds[place]:
            return None
        share = (frame - int(begins[place])) / int(ends[place] - begins[place])
        return float(self.begins[place] + share * self.seconds[place])

    def frame_at(self, moment: float) -> tuple[int, int] | None:
        """Return the film and the frame that are seen at a moment, None where no film is."""
        place = self.at(moment)
        if place < 0 or not self.shots[place].source:
            return None
        shot = self.shots[place]
        share = (moment - float(self.begins[place])) / float(self.seconds[place])
        into = int(share * (shot.end - shot.start) + 1e-6)
        return shot.source, min(shot.end - 1, shot.start + into)

    @cached_property
    def _sources(self) -> NDArray[np.int64]:
        return np.array([s.source for s in self.shots], np.int64)

    @cached_property
    def _spans(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        starts = np.array([s.start for s in self.shots], np.int64)
        return starts, np.array([s.end for s in self.shots], np.int64)

    def within(self, first: float, last: float) -> ShotLengths:
        """Count only the shots whose middle lies in [first, last) of the axis.

        Each counts whole, so that a range's edge never makes a shot shorter than it is.
        """
        middles = self.begins + self.seconds / 2
        inside = (middles >= first) & (middles < last)
        return replace(self, counted=self.counted & inside)


def _laid(
    name: str,
    shots: Sequence[StudiedShot],
    seconds: Iterable[float],
    mixed: Iterable[float],
    *,
    begins: Floats | None = None,
    film: int = 0,
    aside: bool = False,
    note: str = "",
) -> ShotLengths:
    held = np.fromiter(seconds, np.float64, len(shots))
    if begins is None:
        begins = np.concatenate([[0.0], np.cumsum(held)[:-1]]) if len(held) else np.zeros(0)
    counted = np.array([aside or not s.aside for s in shots], np.bool_)
    return ShotLengths(
        name,
        tuple(shots),
        begins,
        held,
        np.fromiter(mixed, np.float64, len(shots)),
        counted,
        film,
        note,
    )


def _seconds(frames: int, rate: Fraction) -> float:
    return frames * rate.denominator / rate.numerator


def _studied(source: Source, shot: Shot, *, joined: bool, number: int = 0) -> StudiedShot:
    opener = shot.opened_by
    own = joined and opener is not None
    return StudiedShot(
        number or shot.number,
        shot.title,
        source.id,
        shot.start,
        shot.end,
        (opener.kind if own and opener is not None else Kind.CUT) if joined else None,
        opener.end - opener.start if own and opener is not None else 0,
        shot.card.scene,
        shot.card.set_aside,
    )


def lengths_of_film(source: Source, name: str = "", *, aside: bool = False) -> ShotLengths:
    """Return the shots of a film on the film's own time; ``aside`` counts those set aside too."""
    shots = shots_of(source)
    rate = source.media.rate
    studied = [_studied(source, s, joined=n > 0) for n, s in enumerate(shots)]
    return _laid(
        name or name_of(source),
        studied,
        (_seconds(s.length, rate) for s in shots),
        (_seconds(s.mixed, rate) for s in studied),
        begins=np.array([_seconds(s.start, rate) for s in shots], np.float64),
        film=source.id,
        aside=aside,
    )


def lengths_of_picks(
    name: str, picks: Sequence[tuple[Source, Shot]], *, aside: bool = True
) -> ShotLengths:
    """Return shots of any films, laid end to end.

    A shot that follows the one before it in its film is joined as it is there, any other by a
    cut.
    """
    studied: list[StudiedShot] = []
    seconds: list[float] = []
    mixed: list[float] = []
    before: tuple[int, int] | None = None
    for source, shot in picks:
        one = _studied(source, shot, joined=bool(studied))
        if before != (source.id, shot.start):
            one = one._replace(kind=Kind.CUT if studied else None, mixed=0)
        before = (source.id, shot.end)
        rate = source.media.rate
        studied.append(one)
        seconds.append(_seconds(shot.length, rate))
        mixed.append(_seconds(one.mixed, rate))
    return _laid(name, studied, seconds, mixed, aside=aside)


def lengths_of_scene(project: Project, scene_id: int, *, aside: bool = False) -> ShotLengths:
    """Return the shots of a scene in all films, laid end to end."""
    picks = [(s, shot) for s in project.sources for shot in shots_in_scene(s, scene_id)]
    return lengths_of_picks(project.scene_name(scene_id), picks, aside=aside)


def lengths_of_order(project: Project, order: Order) -> ShotLengths:
    """Return the uses of a running order, each with its own in and out; what is gone is left out.

    What is set aside was put there on purpose, and counts.
    """
    picks: list[tuple[Source, Shot]] = []
    for place, used in enumerate(uses_of(project, order), start=1):
        if used.source is not None and used.shot is not None:
            picks.append((used.source, used.shot._replace(number=place)))
    return lengths_of_picks(order.name, picks)


def lengths_of_films(
    sources: Sequence[Source], name: str = "", *, aside: bool = False
) -> ShotLengths:
    """Return the shots of several films, one film after another."""
    picks = [(source, shot) for source in sources for shot in shots_of(source)]
    return lengths_of_picks(name or f"{len(sources)} films", picks, aside=aside)


def lengths_of_list(listed: ReadList, note: str = "") -> ShotLengths:
    """Return the shots between the joins of a cut list, laid end to end; its rate is taken as is.

    Gaps open shots of their own and gradual joins count at their middle, as everywhere. The shots
    of a bin (an ALE) are each as long as they are. ListError where there is none.
    """
    if listed.bin:
        return _of_bin(listed, note)
    joins = joins_of(listed)
    if joins.first is None:
        raise ListError(f"{listed.path}: it marks places, there is no shot in it")
    frames = [joins.first_frame, *(j.frame for j in joins.joins), joins.last_frame]
    opens = [None, *joins.joins]
    events = [joins.first, *(j.event for j in joins.joins)]
    studied: list[StudiedShot] = []
    for (start, end), join, event in zip(pairwise(frames), opens, events, strict=True):
        if end <= start:
            continue
        number = len(studied) + 1
        studied.append(
            StudiedShot(
                number,
                (event.clip if event is not None else "") or f"Shot {number}",
                0,
                start,
                end,
                join.kind if join is not None and studied else None,
                join.end - join.start if join is not None and studied else 0,
            )
        )
    rate = listed.rate
    return _laid(
        listed.title or listed.name,
        studied,
        (_seconds(s.end - s.start, rate) for s in studied),
        (_seconds(s.mixed, rate) for s in studied),
        note=note,
    )


def _of_bin(listed: ReadList, note: str) -> ShotLengths:
    shots = [
        StudiedShot(n, e.clip or f"Shot {n}", 0, e.record_in, e.record_out)
        for n, e in enumerate(listed.events, start=1)
    ]
    return _laid(
        listed.title or listed.name,
        shots,
        (_seconds(s.end - s.start, listed.rate) for s in shots),
        (_seconds(0, listed.rate) for _ in shots),
        note=note,
    )


def lengths_of_seconds(
    name: str,
    seconds: Sequence[float],
    *,
    titles: Sequence[str] = (),
    kinds: Sequence[Kind | None] = (),
    mixed: Sequence[float] = (),
    note: str = "",
) -> ShotLengths:
    """Return lengths that are known as seconds and no more, in order.

    ``titles``, ``kinds`` and ``mixed`` are empty or as many as ``seconds``.
    """
    count = len(seconds)
    studied = [
        StudiedShot(
            n + 1,
            (titles[n] if titles else "") or f"Shot {n + 1}",
            0,
            0,
            0,
            kinds[n] if kinds else None,
        )
        for n in range(count)
    ]
    return _laid(name, studied, seconds, mixed or [0.0] * count, note=note)


def name_of(source: Source) -> str:
    """Return a film's name as people say it: its file's, without ending."""
    return source.media.path.rsplit("/", 1)[-1].rsplit(".", 1)[0]


def some_of(lengths: ShotLengths, count: int = 8) -> list[int]:
    """Return the places of a few shots that count, from the shortest to the longest."""
    ranked = sorted(lengths.places.tolist(), key=lambda p: float(lengths.seconds[p]))
    if len(ranked) <= count:
        return ranked
    return [ranked[round(k * (len(ranked) - 1) / (count - 1))] for k in range(count)]


def places_of(lengths: ShotLengths, picks: Iterable[tuple[Source, Shot]]) -> list[int]:
    """Return the places of some shots, and of uses that begin in them, in order."""
    spans: dict[int, list[Shot]] = {}
    for source, shot in picks:
        spans.setdefault(source.id, []).append(shot)
    for held in spans.values():
        held.sort(key=lambda s: s.start)
    return [
        place
        for place, one in enumerate(lengths.shots)
        if one.source in spans and shot_at(spans[one.source], one.start) is not None
    ]
