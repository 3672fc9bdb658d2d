"""Slivers: suspiciously short shots, and what counts as short in a film."""

from __future__ import annotations

import numpy as np

from offcut.core.model.shots import Shot, shot_lengths, shots_of
from offcut.core.model.source import Source


def slivers_of(source: Source, limit: int) -> tuple[Shot, ...]:
    """Return the shots of fewer than ``limit`` frames that are not set aside, shortest first."""
    short = [s for s in shots_of(source) if s.length < limit and not s.card.set_aside]
    return tuple(sorted(short, key=lambda s: (s.length, s.start)))


def suggested_limit(source: Source, second: int) -> int:
    """Suggest a limit for slivers from the film's own lengths, in frames.

    Lengths of shots spread evenly on a log scale (Salt 1974, "Statistical style analysis of
    motion pictures", from memory, found them near log-normal); what lies under a sixth of the
    median is suspiciously short. Between 3 frames and a second (``second`` frames).
    """
    lengths = shot_lengths(source)
    usual = float(np.median(lengths)) if len(lengths) else second
    return max(3, min(second, round(usual / 6)))
