"""Facts kept on disk, shot by shot: what was told once is told at once wherever it is asked for.

They lie beside the film's kept signals, and go with them. A shot that has other ends now is another
one; rules that changed have another number, limits of grades that are not the usual ones a key, and
a group of facts carries the versions of what they were told from. Beside them lies the frame of
each shot that tells most of it.
"""

from __future__ import annotations

import contextlib
import json
import math
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from offcut.core.facts.fact import Fact, FactCertainty, Sort
from offcut.core.facts.grades import grades_in_force
from offcut.core.files import sealed, unsealed, write_whole
from offcut.core.measure.faces import FACES
from offcut.core.measure.kept_signals import KeptSignals
from offcut.core.measure.measurer import Kept
from offcut.core.measure.registry import GROUND, LIGHT
from offcut.core.measure.small_pictures import crop_of
from offcut.core.model.source import Source

RULES = 2
"""To be raised with every change of what is told of the same signals."""
Bounds = tuple[int, int]
_MOST_SHOTS = 40_000
"""Of so many shots facts are kept; those of older cuts of the film go first."""


def named(group: str, *kinds: Kept) -> str:
    """Return a group's name with the versions of the signals that it is told from."""
    return f"{group} {'.'.join(str(kind.version) for kind in kinds)}"


_STILLS = named("stills", LIGHT, GROUND, FACES)


class KeptFacts:
    """What is kept of one film as it is framed, by group ("camera", "light", ...) and shot."""

    def __init__(self, source: Source) -> None:
        key = grades_in_force().key
        name = f"facts-{RULES}{'-' if key else ''}{key}.json"
        self._file = KeptSignals(source.media, crop_of(source)).folder / name
        self._held = _read(self._file)
        self._new = False

    def has(self, group: str, bounds: Bounds) -> bool:
        """Tell whether a group of facts of a shot is kept."""
        return _name(bounds) in self._held.get(group, {})

    def of(self, group: str, bounds: Bounds) -> list[Fact]:
        """Return the kept facts of a shot."""
        rows = self._held.get(group, {}).get(_name(bounds), ())
        return [f for row in rows if (f := _fact(row)) is not None]

    def put(self, group: str, bounds: Bounds, facts: Iterable[Fact]) -> None:
        """Take facts of a shot in; `write` keeps them."""
        self._put(group, bounds, [_row(f) for f in facts])

    def _put(self, group: str, bounds: Bounds, rows: Sequence[Any]) -> None:
        if group not in self._held:
            stem = group.partition(" ")[0]
            for older in [g for g in self._held if g.partition(" ")[0] == stem]:
                del self._held[older]
        shots = self._held.setdefault(group, {})
        shots[_name(bounds)] = rows
        for name in list(shots)[: max(0, len(shots) - _MOST_SHOTS)]:
            del shots[name]
        self._new = True

    def has_still(self, bounds: Bounds) -> bool:
        """Tell whether it is kept which frame of a shot tells most."""
        return _name(bounds) in self._held.get(_STILLS, {})

    def still(self, bounds: Bounds) -> int | None:
        """Return the frame that tells most of a shot, None where it is not known."""
        told = self._held.get(_STILLS, {}).get(_name(bounds), ())
        frame = next(iter(told), None)
        return frame if isinstance(frame, int) and bounds[0] <= frame < bounds[1] else None

    def put_still(self, bounds: Bounds, frame: int | None) -> None:
        """Take in which frame tells most of a shot; None where none does."""
        self._put(_STILLS, bounds, [] if frame is None else [frame])

    def write(self) -> None:
        """Keep what was taken in; a full disk only means that it is told anew."""
        if not self._new:
            return
        data = json.dumps(self._held, separators=(",", ":")).encode()
        with contextlib.suppress(OSError):
            self._file.parent.mkdir(parents=True, exist_ok=True)
            write_whole(self._file, sealed(data))
            _told[self._file] = (*_stamp(self._file), self._held)
        self._new = False


_Held = dict[str, dict[str, Sequence[Any]]]
_told: dict[Path, tuple[int, int, _Held]] = {}
_MOST_TOLD = 8


def _stamp(file: Path) -> tuple[int, int]:
    told = file.stat()
    return told.st_mtime_ns, told.st_size


def _read(file: Path) -> _Held:
    try:
        stamp = _stamp(file)
        known = _told.get(file)
        if known is None or known[:2] != stamp:
            held = json.loads(unsealed(file.read_bytes()))
            if not isinstance(held, dict) or not all(isinstance(v, dict) for v in held.values()):
                return {}
            while len(_told) >= _MOST_TOLD:
                _told.pop(next(iter(_told)), None)
            _told[file] = known = (*stamp, held)
    except (OSError, ValueError):  # not there, or harmed: told anew
        return {}
    return {group: dict(shots) for group, shots in known[2].items()}


def _name(bounds: Bounds) -> str:
    return f"{bounds[0]}-{bounds[1]}"


def _row(fact: Fact) -> list[Any]:
    return [
        fact.sort.value, fact.value, fact.start, fact.end, fact.certainty.value, dict(fact.figures),
    ]  # fmt: skip


def _fact(row: Any) -> Fact | None:
    """Return a kept fact; None where what is kept is none."""
    try:
        sort, value, start, end, certainty, figures = row
        made = {str(k): tuple(v) if isinstance(v, list) else v for k, v in figures.items()}
        whole = isinstance(start, int) and isinstance(end, int)
        plain = isinstance(value, str) or (isinstance(value, int | float) and math.isfinite(value))
        if not whole or not plain:
            return None
        return Fact(Sort(sort), value, start, end, FactCertainty(certainty), made)
    except (ValueError, TypeError, AttributeError):
        return None
