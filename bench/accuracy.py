"""How right detection is, film by film, next to FFmpeg's own scene measure at its best threshold.

A cut is hit within one frame; a gradual join by a seam whose frame lies in its span, two frames'
grace either way. Every join is hit once; what is left over is extra.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import av
import av.filter
import numpy as np

from films import CATEGORIES as FIRST_CATEGORIES
from films import HOME
from offcut.core.errands.bringing_in import bring_in, look_for_framing, stops_wanted, with_framing
from offcut.core.errands.seams import find_seams
from offcut.core.measure.measuring import OnThisThread
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.seam import Seam
from offcut.core.model.source import Source
from offcut.demo import FILM, TRUTH
from world_films import CATEGORIES as WORLD_CATEGORIES

CATEGORIES = (*FIRST_CATEGORIES, *WORLD_CATEGORIES)
Join = tuple[int, int, int, str]


@dataclass
class Count:
    """Hits, misses and extras."""

    hits: int = 0
    misses: int = 0
    extras: int = 0

    @property
    def f1(self) -> float:
        """Their F1."""
        whole = 2 * self.hits + self.misses + self.extras
        return 2 * self.hits / whole if whole else 1.0

    def __add__(self, other: Count) -> Count:
        return Count(self.hits + other.hits, self.misses + other.misses, self.extras + other.extras)


def fits(frame: int, join: Join) -> bool:
    """Tell whether a seam at a frame tells this join."""
    at, start, end, kind = join
    if kind == "stop":  # any of its flash frames, the first of them or the first clean one
        return start - 1 <= frame <= end + 1
    return abs(frame - at) <= 1 if kind == "cut" else start - 2 <= frame <= end + 2


def counted(frames: Iterable[int], joins: list[Join]) -> tuple[Count, list[int], list[Join]]:
    """Match frames to joins one to one, nearest first; return the count, extras and misses."""
    pairs = sorted((abs(f - j[0]), f, i) for f in frames for i, j in enumerate(joins) if fits(f, j))
    used_frames: set[int] = set()
    used_joins: set[int] = set()
    for _, f, i in pairs:
        if f not in used_frames and i not in used_joins:
            used_frames.add(f)
            used_joins.add(i)
    extras = [f for f in frames if f not in used_frames]
    misses = [j for i, j in enumerate(joins) if i not in used_joins]
    return Count(len(used_joins), len(misses), len(extras)), extras, misses


def kinds_told(seams: list[Seam], joins: list[Join]) -> list[tuple[str, str, int, int]]:
    """Return for each gradual join that is told its kind, the kind told, and how far both ends are
    off, in frames.
    """
    told = []
    for join in joins:
        _, start, end, kind = join
        if kind in ("cut", "stop"):
            continue
        near = [s for s in seams if fits(s.frame, join)]
        if near:
            best = min(near, key=lambda s: abs(s.frame - join[0]))
            told.append((kind, best.kind.value, abs(best.start - start), abs(best.end - end)))
    return told


def tell_kinds(told: list[tuple[str, str, int, int]]) -> None:
    """Print which kinds gradual joins were told as, and how far off their ends are."""
    print("\n| kind | told | kind right | first mixed off | first clean off | told as |")
    print("|---|---|---|---|---|---|")
    for kind in dict.fromkeys(k for k, *_ in told):
        rows = [r for r in told if r[0] == kind]
        right = [r for r in rows if r[1] == kind]
        off = [np.median([r[n] for r in right]) if right else 0 for n in (2, 3)]
        others = Counter(r[1] for r in rows if r[1] != kind)
        words = ", ".join(f"{n} {k}" for k, n in others.most_common())
        share = 100 * len(right) / len(rows)
        print(f"| {kind} | {len(rows)} | {share:.0f} % | {off[0]:.0f} | {off[1]:.0f} | {words} |")


def scdet_scores(path: Path) -> list[float]:
    """Return FFmpeg's scene score (filter scdet, 0 to 100) for every frame."""
    with av.open(str(path)) as film:
        stream = film.streams.video[0]
        graph = av.filter.Graph()
        source = graph.add_buffer(template=stream)
        scdet = graph.add("scdet", "t=0")
        sink = graph.add("buffersink")
        source.link_to(scdet)
        scdet.link_to(sink)
        graph.configure()
        scores = []
        for frame in film.decode(stream):
            graph.push(frame)
            told = graph.pull().metadata.get("lavfi.scd.score", "0")
            scores.append(float(told))
        return scores


def looked_at(path: Path) -> tuple[OpenedFilm, Source]:
    """Return a film with the framing that is found by itself."""
    film = open_source(path)
    project = bring_in(Project(), film)
    (source,) = project.sources
    project = with_framing(project, source.id, look_for_framing(film, source))
    (source,) = project.sources
    return film, source


def found(path: Path) -> list[Seam]:
    """Return our seams of a film, as a person gets them: inside the framing found by itself."""
    film, source = looked_at(path)
    crop = crop_of(source)
    return list(
        find_seams(film, crop=crop, measuring=OnThisThread(), stops=stops_wanted(source)).seams
    )


def seen(path: Path) -> tuple[list[Seam], list[float]]:
    """Return our seams and FFmpeg's scores of a film."""
    return found(path), scdet_scores(path)


def bench_films(side: str = "bench") -> list[tuple[str, Path, list[Join]]]:
    """Return the films there are: category, path, truth."""
    found = []
    for truth in sorted((HOME / side).glob("*.json")):
        told = json.loads(truth.read_text())
        found.append((told["category"], truth.with_suffix(""), [tuple(j) for j in told["joins"]]))
    joins = [
        (j["frame"], j["start"], j["end"], j["kind"])
        for j in json.loads(TRUTH.read_text())["joins"]
    ]
    if side == "bench":
        found.append(("demo", FILM, joins))
    return sorted(found, key=lambda f: (*CATEGORIES, "demo").index(f[0]))


def number_of(film: Path) -> int:
    """Return the number a bench film was made by; 0 for the demo."""
    tail = film.stem.rpartition("-")[2]
    return int(tail) if tail.isdigit() and film != FILM else 0


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--errors", action="store_true", help="tell every miss and extra")
    parser.add_argument("--first", type=int, default=0, help="only films from this number on")
    parser.add_argument("--last", type=int, default=10**6, help="and up to this one")
    call = parser.parse_args()
    films = [f for f in bench_films() if call.first <= number_of(f[1]) <= call.last]
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(seen, [p for _, p, _ in films]))
    best = max(
        np.arange(2, 40, 0.5),
        key=lambda level: (
            sum(
                (
                    counted([i for i, s in enumerate(scores) if s >= level], joins)[0]
                    for (_, scores), (_, _, joins) in zip(got, films, strict=True)
                ),
                Count(),
            ).f1
        ),
    )
    print(
        f"| films | F1 | hits | misses | extras | scdet at {best:.1f}: F1 |\n|---|---|---|---|---|---|"
    )
    whole, theirs_whole = Count(), Count()
    kinds: list[tuple[str, str, int, int]] = []
    bands: dict[str, list[bool]] = {}
    for category in (*CATEGORIES, "demo"):
        ours, theirs = Count(), Count()
        for (kind, path, joins), (seams, scores) in zip(films, got, strict=True):
            if kind != category:
                continue
            mine = [s for s in seams if s.score >= 50]
            count, extras, misses = counted([s.frame for s in mine], joins)
            ours += count
            kinds += kinds_told(mine, joins)
            theirs += counted([i for i, s in enumerate(scores) if s >= best], joins)[0]
            for s in mine:
                bands.setdefault(s.certainty.value, []).append(s.frame not in extras)
            if call.errors:
                why = {
                    s.frame: (s.score, s.kind.value, [r.text for r in s.reasons if r.against][:1])
                    for s in mine
                }
                near = {s.frame: s.score for s in seams}
                print(
                    path.name,
                    "extras",
                    [(f, *why[f]) for f in extras],
                    "misses",
                    [
                        (*j, max((v for f, v in near.items() if fits(f, j)), default=0))
                        for j in misses
                    ],
                    file=sys.stderr,
                )
        whole, theirs_whole = whole + ours, theirs_whole + theirs
        print(
            f"| {category} | {ours.f1:.3f} | {ours.hits} | {ours.misses} | {ours.extras} | {theirs.f1:.3f} |"
        )
    print(
        f"| **all** | **{whole.f1:.3f}** | {whole.hits} | {whole.misses} | {whole.extras} | {theirs_whole.f1:.3f} |"
    )
    print("\n| certainty | seams | right |\n|---|---|---|")
    for band in ("sure", "likely", "doubtful"):
        rows = bands.get(band, [])
        print(f"| {band} | {len(rows)} | {100 * np.mean(rows) if rows else 0:.1f} % |")
    tell_kinds(kinds)


if __name__ == "__main__":
    main()
