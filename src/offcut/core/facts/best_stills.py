"""The best stills of a shot: the frames that tell most, by what was measured of each.

A good still is as sharp as the shot gets, taken where little moves, neither clipped nor crushed,
and shows a face where the shot has one (common practice, no published source).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from offcut.core.measure.faces import Face, Looked, kept_faces
from offcut.core.measure.ground import Grounds, kept_ground
from offcut.core.measure.light import Lights, kept_light
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.source import Source

_FACE_NEAR, _FACE = 0.4, 0.35
"""Seconds about a frame that showed a face within which a frame is liked better, and by how much
at most."""
_APART = 0.12
"""Stills of one shot lie at least this share of it apart."""


def telling_frames(source: Source, start: int, end: int, count: int = 3) -> tuple[int, ...]:
    """Return the frames of [start, end) that tell most, the best first; empty where not measured.

    There are fewer where the shot has no more that lie apart.
    """
    media, crop = source.media, crop_of(source)
    lights = kept_light(media, start, end, crop)
    grounds = kept_ground(media, start, end, crop)
    return _telling(lights, grounds, kept_faces(media, crop), start, float(media.rate), count)


def stills_of(source: Source, spans: Sequence[tuple[int, int]]) -> Iterator[int | None]:
    """Yield the frame of each stretch that tells most, None where too little was measured."""
    media, crop = source.media, crop_of(source)
    if not spans:
        return
    lights = kept_light(media, 0, media.frames, crop)
    grounds = kept_ground(media, 0, media.frames, crop)
    faces = sorted(kept_faces(media, crop).items())
    for a, b in spans:
        here = dict(faces[bisect_left(faces, (a,)) : bisect_left(faces, (b,))])
        light = Lights(lights.rows[a:b], lights.known[a:b])
        ground = Grounds(grounds.rows[a:b], grounds.known[a:b])
        best = _telling(light, ground, here, a, float(media.rate), 1)
        yield best[0] if best else None


def _telling(
    lights: Lights,
    grounds: Grounds,
    faces: Looked,
    start: int,
    rate: float,
    count: int,
) -> tuple[int, ...]:
    length = len(lights.known)
    if length < 1 or lights.known.sum() < 0.5 * length:
        return ()
    light = lights.of("light")
    detail = np.log1p(lights.of("detail_2").astype(np.float64))
    good = detail / max(1e-6, float(detail.max()))
    good -= 0.8 * lights.of("clipped") + 0.8 * lights.of("crushed")
    good += 0.15 * np.minimum(1.0, light / max(1e-6, float(np.median(light))))
    if grounds.known.any():
        moves = grounds.of("moves").astype(np.float64)
        moves[0] = moves[min(1, len(moves) - 1)]
        good -= 0.25 * np.minimum(1.0, moves / max(1.0, 2 * float(np.median(moves))))
    good += _by_faces(faces, start, start + length, rate)
    good[~lights.known] = -np.inf
    return _apart(good, start, count)


def face_frame(source: Source, start: int, end: int) -> int | None:
    """Return the frame of [start, end) that shows most of faces, None where none was seen."""
    seen = kept_faces(source.media, crop_of(source))
    inside = {f: _weight(faces) for f, faces in seen.items() if faces and start <= f < end}
    return max(inside, key=lambda f: inside[f]) if inside else None


def _weight(faces: list[Face]) -> float:
    return sum(f.width * f.height * f.score for f in faces)


def _by_faces(seen: Looked, start: int, end: int, rate: float) -> NDArray[np.float64]:
    """Return how much faces are worth to each frame."""
    made = np.zeros(end - start)
    near = round(_FACE_NEAR * rate)
    for frame, faces in seen.items():
        if faces and start <= frame < end:
            a, b = max(start, frame - near) - start, min(end, frame + near + 1) - start
            worth = _FACE * min(1.0, 0.4 + 6 * _weight(faces))
            made[a:b] = np.maximum(made[a:b], worth)
    return made


def _apart(good: NDArray[np.float64], start: int, count: int) -> tuple[int, ...]:
    left, least = good.copy(), max(1, round(_APART * len(good)))
    chosen: list[int] = []
    while len(chosen) < count and np.isfinite(left).any():
        at = int(left.argmax())
        if not np.isfinite(left[at]):
            break
        chosen.append(start + at)
        left[max(0, at - least) : at + least + 1] = -np.inf
    return tuple(chosen)
