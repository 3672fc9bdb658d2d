"""Comparing: how lengths of one thing differ from another's, and whether by more than chance."""

from __future__ import annotations

from dataclasses import dataclass

from scipy import stats

from offcut.core.rhythm.figures import Figures
from offcut.core.rhythm.lengths import ShotLengths

CHANCE = 0.05
FEW = 5
"""With fewer shots on either side a rank test can hardly ever tell anything."""


@dataclass(frozen=True, slots=True)
class Difference:
    """One thing held beside another.

    Attributes: ``longer`` the share of pairs, one shot of each, in which this one's is held
    longer, ties counted half; ``p`` how likely chance alone gives a difference as large (Mann and
    Whitney's rank test, both sides), None where there are too few; ``words`` it in a sentence.
    """

    longer: float | None
    p: float | None
    words: str


def compared(
    this: ShotLengths, figures: Figures, other: ShotLengths, others: Figures
) -> Difference:
    """Hold lengths beside others, and say in plain words what differs."""
    a, b = this.held, other.held
    name = other.name
    if not len(a) or not len(b):
        return Difference(None, None, f"There is nothing to hold beside {name}.")
    assert figures.median is not None
    assert others.median is not None
    found = stats.mannwhitneyu(a, b, alternative="two-sided", method="auto")
    longer = float(found.statistic) / (len(a) * len(b))
    facts = f"the median is {seconds_words(figures.median)} against {seconds_words(others.median)}"
    rates = (figures.cuts_per_minute, others.cuts_per_minute)
    if rates[0] and rates[1]:
        facts += f", with {rates[0]:.1f} against {rates[1]:.1f} cuts a minute"
    if min(len(a), len(b)) < FEW:
        fewer = min(len(a), len(b))
        shots = "1 shot is" if fewer == 1 else f"{fewer} shots are"
        return Difference(
            longer, None, f"Beside {name} {facts}; {shots} too few to tell it from chance."
        )
    p = float(found.pvalue)
    if p >= CHANCE:
        head = f"Shots are held about as long as in {name}"
        tail = f"what differs may be chance (p {p_words(p)})"
    else:
        way = "longer" if longer > 0.5 else "shorter"
        head = f"Shots are held {way} than in {name}"
        share = round(100 * max(longer, 1 - longer))
        tail = f"{share} of 100 pairs say so, more than chance gives (p {p_words(p)})"
    return Difference(longer, p, f"{head}: {facts}; {tail}.")


def share_words(share: float) -> str:
    """Return in words than which share of the others a shot is held longer, 0 to 1."""
    tenth = round(share * 10)
    if share >= 1:
        return "the longest shot here"
    if share <= 0:
        return "the shortest shot here"
    if tenth in (0, 10):
        return f"{'longer' if tenth else 'shorter'} than nearly all shots here"
    return f"longer than {tenth} in 10 shots here"


def p_words(p: float) -> str:
    """Return a probability as people write it: 0.41, 0.003, under 0.001."""
    if p < 0.001:
        return "under 0.001"
    return f"{p:.3f}" if p < 0.1 else f"{p:.2f}"


def seconds_words(seconds: float) -> str:
    """Return a length as people say it: 2.31 s, 48.2 s, 1:19."""
    if abs(seconds) < 9.995:
        return f"{seconds:.2f} s"
    if abs(seconds) < 59.95:
        return f"{seconds:.1f} s"
    return running_words(seconds)


def running_words(seconds: float) -> str:
    """Return a running time as people say it: 0:48, 1:19, 1:32:10."""
    whole = round(abs(seconds))
    minutes, rest = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60)
    words = f"{hours}:{minutes:02d}:{rest:02d}" if hours else f"{minutes}:{rest:02d}"
    return f"-{words}" if seconds < 0 else words
