"""Judge: signals in, possible seams with scores and reasons out; milliseconds, done anew freely.

The film is judged in windows laid at fixed places, each with a margin, so that a range gives what
the whole film gives, and a search under way judges only what is new.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.bursts import tightened
from offcut.core.judge.evidence import candidates, join_figures
from offcut.core.judge.neighbours import WORTH_IT, with_neighbours
from offcut.core.judge.planes import Floats, Frames, Planes, nearest_distance
from offcut.core.judge.reasons import cut_reasons, span_reasons
from offcut.core.judge.span import Span
from offcut.core.judge.span_figures import span_figures, with_rivals
from offcut.core.judge.spans import thinkable_spans
from offcut.core.judge.trees import probability, trees_named
from offcut.core.measure.signals import ARRAYS, Signals
from offcut.core.model.seam import FIELDS, Certainty, Kind, Origin, Reason, Seam
from offcut.core.words import many

WINDOW = 48_000
"""Large enough that the time goes into arithmetic, on several threads, and not between."""
MARGIN = 200
FAINTEST = 0.3
SURE, LIKELY = 90.0, 65.0
BESIDE_DAMAGE = 4
"""Frames either side of a seam: where one of them is damaged, the seam is in doubt."""
AROUND = MARGIN
"""So many frames either side of a stretch are worth measuring to judge inside it."""
KINDS = (Kind.DISSOLVE, Kind.FADE, Kind.WIPE, Kind.WHIP)
"""The kinds that a forest each speaks for."""
_AS_LIKELY = 2.5
"""Log-odds by which another wipe may be less likely and still say where the edge lies."""
_FLYING = 0.2
"""By so much a cut inside a whip must be likelier than the whip to stand."""
Settled = dict[int, tuple[Seam, ...]]


def seams_found(
    signals: Signals,
    start: int,
    end: int,
    settled: Settled | None = None,
    *,
    each: Callable[..., Any] = map,
) -> tuple[Seam, ...]:
    """Return every possible seam inside frames (start, end), faint ones too, with ids of 0.

    ``settled`` keeps the windows that more signals will not change, for a search under way.
    ``each`` judges the windows, which know nothing of each other: `map`, or that of threads.
    """
    settled = {} if settled is None else settled
    numbers = range(signals.start // WINDOW, (signals.end - 1) // WINDOW + 1)
    wanting = [n for n in numbers if n not in settled]
    judged: dict[int, tuple[Seam, ...]] = dict(
        zip(
            wanting,
            each(lambda n: _window(signals, n * WINDOW, (n + 1) * WINDOW), wanting),
            strict=True,
        )
    )
    seams: list[Seam] = []
    for number in numbers:
        found = settled[number] if number in settled else judged[number]
        if number in judged and signals.end >= (number + 1) * WINDOW + MARGIN:
            settled[number] = found
        seams += [s for s in found if start < s.frame < end]
    return tuple(seams)


def best_seam(signals: Signals, start: int, end: int) -> Seam | None:
    """Return the likeliest seam in frames [start, end), however faint; None where nothing moves.

    For a person who has said that there is one: every thinkable place counts, also those that
    would not be listed, and where none is thinkable the frame that changes most.
    """
    low, high = max(signals.start + 1, start), min(signals.end, end)
    if high <= low:
        return None
    first = max(signals.start, low - MARGIN)
    last = min(signals.end, high + MARGIN)
    part = slice(first - signals.start, last - signals.start)
    planes = Planes(Signals(first, *(getattr(signals, name)[part] for name in ARRAYS)))
    found = [s for s in _judged(planes, first, faintest=0.0) if low <= s.frame < high]
    if found:
        return max(found, key=lambda s: (s.score, -s.frame))
    change = planes.unlike[low - first : high - first, 0]
    if float(change.max()) <= 0.5:
        return None
    return _cut(low + int(change.argmax()), 0.0, [Reason("it changes most here", 0.1)])


def _window(signals: Signals, low: int, high: int) -> tuple[Seam, ...]:
    first = max(signals.start, low - MARGIN)
    last = min(signals.end, high + MARGIN)
    if last - first < 2:
        return ()
    part = slice(first - signals.start, last - signals.start)
    planes = Planes(Signals(first, *(getattr(signals, name)[part] for name in ARRAYS)))
    found = tuple(s for s in _judged(planes, first) if low <= s.frame < high)
    held = signals.held[part]
    return tuple(_doubted(s, held, first) for s in found) if held.any() else found


def _doubted(seam: Seam, held: NDArray[np.bool_], first: int) -> Seam:
    """Return a seam among damaged pictures with its doubt: what cannot be seen is never sure."""
    low, high = seam.start - BESIDE_DAMAGE - first, seam.end + BESIDE_DAMAGE - first
    damaged = int(held[max(0, low) : high].sum())
    if not damaged:
        return seam
    score = min(seam.score, LIKELY - 0.1)
    words = f"{many(damaged, 'damaged picture')} beside it"
    reason = Reason(words, min(1.0, damaged / (2 * BESIDE_DAMAGE)), True, "damage")
    certainty = certainty_of(score)
    return replace(seam, score=score, certainty=certainty, reasons=(reason, *seam.reasons))


def _judged(planes: Planes, first: int, faintest: float = FAINTEST) -> list[Seam]:
    places = candidates(planes)
    seams: list[Seam] = []
    if len(places):
        figures, names = join_figures(planes, places)
        odds = _looked_at_twice(figures, names, places)
    else:
        figures, names, odds = np.zeros((0, 0), np.float32), (), np.zeros(0, np.float32)
    chances = probability(odds)
    spans = thinkable_spans(planes)
    likely, told, words = np.zeros(0, np.float32), figures, names
    if spans:
        told, words = with_rivals(*span_figures(planes, spans), spans, places, odds)
        likely = probability(trees_named("gradual").odds(told, words))
    chosen = _best_spans(spans, likely, places, chances, faintest)
    kinds = _kinds(spans, told, words, [i for i, _ in chosen])
    for (i, chance), kind in zip(chosen, kinds, strict=True):
        span = replace(_widened(spans, likely, i, [spans[k] for k, _ in chosen]), kind=kind)
        span = tightened(planes, span) if kind is Kind.WHIP else span
        told_of = dict(zip(words, told[i].tolist(), strict=True))
        reasons = span_reasons(span, told_of)
        if span.kind is Kind.CUT:
            inside = _places_in(places, span.start - 1, span.end + 1)
            ranked = np.sort(chances[inside])[::-1]
            best, second = (*ranked.tolist(), 0.0, 0.0)[:2]
            if (chance >= 0.5 and second < 0.5) or chance > max(0.5, second):
                at = _changes_at(planes, span, places[inside], chances[inside])
                seams.append(_cut(at + first, _score(max(chance, best)), reasons))
                chances[inside] *= 0.1
                chances[places == at] = 0.0
            continue
        if chance >= 0.5:
            chances[_places_in(places, span.start - 2, span.end + 2)] *= 0.2
        seams.append(_gradual(span, chance, first, reasons))
    chances = _alone(places, chances)
    for i, (place, chance) in enumerate(zip(places.tolist(), chances.tolist(), strict=True)):
        score = _score(chance)
        if score >= faintest:
            told_of = dict(zip(names, figures[i].tolist(), strict=True))
            seams.append(_cut(place + first, score, cut_reasons(told_of)))
    if planes.woven.any():
        seams = [_between_fields(planes, s, first) for s in seams]
    return sorted(seams, key=lambda s: s.frame)


def _looked_at_twice(figures: Floats, names: tuple[str, ...], places: Frames) -> Floats:
    """Return the log-odds of thinkable cuts, those worth it seen among their neighbours too."""
    odds = trees_named("cut").odds(figures, names)
    of = np.flatnonzero(odds > WORTH_IT)
    if len(of):
        more, words = with_neighbours(figures, names, places, odds, of)
        odds[of] = trees_named("near").odds(more, words)
    return odds


def _kinds(
    spans: list[Span], told: Floats, words: tuple[str, ...], chosen: list[int]
) -> list[Kind]:
    """Return the kinds of the chosen spans; a span's own is that of whoever thought of it."""
    own = [spans[i].kind for i in chosen]
    if not chosen:
        return own
    odds = np.stack([trees_named(f"kind-{k}").odds(told[chosen], words) for k in KINDS], axis=1)
    best = odds.argmax(axis=1).tolist()
    return [k if k is Kind.CUT else KINDS[b] for k, b in zip(own, best, strict=True)]


def _widened(spans: list[Span], chances: Floats, chosen: int, others: list[Span]) -> Span:
    """Return a chosen wipe with its ends as far out as those of the likely wipes about it.

    It does not reach into ``others`` that were chosen. An edge that enters or leaves changes
    little of the picture: each of them is rather too short.
    """
    best = spans[chosen]
    if best.kind is not Kind.WIPE:
        return best
    held = np.clip(chances, 1e-6, 1 - 1e-6)
    odds = np.log(held / (1 - held))
    start, end = best.start, best.end
    for i in np.flatnonzero(odds > max(0.0, float(odds[chosen]) - _AS_LIKELY)).tolist():
        span = spans[i]
        shared = min(span.end, best.end) - max(span.start, best.start)
        if span.kind is Kind.WIPE and shared > 0.6 * max(
            span.end - span.start, best.end - best.start
        ):
            start, end = min(start, span.start), max(end, span.end)
    start = max([start, *(o.end for o in others if o.end <= best.start)])
    end = min([end, *(o.start for o in others if o.start >= best.end)])
    return replace(best, start=start, end=end)


def _changes_at(planes: Planes, span: Span, places: Frames, chances: Floats) -> int:
    """Return the first frame of the later shot of a camera stop: the likeliest cut among its flash
    frames, or else the first that is more like what comes after than like what was before."""
    if len(chances) and float(chances.max()) >= 0.5:
        return int(places[int(chances.argmax())])
    t = np.arange(span.start, span.end + 1)
    before = planes.at(planes.unlike, t, nearest_distance(t - span.start + 1))
    later = np.maximum(span.end + 1 - t, 1)
    after = planes.at(planes.unlike, np.full(len(t), span.end + 1), nearest_distance(later))
    nearer = np.flatnonzero(after < before)
    return int(t[nearer[0]]) if len(nearer) else span.end


_COMB = 6.0
"""Grey levels that the fields of a frame are apart, at least, when they are of two shots."""


def _between_fields(planes: Planes, seam: Seam, first: int) -> Seam:
    """Return a cut with the reason that it lies between the fields of its frame, where it does."""
    own, before = planes.woven[seam.frame - first].tolist()
    if seam.kind is not Kind.CUT or own < _COMB or before > 0.6 * own:
        return seam
    words = "the new shot begins with this frame’s second field, the first is still the old one"
    reason = Reason(words, 0.8, False, FIELDS)
    return replace(seam, reasons=(*seam.reasons[:1], reason, *seam.reasons[1:]))


def _places_in(places: Frames, low: int, high: int) -> slice:
    """Return which of the ordered places lie in [low, high]."""
    return slice(*np.searchsorted(places, (low, high + 1)).tolist())


def _best_spans(
    spans: list[Span], chances: Floats, places: Frames, cut_chances: Floats, faintest: float
) -> list[tuple[int, float]]:
    """Return the spans that do not overlap a likelier one, nor stand on likelier cuts."""
    chosen: list[tuple[int, float]] = []
    taken = np.zeros(max((s.end for s in spans), default=0), np.bool_)
    for i in np.argsort(-chances, kind="stable").tolist():
        span, chance = spans[i], float(chances[i])
        if 100 * chance < faintest:
            break
        if taken[span.start : span.end].any():
            continue
        rivals = cut_chances[_places_in(places, span.start - 1, span.end + 1)]
        rival = float(rivals.max()) if len(rivals) else 0.0
        # where a picture flies off, one frame changes most of all
        ahead = _FLYING if span.kind is Kind.WHIP and chance >= 0.5 else 0.0
        if rival > 0.5:
            chance = chance * (1 - rival) if rival > chance + ahead else chance
        if 100 * chance >= faintest:
            taken[span.start : span.end] = True
            chosen.append((i, chance))
    return chosen


def _alone(places: Frames, chances: Floats) -> Floats:
    """Let the likeliest of doubtful cuts next to each other stand for them, with all their chance.

    Those that are likely by themselves stand, too: between them lies a shot of one frame.
    """
    alone = chances.copy()
    worthy = np.flatnonzero(chances >= FAINTEST / 100)
    for i in worthy[np.argsort(-chances[worthy], kind="stable")].tolist():
        if alone[i] < FAINTEST / 100:
            continue
        near = _places_in(places, int(places[i]) - 1, int(places[i]) + 1)
        lesser = (alone[near] <= chances[i]) & (alone[near] < 0.5)
        lesser[i - near.start] = False
        alone[i] = min(max(0.95, chances[i]), alone[i] + alone[near][lesser].sum())
        alone[near][lesser] *= 0.1
    return alone


def _score(chance: float) -> float:
    """Return a probability as a score; never quite 100, so that sensitivity 0 counts nothing."""
    return min(99.9, round(100 * chance, 1))


def _cut(frame: int, score: float, reasons: Iterable[Reason]) -> Seam:
    told = tuple(reasons)
    return Seam(
        id=0,
        frame=frame,
        start=frame,
        end=frame,
        kind=Kind.CUT,
        score=score,
        certainty=certainty_of(score),
        origin=Origin.FOUND,
        reasons=told,
    )


def _gradual(span: Span, chance: float, first: int, reasons: Iterable[Reason]) -> Seam:
    score = _score(chance)
    return Seam(
        id=0,
        frame=first + (span.start + span.end) // 2,
        start=first + span.start,
        end=first + span.end,
        kind=span.kind,
        score=score,
        certainty=certainty_of(score),
        origin=Origin.FOUND,
        reasons=tuple(reasons),
    )


def certainty_of(score: float) -> Certainty:
    """Return the band a score lies in."""
    if score >= SURE:
        return Certainty.SURE
    return Certainty.LIKELY if score >= LIKELY else Certainty.DOUBTFUL
