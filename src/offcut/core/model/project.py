"""What a project is: frozen values and nothing else.

A frame number is the only coordinate; ranges are half-open [start, end). Shots are never stored:
`offcut.core.model.shots` derives them from the counted seams. Sources, seams, markers, scenes and
orders have ids that stay; positions are never used as names.
"""

from __future__ import annotations

from dataclasses import dataclass

from offcut.core.errors import OffcutError
from offcut.core.model.handover import Handover
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.source import Source


@dataclass(frozen=True, slots=True)
class Scene:
    """Shots that belong together, wherever they are; their cards name it by its id.

    ``pattern`` and ``tint`` are what its band looks like.
    """

    id: int
    name: str
    pattern: Pattern = Pattern.PLAIN
    tint: Tint = Tint.STONE


@dataclass(frozen=True, slots=True)
class ShotRef:
    """Which shot is meant: its source, and the seam that opens it (0 for the source's first)."""

    source: int
    seam: int = 0


@dataclass(frozen=True, slots=True)
class OrderUse:
    """One place of a running order: a shot, or a piece of a film picked by hand.

    ``shot`` is None for a piece. ``start`` and ``end`` are the frames [start, end) of this use
    alone; where one is None it is the shot's, and goes along when that is rolled. They may lie
    beyond the shot. A piece has both. ``name`` is a piece's own.
    """

    id: int
    source: int
    shot: ShotRef | None
    start: int | None = None
    end: int | None = None
    name: str = ""


@dataclass(frozen=True, slots=True)
class Order:
    """A running order: shots of any sources in an order of one's own, the same one twice if wished.

    A use whose seam does not count now stays in the order and shows nothing.
    """

    id: int
    name: str
    uses: tuple[OrderUse, ...] = ()

    def use(self, use_id: int) -> OrderUse:
        """Return the use of that id; OffcutError when the order has none."""
        for use in self.uses:
            if use.id == use_id:
                return use
        raise OffcutError(f"the running order {self.name} has no place {use_id}")


@dataclass(frozen=True, slots=True)
class Ruling:
    """What a person says a shot of a new version was made from, whatever the pictures say.

    ``against`` is the id of the film it is held against; ``old`` the shot of that, None for none.
    ``offset`` leads from a frame of
    the new film to that of the old one, None where the pictures are to tell.
    """

    new: ShotRef
    against: int
    old: ShotRef | None
    offset: int | None = None


@dataclass(frozen=True, slots=True)
class Project:
    """All that is saved. Which source a window has in hand is no part of it.

    ``waved`` are groups of shots that were suggested to be one place, and waved away; ``rulings``
    are what was said of shots of one film held against another.
    """

    name: str = "Untitled"
    sources: tuple[Source, ...] = ()
    scenes: tuple[Scene, ...] = ()
    orders: tuple[Order, ...] = ()
    record_start: str = "01:00:00:00"
    next_id: int = 1
    handovers: tuple[Handover, ...] = ()
    waved: tuple[tuple[ShotRef, ...], ...] = ()
    rulings: tuple[Ruling, ...] = ()

    def source(self, source_id: int) -> Source:
        """Return the source of that id; OffcutError when the project has none."""
        for source in self.sources:
            if source.id == source_id:
                return source
        raise OffcutError(f"there is no film {source_id} in this project")

    def holds(self, source_id: int) -> bool:
        """Tell whether the project has a source of that id."""
        return any(source.id == source_id for source in self.sources)

    def scene_name(self, scene_id: int) -> str:
        """Return the name of a scene, empty for none."""
        return next((s.name for s in self.scenes if s.id == scene_id), "")

    def scene(self, scene_id: int) -> Scene | None:
        """Return the scene of that id, None where there is none."""
        return next((s for s in self.scenes if s.id == scene_id), None)

    def order(self, order_id: int) -> Order:
        """Return the running order of that id; OffcutError when the project has none."""
        for order in self.orders:
            if order.id == order_id:
                return order
        raise OffcutError(f"there is no running order {order_id} in this project")
