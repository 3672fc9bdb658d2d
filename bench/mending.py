"""How much of a person's time is left: where the errors lie in the list, and keys to the truth.

A perfect reviewer goes down the list by doubt. At each seam one key keeps or strikes it; a cut
that is a frame or more off is rolled, a key a frame; a join that is nowhere in the list is
placed, three keys. Set against stepping through every found seam in the film's order.
"""

from __future__ import annotations

import argparse
from concurrent.futures import ProcessPoolExecutor

from accuracy import bench_films, counted, fits, number_of, seen
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams, doubt_order
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source

SHARE = 0.15


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--first", type=int, default=0, help="only films from this number on")
    first = parser.parse_args().first
    films = [f for f in bench_films() if number_of(f[1]) >= first]
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(seen, [p for _, p, _ in films]))
    print(
        "| film | seams listed | errors in it | in its first 15 % | keys by doubt | keys one by one |\n|---|---|---|---|---|---|"
    )
    sums = [0, 0, 0, 0, 0, 0]
    for (_, path, joins), (seams, _) in zip(films, got, strict=True):
        media = open_source(path).media
        project = add_source(Project(), media)
        source_id = project.sources[0].id
        source = take_found(project, source_id, seams, 0, media.frames).source(source_id)
        listed = doubt_order(source)
        mine = {s.frame for s in counted_seams(source)}
        _, extras, misses = counted(sorted(mine), joins)
        wrong = set(extras)
        for join in misses:
            near = [s.frame for s in listed if s.frame not in mine and fits(s.frame, join)]
            wrong.update(near[:1])
        errors = [i for i, s in enumerate(listed) if s.frame in wrong]
        top = max(1, round(SHARE * len(listed)))
        early = sum(i < top for i in errors)
        unlisted = sum(not any(fits(s.frame, j) for s in listed) for j in misses)
        down = (errors[-1] + 1 if errors else 0) + 3 * unlisted
        steps = len(mine) + len(extras) + 3 * len(misses)
        print(f"| {path.name} | {len(listed)} | {len(errors)} | {early} | {down} | {steps} |")
        for k, v in enumerate((len(listed), len(errors), early, down, steps, unlisted)):
            sums[k] += v
    share, of_all = (100 * sums[2] / max(1, n) for n in (sums[1], sums[1] + sums[5]))
    print(
        f"| **all** | {sums[0]} | {sums[1]} | {sums[2]} ({share:.0f} %) | {sums[3]} | {sums[4]} |"
    )
    print(f"\n{sums[5]} errors are not listed at all; of all, {of_all:.0f} % lie early")


if __name__ == "__main__":
    main()
