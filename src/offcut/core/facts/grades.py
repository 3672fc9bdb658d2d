"""The limits of grades: from which figure on a shot is dark, bright, or held by a shaking hand.

They are a person's own, for the window and the command line alike: a small file in the folder of
settings, `fact-limits.json`, that says which of them are other than usual.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import math
from dataclasses import asdict, dataclass, fields
from pathlib import Path

import platformdirs

from offcut.core.errors import OffcutError
from offcut.core.files import write_whole


@dataclass(frozen=True, slots=True)
class Grades:
    """Limits between grades.

    Attributes: ``slight``, ``medium``, ``strong`` per cent of the picture's width that the camera's
    path strays, from which a hand shakes so; ``dark``, ``low`` stops about 18 % grey under which a
    picture is so, ``bright`` over which; ``burnt`` per cent of clipped tones from which it is burnt
    out; ``soft`` share of fine detail under which it is out of focus.
    """

    slight: float = 0.1
    medium: float = 0.35
    strong: float = 1.1
    dark: float = -2.5
    low: float = -1.0
    bright: float = 1.0
    burnt: float = 25.0
    soft: float = 0.11

    @property
    def steadiness(self) -> tuple[float, float, float]:
        """The limits of steadiness, in picture widths."""
        return round(self.slight / 100, 9), round(self.medium / 100, 9), round(self.strong / 100, 9)

    @property
    def light(self) -> tuple[float, float, float]:
        """The limits of light, in stops."""
        return self.dark, self.low, self.bright

    @property
    def key(self) -> str:
        """What tells these limits from others, empty for the usual ones."""
        if self == USUAL:
            return ""
        return hashlib.blake2b(json.dumps(asdict(self)).encode(), digest_size=6).hexdigest()


USUAL = Grades()
NAMES = tuple(f.name for f in fields(Grades))


def grades_file() -> Path:
    """Return where limits other than the usual ones are kept."""
    return Path(platformdirs.user_config_path("offcut")) / "fact-limits.json"


def grades_in_force() -> Grades:
    """Return the limits in force; what a harmed file says is as if it said nothing."""
    file = grades_file()
    try:
        stamp = file.stat().st_mtime_ns, file.stat().st_size
    except OSError:
        return USUAL
    if _held is None or _held[:2] != (file, stamp):
        return _read(file, stamp)
    return _held[2]


_held: tuple[Path, tuple[int, int], Grades] | None = None


def _read(file: Path, stamp: tuple[int, int]) -> Grades:
    global _held
    made = USUAL
    with contextlib.suppress(OSError, ValueError, OffcutError, RecursionError):
        told = json.loads(file.read_text(encoding="utf-8"))
        if isinstance(told, dict):
            made = checked({k: v for k, v in told.items() if k in NAMES})
    _held = file, stamp, made
    return made


def checked(told: dict[str, object]) -> Grades:
    """Return limits, the usual ones where nothing is said. Raises OffcutError."""
    numbers: dict[str, float] = {}
    for name, value in told.items():
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if name not in NAMES or not number or not math.isfinite(float(str(value))):
            raise OffcutError(f"“{name}” is no limit, or “{value}” no number")
        numbers[name] = float(str(value))
    made = Grades(**numbers)
    if not 0 < made.slight < made.medium < made.strong <= 100:
        raise OffcutError("slight, medium and strong shaking must rise, from over 0 to 100 %")
    if not -12 <= made.dark < made.low < made.bright <= 12:
        raise OffcutError("dark, low and bright must rise, from -12 to 12 stops")
    if not 0 < made.burnt <= 100:
        raise OffcutError("burnt out begins between 0 and 100 % of clipped tones")
    if not 0 < made.soft < 10:
        raise OffcutError("soft begins between 0 and 10")
    return made


def keep_grades(grades: Grades) -> None:
    """Put limits in force and keep them. Raises OffcutError where they cannot be kept."""
    file = grades_file()
    told = {
        name: getattr(grades, name)
        for name in NAMES
        if getattr(grades, name) != getattr(USUAL, name)
    }
    try:
        if not told:
            file.unlink(missing_ok=True)
            return
        file.parent.mkdir(parents=True, exist_ok=True)
        write_whole(file, (json.dumps(told, indent=1) + "\n").encode())
    except OSError as error:
        raise OffcutError(f"{file}: cannot be written ({error.strerror})") from error
