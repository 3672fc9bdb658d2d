"""Drawing charts on paper with Matplotlib: a function a chart, and one a lane."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np

from offcut.core.model.scene_look import TINT_RGB, strokes_of
from offcut.core.rhythm.comparing import p_words, running_words, seconds_words
from offcut.core.rhythm.curves import kinship_of, pace_of, pulse_of, spread_of
from offcut.core.rhythm.figures import FEW_ECHO
from offcut.core.rhythm.print_look import FAINT, GREY, INK, MM, PALE, WAX
from offcut.core.rhythm.printed_notes import draw_notes
from offcut.core.rhythm.scales import STROKES, join_strokes, length_tick, nice_ticks, stretched
from offcut.core.rhythm.whole_study import WholeStudy

if TYPE_CHECKING:
    from matplotlib.axes import Axes


def draw_skyline(ax: Axes, study: WholeStudy) -> None:
    """Draw a block a shot, the pace over it, how shots are joined at its foot."""
    from matplotlib.collections import LineCollection, PolyCollection

    lengths, log = study.lengths, study.manner.log
    held = lengths.seconds
    if not len(lengths):
        _nothing(ax, "How long each shot is held")
        return
    low = max(1e-3, float(held.min()) * 0.7) if log else 0.0
    high = float(held.max()) * (1.25 if log else 1.06)
    foot = np.full(len(held), low)
    corners = np.stack(
        [
            np.stack([lengths.begins, foot], 1), np.stack([lengths.begins, held], 1),
            np.stack([lengths.ends, held], 1), np.stack([lengths.ends, foot], 1),
        ], 1,
    )  # fmt: skip
    edge = 0.35 if len(held) < 400 else 0.0
    for which, face in ((lengths.counted, GREY), (~lengths.counted, PALE)):
        if which.any():
            ax.add_collection(
                PolyCollection(
                    list(corners[which]), facecolors=face, edgecolors="white", linewidths=edge
                )
            )
    for n, beside in enumerate(study.beside):
        x, y = pace_of(beside.lengths, study.manner.smoothing)
        ax.plot(
            stretched(study, beside.lengths, x), y, color=INK, lw=0.9,
            dashes=STROKES[n % len(STROKES)], label=beside.lengths.name,
        )  # fmt: skip
    x, y = pace_of(lengths, study.manner.smoothing)
    ax.plot(x, y, color=INK, lw=1.5, label=f"{lengths.name}, pace", solid_joinstyle="round")
    ax.set_yscale("log" if log else "linear")
    _time_axis(ax, 0.0 if lengths.film == 0 else float(lengths.begins[0]), lengths.whole)
    ax.set_ylim(low, high)
    if log:
        _length_ticks(ax.yaxis, low, high)
    ax.grid(axis="y")
    ax.set_title("How long each shot is held")
    if not study.beside:
        _aside(ax, "seconds, over the film" if lengths.film else "seconds, shots end to end")
    strokes = join_strokes(lengths, lengths.whole * 0.002)
    if len(strokes):
        ends = strokes.reshape(-1, 2, 2) * (1, 0.038) + (0, -0.05)
        ax.add_collection(
            LineCollection(
                list(ends), colors=INK, linewidths=0.7, clip_on=False,
                transform=ax.get_xaxis_transform(),
            )
        )  # fmt: skip
        ax.tick_params(axis="x", pad=8)
    if study.beside:
        ax.legend(
            loc="lower right", bbox_to_anchor=(1, 1.01), frameon=False, fontsize=6.5, ncols=3,
            handlelength=3.4, borderaxespad=0.0,
        )  # fmt: skip


def _time_axis(ax: Axes, first: float, last: float) -> None:
    ax.set_xlim(first, max(first + 1e-6, last))
    steps = (1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 900, 1800, 3600)
    step = next((s for s in steps if (last - first) / s <= 12), 7200)
    ticks = np.arange(math.ceil(first / step) * step, last + 1e-9, step)
    ax.set_xticks(ticks, [running_words(t) for t in ticks])


def _length_ticks(axis: Any, low: float, high: float) -> None:
    from matplotlib.ticker import FixedLocator, FuncFormatter, NullLocator

    axis.set_major_locator(FixedLocator(nice_ticks(low, high)))
    axis.set_major_formatter(FuncFormatter(lambda v, _n: length_tick(v)))
    axis.set_minor_locator(NullLocator())


def _aside(ax: Axes, words: str) -> None:
    ax.annotate(
        words, (1, 1), (0, 7), xycoords="axes fraction", textcoords="offset points", ha="right",
        color=FAINT, fontsize=6.5,
    )  # fmt: skip


def _nothing(ax: Axes, title: str, why: str = "There are too few shots to say this") -> None:
    ax.set_title(title)
    ax.set_axis_off()
    ax.text(0.5, 0.5, why, transform=ax.transAxes, ha="center", va="center", color=FAINT)


# lanes


def draw_light(ax: Axes, study: WholeStudy) -> None:
    """Draw the film's light and colours, a column a frame or a bundle of frames."""
    lanes = study.lanes
    assert lanes is not None
    first, last = _ends(study)
    columns = lanes.columns(first, last, 1400)
    ax.imshow(
        columns.colours.transpose(1, 0, 2), extent=(first, last, 0, 1), aspect="auto",
        interpolation="nearest",
    )  # fmt: skip
    _lane(ax, study, "light")


def draw_scenes(ax: Axes, study: WholeStudy, wide: float, high: float) -> None:
    """Draw scenes as bands in a lane of so many millimetres."""
    from matplotlib.collections import LineCollection
    from matplotlib.patches import Rectangle

    first, last = _ends(study)
    scale = wide / (last - first)
    lengths = study.lengths
    for scene_id, begin, end in lengths.scenes:
        scene = study.scenes.get(scene_id)
        if scene is None:
            continue
        x = (float(lengths.begins[begin]) - first) * scale
        w = (float(lengths.ends[end - 1]) - first) * scale - x - 0.2
        if w < 0.1:
            continue
        tint = tuple(c / 255 for c in TINT_RGB[scene.tint])
        area = Rectangle((x, 0), w, high, facecolor=tint, edgecolor="none")
        ax.add_patch(area)
        strokes = strokes_of(scene.pattern, w, high, 1.4)
        lines = LineCollection(
            [[(x + s.x, s.y), (x + s.to_x, s.to_y)] for s in strokes],
            colors=INK, linewidths=[s.thick * 72 * MM for s in strokes],
        )  # fmt: skip
        ax.add_collection(lines)
        lines.set_clip_path(area)
    ax.set_xlim(0, wide)
    ax.set_ylim(high, 0)
    _lane(ax, None, "scenes")


def draw_noted(ax: Axes, study: WholeStudy, lane: str, wide: float, high: float) -> None:
    """Draw what was found in the shots in a lane of so many millimetres."""
    first, last = _ends(study)
    draw_notes(ax, study.notes.get(lane, ()), first, wide / (last - first), high)
    ax.set_xlim(0, wide)
    ax.set_ylim(0, high)
    _lane(ax, None, lane)


def draw_movement(ax: Axes, study: WholeStudy) -> None:
    """Draw how much moves from frame to frame, joins left out."""
    _draw_filled(ax, study, "movement", "movement")


def draw_loudness(ax: Axes, study: WholeStudy) -> None:
    """Draw how loud the film is, from -50 to -5 LUFS."""
    _draw_filled(ax, study, "loudness", "loudness")


def _draw_filled(ax: Axes, study: WholeStudy, which: str, words: str) -> None:
    lanes = study.lanes
    assert lanes is not None
    first, last = _ends(study)
    values = getattr(lanes.columns(first, last, 900), which)
    if which == "loudness":
        values = np.clip((values + 50) / 45, 0, 1)
    elif np.isfinite(values).any():
        values = np.clip(values / lanes.most_movement, 0, 1)
    x = np.linspace(first, last, len(values))
    ax.fill_between(x, np.nan_to_num(values), color="#8A8A8A", lw=0)
    ax.set_ylim(0, 1.05)
    _lane(ax, study, words)


def _lane(ax: Axes, study: WholeStudy | None, words: str) -> None:
    ax.set_xticks([])
    ax.set_yticks([])
    for side in ax.spines.values():
        side.set_visible(False)
    if study is not None:
        ax.set_xlim(*_ends(study))
    ax.text(
        -0.008, 0.5, words, transform=ax.transAxes, ha="right", va="center", color=FAINT,
        fontsize=6.5,
    )  # fmt: skip


def _ends(study: WholeStudy) -> tuple[float, float]:
    lengths = study.lengths
    first = float(lengths.begins[0]) if len(lengths) and lengths.film else 0.0
    return first, max(first + 1e-6, lengths.whole)


# spread, echo, pulse, points


def draw_spread(ax: Axes, study: WholeStudy) -> None:
    """Draw how lengths are spread, with the fitted curve and the median."""
    title = "How lengths are spread"
    figures = study.figures
    spread = spread_of(study.lengths, figures, log=True)
    if not len(spread.counts) or figures.median is None:
        _nothing(ax, title)
        return
    ax.bar(
        spread.edges[:-1], spread.counts, np.diff(spread.edges), align="edge", color=GREY,
        edgecolor="white", linewidth=0.6,
    )  # fmt: skip
    if len(spread.points):
        ax.plot(spread.points, spread.curve, color=INK, lw=1.3)
    ax.axvline(figures.median, color=WAX, lw=1.4)
    ax.annotate(
        f"median {seconds_words(figures.median)}", (figures.median, 1), (3, -6),
        xycoords=("data", "axes fraction"), textcoords="offset points", fontsize=6.5, va="top",
    )  # fmt: skip
    ax.set_xscale("log")
    _length_ticks(ax.xaxis, float(spread.edges[0]), float(spread.edges[-1]))
    ax.set_ylim(0, max(1.0, float(spread.counts.max()) * 1.22))
    ax.set_yticks([])
    ax.set_title(title)
    _aside(ax, f"log-normal, p {p_words(figures.fit.p)}" if figures.fit else "seconds")


def draw_echo(ax: Axes, study: WholeStudy) -> None:
    """Draw the autocorrelation with its bounds; what lies outside them is dark."""
    title = "Does a length follow a like one?"
    echo = study.figures.echo
    if echo is None or study.figures.shots < FEW_ECHO:
        _nothing(ax, title, f"It takes {FEW_ECHO} shots to tell")
        return
    count = len(echo.values)
    lags = np.arange(1, count + 1)
    dark = np.abs(echo.values) > echo.bounds
    ax.bar(lags, echo.values, 0.68, color=[INK if d else GREY for d in dark])
    edges = np.append(lags - 0.5, count + 0.5)
    for way in (1, -1):
        ax.stairs(way * echo.bounds, edges, baseline=None, color=FAINT, lw=0.7, ls=(0, (4, 2)))
    ax.axhline(0, color=INK, lw=0.6)
    ax.set_xlim(0.3, count + 0.7)
    ax.set_xticks(lags[:: 1 if count <= 12 else 2])
    ax.spines["bottom"].set_visible(False)
    ax.grid(axis="y")
    ax.set_title(title)
    _aside(ax, "autocorrelation, by lag")


def draw_pulse(ax: Axes, study: WholeStudy) -> None:
    """Draw cuts a minute in a sliding window."""
    pulse = pulse_of(study.lengths, study.manner.window)
    if not len(pulse.moments):
        _nothing(ax, "Pulse")
        return
    ax.fill_between(pulse.moments, pulse.per_minute, color=PALE, lw=0)
    ax.plot(pulse.moments, pulse.per_minute, color=INK, lw=1.1)
    for n, beside in enumerate(study.beside):
        other = pulse_of(beside.lengths, study.manner.window or pulse.window)
        x = stretched(study, beside.lengths, other.moments)
        ax.plot(x, other.per_minute, color=INK, lw=0.8, dashes=STROKES[n % len(STROKES)])
    first, last = _ends(study)
    _time_axis(ax, first, last)
    ax.set_ylim(bottom=0)
    ax.grid(axis="y")
    ax.set_title("Pulse")
    wide = "minute" if pulse.window == 60 else f"{pulse.window:g} s"
    _aside(ax, f"cuts a minute, in a sliding {wide}")


def draw_points(ax: Axes, study: WholeStudy, which: str = "movement") -> None:
    """Draw lengths against the movement or the light of their shots."""
    title = f"Length against {which}"
    lanes, lengths = study.lanes, study.lengths
    if lanes is None or len(lengths.held) < 2:
        _nothing(ax, title, "There are no pictures to tell it by")
        return
    shown = lanes.a_shot(getattr(lanes, which), len(lengths))[lengths.counted]
    if not np.isfinite(shown).any():
        _nothing(ax, title, "The film was not looked at yet")
        return
    ax.scatter(shown, lengths.held, s=7, color=INK, alpha=0.6, linewidths=0)
    ax.set_yscale("log")
    _length_ticks(ax.yaxis, float(lengths.held.min()) * 0.8, float(lengths.held.max()) * 1.25)
    ax.grid(axis="y")
    ax.set_title(title)
    kin = kinship_of(lengths.held, shown)
    told = f"rank correlation {kin.rho:.2f}, p {p_words(kin.p)}" if kin else "too few to tell"
    _aside(ax, told.replace("-", "−"))
