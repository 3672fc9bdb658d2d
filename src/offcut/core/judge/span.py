"""A span: where a gradual seam is thinkable, from its first mixed to its first clean frame."""

from __future__ import annotations

from dataclasses import dataclass

from offcut.core.model.seam import Kind

LONGEST = 121
"""Frames of the longest one that is looked for."""


@dataclass(frozen=True)
class Span:
    """A thinkable seam that takes its time: first mixed frame, first clean frame, and kind.

    Of kind cut it is a camera stop: its frames are flash frames.
    """

    start: int
    end: int
    kind: Kind

    @property
    def middle(self) -> float:
        """Halfway between its first mixed and its first clean frame."""
        return (self.start + self.end) / 2
