"""Span figures: what speaks for and against gradual seams, worked out for many spans at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from offcut.core.judge.mixes import mix_misfit, mix_shares
from offcut.core.judge.planes import Floats, Frames, Planes, nearest_distance
from offcut.core.judge.span import LONGEST, Span
from offcut.core.judge.wipes import edge_fits, sharpness
from offcut.core.measure.signals import EDGE_DISTANCES, HISTORY
from offcut.core.model.seam import Kind

_TOGETHER = 768
"""So many spans of about one length are worked out together; bounds the memory."""


def span_figures(planes: Planes, spans: Sequence[Span]) -> tuple[Floats, tuple[str, ...]]:
    """Return the figures of spans, float32 of shape (len(spans), F), and their names.

    Those of mixes and wipes as if nothing flashed; the others may be made of flashes.
    """
    order = sorted(range(len(spans)), key=lambda i: (spans[i].end - spans[i].start, i))
    rows: Floats | None = None
    names: tuple[str, ...] = ()
    even = [i for i in order if spans[i].kind in (Kind.DISSOLVE, Kind.WIPE)]
    others = [i for i in order if spans[i].kind not in (Kind.DISSOLVE, Kind.WIPE)]
    for of, seen in ((others, planes), (even, planes.calm())):
        for first in range(0, len(of), _TOGETHER):
            batch = of[first : first + _TOGETHER]
            named = _figures(seen, [spans[i] for i in batch])
            names = tuple(named)
            rows = np.zeros((len(spans), len(names)), np.float32) if rows is None else rows
            rows[batch] = np.stack(list(named.values()), axis=1)
    return (np.zeros((0, 0), np.float32) if rows is None else rows), names


def _figures(planes: Planes, spans: list[Span]) -> dict[str, Floats]:
    start = np.array([s.start for s in spans])
    end = np.array([s.end for s in spans])
    length = np.minimum(end - start, LONGEST)
    b = np.minimum(end, planes.n - 1)
    named: dict[str, Floats] = {"length": length.astype(np.float32)}
    ends, misfit = mix_misfit(planes, b, length)
    named["ends"], named["misfit"] = ends, misfit
    _add_steps(planes, start, end, ends, named)
    _add_outside(planes, start, end, length, ends, named)
    near = nearest_distance(length + 1)
    named["unlike"] = planes.at(planes.unlike, b, near)
    named["unlike_out"] = named["unlike"] / (named["drift_whole"] + 2)
    named["unlike_later"] = planes.at(planes.unlike, b + 2, near)
    named["unmatched"] = planes.at(planes.unmatched, b, near)
    named["colour"] = planes.at(planes.colour, b, near)
    _add_light(planes, start, end, named)
    named["lasting"] = planes.apart(b + length // 2, np.minimum(HISTORY, 2 * length)) / (ends + 1)
    order = wipe_order(planes, start, end)
    named["edge_order"], named["edge_sharp"], named["edge_form"] = order
    _add_burst(planes, start, end, named)
    _add_whole(planes, start, end, named)
    _add_ramp(planes, start, end, named)
    _add_edges(planes, start, end, named)
    named["is_fade"] = np.array([s.kind is Kind.FADE for s in spans], np.float32)
    named["is_wipe"] = np.array([s.kind is Kind.WIPE for s in spans], np.float32)
    named["is_whip"] = np.array([s.kind is Kind.WHIP for s in spans], np.float32)
    named["is_stop"] = np.array([s.kind is Kind.CUT for s in spans], np.float32)
    return named


def _inside(start: Frames, end: Frames) -> tuple[Frames, NDArray[np.bool_]]:
    """Return frames [start, end] of each span in a row, and which of them lie in it."""
    steps = np.arange(int((end - start).max()) + 1)
    return start[:, None] + steps, steps <= (end - start)[:, None]


def _median(rows: Floats, held: NDArray[np.bool_]) -> Floats:
    """Return the (lower) median of the held values of each row."""
    ordered = np.sort(np.where(held, rows, np.inf), axis=1)
    found: Floats = ordered[np.arange(len(rows)), (held.sum(axis=1) - 1) // 2]
    return found


def _add_steps(
    planes: Planes, start: Frames, end: Frames, ends: Floats, named: dict[str, Floats]
) -> None:
    """How the change is spread over the frames of the span."""
    frames, held = _inside(start, end)
    steps = np.where(held, planes.apart(frames, 1), 0)
    unlike = np.where(held, planes.at(planes.unlike, frames, 1), 0)
    wide = np.where(held, planes.of(planes.wide, frames), 0)
    named["step_most"] = steps.max(axis=1) / (ends + 1)
    named["step_total"] = steps.sum(axis=1) / (ends + 1)
    named["step_unlike_most"] = unlike.max(axis=1)
    usual = _median(unlike, held)
    named["step_unlike_usual"] = usual
    named["step_unlike_burst"] = unlike.max(axis=1) / (usual + 1)
    named["wide_most"] = wide.max(axis=1)
    named["wide_usual"] = _median(wide, held)


def _add_outside(
    planes: Planes,
    start: Frames,
    end: Frames,
    length: Frames,
    ends: Floats,
    named: dict[str, Floats],
) -> None:
    """How restless it is just before and just after."""
    reach = np.minimum(10, length)
    before, after = planes.apart(start - 1, reach), planes.apart(end + reach, reach)
    named["before"], named["after"] = before / (ends + 1), after / (ends + 1)
    named["margin_most"] = np.maximum(before, after)
    around = np.concatenate(
        [start[:, None] + np.arange(-8, 0), end[:, None] + np.arange(1, 9)], axis=1
    )
    quiet = np.sort(planes.at(planes.unlike, around, 1), axis=1)
    # what merely moves is as unlike over as long a time before and after
    for name, far in (
        ("whole", nearest_distance(length + 1)),
        ("half", nearest_distance(length // 2)),
    ):
        sides = planes.at(planes.unlike, start - 1, far), planes.at(planes.unlike, end + far, far)
        named[f"drift_{name}"] = np.maximum(*sides)
        named[f"drift_{name}_least"] = np.minimum(*sides)
    middle = (start + end) // 2
    half = nearest_distance(length // 2)
    named["half_unlike"] = np.minimum(
        planes.at(planes.unlike, middle, half), planes.at(planes.unlike, end, half)
    )
    named["half_out"] = named["half_unlike"] / (named["drift_half"] + 2)
    named["outside_usual"], named["outside_most"] = quiet[:, 7], quiet[:, -1]


def _add_light(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """Light, contrast and detail in the span against those at its edges."""
    frames, held = _inside(start, end)
    contrast = np.where(held, planes.of(planes.stats[:, 1], frames), np.inf).min(axis=1)
    first, last = planes.of(planes.stats, start - 1), planes.of(planes.stats, end)
    middle = planes.of(planes.stats, (start + end) // 2)
    edge = np.minimum(first[:, 1], last[:, 1])
    named["contrast_middle"] = middle[:, 1] / (edge + 1)
    named["contrast_dip"] = contrast / (edge + 1)
    named["contrast_least"] = contrast
    plain = np.where(held, planes.of(planes.stats[:, 4], frames), np.inf).min(axis=1)
    named["plain_least"] = plain
    named["plain_dip"] = plain / (np.minimum(first[:, 4], last[:, 4]) + 1)
    named["detail_middle"] = middle[:, 2] / ((first[:, 2] + last[:, 2]) / 2 + 0.5)
    # a change of light scales mean and contrast alike, a mix of two pictures does not
    scale = np.log((last[:, 1] + 1) / (first[:, 1] + 1))
    named["scale_step"] = np.abs(scale)
    named["scale_unlike"] = np.abs(np.log((last[:, 0] + 4) / (first[:, 0] + 4)) - scale)
    _add_bend(planes, start, end, named)
    named["light_step"] = np.abs(first[:, 0] - last[:, 0])
    named["contrast_edge"] = edge


def _add_bend(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """How straight the light runs to an extreme and back, as in a fade."""
    first, last = planes.of(planes.stats, start - 1), planes.of(planes.stats, end)
    inner, lies = _inside(start - 1, end)
    light = planes.of(planes.stats[:, 0], inner)
    along = (inner - start[:, None] + 1) / (end - start + 1)[:, None]
    chord = first[:, :1] + (last[:, :1] - first[:, :1]) * along
    off = np.where(lies, np.abs(light - chord), 0)
    peak = off.max(axis=1)
    far = off >= 0.97 * peak[:, None]
    out = np.argmax(far, axis=1)
    back = far.shape[1] - 1 - np.argmax(far[:, ::-1], axis=1)
    steps = np.arange(far.shape[1])
    after = np.maximum(1, end - start + 1 - back)[:, None]
    bent = (
        np.minimum(
            np.minimum(1, steps / np.maximum(1, out)[:, None]),
            np.minimum(1, ((end - start + 1)[:, None] - steps) / after),
        )
        * peak[:, None]
    )
    error = np.where(lies, (off - bent) ** 2, 0).sum(axis=1) / lies.sum(axis=1)
    named["light_peak"] = peak
    named["light_bent"] = np.sqrt(error) / (peak + 1)


def _add_burst(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """How restless, blurred and burnt out it is inside, and whether the picture comes back."""
    named["inside_out"] = named["step_unlike_usual"] / (named["outside_usual"] + 1.0)
    frames, held = _inside(start, end)
    held = held & (frames < end[:, None])
    detail = np.where(held, planes.of(planes.stats[:, 2], frames), np.inf).min(axis=1)
    edge = np.minimum(planes.of(planes.stats[:, 2], start - 1), planes.of(planes.stats[:, 2], end))
    named["detail_dip"] = detail / (edge + 0.5)
    hat = planes.hat()
    named["burnt"] = np.where(held, planes.of(hat, frames), 0).max(axis=1)
    named["burnt_share"] = named["burnt"] / (planes.of(planes.stats[:, 1], start - 1) + 4.0)
    steps = planes.at(planes.unlike, np.stack([start, end]), 1)
    named["edge_least"], named["edge_most"] = steps.min(axis=0), steps.max(axis=0)
    usual = planes.apart(start - 1, 4)
    named["usual_before"], named["usual_after"] = usual, planes.apart(end + 4, 4)
    blocks = planes.of(planes.moved[24], end).astype(np.float32)
    ranked = np.sort(blocks, axis=1)
    named["blocks_least"], named["blocks_most"] = (
        ranked[:, :10].mean(axis=1),
        ranked[:, 30:].mean(axis=1),
    )
    back = np.minimum(HISTORY, end - start + 8)
    named["back_later"] = planes.apart(end + 6, back) / (named["ends"] + 1.0)


def _add_whole(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """Whether all of the picture changes in each frame, as where one pushes the other out."""
    frames, held = _inside(start, end)
    around = np.concatenate(
        [start[:, None] + np.arange(-8, 0), end[:, None] + np.arange(1, 9)], axis=1
    )
    for name, plane in (("raw", planes.raw), ("block", planes.usual_block())):
        named[f"{name}_usual"] = _median(planes.of(plane, frames), held)
        named[f"{name}_outside"] = np.median(planes.of(plane, around), axis=1)


def _add_edges(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """Which edges stay: those of a shot do when only its light changes."""
    whole = np.maximum(1, end - start + 1)
    half, middle = np.maximum(1, whole // 2), (start + end) // 2
    known = np.asarray(EDGE_DISTANCES)
    reach = known[np.searchsorted(known, whole, side="right") - 1]  # no farther than the span
    inner = planes.edges_kept(end, reach), planes.edges_kept(start - 1 + reach, reach)
    named["edges_inner"], named["edges_inner_least"] = np.maximum(*inner), np.minimum(*inner)
    inner = planes.edges_kept(end, reach, 1), planes.edges_kept(start - 1 + reach, reach, 1)
    named["edges_inner_other"] = np.maximum(*inner)
    sixteen = np.minimum(whole, 16)
    named["edges_sixteen_least"] = np.minimum.reduce(
        [
            planes.edges_kept(start + sixteen - 1 + (whole - sixteen) * k // 4, sixteen)
            for k in range(5)
        ]
    )
    named["edges_whole"] = planes.edges_kept(end, whole)
    named["edges_whole_other"] = planes.edges_kept(end, whole, 1)
    named["edges_later"] = planes.edges_kept(end + 3, whole + 4)
    sides = planes.edges_kept(start - 1, whole), planes.edges_kept(end + whole, whole)
    named["edges_aside"], named["edges_aside_least"] = np.maximum(*sides), np.minimum(*sides)
    halves = planes.edges_kept(middle, half), planes.edges_kept(end, half)
    named["edges_half"], named["edges_half_least"] = np.maximum(*halves), np.minimum(*halves)
    frames, held = _inside(start, end)
    steps = planes.edges_kept(frames, 1)
    named["edges_step_least"] = np.where(held, steps, 1).min(axis=1)
    named["edges_step_usual"] = _median(steps, held)
    eights = planes.edges_kept(frames, 8)
    named["edges_eight_least"] = np.where(held, eights, 1).min(axis=1)


def with_rivals(
    told: Floats, words: tuple[str, ...], spans: Sequence[Span], places: Frames, odds: Floats
) -> tuple[Floats, tuple[str, ...]]:
    """Return span figures with the log-odds of the likeliest cut inside each span, and around it.

    ``places`` are where cuts were thought of, in order, and ``odds`` theirs.
    """
    if not len(places):
        places, odds = np.array([_NOWHERE]), np.array([_NO_RIVAL])
    start, end = (np.array([getattr(s, side) for s in spans]) for side in ("start", "end"))
    wide = 4 + (end - start) // 2
    first, last = np.searchsorted(places, (start - wide, end + wide + 1))
    which = first[:, None] + np.arange(max(1, int((last - first).max())))
    held = which < last[:, None]
    which = np.minimum(which, len(places) - 1)
    inside = held & (places[which] >= start[:, None] - 1) & (places[which] <= end[:, None] + 1)
    ranked = np.sort(np.where(inside, odds[which], _NO_RIVAL), axis=1)
    second = ranked[:, -2] if ranked.shape[1] > 1 else np.full(len(spans), _NO_RIVAL)
    beside = np.where(held & ~inside, odds[which], _NO_RIVAL).max(axis=1)
    found = np.stack([ranked[:, -1], second, beside], axis=1).astype(np.float32)
    names = ("cut_inside", "cut_second", "cut_beside")
    return np.concatenate([told, np.maximum(found, _NO_RIVAL)], axis=1), (*words, *names)


_NOWHERE = -10_000
_NO_RIVAL = -12.0
"""Log-odds that stand for no cut at all."""


def _add_ramp(planes: Planes, start: Frames, end: Frames, named: dict[str, Floats]) -> None:
    """How straight the share of the later picture runs from 0 to 1, and only inside the span."""
    room = np.maximum(1, (HISTORY - 1 - (end - start)) // 2)
    outside = np.minimum(8, room)
    a = np.maximum(0, start - 1 - outside)
    b = np.minimum(np.minimum(planes.n - 1, end + outside), a + HISTORY)
    steps = np.arange(int((b - a).max()) + 1)
    t = np.minimum(a[:, None] + steps, b[:, None])
    held = steps <= (b - a)[:, None]
    share, off = mix_shares(planes, a[:, None], b[:, None], t)
    share = np.clip(share, -0.5, 1.5)
    line = np.clip((t - start[:, None] + 1) / (end - start + 1)[:, None], 0, 1)
    error = np.where(held, (share - line) ** 2, 0).sum(axis=1) / held.sum(axis=1)
    named["ramp_error"] = np.sqrt(error)
    inside = held & (t >= start[:, None]) & (t < end[:, None])
    beside = held & ~inside
    whole = planes.between(a[:, None], b[:, None])[:, 0] + 1
    mean_inside = np.where(inside, off, 0).sum(axis=1) / np.maximum(1, inside.sum(axis=1))
    mean_beside = np.where(beside, off, 0).sum(axis=1) / np.maximum(1, beside.sum(axis=1))
    named["off_inside"], named["off_outside"] = mean_inside / whole, mean_beside / whole
    rows = np.arange(len(start))
    at = np.clip(start - 1 - a, 0, len(steps) - 1), np.clip(end - a, 0, len(steps) - 1)
    named["share_jump"] = np.where(held, np.diff(share, axis=1, prepend=0), 0).max(axis=1)
    named["share_before"] = np.abs(share[rows, at[0]])
    named["share_after"] = np.abs(1 - share[rows, at[1]])
    named["ramp_whole"] = whole


def wipe_order(planes: Planes, start: Frames, end: Frames) -> tuple[Floats, Floats, Floats]:
    """Return how well the time at which each block changes follows its place, and how sharply.

    The first is the share of variance (R²) that an edge moving at one speed explains, 0 to 1; the
    second the median change of a block at its moment over its change otherwise; the third which
    of `wipes.FORMS` the edge has. Of the change over one frame, six and 24, whichever is in
    better order.
    """
    best: list[Floats] = [np.zeros(len(start)) for _ in range(3)]
    for distance in (1, 6, 24):
        moved = planes.moved[distance]
        low = np.maximum(0, start - 2)
        high = np.minimum(np.minimum(end + 1 + distance, low + 2 * LONGEST), planes.n - 1)
        every = 1 + (high - low) // 90  # of long ones every second frame is enough
        frames, held = _inside(low, low + (high - low) // every)
        frames = low[:, None] + (frames - low[:, None]) * every[:, None]
        # change and moment in one number: of equal changes the earliest counts
        window = moved[np.minimum(frames, planes.n - 1)].astype(np.uint16) << 8
        window |= (0xFF - np.arange(window.shape[1], dtype=np.uint16))[:, None]
        window[~held] = 0
        peak = window.max(axis=1)
        when = (0xFF - (peak & 0xFF)).astype(np.float32)
        most = (peak >> 8).astype(np.float32)
        many = high - low + 1
        usual = (planes.moved_over(distance, low, high + 1) - most) / np.maximum(1, many - 1)[
            :, None
        ]
        order, form, _, _ = edge_fits(when, most, usual)
        sharp = sharpness(most, usual)
        order = np.where(many >= 6, order, 0)
        better = order > best[0]
        now = order, sharp, form.astype(np.float32)
        best = [np.where(better, new, old) for new, old in zip(now, best, strict=True)]
    return best[0], best[1], best[2]
