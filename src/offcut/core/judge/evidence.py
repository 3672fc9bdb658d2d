"""Evidence: what the signals say of one place in the film, as figures a judge weighs.

A cut at frame t leaves a triangle in the plane of distance and time: every pair of frames that
straddles it is unlike, every pair on one side alike. A flash leaves two peaks with alike pairs
across; a pan a plateau; a passer a gap that far pairs bridge. The figures below say how well the
place fits each of these.
"""

from __future__ import annotations

import numpy as np

from offcut.core.judge.planes import FLASH, Floats, Frames, Planes, nearest_distance


def candidates(planes: Planes) -> Frames:
    """Return the places where a cut is thinkable: change that stands above its neighbours."""
    change = planes.unlike[:, 0]
    colour = planes.colour[:, 0]
    tiny = planes.far[0]
    stands = np.zeros(planes.n, np.bool_)
    for signal, least, floor in ((change, 3.5, 0.4), (colour, 0.08, 0.02), (tiny, 2.0, 0.4)):
        before = np.concatenate([[0.0], signal[:-1]])
        after = np.concatenate([signal[1:], [0.0]])
        stands |= (
            (signal > least)
            & (signal >= before)
            & (signal >= after)
            & (signal > 1.12 * np.minimum(before, after) + floor)
        )
    # beside another cut, as with a shot of one frame, it need not be the greater of the two
    great = np.flatnonzero(change > 5.0)
    near = np.lib.stride_tricks.sliding_window_view(np.pad(change, 5, mode="edge"), 11)[great]
    usual = np.partition(near, 5, axis=1)[:, 5]
    stands[great] |= change[great] > 1.8 * usual + 1.0
    # at flash frames between pictures that are unlike
    last, first = planes.clear()
    at = np.flatnonzero(planes.short_hat() >= FLASH)
    at = np.union1d(at, np.minimum(at + 1, planes.n - 1))
    a, b = last[np.maximum(at - 1, 0)], first[at]
    far = nearest_distance(np.maximum(b - a, 1))
    stands[at] |= (planes.at(planes.unlike, b, far) > 6.0) & (b - a <= 12)
    stands[0] = False
    return np.flatnonzero(stands)


def _across(planes: Planes, plane: Floats, t: Frames, distance: int) -> tuple[Floats, Floats]:
    """Return the mean and the least of the pairs at a distance that straddle t."""
    step = max(1, distance // 8)
    rows = np.stack([planes.at(plane, t + k, distance) for k in range(0, distance, step)])
    return rows.mean(axis=0), rows.min(axis=0)


def join_figures(planes: Planes, t: Frames) -> tuple[Floats, tuple[str, ...]]:
    """Return the figures for a cut at each of frames ``t``, shape (len(t), F), and their names."""
    named: dict[str, Floats] = {}
    one = planes.at(planes.unlike, t, 1)
    named["step"] = one
    named["step_most"] = planes.at(planes.most, t, 1)
    named["step_unmatched"] = planes.at(planes.unmatched, t, 1)
    named["step_colour"] = planes.at(planes.colour, t, 1)
    named["step_raw"] = planes.of(planes.raw, t)
    named["step_wide"] = planes.of(planes.wide, t)
    named["step_tiny"] = planes.apart(t, 1)
    _add_sides(planes, t, one, named)
    for distance in (2, 4, 8, 16, 32, 64):
        mean, least = _across(planes, planes.unlike, t, distance)
        named[f"across_{distance}"] = mean
        named[f"across_least_{distance}"] = least
    for distance in (4, 8, 24):
        mean, least = _across(planes, planes.colour, t, distance)
        named[f"colour_{distance}"] = mean
        named[f"colour_least_{distance}"] = least
    for distance in (2, 4, 8, 16):
        named[f"within_before_{distance}"] = planes.at(planes.unlike, t - 1, distance)
        named[f"within_after_{distance}"] = planes.at(planes.unlike, t + distance, distance)
    for distance in (4, 8):
        named[f"unmatched_{distance}"] = _across(planes, planes.unmatched, t, distance)[0]
        named[f"most_{distance}"] = _across(planes, planes.most, t, distance)[1]
        side = [
            planes.at(planes.colour, t - 1, distance),
            planes.at(planes.colour, t + distance, distance),
        ]
        named[f"colour_within_{distance}"] = np.maximum(side[0], side[1])
    _add_returns(planes, t, named)
    _add_sides_apart(planes, t, named)
    _add_tiny(planes, t, named)
    _add_light(planes, t, named)
    _add_parts(planes, t, named)
    _add_edges(planes, t, named)
    _add_clear(planes, t, named)
    within = np.maximum(named["within_before_4"], named["within_after_4"])
    named["triangle"] = named["across_least_4"] / (within + 2.0)
    named["triangle_8"] = named["across_least_8"] / (
        np.maximum(named["within_before_8"], named["within_after_8"]) + 2.0
    )
    return np.stack(list(named.values()), axis=1), tuple(named)


def _add_sides(planes: Planes, t: Frames, one: Floats, named: dict[str, Floats]) -> None:
    """How restless it is on either side, and how the step stands out of it."""
    near = np.stack([planes.at(planes.unlike, t + k, 1) for k in (-6, -5, -4, -3, -2, -1)])
    after = np.stack([planes.at(planes.unlike, t + k, 1) for k in (1, 2, 3, 4, 5, 6)])
    named["before_median"] = np.median(near, axis=0)
    named["after_median"] = np.median(after, axis=0)
    named["before_most"] = near[3:].max(axis=0)
    named["after_most"] = after[:3].max(axis=0)
    named["before_most_six"] = near.max(axis=0)
    named["after_most_six"] = after.max(axis=0)
    restless = np.maximum(named["before_most"], named["after_most"])
    named["stands_out"] = one / (restless + 1.5)
    calm = np.maximum(named["before_median"], named["after_median"])
    named["stands_out_median"] = one / (calm + 1.5)
    named["next_before"] = near[5] / (one + 1.0)
    named["next_after"] = after[0] / (one + 1.0)
    wide_around = np.stack([planes.of(planes.wide, t + k) for k in (-3, -2, -1, 1, 2, 3)])
    named["wide_out"] = named["step_wide"] / (np.median(wide_around, axis=0) + 2.0)
    colours = np.stack([planes.at(planes.colour, t + k, 1) for k in (-3, -2, -1, 1, 2, 3)])
    named["colour_out"] = named["step_colour"] / (colours.max(axis=0) + 0.03)
    peaks = np.zeros_like(one)
    for k in (*range(-14, 0), *range(1, 15)):
        peaks += planes.at(planes.unlike, t + k, 1) > 0.7 * one
    named["peaks_near"] = peaks


def _add_returns(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Whether the picture from before comes back after: the alikest pair across."""
    groups = {
        "short": ((2, (1,)), (3, (1, 2)), (4, (1, 2, 3))),
        "middle": ((6, (2, 3, 4)), (8, (2, 3, 4, 5, 6))),
        "long": ((12, (3, 6, 9)), (16, (4, 8, 12)), (24, (6, 12, 18))),
        "very_long": ((32, (8, 16, 24)), (48, (12, 24, 36)), (64, (16, 32, 48))),
    }
    for name, pairs in groups.items():
        rows = [planes.at(planes.unlike, t + k, d) for d, ks in pairs for k in ks]
        named[f"returns_{name}"] = np.min(rows, axis=0)
        tiny = [planes.apart(t + k, d) for d, ks in pairs for k in ks]
        named[f"returns_tiny_{name}"] = np.min(tiny, axis=0) / (named["step_tiny"] + 1.0)


def _add_sides_apart(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """How far the mean picture of some frames before is from that of some frames after.

    Grain and flicker fall out of the means. It needs only the distances: mean squared distance
    across, less half of those within either side (the energy distance; Székely and Rizzo 2013,
    "Energy statistics", from memory). Set against what the picture does within a side.
    """
    for name, offsets in (("near", (0, 1, 2)), ("far", (0, 2, 4, 7)), ("wide", (3, 8, 14, 20))):
        across = np.mean(
            [planes.apart(t + j, j + i + 1) ** 2 for i in offsets for j in offsets], axis=0
        )
        pairs = [(i, j) for i in offsets for j in offsets if i < j]
        shares = 2 / len(offsets) ** 2
        before = shares * np.sum([planes.apart(t - 1 - i, j - i) ** 2 for i, j in pairs], axis=0)
        after = shares * np.sum([planes.apart(t + j, j - i) ** 2 for i, j in pairs], axis=0)
        between = np.maximum(0, across - before / 2 - after / 2)
        named[f"sides_{name}"] = np.sqrt(between)
        named[f"sides_{name}_out"] = between / (np.maximum(before, after) + 0.5)


def _add_tiny(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """The plain colour pictures: how much of the change happens in this one step."""
    before, after = planes.apart(t - 1, 4), planes.apart(t + 4, 4)
    across = planes.apart(t + 3, 7)
    named["tiny_share"] = named["step_tiny"] / (across + 1.0)
    named["tiny_out"] = named["step_tiny"] / (np.maximum(before, after) + 1.5)
    named["tiny_lasting"] = planes.apart(t + 8, 16)
    around = np.stack([planes.apart(t + k, 1) for k in (-3, -2, -1, 1, 2, 3)])
    named["tiny_neighbour"] = around.max(axis=0) / (named["step_tiny"] + 1.0)


def _add_light(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Light, contrast and detail on either side."""
    now, then = (planes.of(planes.stats, f) for f in (t, t - 1))
    named["light_step"] = np.abs(now[:, 0] - then[:, 0])
    named["contrast_least"] = np.minimum(now[:, 1], then[:, 1])
    named["contrast_ratio"] = np.abs(np.log((now[:, 1] + 1) / (then[:, 1] + 1)))
    named["detail_least"] = np.minimum(now[:, 2], then[:, 2])
    named["detail_ratio"] = np.abs(np.log((now[:, 2] + 0.5) / (then[:, 2] + 0.5)))
    named["light_least"] = np.minimum(now[:, 0], then[:, 0])
    later, earlier = (planes.of(planes.stats, f) for f in (t + 3, t - 4))
    # a change of light scales mean and contrast alike
    scale = np.log((now[:, 1] + 1) / (then[:, 1] + 1))
    light = np.log(np.maximum(now[:, 0] - 12, 4) / np.maximum(then[:, 0] - 12, 4))
    named["scale_unlike"] = np.abs(light - scale)
    named["light_lasting"] = np.abs(later[:, 0] - earlier[:, 0])
    named["flat_near"] = np.min(
        [planes.of(planes.stats, t + k)[:, 1] for k in range(-4, 5)], axis=0
    )
    hat = planes.hat()
    named["burnt"] = np.max([planes.of(hat, t + k) for k in range(-4, 5)], axis=0)
    named["burnt_here"] = np.maximum(planes.of(hat, t), planes.of(hat, t - 1))


def _add_clear(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """The same without flash frames: a cut into the flashes of a strobe stands out of them."""
    last, first = planes.clear()
    earlier, later = [last[np.maximum(t - 1, 0)]], [first[np.minimum(t, planes.n - 1)]]
    for _ in range(2):
        earlier.append(last[np.maximum(earlier[-1] - 1, 0)])
        later.append(first[np.minimum(later[-1] + 1, planes.n - 1)])

    def unlike(a: Frames, b: Frames) -> Floats:
        apart = np.maximum(b - a, 0)
        found = planes.at(planes.unlike, b, nearest_distance(np.maximum(apart, 1)))
        return np.where(apart > 0, found, np.float32(0))

    a, b = earlier[0], later[0]
    step = unlike(a, b)
    around = np.maximum(unlike(earlier[1], a), unlike(b, later[1]))
    named["clear_step"], named["clear_gap"] = step, (b - a).astype(np.float32)
    named["clear_out"] = step / (around + 1.5)
    pairs = [(i, j) for i in range(3) for j in range(i + 1, 3)]
    across = np.mean([planes.between(i, j) ** 2 for i in earlier for j in later], axis=0)
    shares = 2 / len(earlier) ** 2
    before = shares * np.sum(
        [planes.between(earlier[j], earlier[i]) ** 2 for i, j in pairs], axis=0
    )
    after = shares * np.sum([planes.between(later[i], later[j]) ** 2 for i, j in pairs], axis=0)
    between = np.maximum(0, across - before / 2 - after / 2)
    named["clear_sides"] = np.sqrt(between)
    named["clear_sides_out"] = between / (np.maximum(before, after) + 0.5)
    # whether the flash frames before and after the place are of the shot they would fall to
    named["clear_own"] = unlike(a, t - 1) + unlike(t, b)
    named["clear_other"] = np.minimum(unlike(a, t), unlike(t - 1, b))


def _add_edges(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Which edges stay: those of a shot do when only its light changes, or letters come."""
    for distance in (1, 2, 4, 8, 16):
        step = max(1, distance // 4)
        rows = np.stack([planes.edges_kept(t + k, distance) for k in range(0, distance, step)])
        named[f"edges_{distance}"] = rows.mean(axis=0)
        if distance > 1:
            named[f"edges_most_{distance}"] = rows.max(axis=0)
    named["edges_other"] = planes.edges_kept(t, 1, 1)
    named["edges_other_4"] = planes.edges_kept(t + 1, 4, 1)
    for distance in (1, 4, 8):
        before = planes.edges_kept(t - 1, distance)
        after = planes.edges_kept(t + distance, distance)
        named[f"edges_within_{distance}"] = np.minimum(before, after)
        named[f"edges_out_{distance}"] = np.minimum(before, after) - named[f"edges_{distance}"]
    last, first = planes.clear()
    a, b = last[np.maximum(t - 1, 0)], first[np.minimum(t, planes.n - 1)]
    named["edges_clear"] = planes.edges_kept(b, np.maximum(b - a, 1))


def _add_parts(planes: Planes, t: Frames, named: dict[str, Floats]) -> None:
    """Which parts of the picture change: of several pictures on a screen only one does."""
    for name, plane, at in (("step", planes.moved[1], t), ("six", planes.moved[6], t + 3)):
        blocks = planes.of(plane, at).astype(np.float32).reshape(-1, 5, 8)
        rows, columns = blocks.mean(axis=2), blocks.mean(axis=1)
        left, right = columns[:, :4].mean(axis=1), columns[:, 4:].mean(axis=1)
        upper, lower = rows[:, :2].mean(axis=1), rows[:, 3:].mean(axis=1)
        named[f"{name}_half_least"] = np.minimum.reduce([left, right, upper, lower])
        quarters = [
            blocks[:, y, x].mean(axis=(1, 2))
            for y in (slice(0, 2), slice(3, 5))
            for x in (slice(0, 4), slice(4, 8))
        ]
        named[f"{name}_quarter_least"] = np.minimum.reduce(quarters)
        named[f"{name}_blocks"] = (blocks > 9).mean(axis=(1, 2))
