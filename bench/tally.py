"""Measures how well versions and originals are told, on films made for it (`tally_films`).

``versions`` takes pairs of films through the whole errand, files to changes; ``originals`` a folder
of camera files of which many look alike; ``large`` times 1,500 shots against 1,500 from prints
alone. Run it by hand; nothing else should run meanwhile.
"""

from __future__ import annotations

import argparse
import json
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from films import Shelf
from offcut.core.errands.conforming import conformed, rushes_in
from offcut.core.errands.held_against import films_compared, held
from offcut.core.tally.sides import Side
from offcut.core.tally.versions.changes import Change, Span, What
from offcut.core.tally.versions.compare import compared
from tally_films import Told, make_originals, make_pair

SPEED = 0.03


def _shared(one: Span | None, other: Span | None) -> int:
    return 0 if not one or not other else min(one[1], other[1]) - max(one[0], other[0])


def _of(truth: Told, changes: tuple[Change, ...]) -> Change | None:
    """Return the change that is about what is true."""
    new = truth.new is not None
    best = max(changes, key=lambda c: _shared(c.new if new else c.old, truth.new or truth.old))
    return best if _shared(best.new if new else best.old, truth.new or truth.old) > 0 else None


def _right(truth: Told, found: Change | None) -> bool:
    """Tell whether a shot was tied to what it was made from, or to nothing where that is so."""
    if found is None:
        return False
    if truth.old is None:
        return found.old is None
    if truth.new is None:
        return found.new is None
    if truth.what == "replaced":
        return found.what is What.OTHER
    shorter = min(truth.old[1] - truth.old[0], found.old[1] - found.old[0] if found.old else 0)
    return found.old is not None and 2 * _shared(found.old, truth.old) > shorter


def _pair(task: tuple[str, int]) -> tuple[list[str], Counter[str], float, list[str]]:
    side, seed = task
    pair = make_pair(side, seed, Shelf(side))
    old, new = held(pair.old), held(pair.new)
    assert old.source is not None
    assert new.source is not None
    began = time.monotonic()
    comparison = films_compared(old.source, new.source)
    seconds = time.monotonic() - began
    count: Counter[str] = Counter()
    wrong = []
    for truth in pair.told:
        found = _of(truth, comparison.changes)
        right = _right(truth, found)
        count["shots"] += 1
        count["right"] += right
        if truth.change == "same":
            count["same"] += 1
            count["false other"] += right and found is not None and found.what is What.OTHER
        if truth.change in ("shorter", "longer") and truth.what != "speed":
            exact = right and found is not None
            exact = exact and (found.head, found.tail) == (truth.head, truth.tail)
            still = found is not None and any(r.code == "still" for r in found.reasons)
            count["ends"] += 1
            count["ends exact"] += exact
            count["ends still"] += not exact and still
        if not right:
            wrong.append(f"{truth.change} {truth.old} {truth.new}: {found}")
    return pair.finish, count, seconds, wrong


def versions(side: str, pairs: int, verbose: bool) -> None:
    """Measure pairs of versions."""
    whole: Counter[str] = Counter()
    with ProcessPoolExecutor(2) as pool:
        for finish, count, seconds, wrong in pool.map(_pair, [(side, n) for n in range(pairs)]):
            whole += count
            print(f"{', '.join(finish)}: {dict(count)}, {seconds:.1f} s")
            for words in wrong if verbose else ():
                print("   ", words)
    print(f"right {whole['right'] / whole['shots']:.1%} of {whole['shots']} shots")
    print(
        f"heads and tails to the frame {whole['ends exact'] / max(1, whole['ends']):.1%} of "
        f"{whole['ends']}; of the others {whole['ends still']} said to stand still"
    )
    print(f"false other picture {whole['false other'] / max(1, whole['same']):.2%}")


def originals(side: str, count: int, shots: int, verbose: bool) -> None:
    """Measure a film against a folder of originals, by picture alone."""
    folder = make_originals(side, 12, count, shots)
    film = next(p for p in folder.iterdir() if p.stem == "film")
    began = time.monotonic()
    rushes = rushes_in([folder / "camera"])
    measured = time.monotonic() - began
    source = held(film).source
    assert source is not None
    began = time.monotonic()
    conform = conformed(source, rushes)
    seconds = time.monotonic() - began
    right = exact = 0
    by_certainty: Counter[tuple[str, bool]] = Counter()
    truths = json.loads((folder / "truth.json").read_text())
    for truth in truths:
        span = truth["film"][0], truth["film"][1]
        found = max(conform.found, key=lambda f: _shared(f.shot, span))
        match = found.best
        name = Path(conform.clips[match.clip].media.path).name if match is not None else ""
        good = name == truth["file"]
        to_the_frame = False
        if good and match is not None:
            at = truth["first"] + (found.shot[0] - span[0]) * truth["speed"]
            same = abs(float(match.speed) - truth["speed"]) < SPEED
            to_the_frame = same and abs(match.first - at) < 1
        right += good
        exact += to_the_frame
        by_certainty[match.certainty.value if match else "none", to_the_frame] += 1
        if verbose and not to_the_frame:
            print("   ", truth, name, match)
    print(
        f"{count} files, {len(truths)} shots: right file {right / len(truths):.1%}, right frame and "
        f"speed {exact / len(truths):.1%}; measuring {measured:.0f} s, finding {seconds:.0f} s"
    )
    print(dict(by_certainty))


def large(shots: int) -> None:
    """Time so many shots against as many, from prints drawn at random that move slowly."""
    rng = np.random.default_rng(1)
    lengths = rng.integers(24, 160, shots)
    parts = []
    for length in lengths.tolist():
        first, drift = rng.uniform(20, 230, 96), rng.normal(0, 0.6, 96)
        parts.append(first + np.arange(length)[:, None] * drift + rng.normal(0, 0.3, (length, 96)))
    order = [n for n in range(shots) if n % 37]
    bounds = np.concatenate([[0], np.cumsum(lengths)])
    old = _side(np.concatenate(parts), bounds)
    luma = np.concatenate([parts[n] for n in order])
    news = np.concatenate([[0], np.cumsum(lengths[order])])
    new = _side(luma * 0.9 + 6 + rng.normal(0, 0.3, luma.shape), news)
    times = []
    for _ in range(3):
        began = time.monotonic()
        comparison = compared(old, new)
        times.append(time.monotonic() - began)
    print(f"{shots} shots against {len(order)}: {sorted(times)[1]:.1f} s, {comparison.counts}")


def _side(luma: np.ndarray, bounds: np.ndarray) -> Side:
    none = np.zeros(0, np.int64)
    made = Side(
        np.clip(luma, 0, 255).astype(np.float32), 0, bounds.astype(np.int64),
        np.zeros(len(bounds), np.int64), none, Fraction(25),
    )  # fmt: skip
    return replace(made)


def main() -> None:
    """Measure what is asked for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=("versions", "originals", "large"))
    parser.add_argument("--side", choices=("learn", "bench"), default="bench")
    parser.add_argument("--pairs", type=int, default=6)
    parser.add_argument("--files", type=int, default=500)
    parser.add_argument("--shots", type=int, default=80)
    parser.add_argument("--verbose", action="store_true")
    call = parser.parse_args()
    if call.what == "versions":
        versions(call.side, call.pairs, call.verbose)
    elif call.what == "originals":
        originals(call.side, call.files, call.shots, call.verbose)
    else:
        large(1500)


if __name__ == "__main__":
    main()
