"""How often facts are right: films with known cameras, light and focus, from material of one side.

    python bench/facts.py [camera steadiness light focus sound text faces part] [--films N] [--side learn|bench] [--tell]

A stretch is right where its value is, and it lies over half of both; its ends where they are within six
frames; its speed within a tenth. Each film is one shot.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from pathlib import Path

import av  # noqa: F401  first, as Offcut has it  # isort: skip

import numpy as np

from facts_films import RATE, SORTS, Known, Shelf
from offcut.core.errands.facts import find_facts
from offcut.core.errands.searching import brought_in
from offcut.core.facts.face_sizes import LIMITS, size_of
from offcut.core.facts.fact import Fact

HOME = Path(tempfile.gettempdir()) / "offcut-bench" / "facts"
ENDS = 6


@cache
def _shelf(side: str) -> Shelf:
    return Shelf(side, wide=True)


def one(task: tuple[str, int, str]) -> tuple[str, int, Known, tuple[Fact, ...]]:
    """Make a film and say what is in it."""
    sort, seed, side = task
    os.environ["XDG_CACHE_HOME"] = str(HOME / "cache")
    # a sort that is added leaves the films of the others as they are
    later = ["text", "faces", "part"]
    place = 6 + later.index(sort) if sort in later else sorted(set(SORTS) - set(later)).index(sort)
    rng = np.random.default_rng([seed, place, side == "bench"])
    path = HOME / f"{sort}-{side}-{seed}.mp4"
    kept = path.with_suffix(".npy")
    if path.exists() and kept.exists():
        known = Known([tuple(f) for f in np.load(kept, allow_pickle=True).tolist()])
    else:
        known = SORTS[sort](rng, _shelf(side), path)
        np.save(kept, np.array(known.facts, object), allow_pickle=True)
    project, film = brought_in(path)
    found = find_facts(project.sources[-1], film, sorts=(sort,))
    return sort, seed, known, found.facts


def _by_tenths(known: Known, facts: tuple[Fact, ...]) -> tuple[float, float, float]:
    """Return which share of tenths of a second is right, wrong though told for sure, and perhaps."""
    count = max(f[3] for f in known.facts) + 10
    true = np.zeros(count, bool)
    for _, _, a, b, _ in known.facts:
        true[a:b] = True
    told, perhaps = np.zeros(count, bool), np.zeros(count, bool)
    for f in facts:
        a, b = (round(x * 10 / RATE) for x in (f.start, f.end))
        if f.value == "speech":
            told[a:b] = True
        elif f.value == "perhaps speech":
            perhaps[a:b] = True
    wrong = (told != true) & ~perhaps
    return float(((told | perhaps) == true).mean()), float(wrong.mean()), float(perhaps.mean())


def _size_of_largest(
    known: Known, facts: tuple[Fact, ...], sizes: Counter[tuple[str, str, bool]]
) -> None:
    """Count which size the most of a film is told as, by the one it has, and whether that is clear.

    A height within an eighth of a limit is not: where a face ends is marked by eye.
    """
    ((_, count, _, _, height),) = known.facts
    most = max(facts, key=lambda f: f.end - f.start)
    told = str(most.figures["size"]) if most.value else "nobody"
    clear = all(abs(np.log(max(height, 1e-3) / limit)) > np.log(1.125) for limit in LIMITS)
    sizes[size_of(height) if count != "0" else "nobody", told, clear] += 1


def over(a: tuple[int, int], b: tuple[int, int]) -> float:
    """Return what two stretches share of what both cover."""
    both = max(0, min(a[1], b[1]) - max(a[0], b[0]))
    return both / max(1, max(a[1], b[1]) - min(a[0], b[0]))


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("sorts", nargs="*", default=list(SORTS))
    parser.add_argument("--films", type=int, default=30)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--side", default="learn", choices=("learn", "bench"))
    parser.add_argument("--tell", action="store_true", help="tell each film that is not right")
    call = parser.parse_args()
    HOME.mkdir(parents=True, exist_ok=True)
    for told in (HOME / "cache").rglob("facts-*.json"):
        told.unlink()  # what was measured is kept, what was told by rules of before is not
    tasks = [(s, call.first + i, call.side) for s in call.sorts for i in range(call.films)]
    true, told, right = Counter(), Counter(), Counter()
    tenths: list[tuple[int, Known, float, float, float]] = []
    ends, paces = defaultdict(list), defaultdict(list)
    confused: Counter[tuple[str, str, str]] = Counter()
    sizes: Counter[tuple[str, str, bool]] = Counter()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for sort, seed, known, facts in pool.map(one, tasks):
            if sort == "sound":
                tenths.append((seed, known, *_by_tenths(known, facts)))
                continue
            wrong = False
            left = list(facts)
            if sort == "faces":
                _size_of_largest(known, facts, sizes)
            for fact, value, start, end, figure in known.facts:
                true[fact, value] += 1
                best = max(left, key=lambda f: over((f.start, f.end), (start, end)), default=None)
                if best is None or over((best.start, best.end), (start, end)) < 0.5:
                    confused[fact, value, "nothing"] += 1
                    wrong = True
                    continue
                if str(best.value) != value:
                    confused[fact, value, str(best.value)] += 1
                    wrong = True
                    continue
                left.remove(best)
                right[fact, value] += 1
                ends[fact].append(max(abs(best.start - start), abs(best.end - end)))
                speed = best.figures.get("speed")
                if fact == "camera" and value != "still" and isinstance(speed, float):
                    if value.startswith("zoom"):
                        paces[value].append(np.log(speed) / np.log(figure))
                    else:
                        paces[value].append(speed / figure)
            for f in facts:
                told[f.sort, str(f.value)] += 1
            if call.tell and wrong:
                print(f"{sort} {seed}:")
                for k in known.facts:
                    print(f"    true {k[1]:<12} {k[2]:4d} {k[3]:4d}  {k[4]:.4f}")
                for f in facts:
                    print(
                        f"    told {f.value!s:<12} {f.start:4d} {f.end:4d}  {dict(f.figures)} {f.certainty}"
                    )
    for key in sorted(true):
        recall = right[key] / true[key]
        precision = right[key] / told[key] if told[key] else 0.0
        f1 = 2 * recall * precision / max(1e-9, recall + precision)
        print(
            f"{key[0]:<11} {key[1]:<12} {true[key]:4d}  F1 {f1:.3f}  R {recall:.3f}  P {precision:.3f}"
        )
    for fact, off in ends.items():
        print(
            f"{fact}: ends within {ENDS} in {np.mean(np.array(off) <= ENDS):.3f}, median {np.median(off):.0f}"
        )
    for value, ratio in sorted(paces.items()):
        r = np.array(ratio)
        print(
            f"{value}: speed within 10 % in {np.mean(np.abs(r - 1) <= 0.1):.3f}, median {np.median(r):.3f}"
        )
    if tenths:
        figures = np.array([t[2:] for t in tenths])
        print(
            f"speech by tenths of a second: right {figures[:, 0].mean():.3f}, "
            f"told wrong for sure {figures[:, 1].mean():.3f}, perhaps {figures[:, 2].mean():.3f}"
        )
        for seed, known, right_, wrong_, maybe in tenths:
            if call.tell and right_ < 0.95:
                k = known.facts[0]
                print(
                    f"  sound {seed}: {right_:.3f} {wrong_:.3f} {maybe:.3f} over {k[1]}, {k[4]:.2f}"
                )
    if sizes:
        someone = {k: n for k, n in sizes.items() if k[0] != "nobody"}
        seen = {k: n for k, n in someone.items() if k[1] != "nobody"}
        clear = {k: n for k, n in seen.items() if k[2]}
        for name, of in (("all", someone), ("seen", seen), ("seen, and clear", clear)):
            share = sum(n for k, n in of.items() if k[0] == k[1]) / max(1, sum(of.values()))
            print(f"sizes right, {name}: {share:.3f} of {sum(of.values())}")
        print(
            "sizes:",
            ", ".join(
                f"{a} as {b}{'' if c else ' (at a limit)'} {n}"
                for (a, b, c), n in sorted(sizes.items())
            ),
        )
    print("confused:", ", ".join(f"{k[1]}→{k[2]} {n}" for k, n in confused.most_common(16)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
