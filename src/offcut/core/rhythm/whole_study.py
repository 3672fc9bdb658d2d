"""A whole study: lengths, their figures, what is held beside them, and how it is shown."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from offcut.core.model.project import Scene
from offcut.core.rhythm.comparing import Difference, compared
from offcut.core.rhythm.figures import Figures, figures_of
from offcut.core.rhythm.lanes import Lanes
from offcut.core.rhythm.lengths import ShotLengths
from offcut.core.rhythm.noted import Note
from offcut.core.rhythm.usual import LIMIT, SMOOTHING


@dataclass(frozen=True, eq=False)
class Beside:
    """One thing held beside what is studied: its ``lengths`` and ``figures``, and those of this."""

    lengths: ShotLengths
    figures: Figures
    this: ShotLengths
    this_figures: Figures

    @cached_property
    def compared(self) -> Difference:
        """How this differs from it; worked out when it is first asked for."""
        return compared(self.this, self.this_figures, self.lengths, self.figures)


@dataclass(frozen=True)
class Manner:
    """How a study is shown.

    ``limit`` seconds under which shots are short; ``smoothing`` how many shots wide the pace is
    smoothed; ``log`` True for logarithmic lengths; ``true_time`` True where what is beside lies
    in its own seconds, else it is stretched to the same width; ``window`` seconds of the sliding
    minute, 0 for the usual.
    """

    limit: float = LIMIT
    smoothing: int = SMOOTHING
    log: bool = False
    true_time: bool = False
    window: float = 0.0


@dataclass(frozen=True, eq=False)
class WholeStudy:
    """All that a page of a study shows. ``title`` is the project's or the file's name.

    ``notes`` are what was found in the shots, by lanes, for the page.
    """

    title: str
    lengths: ShotLengths
    figures: Figures
    beside: tuple[Beside, ...] = ()
    manner: Manner = Manner()
    scenes: Mapping[int, Scene] = field(default_factory=dict)
    lanes: Lanes | None = None
    notes: Mapping[str, tuple[Note, ...]] = field(default_factory=dict)


def whole_study(
    title: str,
    lengths: ShotLengths,
    beside: Sequence[ShotLengths] = (),
    manner: Manner | None = None,
    scenes: Sequence[Scene] = (),
    lanes: Lanes | None = None,
    count: Callable[[ShotLengths, float], Figures] = figures_of,
) -> WholeStudy:
    """Work out the figures of lengths and of all that is beside them.

    ``count`` counts them, or remembers what it counted.
    """
    shown = manner or Manner()
    figures = count(lengths, shown.limit)
    held = [Beside(other, count(other, shown.limit), lengths, figures) for other in beside]
    return WholeStudy(title, lengths, figures, tuple(held), shown, {s.id: s for s in scenes}, lanes)
