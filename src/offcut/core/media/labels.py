"""What the label of a film says, and the orders that labels can lie in."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from offcut.core.media.proxy import slow_because
from offcut.core.media.runs import natural, numbers_words
from offcut.core.model.seam import Certainty
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Media, Source
from offcut.core.model.ticket import ProxyUse
from offcut.core.timecode import rate_words
from offcut.core.words import many, time_left

ORDERS = {
    "came": "as they came",
    "name": "by name",
    "size": "by size",
    "rate": "by rate",
    "codec": "by codec",
    "length": "by length",
    "shape": "by shape",
    "state": "by state",
}


@dataclass(frozen=True)
class UnderWay:
    """What the queue says of a film: ``share`` done of it (None while it waits), seconds left."""

    share: float | None = None
    left: float = 0.0
    words: str = "waiting"


@dataclass(frozen=True)
class State:
    """The state of a film in words; ``bad`` where it wants something of a person.

    ``share`` is how much of it is searched, 0 to 1; ``rank`` sorts states, what wants most first.
    """

    words: str
    bad: bool
    share: float
    rank: int


def running_time(frames: int, rate: Fraction) -> str:
    """Return a length as labels have it: 1:40, 1:12:59."""
    seconds = round(frames / rate)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02d}:{seconds:02d}" if hours else f"{minutes}:{seconds:02d}"


def facts_words(media: Media) -> str:
    """Return size, rate, codec and length of a film: 2048×1556  24  1:40  DPX 10 bit log."""
    parts = (f"{media.width}×{media.height}", rate_words(media.rate),
             running_time(media.frames, media.rate), media.codec)  # fmt: skip
    return "  ".join(part for part in parts if part)


def shape_of(source: Source) -> Fraction:
    """Return the width over the height that a film is seen at, inside its framing."""
    wide, high = source.framing.size(source.media)
    return Fraction(wide, max(1, high)) * source.media.pixel_shape


def state_of(
    source: Source, under_way: UnderWay | None, *, missing: bool, trouble: str = ""
) -> State:
    """Return the state of a film, what matters most first.

    ``trouble`` is why it could not be searched, a sentence that may begin with its path.
    """
    media, run = source.media, source.media.run
    if missing:
        return State("missing: find it", True, 0.0, 0)
    if under_way is not None and under_way.share is not None:
        left = time_left(under_way.left)
        words = f"{round(100 * under_way.share)} %{f', {left}' if left else ''}"
        return State(words, False, round(under_way.share, 2), 3)
    wants = ""
    if run is not None and run.many_missing:
        wants = f"{many(run.many_missing, 'picture')} missing"
    if run is not None and not run.rate_told:
        wants = f"tells no rate: {rate_words(media.rate)} taken"
    if wants and not source.searched:
        return State(wants, True, 0.0, 1)
    if under_way is not None:
        return State(under_way.words, False, 0.0, 4)
    if trouble:
        why = trouble.removeprefix(f"{media.path}: ")
        return State(f"not searched: {why}", True, 0.0, 1)
    if source.searched:
        counted = counted_seams(source)
        doubtful = sum(s.certainty is Certainty.DOUBTFUL and not s.judged for s in counted)
        words = many(len(counted), "seam") + (f", {doubtful} doubtful" if doubtful else "")
        asks = run is not None and not run.rate_told
        return State("; ".join(filter(None, (words, wants))), asks, 1.0, 2 if asks else 6)
    if source.ticket.proxy is ProxyUse.WHEN_SLOW and slow_because(media, None):
        return State("not searched; wants a proxy", False, 0.0, 5)
    return State("not searched", False, 0.0, 5)


def in_order(
    sources: Iterable[Source], order: str, states: Mapping[int, State]
) -> tuple[Source, ...]:
    """Return films in one of `ORDERS`; those alike in it by name."""

    def name(source: Source) -> tuple[tuple[int, str], ...]:
        return natural(Path(source.media.path).name)

    held = list(sources)
    keys: dict[str, Callable[[Source], Any]] = {
        "name": lambda s: (),
        "size": lambda s: -s.media.width * s.media.height,
        "rate": lambda s: s.media.rate,
        "codec": lambda s: s.media.codec.lower(),
        "length": lambda s: -s.media.frames / s.media.rate,
        "shape": lambda s: -shape_of(s),
        "state": lambda s: states[s.id].rank if s.id in states else 9,
    }
    key = keys.get(order)
    return tuple(held) if key is None else tuple(sorted(held, key=lambda s: (key(s), name(s))))


def lacking_words(sources: Sequence[Source]) -> str:
    """Say what runs of stills lack, pictures or a rate, in one line; empty where nothing."""
    gone = [s for s in sources if s.media.run is not None and s.media.run.many_missing]
    if not gone:
        asks = [s for s in sources if s.media.run is not None and not s.media.run.rate_told]
        if not asks:
            return ""
        name = asks[0].media.run.pattern if asks[0].media.run is not None else ""
        rate = rate_words(asks[0].media.rate)
        return f"{name} tells no rate: {rate} frames a second are taken; set the right ones"
    run = gone[0].media.run
    assert run is not None
    whole = run.last - run.first + 1
    there = whole - run.many_missing
    verb = "is" if run.many_missing == 1 else "are"
    words = (
        f"{run.head.rstrip('._- ') or run.pattern} holds {there:,} of {whole:,} pictures: "
        f"{numbers_words(run.missing, 3)} {verb} missing"
    )
    return f"{words}; so are others of {many(len(gone) - 1, 'film')}" if len(gone) > 1 else words


def one_or_differ(values: Iterable[object]) -> object | None:
    """Return what all values are, None where they differ."""
    seen = list(dict.fromkeys(values))
    return seen[0] if len(seen) == 1 else None
