"""How much of a person's time is left: where the errors lie in the list, and keys to the truth.

A perfect reviewer goes down the list by doubt. At each seam one key keeps or strikes it; a cut
that is a frame or more off is rolled, a key a frame; a join that is nowhere in the list is
placed, three keys. Set against stepping through every found seam in the film's order.
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor

from accuracy import bench_films, counted, fits, seen
from offcut.core.media.probe import open_source
from offcut.core.model.project import Project
from offcut.core.model.shots import counted_seams, doubt_order
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source

SHARE = 0.15


def main() -> None:
    """Print the table."""
    films = bench_films()
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(seen, [p for _, p, _ in films]))
    print(
        "| film | seams listed | errors in it | in its first 15 % | keys by doubt | keys one by one |\n|---|---|---|---|---|---|"
    )
    sums = [0, 0, 0, 0, 0]
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
        unlisted = len(extras) + len(misses) - len(errors)
        down = (errors[-1] + 1 if errors else 0) + 3 * unlisted
        steps = len(mine) + len(extras) + 3 * len(misses)
        print(f"| {path.name} | {len(listed)} | {len(errors)} | {early} | {down} | {steps} |")
        for k, v in enumerate((len(listed), len(errors), early, down, steps)):
            sums[k] += v
    share = 100 * sums[2] / sums[1] if sums[1] else 100.0
    print(
        f"| **all** | {sums[0]} | {sums[1]} | {sums[2]} ({share:.0f} %) | {sums[3]} | {sums[4]} |"
    )


if __name__ == "__main__":
    main()
