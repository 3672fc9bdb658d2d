"""Runs of stills found in folders: which numbered pictures belong together, and what is missing."""

from __future__ import annotations

import os
import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from offcut.core.errors import MediaError
from offcut.core.model.rules import MAX_HOLES, MAX_NUMBER
from offcut.core.model.run import Run

_KINDS = "dpx cin exr tif tiff png jpg jpeg jp2 j2k j2c jpc"
STILLS = frozenset(f".{name}" for name in _KINDS.split())
"""What the names of stills end in. Whether they are pictures is told by looking at the first."""
MOST_FRAMES = 20_000_000
_DIGITS = re.compile(r"\d+")
_LAST = re.compile(r".*?(\d+)\D*$", re.DOTALL)
_PATTERN = re.compile(r"^(.*)\[(\d+)-(\d+)\](.*)$", re.DOTALL)
_MARKS = (
    b"SDPX", b"XPDS", b"\x80\x2a\x5f\xd7", b"\xd7\x5f\x2a\x80", b"\x76\x2f\x31\x01", b"II*\x00",
    b"MM\x00*", b"II+\x00", b"MM\x00+", b"\x89PNG", b"\xff\xd8\xff", b"\x00\x00\x00\x0cjP",
    b"\xff\x4f\xff\x51",
)  # fmt: skip
"""What the files begin with: SMPTE ST 268 (both byte orders), Cineon, OpenEXR, TIFF, BigTIFF, PNG,
JPEG, JPEG 2000 as a file and bare."""


@dataclass(frozen=True)
class FoundRun:
    """Numbered stills of a folder that read as one film."""

    folder: Path
    run: Run

    @property
    def path(self) -> Path:
        """The way to the run as a whole: its folder and its pattern."""
        return self.folder / self.run.pattern


def is_still(path: Path) -> bool:
    """Tell whether a file is a picture, by what it begins with. Raises OSError."""
    with path.open("rb") as data:
        return data.read(12).startswith(_MARKS)


def is_run_path(path: str | Path) -> bool:
    """Tell whether a path names a run as a whole, such as K07_[0000-2411].dpx."""
    file = Path(path)
    return _PATTERN.match(file.name) is not None and not os.path.lexists(file)


def runs_among(names: Iterable[str], folder: Path) -> tuple[list[FoundRun], list[str]]:
    """Return the runs that names of files in a folder make, by name, and the names left over.

    Only names that end as stills' names do are looked at. Of several numbers in a name the last
    counts, or an earlier one where only that makes a run.
    """
    groups: dict[tuple[str, str], list[str]] = defaultdict(list)
    rest: list[str] = []
    endings: dict[str, bool] = {}
    for name in names:
        dot = name.rfind(".")
        ending = name[dot:]
        still = endings.get(ending)
        if still is None:
            still = endings[ending] = dot > 0 and ending.lower() in STILLS
        match = _LAST.match(name, 0, dot) if still else None
        if match is None:
            rest.append(name)
        else:
            first, last = match.span(1)
            groups[name[:first], name[last:]].append(name[first:last])
    _by_other_numbers(groups)
    found: list[FoundRun] = []
    for (head, tail), numbers in groups.items():
        for run in _runs_of(head, tail, numbers):
            if run is None or run.first == run.last:
                rest += (
                    [head + n + tail for n in numbers] if run is None else [run.name_of(run.first)]
                )
            else:
                found.append(FoundRun(folder, run))
    return sorted(found, key=lambda f: natural(f.run.pattern)), sorted(rest, key=natural)


def _by_other_numbers(groups: dict[tuple[str, str], list[str]]) -> None:
    """Put names that are alone by their last number together by an earlier one, where that does."""
    alone = [key for key, numbers in groups.items() if len(numbers) == 1]
    spots: dict[str, list[tuple[int, int]]] = {}
    many: dict[tuple[str, str], int] = defaultdict(int)
    for head, tail in alone:
        name = head + groups[head, tail][0] + tail
        spots[name] = [m.span() for m in _DIGITS.finditer(name, 0, name.rfind("."))][-6:]
        for first, last in spots[name]:
            many[name[:first], name[last:]] += 1
    for key in alone:
        name = key[0] + groups[key][0] + key[1]
        keys = [(name[:first], name[last:]) for first, last in spots[name]]
        best = max(reversed(keys), key=lambda k: many[k])
        if best != key:
            del groups[key]
            groups[best].append(name[len(best[0]) : len(name) - len(best[1])])


def _runs_of(head: str, tail: str, numbers: list[str]) -> Iterator[Run | None]:
    """Yield the runs of one name; numbers padded to different widths are different runs.

    None where no run can be made of them.
    """
    padded = {len(n) for n in numbers if n[0] == "0" and len(n) > 1}
    widths = sorted(padded) or [min(len(n) for n in numbers)]
    by_width: dict[int, list[int]] = defaultdict(list)
    for number in numbers:
        fits = [w for w in widths if w == len(number) or (w < len(number) and number[0] != "0")]
        by_width[fits[-1] if fits else len(number)].append(int(number))
    for width, held in sorted(by_width.items()):
        yield _run_of(head, tail, width, sorted(set(held)))


def _run_of(head: str, tail: str, digits: int, numbers: list[int]) -> Run | None:
    missing: list[tuple[int, int]] = []
    for before, after in pairwise(numbers):
        if after > before + 1:
            missing.append((before + 1, after))
    first, last = numbers[0], numbers[-1]
    whole = last - first + 1
    if last > MAX_NUMBER or digits > 30 or len(missing) > MAX_HOLES or whole > MOST_FRAMES:
        return None
    if len(missing) > len(numbers) // 2 and whole > 20 * len(numbers):
        return None  # numbers that mean something else, such as dates
    return Run(head, tail, digits, first, last, tuple(missing))


def natural(name: str) -> tuple[tuple[int, str], ...]:
    """Return what sorts names as people count: take 2 before take 10."""
    parts = re.split(r"(\d+)", name.lower())
    return tuple((int(p), "") if p.isdigit() else (-1, p) for p in parts)


def run_at(path: str | Path) -> FoundRun | None:
    """Return the run that a path names as a whole, or that a still belongs to; None for neither.

    A still without others is a run of one. Raises MediaError where the folder cannot be read, or
    has no picture of the name.
    """
    file = Path(path).absolute()
    parts = None
    if not os.path.lexists(file):
        match = _PATTERN.match(file.name)
        if match is None:
            return None
        parts = (match[1], match[4])
    elif file.suffix.lower() not in STILLS or not file.is_file() or not _begins_as_still(file):
        return None
    try:
        with os.scandir(file.parent) as there:
            names = [e.name for e in there if parts is None or _fits(e.name, parts)]
    except FileNotFoundError as error:
        raise MediaError(f"{file}: there is no such folder") from error
    except OSError as error:
        raise MediaError(f"{file.parent}: cannot be read ({error.strerror})") from error
    found, _ = runs_among(names, file.parent)
    if parts is not None:
        same = [f for f in found if (f.run.head, f.run.tail) == parts]
        wanted = int(_PATTERN.match(file.name)[2])  # type: ignore[index]
        same.sort(key=lambda f: (f.run.pattern != file.name, abs(f.run.first - wanted)))
        if not same:
            raise MediaError(f"{file}: there are no such pictures")
        return same[0]
    for one in found:
        if file.name.startswith(one.run.head) and file.name.endswith(one.run.tail):
            number = file.name[len(one.run.head) : len(file.name) - len(one.run.tail)]
            if number.isdigit() and one.run.name_of(int(number)) == file.name:
                return one
    return FoundRun(file.parent, _alone(file.name))


def _begins_as_still(file: Path) -> bool:
    try:
        return is_still(file)
    except OSError as error:
        raise MediaError(f"{file}: cannot be read ({error.strerror})") from error


def _fits(name: str, parts: tuple[str, str]) -> bool:
    head, tail = parts
    return name.startswith(head) and name.endswith(tail) and len(name) > len(head) + len(tail)


def _alone(name: str) -> Run:
    """Return a run of the one still of a name."""
    dot = name.rfind(".")
    spots = [m.span() for m in _DIGITS.finditer(name, 0, dot) if m.end() - m.start() <= 12]
    if not spots:
        return Run(name, "", 1, 0, 0)
    first, last = spots[-1]
    return Run(
        name[:first], name[last:], last - first, int(name[first:last]), int(name[first:last])
    )


def numbers_words(gaps: Iterable[tuple[int, int]], most: int = 4) -> str:
    """Return ranges of numbers as people say them: 1204 and 1788 to 1789."""
    held = list(gaps)
    words = [str(a) if b == a + 1 else f"{a} to {b - 1}" for a, b in held[:most]]
    if len(held) > most:
        return f"{', '.join(words)} and {len(held) - most} more stretches"
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)
