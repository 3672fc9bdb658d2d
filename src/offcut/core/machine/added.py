"""What other packages add to Offcut, by entry points: list forms, measurers, displays, views.

What cannot be loaded, or is not what its group wants, is left out and told in a sentence; nothing
else is touched by it. See docs/extending.md.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from importlib.metadata import EntryPoint, entry_points
from typing import TypeVar

LIST_FORMS = "offcut.list_forms"
MEASURERS = "offcut.measurers"
DISPLAYS = "offcut.displays"
VIEWS = "offcut.views"

_T = TypeVar("_T")
_left_out: dict[tuple[str, str], str] = {}


@cache
def _all() -> dict[str, tuple[EntryPoint, ...]]:
    found = entry_points()
    return {
        group: tuple(sorted(found.select(group=group), key=lambda e: (e.name, e.value)))
        for group in (LIST_FORMS, MEASURERS, DISPLAYS, VIEWS)
    }


def added(group: str, kind: type[_T], fault: Callable[[_T], str]) -> tuple[_T, ...]:
    """Return what packages add to a group, in the order of the names it has there.

    Each is of a ``kind``, or made without arguments by what is named; ``fault`` says in a few words
    why one cannot be taken, empty where it can.
    """
    taken: list[_T] = []
    for point in _all()[group]:
        try:
            thing = point.load()
            if isinstance(thing, type):
                thing = thing()
            why = fault(thing) if isinstance(thing, kind) else f"it is no {kind.__name__}"
        except Exception as error:  # whatever a package of others does
            why = f"{type(error).__name__}: {error}" if str(error) else type(error).__name__
        if why:
            leave_out(group, point.name, why, point.dist.name if point.dist is not None else "")
        else:
            taken.append(thing)
    return tuple(taken)


def leave_out(group: str, name: str, why: str, package: str = "") -> None:
    """Remember that something added is not used any more, and why."""
    whose = f"{package}: " if package else ""
    words = f"{whose}“{name}” of {group} cannot be used and is left out"
    _left_out[group, name] = f"{words} ({' '.join(why.split())[:200]})"


def is_left_out(group: str, name: str) -> bool:
    """Tell whether something added is not used any more."""
    return (group, name) in _left_out


def left_out() -> tuple[str, ...]:
    """Return sentences about what was left out so far."""
    return tuple(_left_out.values())


def forget() -> None:
    """Look for what is added anew, as where packages came or went."""
    _all.cache_clear()
    _left_out.clear()
