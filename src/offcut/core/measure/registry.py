"""The registry of measurers: those that see each film that is measured, and all there are."""

from __future__ import annotations

from collections.abc import Iterable

from offcut.core.errors import OffcutError
from offcut.core.measure.change import Change
from offcut.core.measure.measurer import Measurer
from offcut.core.measure.prints import FinePrints, Prints
from offcut.core.measure.tones import Tones

CHANGE = Change()
TONES = Tones()
PRINTS = Prints()
FINE = FinePrints()

MEASURERS: tuple[Measurer, ...] = (CHANGE, TONES, PRINTS)
"""All that is measured in one decoding pass; a new measurer is a file and a line here."""


def measurers_named(names: Iterable[str]) -> tuple[Measurer, ...]:
    """Return measurers by their names. Raises OffcutError for one that is not there."""
    known = {m.name: m for m in (*MEASURERS, FINE)}
    found = []
    for name in names:
        if name not in known:
            raise OffcutError(f"there is no measurer “{name}”; there are: {', '.join(known)}")
        found.append(known[name])
    return tuple(found)
