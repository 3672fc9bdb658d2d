"""Rows: the figures in the order they are read, each with its words, and what explains it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from offcut.core.model.seam import Kind
from offcut.core.rhythm.comparing import p_words, running_words, seconds_words
from offcut.core.rhythm.figures import (
    FEW_ECHO,
    FEW_FIT,
    FEW_LINE,
    FEW_SPECTRUM,
    FEW_THIRDS,
    Figures,
)

NONE = "–"
Value = float | int | str | None
FROM_MEMORY = "(cited from memory)"
COMMON = "common practice, no published source"
"""What is said of a figure that everybody uses and nobody has written down."""


@dataclass(frozen=True, slots=True)
class FigureRow:
    """One figure: how it is called, what it is, and how it comes out of `Figures`.

    ``id`` names it in files; ``words`` on screen; ``unit`` of the plain value, empty for none;
    ``value`` the number, None where it means nothing; ``shown`` the number as people read it;
    ``sentence``, ``formula`` and ``source`` explain it; ``needs`` is how many shots it takes.
    """

    id: str
    words: str
    unit: str
    value: Callable[[Figures], Value]
    shown: Callable[[Figures], str]
    sentence: str
    formula: str
    source: str
    needs: int = 1

    def label(self, figures: Figures) -> str:
        """Return what it is called on screen and paper; the limit says which it is."""
        return f"Under {figures.limit:g} s" if self.id == "under" else self.words

    def why_none(self, figures: Figures) -> str:
        """Return in a sentence why the figure means nothing here, empty where it does."""
        if self.value(figures) is not None:
            return ""
        if figures.shots < self.needs:
            have = "no shot" if figures.shots == 0 else f"{figures.shots}"
            return f"It takes {self.needs} shots for this to mean something; there are {have}."
        if figures.shots and figures.shortest == figures.longest:
            return "All shots are equally long, so this means nothing."
        return "There is nothing here that this could be said of."


def _seconds(value: float | None) -> str:
    return NONE if value is None else seconds_words(value)


def _percent(value: float | None) -> str:
    if value is None:
        return NONE
    return f"{100 * value:.1f} %" if 0 < value < 0.0995 else f"{100 * value:.0f} %"


def _plain(value: float | None, digits: int = 2) -> str:
    return NONE if value is None else f"{value:.{digits}f}".replace("-", "−")


def _signed(value: float | None, unit: str = "") -> str:
    if value is None:
        return NONE
    shown = f"{abs(value):.2f}"
    sign = "" if float(shown) == 0 else "+" if value > 0 else "−"
    return f"{sign}{shown}{unit}"


def _by(
    get: Callable[[Figures], float | None], words: Callable[[float | None], str]
) -> Callable[[Figures], str]:
    return lambda f: words(get(f))


def _row(
    name: str,
    words: str,
    unit: str,
    get: Callable[[Figures], float | None],
    shown: Callable[[float | None], str],
    sentence: str,
    formula: str,
    source: str,
    needs: int = 1,
) -> FigureRow:
    return FigureRow(name, words, unit, get, _by(get, shown), sentence, formula, source, needs)


def _of_kind(kind: Kind) -> Callable[[Figures], float | None]:
    return lambda f: dict(f.joins).get(kind, 0.0) if f.joins else None


def _middle_half(figures: Figures) -> str:
    if figures.q1 is None or figures.q3 is None:
        return NONE
    q1, q3 = figures.q1, figures.q3
    if q3 < 59.95:
        return f"{q1:.1f}–{q3:.1f} s"
    return f"{running_words(q1)}–{running_words(q3)}"


def _line_shown(figures: Figures) -> str:
    if figures.line is None:
        return NONE
    return _signed(figures.line.slope)


def _fit_shown(figures: Figures) -> str:
    return NONE if figures.fit is None else f"p {p_words(figures.fit.p)}"


def _echo_value(figures: Figures) -> float | None:
    if figures.echo is None or figures.shots < FEW_ECHO:
        return None
    return float(figures.echo.values[0])


def _partial_value(figures: Figures) -> float | None:
    if figures.echo is None or len(figures.echo.partial) < 2 or figures.shots < FEW_ECHO:
        return None
    value = float(figures.echo.partial[1])
    return value if value == value else None


def _holds(figures: Figures) -> float | None:
    return figures.echo.holds if figures.echo and figures.shots >= FEW_ECHO else None


def _holds_shown(value: float | None) -> str:
    if value is None:
        return NONE
    return "nothing" if value == 0 else "1 shot" if value == 1 else f"{value:.0f} shots"


ROWS: tuple[FigureRow, ...] = (
    _row(
        "shots", "Shots", "", lambda f: f.shots, lambda v: f"{v or 0:,.0f}".replace(",", " "),
        "How many shots count. Those set aside do not, unless they are asked for; of a marked"
        " range those do whose middle lies in it.",
        "n", COMMON, 0,
    ),
    _row(
        "seconds", "Running time", "s", lambda f: f.seconds,
        lambda v: running_words(v or 0.0),
        "How long the shots that count play together. A gradual join is counted at its middle:"
        " half of it belongs to each shot.",
        "Σ x", COMMON, 0,
    ),
    _row(
        "mean", "Average length", "s", lambda f: f.mean, _seconds,
        "The average shot length (ASL): running time over number. A few very long shots pull it"
        " up, so read it together with the median.",
        "mean = Σ x / n",
        f"B. Salt, Statistical style analysis of motion pictures, Film Quarterly 28 (1), 1974"
        f" {FROM_MEMORY}",
    ),
    _row(
        "median", "Median", "s", lambda f: f.median, _seconds,
        "Half of the shots are shorter, half are longer.",
        "the middle one of the sorted lengths; of an even number the mean of the middle two",
        f"R. J. Hyndman and Y. Fan, Sample quantiles in statistical packages, The American"
        f" Statistician 50 (4), 1996, definition 7 {FROM_MEMORY}",
    ),
    _row(
        "shortest", "Shortest", "s", lambda f: f.shortest, _seconds,
        "The shot that is held the shortest.", "min x", COMMON,
    ),
    _row(
        "longest", "Longest", "s", lambda f: f.longest, _seconds,
        "The shot that is held the longest.", "max x", COMMON,
    ),
    FigureRow(
        "q1", "Middle half", "s", lambda f: f.q1, _middle_half,
        "The lower and the upper quartile: half of the shots are held as long as this, a quarter"
        " shorter and a quarter longer.",
        "value at 1 + p (n − 1) of the sorted lengths, p = ¼ and ¾, between two by linear"
        " interpolation",
        f"R. J. Hyndman and Y. Fan, Sample quantiles in statistical packages, The American"
        f" Statistician 50 (4), 1996, definition 7 {FROM_MEMORY}",
    ),
    _row(
        "sd", "Deviation", "s", lambda f: f.sd, _seconds,
        "The standard deviation: how far lengths lie from the average, on the whole.",
        "s = √( Σ (x − mean)² / (n − 1) )",
        f"NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.6 {FROM_MEMORY}", 2,
    ),
    _row(
        "cv", "Spread (CV)", "", lambda f: f.cv, _plain,
        "The coefficient of variation: the deviation as a share of the average, so that slow"
        " and fast films can be held beside each other. 0 is a metronome.",
        "s / mean", f"NIST/SEMATECH e-Handbook of Statistical Methods {FROM_MEMORY}", 2,
    ),
    _row(
        "skewness", "Skewness", "", lambda f: f.skewness, _plain,
        "Above 0 there are many short shots and a few long ones, as in most films.",
        "Σ (x − mean)³ / n over ( Σ (x − mean)² / n )^1.5",
        f"Fisher and Pearson's coefficient, not set right for small numbers; NIST/SEMATECH"
        f" e-Handbook, 1.3.5.11 {FROM_MEMORY}", 3,
    ),
    _row(
        "cuts_per_minute", "Cuts a minute", "", lambda f: f.cuts_per_minute,
        lambda v: _plain(v, 1),
        "Joins over running time. There is one fewer than there are shots.",
        "(n − 1) / minutes", COMMON,
    ),
    _row(
        "under", "Under the limit", "", lambda f: f.under, _percent,
        "The share of shots that are held shorter than a limit, which you set.",
        "number of x < limit, over n", COMMON,
    ),
    _row(
        "gradual", "Gradual joins", "", lambda f: f.gradual, _percent,
        "The share of joins that are no cuts: dissolves, fades, wipes and whips.",
        "gradual joins / joins", COMMON, 2,
    ),
    *(
        _row(
            kind.value, f"{kind.value.capitalize()}s", "", _of_kind(kind), _percent,
            f"The share of joins that are {kind.value}s.", f"{kind.value}s / joins", COMMON, 2,
        )
        for kind in Kind
    ),
    _row(
        "mixed", "Mixed time", "", lambda f: f.mixed, _percent,
        "The share of the time in which two shots are seen at once, or the picture fades.",
        "Σ spans of gradual joins / running time", COMMON,
    ),
    _row(
        "pace", "Pace, first to last", "s", lambda f: f.pace, lambda v: _signed(v, " s"),
        "By how much the average length of the last third of the time differs from that of the"
        " first. Below 0 the film quickens.",
        "mean(x, middles in the last third) − mean(x, middles in the first third)",
        COMMON, FEW_THIRDS,
    ),
    FigureRow(
        "slope", "Slope, s a minute", "s/min",
        lambda f: f.line.slope if f.line else None, _line_shown,
        "A straight line through lengths over time: so many seconds are added to a shot's length"
        " with each minute. It holds between the two figures with 95 % confidence, if lengths"
        " do not follow each other; where they do, it is less sure than that.",
        "least squares; slope ± t(0.975, n − 2) · standard error",
        f"NIST/SEMATECH e-Handbook of Statistical Methods, 4.1.4.1 {FROM_MEMORY};"
        " scipy.stats.linregress", FEW_LINE,
    ),
    FigureRow(
        "fit", "Log-normal fit", "p", lambda f: f.fit.p if f.fit else None, _fit_shown,
        "Lengths of shots are often log-normal: their logarithms are normal. A p under 0.05 says"
        " that these are not. A large p does not prove that they are. Film counts in whole"
        " frames, which makes a small p a little smaller.",
        "ln x ~ normal(mean of ln x, deviation of ln x); Shapiro and Wilk's W of ln x, of more"
        " than 5000 shots D'Agostino and Pearson's K²",
        f"S. S. Shapiro and M. B. Wilk, An analysis of variance test for normality, Biometrika"
        f" 52, 1965 {FROM_MEMORY}; B. Salt, Moving into Pictures, 2006, on log-normal lengths"
        f" {FROM_MEMORY}; scipy.stats.shapiro", FEW_FIT,
    ),
    _row(
        "echo", "Follows its like", "", _echo_value, _plain,
        "The autocorrelation at lag 1: above 0 a long shot tends to follow a long one and a short"
        " one a short one; below 0 they alternate.",
        "r(k) = Σ (x(t) − mean)(x(t+k) − mean) / Σ (x(t) − mean)²; bounds ±1.96"
        " √( (1 + 2 Σ r(i)², i < k) / n )",
        f"G. E. P. Box and G. M. Jenkins, Time Series Analysis, 1970 {FROM_MEMORY}; bounds after"
        f" M. S. Bartlett, 1946 {FROM_MEMORY}", FEW_ECHO,
    ),
    _row(
        "partial", "… beyond the next", "", _partial_value, _plain,
        "The partial autocorrelation at lag 2: what the shot before the last still tells once"
        " the last one is known.",
        "Yule and Walker's equations; bounds ±1.96 / √n",
        f"G. E. P. Box and G. M. Jenkins, Time Series Analysis, 1970 {FROM_MEMORY}; on films"
        f" J. E. Cutting, J. E. DeLong and C. E. Nothelfer, Attention and the evolution of"
        f" Hollywood film, Psychological Science 21, 2010 {FROM_MEMORY}", FEW_ECHO,
    ),
    _row(
        "holds", "… holds over", "shots", _holds, _holds_shown,
        "For so many shots on, a length still follows its like by more than chance.",
        "the lags from 1 on whose r lies above its bound", COMMON, FEW_ECHO,
    ),
    _row(
        "spectrum", "Spectrum’s slope", "",
        lambda f: f.spectrum.slope if f.spectrum else None, _plain,
        "How much of the change in length comes in long waves. 0 is no order at all; −1 is"
        " “one over f”, as attention itself is said to come and go.",
        "ln power over ln frequency of the periodogram, least squares over twelve pools of"
        " frequencies",
        f"J. E. Cutting, J. E. DeLong and C. E. Nothelfer, Attention and the evolution of"
        f" Hollywood film, Psychological Science 21, 2010 {FROM_MEMORY}; pools after"
        f" P. M. Robinson, 1995 {FROM_MEMORY}", FEW_SPECTRUM,
    ),
)  # fmt: skip
"""All figures, in the order they are read."""

KIND_ROWS = frozenset(kind.value for kind in Kind)
"""The rows of single kinds of join; on screen the row of gradual joins tells them."""


def detail_of(row: FigureRow, figures: Figures) -> str:
    """Return what more is known of a figure: its interval, its test, its parts; empty for none."""
    if row.id == "q1" and figures.q1 is not None and figures.q3 is not None:
        return f"The quartiles are {seconds_words(figures.q1)} and {seconds_words(figures.q3)}."
    if row.id == "gradual" and figures.joins:
        shares = ", ".join(f"{kind.value}s {_percent(share)}" for kind, share in figures.joins)
        return f"{shares[:1].upper()}{shares[1:]}."
    if row.id == "slope" and figures.line is not None:
        line = figures.line
        return (
            f"Between {_signed(line.low)} and {_signed(line.high)} s a minute; p {p_words(line.p)}."
        )
    if row.id == "fit" and figures.fit is not None and figures.log_mean is not None:
        fit = figures.fit
        return (
            f"{fit.test} {fit.statistic:.3f}; ln x has mean {_plain(figures.log_mean)}"
            f" and deviation {_plain(figures.log_sd)}."
        )
    if row.id == "echo" and figures.echo is not None:
        return f"By chance alone it would lie within ±{figures.echo.bounds[0]:.2f}."
    if row.id == "partial" and figures.echo is not None:
        return f"By chance alone it would lie within ±{figures.echo.partial_bound:.2f}."
    if row.id == "spectrum" and figures.spectrum is not None:
        s = figures.spectrum
        return f"Between {_plain(s.low)} and {_plain(s.high)} with 95 % confidence."
    if row.id == "pace" and figures.first_third is not None and figures.last_third is not None:
        return (
            f"{seconds_words(figures.first_third)} in the first third,"
            f" {seconds_words(figures.last_third)} in the last."
        )
    return ""
