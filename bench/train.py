"""Trains the judge on the learn films and writes its numbers into the package.

Folds hold whole films out; the calibration is fitted on the held-out predictions. The bench
films share no source with the learn films (bench/films.py).
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import numpy as np
from sklearn.ensemble import HistGradientBoostingClassifier
from sklearn.linear_model import LogisticRegression
from sklearn.model_selection import GroupKFold

from accuracy import looked_at
from films import HOME
from offcut.core.judge import trees
from offcut.core.judge.evidence import candidates, join_figures
from offcut.core.judge.judge import KINDS
from offcut.core.judge.neighbours import WORTH_IT, with_neighbours
from offcut.core.judge.planes import Planes
from offcut.core.judge.span import Span
from offcut.core.judge.span_figures import span_figures, with_rivals
from offcut.core.judge.spans import thinkable_spans
from offcut.core.measure.measuring import OnThisThread
from offcut.core.measure.ranges import change_signals
from offcut.core.measure.signals import ARRAYS, METHOD, Signals, signals_joined
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.seam import Kind


class Examples(NamedTuple):
    """What is thinkable in a film.

    Figures, labels and places [start, end) of its cuts and of its spans; ``clear`` are those that
    are surely right or wrong; ``kinds`` the kind of the join that a span lies on, of whatever kind
    the span itself is, "" where on none.
    """

    cuts: np.ndarray
    cuts_right: np.ndarray
    cuts_at: np.ndarray
    cuts_clear: np.ndarray
    spans: np.ndarray
    spans_right: np.ndarray
    spans_at: np.ndarray
    spans_clear: np.ndarray
    kinds: np.ndarray
    thought: list[Span]
    facts: dict


def examples(path: Path) -> Examples:
    """Return figures and labels of a film's thinkable cuts and spans."""
    truth = json.loads(path.with_suffix(path.suffix + ".json").read_text())
    kept = path.with_suffix(f".signals-{METHOD}.npz")
    if kept.exists():
        with np.load(kept) as data:
            signals = Signals(0, *(data[name] for name in ARRAYS))
    else:
        film, source = looked_at(path)
        crop = crop_of(source)
        parts = change_signals(film, 0, len(film.index), crop=crop, measuring=OnThisThread())
        signals = signals_joined(list(parts))
        np.savez(kept, **{name: getattr(signals, name) for name in ARRAYS})
    planes = Planes(signals)
    stops = [j for j in truth["joins"] if j[3] == "stop"]
    cuts = {j[0] for j in truth["joins"] if j[3] in ("cut", "stop")}
    spans = [j for j in truth["joins"] if j[3] not in ("cut", "stop")]
    at = candidates(planes)
    figures, names = join_figures(planes, at)
    thinkable = set(at.tolist())
    # where a frame holds a little of the new shot already, the change that shows is one frame off
    beside = {n for t in cuts - thinkable for n in (t + 1, t - 1) if n in thinkable - cuts}
    right = np.array([int(t) in cuts or int(t) in beside for t in at])
    unsure = np.array(
        [
            not r and any(j[1] - 1 <= t <= j[2] + 1 for j in stops)
            for t, r in zip(at, right, strict=True)
        ],
        bool,
    )
    found = thinkable_spans(planes)
    told, span_names = span_figures(planes, found)
    told = told.reshape(len(found), -1)
    shares = [
        [(min(s.end, j[2]) - max(s.start, j[1])) / max(s.end - s.start, j[2] - j[1]) for j in spans]
        for s in found
    ]
    over = [[share > 0.5 for share in row] for row in shares]
    # of another kind than its join a span is only right when none of that kind was thought of
    named = {
        k
        for k, j in enumerate(spans)
        if any(o[k] and s.kind == j[3] for s, o in zip(found, over, strict=True))
    }
    span_right = np.array(
        [
            any(hit and (s.kind == spans[k][3] or k not in named) for k, hit in enumerate(o))
            for s, o in zip(found, over, strict=True)
        ],
        bool,
    )
    # flash frames are right about a stop, and about one cut that lies beside them
    flashed = [s.kind == Kind.CUT for s in found]
    span_right |= [
        flash and sum(s.start <= c <= s.end for c in cuts) == 1
        for s, flash in zip(found, flashed, strict=True)
    ]
    # what covers a part of a join is neither right nor wrong
    clear = np.array(
        [
            r
            or f
            or (max(row, default=0.0) < 0.2 and not _over_stop(s, stops))
            # but one half of a fade is wrong where the whole of it was thought of
            or any(
                share > 0 and spans[k][3] == "fade" and k in named for k, share in enumerate(row)
            )
            for r, f, row, s in zip(span_right, flashed, shares, found, strict=True)
        ],
        bool,
    )
    edges = [
        min(
            (abs(s.start - j[1]), abs(s.end - j[2]))
            for s, o in zip(found, over, strict=True)
            if o[k] and s.kind == j[3]
        )
        for k, j in enumerate(spans)
        if k in named
    ]
    facts = {
        "cuts": len(cuts),
        "cut candidates found": int(right.sum()),
        "spans": len(spans),
        "spans found": sum(
            any(abs((s.start + s.end) / 2 - j[0]) <= max(3, (j[2] - j[1]) / 4) for s in found)
            for j in spans
        ),
        "thinkable": len(found),
        "names": (names, span_names),
        "edges off by": np.mean(edges, axis=0).round(1).tolist() if edges else None,
    }
    on = [spans[o.index(True)][3] if any(o) else "" for o in over]
    return Examples(
        figures.reshape(len(at), -1),
        right,
        np.stack([at - 1, at + 2], axis=1),
        ~unsure,
        told,
        span_right,
        np.array([(s.start, s.end) for s in found], int).reshape(-1, 2),
        clear,
        np.array(on, str),
        found,
        facts,
    )


def _over_stop(span: Span, stops: list[tuple[int, int, int, str]]) -> bool:
    return any(span.start <= j[2] + 1 and span.end >= j[1] - 1 for j in stops)


def fit(
    x: np.ndarray,
    y: np.ndarray,
    groups: np.ndarray,
    at: np.ndarray,
    name: str,
    words: tuple[str, ...],
    *,
    trees: int,
    leaves: int,
    rate: float,
    share: float = 0.4,
    calm: float = 3.0,
    least: int = 12,
) -> tuple[dict[str, np.ndarray], Callable[[np.ndarray, np.ndarray], np.ndarray]]:
    """Train one forest; return it as arrays, and the log-odds it would give of films not seen.

    The latter by figures and by the numbers of the films they are of. ``share`` of the figures are
    asked at each node, ``calm`` is the weight of L2, a leaf holds ``least`` examples at least. ``words``
    name the figures: the more edges stay, the less likely a seam, and the forest learns no other.
    """

    def fresh() -> HistGradientBoostingClassifier:
        return HistGradientBoostingClassifier(
            max_iter=trees,
            learning_rate=rate,
            max_leaf_nodes=leaves,
            min_samples_leaf=least,
            l2_regularization=calm,
            max_features=share,
            monotonic_cst=[-int(_stays(w)) for w in words] if words else None,
            early_stopping=False,
            random_state=7,
        )

    folds = [(fresh().fit(x[a], y[a]), b) for a, b in GroupKFold(5).split(x, y, groups)]
    held = np.zeros(len(y))
    for forest, b in folds:
        held[b] = forest.decision_function(x[b])
    fold_of = {int(g): forest for forest, b in folds for g in np.unique(groups[b])}
    for level in (0.0,):
        tp, fp, fn = (
            ((held > level) & y).sum(),
            ((held > level) & ~y).sum(),
            ((held <= level) & y).sum(),
        )
        print(
            f"{name}: {len(y)} examples, {y.sum()} true; held out F1 {2 * tp / (2 * tp + fp + fn):.4f} ({fp} false, {fn} missed)"
        )
    # what is told is the best of those that overlap, so those alone are calibrated by
    best = best_of_places(held, groups, at)
    line = LogisticRegression(C=10.0).fit(held[best, None], y[best])
    tell_reliability(line.predict_proba(held[best, None])[:, 1], y[best])
    model = fresh().fit(x, y)
    laid = [_laid_out(p[0].nodes) for p in model._predictors]
    inner = max(len(t[0]) for t in laid)
    made = {
        "feature": np.zeros((len(laid), inner), np.int32),
        "threshold": np.full((len(laid), inner), np.inf, np.float32),
        "gone": np.zeros((len(laid), inner), np.uint16),
        "value": np.zeros((len(laid), 16)),
    }
    for i, (feature, threshold, gone, value) in enumerate(laid):
        made["feature"][i, : len(feature)] = feature
        made["threshold"][i, : len(feature)] = threshold
        made["gone"][i, : len(feature)] = gone
        made["value"][i, : len(value)] = value
    base = float(np.ravel(model._baseline_prediction)[0])
    made["constants"] = np.array([base, float(line.coef_[0, 0]), float(line.intercept_[0])])

    def unseen(figures: np.ndarray, of: np.ndarray) -> np.ndarray:
        odds = np.zeros(len(figures))
        for group in np.unique(of).tolist():
            forest = fold_of.get(group, folds[0][0])
            odds[of == group] = forest.decision_function(figures[of == group])
        return line.coef_[0, 0] * odds + line.intercept_[0]

    return {f"{name}_{k}": v for k, v in made.items()}, unseen


def _stays(word: str) -> bool:
    """Tell whether a figure says how many edges stay across the place that is asked about."""
    return word.startswith("edges_") and not word.startswith(
        ("edges_within", "edges_out", "edges_aside")
    )


def fit_kinds(x: np.ndarray, kinds: np.ndarray, groups: np.ndarray) -> dict[str, np.ndarray]:
    """Train one forest for each kind of gradual join, on spans that lie on joins."""
    at = np.stack([np.arange(len(x)), np.arange(1, len(x) + 1)], axis=1)
    arrays: dict[str, np.ndarray] = {}
    for kind in KINDS:
        name = f"kind-{kind}"
        arrays |= fit(x, kinds == kind, groups, at, name, (), trees=90, leaves=12, rate=0.08)[0]
    return arrays


def tell_reliability(chance: np.ndarray, right: np.ndarray) -> None:
    """Print, for bands of chance, how many held-out examples there are and how many are right."""
    for low, high in pairwise(
        (0, 0.002, 0.006, 0.01, 0.02, 0.05, 0.2, 0.5, 0.8, 0.9, 0.97, 0.99, 0.997, 1.01)
    ):
        of = (chance >= low) & (chance < high)
        if of.any():
            print(
                f"  {low:.3f} to {high:.3f}: {of.sum()}, {100 * right[of].mean():.2f} % right, {100 * chance[of].mean():.2f} % told"
            )


def best_of_places(odds: np.ndarray, groups: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return which examples are the likeliest of all of their film that they overlap with."""
    best = np.zeros(len(odds), bool)
    for group in np.unique(groups):
        rows = np.flatnonzero(groups == group)
        taken = np.zeros(int(at[rows, 1].max()) + 2, bool)
        for row in rows[np.argsort(-odds[rows], kind="stable")]:
            start, end = max(0, int(at[row, 0])), int(at[row, 1])
            if not taken[start:end].any():
                taken[start:end] = True
                best[row] = True
    return best


def _laid_out(nodes: np.ndarray) -> tuple[list[int], list[float], list[int], list[float]]:
    """Return a tree's inner nodes and its leaves from the left, as offcut.core.judge.trees asks."""
    told: tuple[list[int], list[float], list[int], list[float]] = ([], [], [], [])
    feature, threshold, gone, value = told

    def walk(at: int) -> int:
        node = nodes[at]
        if node["is_leaf"]:
            value.append(float(node["value"]))
            return 1 << (len(value) - 1)
        left = walk(int(node["left"]))
        feature.append(int(node["feature_idx"]))
        threshold.append(float(np.float32(node["num_threshold"])))
        gone.append(left)
        return left | walk(int(node["right"]))

    walk(0)
    return told


def fit_cuts(
    got: list[Examples], names: tuple[str, ...]
) -> tuple[dict[str, np.ndarray], dict[int, np.ndarray], tuple[str, ...]]:
    """Train the first and the second look at cuts.

    Return their arrays, the log-odds of each film's cuts as if it had not been seen, and the names
    of the figures of the second look.
    """
    having = [(i, film) for i, film in enumerate(got) if len(film.cuts)]
    x, y, at, clear = (np.concatenate([film[n] for _, film in having]) for n in range(4))
    groups = np.concatenate([np.full(len(film.cuts), i) for i, film in having])
    arrays, unseen = fit(
        x[clear], y[clear], groups[clear], at[clear], "cut", names,
        trees=360, leaves=15, rate=0.08, share=0.25, calm=10.0, least=30,
    )  # fmt: skip
    looks = {i: unseen(film.cuts, np.full(len(film.cuts), i)) for i, film in having}
    more, beside = [], ()
    for i, film in having:
        of = np.flatnonzero(looks[i] > WORTH_IT)
        places = film.cuts_at[:, 0] + 1
        seen, beside = with_neighbours(film.cuts, names, places, looks[i], of)
        more.append((seen, film.cuts_right[of], film.cuts_at[of], film.cuts_clear[of], of))
    x, y, at, clear = (np.concatenate([m[n] for m in more]) for n in range(4))
    groups = np.concatenate([np.full(len(m[0]), i) for (i, _), m in zip(having, more, strict=True)])
    found, unseen = fit(
        x[clear], y[clear], groups[clear], at[clear], "near", beside,
        trees=200, leaves=15, rate=0.06, share=0.25, calm=10.0, least=30,
    )  # fmt: skip
    for (i, _), m in zip(having, more, strict=True):
        looks[i][m[4]] = unseen(m[0], np.full(len(m[0]), i))
    return arrays | found, looks, beside


def fit_spans(
    got: list[Examples], names: tuple[str, ...], looks: dict[int, np.ndarray]
) -> tuple[dict[str, np.ndarray], tuple[str, ...]]:
    """Train the forest of gradual seams and those of their kinds; return arrays and figures' names.

    ``looks`` are the log-odds of the films' cuts.
    """
    having = [(i, film) for i, film in enumerate(got) if len(film.spans)]
    told, words = [], ()
    for i, film in having:
        odds = looks.get(i, np.zeros(0))
        places = film.cuts_at[:, 0] + 1
        figures, words = with_rivals(film.spans, names, film.thought, places, odds)
        told.append(figures)
    x = np.concatenate(told)
    y, at, clear, kinds = (np.concatenate([film[n] for _, film in having]) for n in range(5, 9))
    groups = np.concatenate([np.full(len(film.spans), i) for i, film in having])
    arrays, _ = fit(
        x[clear], y[clear], groups[clear], at[clear], "gradual", words,
        trees=460, leaves=16, rate=0.04,
    )  # fmt: skip
    lying = (kinds != "") & ~x[:, words.index("is_stop")].astype(bool)
    return arrays | fit_kinds(x[lying], kinds[lying], groups[lying]), words


def main() -> None:
    """Train all forests."""
    films = sorted(
        p
        for p in (HOME / "learn").iterdir()
        if p.suffix not in (".json", ".npz") and p.with_suffix(p.suffix + ".json").exists()
    )
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(examples, films))
    names: list[tuple[str, ...]] = [(), ()]
    for path, film in zip(films, got, strict=True):
        told = film.facts.pop("names")
        names = [new or old for new, old in zip(told, names, strict=True)]
        print(path.name, film.facts)
    arrays, looks, beside = fit_cuts(got, names[0])
    found, words = fit_spans(got, names[1], looks)
    arrays |= found
    named = {"cut": names[0], "near": beside, "gradual": words} | {
        f"kind-{kind}": words for kind in KINDS
    }
    target = Path(trees.__file__).parent / "judge.npz"
    # so that nobody hands the forests other figures than they were trained on
    arrays |= {f"{kind}_names": np.array(told) for kind, told in named.items()}
    np.savez_compressed(target, **arrays)
    print(target, target.stat().st_size, file=sys.stderr)


if __name__ == "__main__":
    main()
