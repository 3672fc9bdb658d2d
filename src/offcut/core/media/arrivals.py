"""What arrives: files and folders looked through for films, movies and runs of stills alike."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from av.error import FFmpegError

from offcut.core.errors import MediaError
from offcut.core.machine.stopping import tell
from offcut.core.media.container import is_cover, open_container
from offcut.core.media.runs import (
    STILLS,
    FoundRun,
    is_run_path,
    is_still,
    natural,
    run_at,
    runs_among,
)
from offcut.core.words import many

_KNOWN = (
    "3gp asf avi dv flv gxf h264 hevc m2ts m2v m4v mj2 mjpeg mkv mov mp4 mpeg mpg mts mxf nut ogv "
    "ts vob webm wmv y4m"
)
MOVIES = frozenset(f".{name}" for name in _KNOWN.split())
"""What the names of movies usually end in."""
DEEPEST = 12
MOST_FOLDERS = 20_000
_TEXTS = (
    "tty srt ass webvtt lrc jacosub microdvd mpl2 mpsub pjs realtext sami stl subviewer subviewer1 "
    "sup vplayer aqtitle ffmetadata concat hls bin xbin adf idf ico image2 txd"
)
_NOT_FILMS = frozenset(_TEXTS.split())
"""FFmpeg's names of formats that hold text or single pictures, or name other files."""


@dataclass(frozen=True)
class Arrived:
    """What was found: ``paths`` of films in order, a run as its pattern; ``left`` what is none.

    ``problems`` are sentences about what could not be looked into.
    """

    paths: tuple[Path, ...]
    left: tuple[Path, ...] = ()
    problems: tuple[str, ...] = ()

    @property
    def left_words(self) -> str:
        """What was left, in one line; empty where nothing was."""
        if not self.left:
            return ""
        names = ", ".join(p.name for p in self.left[:3])
        more = len(self.left) - 3
        rest = f" and {more} more" if more > 0 else ""
        return f"{many(len(self.left), 'file')} left out, no film: {names}{rest}"


def arrived(paths: Iterable[str | Path], stop: threading.Event | None = None) -> Arrived:
    """Look through files and folders for films.

    What is named itself is taken as it is, so that opening it says what is wrong with it; what
    lies in a folder is looked at: pictures alone and other files are left. Stills of one run
    are one film. Never raises.
    """
    found: list[Path] = []
    seen: set[Path] = set()
    left: list[Path] = []
    problems: list[str] = []
    folders: dict[Path, dict[str, FoundRun]] = {}
    for path in paths:
        file = Path(path)
        if stop is not None and stop.is_set():
            break
        if file.is_dir():
            for one, film in _below(file, problems, stop):
                if not film:
                    left.append(one)
                elif one not in seen:
                    seen.add(one)
                    found.append(one)
            continue
        run = None
        if file.suffix.lower() in STILLS and file.is_file():
            run = _run_of(file, folders)
        elif is_run_path(file):
            run = _whole(file)
        if run is None or run not in seen:
            found.append(run or file)
            seen.add(run or file)
    return Arrived(tuple(found), tuple(left), tuple(problems))


def _whole(file: Path) -> Path:
    try:
        run = run_at(file)
    except MediaError:
        return file
    return file if run is None else run.path


def _run_of(file: Path, folders: dict[Path, dict[str, FoundRun]]) -> Path:
    """Return the run that a still belongs to; each folder is read once."""
    folder = file.absolute().parent
    if folder not in folders:
        folders[folder] = {}
        try:
            with os.scandir(folder) as there:
                found, _ = runs_among([e.name for e in there], folder)
        except OSError:
            found = []
        for one in found:
            folders[folder][one.run.head + "\0" + one.run.tail] = one
    for one in folders[folder].values():
        run = one.run
        if file.name.startswith(run.head) and file.name.endswith(run.tail):
            number = file.name[len(run.head) : len(file.name) - len(run.tail)]
            if number.isdigit() and run.name_of(int(number)) == file.name:
                return one.path
    return file


def _below(
    top: Path, problems: list[str], stop: threading.Event | None
) -> Iterator[tuple[Path, bool]]:
    """Yield what lies in a folder and below, by name, and whether it is a film."""
    depth = len(top.parts)

    def told(error: OSError) -> None:
        problems.append(f"{error.filename}: cannot be read ({error.strerror})")

    been: set[tuple[int, int]] = set()
    done = known = 0
    walk = os.walk(top, onerror=told, followlinks=True)
    for many_folders, (here, inner, names) in enumerate(walk):
        done += many_folders > 0
        place = os.stat(here)
        if (place.st_dev, place.st_ino) in been:  # a link that leads back
            inner.clear()
            continue
        been.add((place.st_dev, place.st_ino))
        inner[:] = sorted((n for n in inner if not n.startswith(".")), key=natural)
        if len(Path(here).parts) - depth >= DEEPEST or many_folders > MOST_FOLDERS:
            inner.clear()
        folder = Path(here)
        runs, rest = runs_among((n for n in names if not n.startswith(".")), folder)
        things: list[tuple[str, FoundRun | None]] = [(r.run.pattern, r) for r in runs]
        things += [(name, None) for name in rest]
        known += len(things) + len(inner)
        for name, run in sorted(things, key=lambda t: natural(t[0])):
            if stop is not None and stop.is_set():
                return
            done += 1
            tell(done, known)
            if run is not None:
                yield run.path, _begins_well(run)
            else:
                yield folder / name, looks_like_film(folder / name)


def _begins_well(found: FoundRun) -> bool:
    try:
        return is_still(found.folder / found.run.name_of(found.run.first))
    except OSError:
        return True  # opening it says what is wrong


def looks_like_film(path: Path) -> bool:
    """Tell whether a file holds moving pictures, by looking at it; its name does not count.

    Only of what cannot be looked at the name decides: opening it says what is wrong.
    """
    named_so = path.suffix.lower() in MOVIES
    try:
        if not path.is_file() or is_still(path):
            return False
        if path.stat().st_size == 0:
            return named_so
        with open_container(path) as container:
            format_ = container.format.name
            if format_.endswith("_pipe") or not _NOT_FILMS.isdisjoint(format_.split(",")):
                return False
            return not all(is_cover(s) for s in container.streams.video)
    except (FFmpegError, OSError, ValueError):
        return named_so
