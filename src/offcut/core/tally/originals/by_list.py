"""Originals by what is said of them: reel and timecode, or a name."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

from offcut.core.model.card import Original
from offcut.core.model.seam import Certainty, Reason
from offcut.core.model.shots import Shot
from offcut.core.tally.naming import key_of_name
from offcut.core.tally.originals.clips import By, Clip, Match
from offcut.core.timecode import rate_words

_SHORTEST = 5
"""A name a list cut short to eight letters is known by so many at least."""


class Shelf:
    """The clips by their reels and names."""

    def __init__(self, clips: Sequence[Clip]) -> None:
        self._clips = clips
        self._by_name: dict[str, list[int]] = defaultdict(list)
        for n, clip in enumerate(clips):
            path = Path(clip.media.path)
            for key in {key_of_name(w) for w in (clip.reel, path.stem, path.name)} - {""}:
                self._by_name[key].append(n)

    def called(self, name: str) -> list[int]:
        """Return the clips of a reel or a name; those that begin with it where none is just so."""
        key = key_of_name(name)
        if not key:
            return []
        if key in self._by_name:
            return self._by_name[key]
        if len(key) < _SHORTEST:
            return []
        return sorted({n for k, held in self._by_name.items() if k.startswith(key) for n in held})

    def by_timecode(self, shot: Shot, rate: Fraction) -> Match | None:
        """Return the clip that holds a shot's source timecode on its reel, None for none."""
        original = shot.card.original
        if original is None or not (original.reel or original.clip):
            return None
        asked = dict.fromkeys((*self.called(original.reel), *self.called(original.clip)))
        holding = [n for n in asked if self._holds(n, original, shot)]
        if not holding:
            return None
        reasons = [Reason(f"reel {original.reel or original.clip} and timecode")]
        certainty = Certainty.SURE
        if len(holding) > 1:
            certainty = Certainty.DOUBTFUL
            reasons.append(
                Reason(f"{len(holding)} files of that reel hold it", 0.6, True, "several")
            )
        clip = self._clips[holding[0]]
        if clip.media.rate != rate:
            words = (
                f"the file runs at {rate_words(clip.media.rate)}, the film at {rate_words(rate)}"
            )
            reasons.append(Reason(words, 0.2, True, "rate"))
        first = original.timecode_at(shot.start) - clip.media.start
        return Match(
            holding[0], first, original.speed, By.TIMECODE,
            certainty=certainty, reasons=tuple(reasons),
        )  # fmt: skip

    def _holds(self, place: int, original: Original, shot: Shot) -> bool:
        media = self._clips[place].media
        first, last = original.span(shot.start, shot.end)
        return media.start <= first and last <= media.start + media.frames

    def by_name(self, shot: Shot) -> list[int]:
        """Return the clips a shot is named after, by its original's clip name or its own."""
        original = shot.card.original
        names = (original.clip, original.reel, shot.card.name) if original else (shot.card.name,)
        return next((held for name in names if (held := self.called(name))), [])
