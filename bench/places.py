"""Measures how well shots of one set-up are put together, on films made for it.

Each film cuts between set-ups (photographs under a camera that hardly moves, with something that
moves in front of it, in a light that drifts) as a conversation does, and returns to places in
other framings. Run it by hand; ``--films N`` films of each side.
"""

from __future__ import annotations

import argparse
import time

import cv2
import numpy as np

from films import Picture, Shelf
from offcut.core.facts.looks import look_of
from offcut.core.facts.places import PlaceFinder, alike_groups

SIZE = (384, 216)


def framed(photo: Picture, view: tuple[float, float, float], shake: tuple[float, float]) -> Picture:
    """Cut a framing out of a photograph: centre x, centre y, share of its width."""
    high, wide = photo.shape[:2]
    cut = min(view[2] * wide, high * SIZE[0] / SIZE[1] * 0.98)
    scale = cut / SIZE[0]
    x = min(max(view[0] * wide, cut / 2), wide - cut / 2) + shake[0] * scale
    y = view[1] * high
    half = cut * SIZE[1] / SIZE[0] / 2
    y = min(max(y, half), high - half) + shake[1] * scale
    matrix = np.array([[scale, 0, x - scale * SIZE[0] / 2], [0, scale, y - scale * SIZE[1] / 2]])
    flags = cv2.INTER_AREA | cv2.WARP_INVERSE_MAP
    return cv2.warpAffine(photo, matrix, SIZE, flags=flags, borderMode=cv2.BORDER_REFLECT)


def person(rng: np.random.Generator, picture: Picture, at: float, tone: np.ndarray) -> Picture:
    """Put somebody who moves before the camera."""
    x, y = int(SIZE[0] * at), int(SIZE[1] * (0.62 + 0.03 * rng.normal()))
    out = picture.copy()
    cv2.ellipse(out, (x, y + 70), (46, 90), 0, 0, 360, tone.tolist(), -1, cv2.LINE_AA)
    cv2.circle(out, (x + int(4 * rng.normal()), y - 30), 24, (tone * 1.3).tolist(), -1, cv2.LINE_AA)
    return out


def photo_views(rng: np.random.Generator, count: int) -> list[tuple[float, float, float]]:
    """Return framings of one photograph that show different parts of it."""
    views = [(0.27, 0.3, 0.42), (0.73, 0.35, 0.42), (0.3, 0.75, 0.45), (0.72, 0.75, 0.42)]
    return [views[i] for i in rng.permutation(4)[:count]]


def film(seed: int, shelf: Shelf) -> list[tuple[int, list[Picture]]]:
    """Return shots, each with the number of its set-up and three pictures."""
    rng = np.random.default_rng(seed)
    setups: list[tuple[int, tuple[float, float, float], float, np.ndarray]] = []
    photos = list(rng.permutation(len(shelf.photos))[:5])
    for n in photos:
        for view in photo_views(rng, int(rng.integers(1, 3))):
            setups.append((int(n), view, rng.uniform(0.2, 0.8), rng.uniform(20, 200, 3)))
    order: list[int] = []
    while len(order) < 45:
        some = rng.choice(len(setups), 2, replace=False)
        order += [int(some[k % 2]) for k in range(int(rng.integers(2, 7)))]
    shots = []
    for n in order:
        photo, view, at, tone = setups[n]
        drift, light = rng.normal(0, 3, 2), rng.uniform(0.8, 1.2)
        pictures = []
        for k in range(3):
            shake = tuple(drift + rng.normal(0, 1.5, 2) * (k + 1) / 2)
            shown = framed(shelf.photos[photo], view, shake)
            shown = person(rng, shown, at + 0.05 * rng.normal(), tone)
            shown = shown * light + rng.normal(0, 3, shown.shape)
            pictures.append(np.clip(shown, 0, 255))
        shots.append((n, pictures))
    for c in range(4):  # footage that is like nothing else
        frames = shelf.clips[c][:: max(1, len(shelf.clips[c]) // 3)][:3]
        shots.insert(
            int(rng.integers(len(shots))), (1000 + c, [f.astype(np.float32) for f in frames])
        )
    return shots


def kept(picture: Picture) -> np.ndarray:
    """Return a picture as it would be kept: small, as JPEG."""
    small = cv2.resize(
        np.clip(picture, 0, 255).astype(np.uint8), (160, 90), interpolation=cv2.INTER_AREA
    )
    _, data = cv2.imencode(".jpg", small[..., ::-1], (cv2.IMWRITE_JPEG_QUALITY, 80))
    return cv2.imdecode(data, cv2.IMREAD_COLOR)[..., ::-1].copy()


def main() -> None:
    """Print the figures of each side."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--films", type=int, default=8)
    parser.add_argument("--say", action="store_true", help="say which were mixed, and which left")
    call = parser.parse_args()
    for side in ("learn", "bench"):
        shelf = Shelf(side)
        together = whole = mixed = groups = 0
        spent = 0.0
        for seed in range(call.films):
            shots = film(seed, shelf)
            pictures = [[kept(p) for p in some] for _, some in shots]
            began = time.perf_counter()
            looks = [look_of((0, 1, 2)[: len(p)], p) for p in pictures]
            finder = PlaceFinder(looks, lambda n, k, p=pictures: p[n][k])
            found = alike_groups(len(shots), finder.pairs())
            spent += time.perf_counter() - began
            setups = [g for g in found if g.setup]
            groups += len(setups)
            for g in setups:
                inside = {shots[n][0] for n in g.shots}
                if len(inside) > 1:
                    mixed += 1
                    if call.say:
                        print(side, seed, sorted(inside), round(g.likeness))
            by_setup: dict[int, list[int]] = {}
            for n, (setup, _) in enumerate(shots):
                by_setup.setdefault(setup, []).append(n)
            for members in by_setup.values():
                if len(members) < 2:
                    continue
                whole += len(members)
                together += max((len(set(members) & set(g.shots)) for g in setups), default=0)
        print(
            f"{side}: {together / whole:.1%} of {whole} shots put together,"
            f" {mixed} of {groups} suggestions mix two, {spent / call.films:.1f} s a film"
        )


if __name__ == "__main__":
    main()
