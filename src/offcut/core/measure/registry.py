"""The registry of measurers: those that see each film that is measured, and all there are."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from functools import cache

from offcut.core.errors import OffcutError
from offcut.core.machine.added import MEASURERS as GROUP
from offcut.core.machine.added import added, is_left_out, leave_out
from offcut.core.measure.camera import Camera
from offcut.core.measure.change import ChangeMeasurer
from offcut.core.measure.ground import Ground
from offcut.core.measure.light import Light
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.prints import FinePrints, Prints
from offcut.core.measure.tones import Tones

CHANGE = ChangeMeasurer()
TONES = Tones()
PRINTS = Prints()
FINE = FinePrints()
CAMERA = Camera()
LIGHT = Light()
GROUND = Ground()

OURS: tuple[Measurer, ...] = (CHANGE, TONES, PRINTS)
"""What we measure in one decoding pass; a new measurer is a file and a line here."""

LATER: tuple[Measurer, ...] = (CAMERA, LIGHT, GROUND)
"""What tells what is in a shot: measured in a pass of its own once the seams are there."""
_ALL = (*OURS, FINE, *LATER)


@cache
def _added() -> tuple[Measurer, ...]:
    known = {m.name for m in _ALL}

    def fault(measurer: Measurer) -> str:
        if measurer.name in known:
            return f"there is a measurer called {measurer.name}"
        if not re.fullmatch(r"[a-z][a-z0-9_]*", measurer.name):
            return f"“{measurer.name}” is no name: small letters, digits and low lines"
        if not measurer.arrays or not isinstance(measurer.version, int):
            return "it names no arrays, or its version is no number"
        known.add(measurer.name)
        return ""

    return added(GROUP, Measurer, fault)  # type: ignore[type-abstract]


def measurers() -> tuple[Measurer, ...]:
    """Return all that is measured in one decoding pass: ours, and what packages add."""
    return OURS + tuple(m for m in _added() if not is_left_out(GROUP, m.name))


@contextmanager
def left_out_if_it_fails(measurer: Measurer) -> Iterator[None]:
    """Leave a measurer of another package out from here on where it fails; ours raise."""
    try:
        yield
    except Exception as error:
        if measurer in _ALL:
            raise
        leave_out(GROUP, measurer.name, f"{type(error).__name__}: {error}")


def measurers_named(names: Iterable[str]) -> tuple[Measurer, ...]:
    """Return measurers by their names. Raises OffcutError for one that is not there."""
    known = {m.name: m for m in (*measurers(), FINE, *LATER)}
    found = []
    for name in names:
        if name not in known:
            raise OffcutError(f"there is no measurer “{name}”; there are: {', '.join(known)}")
        found.append(known[name])
    return tuple(found)
