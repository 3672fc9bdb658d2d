"""Runs of stills opened: the facts in their headers, and what is not right with them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

from offcut.core.errors import MediaError
from offcut.core.media.opened import OpenedFilm, start_of
from offcut.core.media.runs import FoundRun, numbers_words, run_at
from offcut.core.media.stills import (
    LOOKS,
    Header,
    fingerprint_of_run,
    header_of,
    index_of_run,
    looked_at,
)
from offcut.core.model.run import Run
from offcut.core.model.source import Media
from offcut.core.words import many


def opened_run(found: FoundRun, like: Run | None = None) -> OpenedFilm:
    """Return a run of stills ready to be read. Raises MediaError with a sentence naming it.

    Its holes are treated as those of ``like``. Where no picture tells a rate, 24 is taken.
    """
    folder, run = found.folder, found.run
    head: Header | None = None
    problem: MediaError | None = None
    others: dict[tuple[int, int], int] = {}
    for number in looked_at(run, LOOKS):
        try:
            seen = header_of(folder / run.name_of(number))
        except MediaError as error:
            problem = problem or error
            continue
        head = head or seen
        if (seen.width, seen.height) != (head.width, head.height):
            others.setdefault((seen.width, seen.height), number)
    if head is None:
        raise problem or MediaError(f"{found.path}: not one picture of it can be read")
    try:
        print_ = fingerprint_of_run(folder, run)
    except OSError as error:
        raise MediaError(f"{found.path}: cannot be read ({error.strerror})") from error
    rate = head.rate or Fraction(24)
    run = replace(
        run, rate_told=head.rate is not None, holes=like.holes if like is not None else run.holes
    )
    start, drop = start_of(head.timecode, rate)
    media = Media(
        path=str(found.path.resolve()),
        rate=rate,
        frames=run.frames,
        width=head.width,
        height=head.height,
        start=start or 0,
        drop=drop,
        pixel_shape=head.shape,
        fingerprint=print_,
        codec=head.codec,
        run=run,
    )
    return OpenedFilm(
        media,
        index_of_run(run, rate),
        tuple(_notes_of_run(found, head, others, start is None)),
        log=head.log,
        reel=head.reel,
        device=head.device,
    )


def _notes_of_run(
    found: FoundRun, head: Header, others: dict[tuple[int, int], int], odd_timecode: bool
) -> Iterator[str]:
    """Yield what is not right with a run, a sentence each."""
    run, name = found.run, " ".join(found.run.pattern.split())
    if run.many_missing:
        gone = many(run.many_missing, "picture")
        yield f"{name} lacks {gone}: {numbers_words(run.missing)}"
    if head.rate is None:
        yield f"{name} tells no rate: 24 frames per second are taken until another is set"
    for (width, height), number in others.items():
        yield (
            f"{name} changes its size at {number} to {width}x{height}: "
            f"what is not {head.width}x{head.height} counts as damaged"
        )
    if odd_timecode:
        shown = head.timecode[:40]
        yield f"{name}: its start timecode “{shown}” makes no sense; it is counted from 0"
    again = run_at(found.path)
    if again is not None and again.run.last > run.last:
        yield f"{name} is still being written: it ends at {again.run.last} now; open it again"
