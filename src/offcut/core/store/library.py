"""The library: every shot of every project saved on this machine, found again by words.

One SQLite file with full-text search in the data folder. It holds nothing that the projects do not:
it is rebuilt from them at any time, and a list of their places in plain text lies beside it.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeVar

import platformdirs

from offcut.core.errors import OffcutError, ProjectError
from offcut.core.facts.findable import findable
from offcut.core.facts.in_shot import in_shot, in_shots
from offcut.core.facts.query import FIELDS, FLAGS, KINDS, Bound, Query, Term
from offcut.core.files import write_whole
from offcut.core.model.orders import seam_of
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.slivers import suggested_limit
from offcut.core.model.source import Media
from offcut.core.store.document import media_out
from offcut.core.store.document_in import media_in
from offcut.core.store.project_file import SUFFIX, read_project, stamp_of
from offcut.core.store.shapes import UNFIT
from offcut.core.timecode import base_of, timecode_from_frame

log = logging.getLogger("offcut")
T = TypeVar("T")

VERSION = 2
MOST = 200
"""So many shots are told at most, unless more are asked for."""
RANKED = 3000
"""Up to so many shots are put in order by how well they fit; of more the first are told."""
_WEIGHTS = "10, 4, 6, 3, 1, 2"
_TABLES = f"""
CREATE TABLE IF NOT EXISTS projects (id INTEGER PRIMARY KEY, path TEXT UNIQUE, name TEXT,
  stamp TEXT, seen REAL, version INTEGER);
CREATE TABLE IF NOT EXISTS films (id INTEGER PRIMARY KEY, project INTEGER, source INTEGER,
  media TEXT, display TEXT);
CREATE TABLE IF NOT EXISTS shots (id INTEGER PRIMARY KEY, project INTEGER, film INTEGER,
  seam INTEGER, number INTEGER, start INTEGER, end INTEGER, rate_up INTEGER, rate_down INTEGER,
  kind TEXT, name TEXT, note TEXT, scene TEXT, {" INTEGER, ".join(FLAGS)} INTEGER);
CREATE INDEX IF NOT EXISTS shots_of_project ON shots (project);
CREATE INDEX IF NOT EXISTS films_of_project ON films (project);
CREATE VIRTUAL TABLE IF NOT EXISTS words USING fts5({", ".join(FIELDS)},
  tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3 4');
"""


def library_file() -> Path:
    """Return where the library lies."""
    return Path(platformdirs.user_data_path("offcut")) / "library.db"


@dataclass(frozen=True, slots=True)
class FoundShot:
    """A shot that was found: its project, its film, and what is said of it.

    ``source`` and ``seam`` name it in its project; ``there`` is False where the project is gone.
    """

    project: Path
    project_name: str
    media: Media
    display: str
    source: int
    seam: int
    number: int
    start: int
    end: int
    name: str
    note: str
    scene: str
    there: bool

    @property
    def timecodes(self) -> tuple[str, str]:
        """Timecodes of its first frame and of the frame after its last."""
        media = self.media
        first, last = (
            timecode_from_frame(media.start + f, media.rate, media.drop)
            for f in (self.start, self.end)
        )
        return first, last

    def document(self) -> dict[str, Any]:
        """Return it as the command line tells it."""
        first, last = self.timecodes
        return {
            "project": str(self.project),
            "film": self.media.path,
            "shot": self.number,
            "start": self.start,
            "end": self.end,
            "timecode_in": first,
            "timecode_out": last,
            "name": self.name,
            "note": self.note,
            "scene": self.scene,
        }


@dataclass(frozen=True)
class FoundShots:
    """Shots that were found; ``more`` True where there are more than were asked for."""

    shots: tuple[FoundShot, ...]
    more: bool


class Library:
    """The library, opened; belongs to one thread. `close` it."""

    def __init__(self, file: Path | None = None) -> None:
        """Open the library, made where there is none. Raises OffcutError naming the file."""
        self.file = file or library_file()
        self._held: dict[int, Media] = {}
        self._base = self._opened()

    def __enter__(self) -> Library:
        return self

    def __exit__(self, *_error: object) -> None:
        self.close()

    def close(self) -> None:
        """Let the file go."""
        with contextlib.suppress(sqlite3.Error):
            self._base.close()

    def _opened(self) -> sqlite3.Connection:
        """Open the file; a damaged one is made anew from the projects that were known."""
        for damaged in (False, True):
            base = None
            try:
                self.file.parent.mkdir(parents=True, exist_ok=True)
                fresh = not self.file.exists()
                base = sqlite3.connect(self.file, timeout=10.0)
                base.execute("PRAGMA journal_mode=WAL")
                base.execute("PRAGMA synchronous=NORMAL")
                if base.execute("PRAGMA user_version").fetchone()[0] not in (0, VERSION):
                    raise sqlite3.DatabaseError("another version")
                base.executescript(_TABLES)
                base.execute(f"PRAGMA user_version={VERSION}")
                base.execute("SELECT count(*) FROM projects").fetchone()
            except OSError as error:
                words = error.strerror or str(error)
                raise OffcutError(f"{self.file}: the library cannot be opened ({words})") from error
            except (sqlite3.Error, *_HARM) as error:
                if base is not None:  # one that stays open spoils the file made in its place
                    with contextlib.suppress(sqlite3.Error):
                        base.close()
                if damaged or _is_shut(error):
                    words = f"{self.file}: the library cannot be opened ({error})"
                    raise OffcutError(words) from error
                self._take_away()
                continue
            if fresh:
                self._base = base
                for path in self._places():
                    with contextlib.suppress(OffcutError):
                        self.take_file(path)
            return base
        raise OffcutError(f"{self.file}: the library cannot be opened")

    def _take_away(self) -> None:
        """Take the file away, to be made anew; a folder in its place too."""
        for end in ("", "-wal", "-shm"):
            file = self.file.with_name(self.file.name + end)
            with contextlib.suppress(OSError):
                if file.is_dir() and not file.is_symlink():
                    shutil.rmtree(file)
                else:
                    file.unlink(missing_ok=True)

    def _sound(self, work: Callable[[], T], what: str) -> T:
        """Do something with the base; where that is harmed it is made anew, and done again.

        Raises OffcutError where it is busy, the disk full or the like.
        """
        for again in (False, True):
            try:
                return work()
            except (sqlite3.Error, *_HARM) as error:
                if again or _is_shut(error):
                    words = f"{self.file}: the library cannot be {what} ({error})"
                    raise OffcutError(words) from error
                log.warning("%s: is harmed (%s) and made anew", self.file, error)
                self.close()
                self._take_away()
                self._base = self._opened()
        raise AssertionError

    # taking in

    def take(self, project: Project, path: Path) -> int:
        """Take a project in as it is saved at a path; return how many shots it has."""
        path = path.absolute()

        def taken() -> int:
            with self._base:
                return self._taken(project, path)

        count = self._sound(taken, "written")
        self._note(path)
        return count

    def take_file(self, path: Path) -> int:
        """Read a project file and take it in. Raises ProjectError naming the file."""
        return self.take(read_project(path).project, path)

    def _taken(self, project: Project, path: Path) -> int:
        base, stamp = self._base, stamp_of(path)
        known = base.execute("SELECT id FROM projects WHERE path = ?", (_kept(path),)).fetchone()
        # one with the same content whose file is gone was moved here
        for old, where in base.execute(
            "SELECT id, path FROM projects WHERE stamp = ? AND path != ?", (stamp, _kept(path))
        ).fetchall():
            if stamp and not _path(where).exists():
                self._forget(old)
        if known is not None:
            self._forget(known[0])
        made = base.execute(
            "INSERT INTO projects (path, name, stamp, seen, version) VALUES (?, ?, ?, ?, ?)",
            (_kept(path), _text(project.name), stamp, time.time(), VERSION),
        ).lastrowid
        assert made is not None
        scenes = {s.id: s.name for s in project.scenes}
        free = base.execute("SELECT coalesce(max(id), 0) + 1 FROM shots").fetchone()[0]
        count = 0
        for source in project.sources:
            media = source.media
            film = base.execute(
                "INSERT INTO films (project, source, media, display) VALUES (?, ?, ?, ?)",
                (made, source.id, json.dumps(media_out(media, None)), _text(source.ticket.display)),
            ).lastrowid
            limit = suggested_limit(source, base_of(media.rate))
            facts, words = [], []
            inside = in_shots(source) if source.searched else {}
            for shot in shots_of(source):
                card, scene = shot.card, scenes.get(shot.card.scene, "")
                found = findable(source, shot, scene, limit, in_shot(inside, shot).sought)
                facts.append(
                    (
                        free + count, made, film, seam_of(shot), shot.number, shot.start, shot.end,
                        media.rate.numerator, media.rate.denominator, found.kind,
                        _text(card.name), _text(card.note), _text(scene),
                        *(flag in found.flags for flag in FLAGS),
                    )
                )  # fmt: skip
                words.append((free + count, *map(_text, found.words)))
                count += 1
            marks = ", ".join("?" * len(facts[0])) if facts else ""
            base.executemany(f"INSERT INTO shots VALUES ({marks})", facts)
            base.executemany(
                f"INSERT INTO words (rowid, {', '.join(FIELDS)}) VALUES (?{', ?' * len(FIELDS)})",
                words,
            )
        return count

    def _forget(self, project: int) -> None:
        base = self._base
        base.execute("DELETE FROM words WHERE rowid IN (SELECT id FROM shots WHERE project = ?)",
                     (project,))  # fmt: skip
        for table in ("shots", "films"):
            base.execute(f"DELETE FROM {table} WHERE project = ?", (project,))
        base.execute("DELETE FROM projects WHERE id = ?", (project,))
        self._held.clear()

    def forget(self, path: Path) -> None:
        """Forget a project; its file is not touched."""

        def forgotten() -> None:
            with self._base:
                row = self._base.execute("SELECT id FROM projects WHERE path = ?", (_kept(path),))
                known = row.fetchone()
                if known is not None:
                    self._forget(known[0])

        self._sound(forgotten, "written")
        self._write_places([p for p in self._places() if p != path])

    def rebuild(
        self,
        progress: Callable[[int, int], None] | None = None,
        stop: threading.Event | None = None,
    ) -> tuple[int, tuple[str, ...]]:
        """Read all known projects again; those that are gone stay known, and are told as gone.

        Returns how many were read, and sentences on those that could not be.
        """
        return self._take_all(self.projects(), progress, stop)

    def take_folder(
        self,
        folder: Path,
        progress: Callable[[int, int], None] | None = None,
        stop: threading.Event | None = None,
    ) -> tuple[int, tuple[str, ...]]:
        """Take in every project below a folder. Raises OffcutError where there is no such folder.

        Returns how many were read, and sentences on those that could not be.
        """
        if not folder.is_dir():
            raise OffcutError(f"{folder}: there is no such folder")
        return self._take_all(list(projects_below(folder)), progress, stop)

    def _take_all(
        self,
        paths: Sequence[Path],
        progress: Callable[[int, int], None] | None,
        stop: threading.Event | None,
    ) -> tuple[int, tuple[str, ...]]:
        read, problems = 0, []
        for done, path in enumerate(paths, start=1):
            if stop is not None and stop.is_set():
                break
            try:
                self.take_file(path)
                read += 1
            except ProjectError as error:
                problems.append(str(error))
            if progress is not None:
                progress(done, len(paths))
        return read, tuple(problems)

    def projects(self) -> list[Path]:
        """Return where the known projects lie, or lay."""

        def told() -> list[Path]:
            rows = self._base.execute("SELECT path FROM projects ORDER BY id").fetchall()
            return [_path(path) for (path,) in rows]

        return self._sound(told, "read")

    def _places(self) -> list[Path]:
        with contextlib.suppress(OSError):
            text = self._list_file().read_text(encoding="utf-8", errors="surrogateescape")
            return [Path(line) for line in text.split("\n") if line]
        return []

    def _note(self, path: Path) -> None:
        places = self._places()
        if path not in places and "\n" not in str(path):
            self._write_places([*places, path])

    def _write_places(self, places: Sequence[Path]) -> None:
        text = "".join(f"{p}\n" for p in places)
        with contextlib.suppress(OSError):
            write_whole(self._list_file(), text.encode("utf-8", "surrogateescape"))

    def _list_file(self) -> Path:
        return self.file.with_suffix(".projects.txt")

    # finding

    def find(self, query: Query, most: int = MOST) -> FoundShots:
        """Return the shots that are looked for, those that fit best first. Raises OffcutError."""
        return self._sound(lambda: self._found(query, most), "read")

    def _found(self, query: Query, most: int) -> FoundShots:
        where, values = _where(query)
        order = "ORDER BY s.id"
        plain = [t for t in query.terms if not t.without and not t.flag and t.text]
        if plain:
            match = _match(plain)
            few = self._base.execute(
                "SELECT count(*) FROM (SELECT 1 FROM words WHERE words MATCH ? LIMIT ?)",
                (match, RANKED),
            ).fetchone()[0]
            if few < RANKED:
                order = f"ORDER BY bm25(words, {_WEIGHTS}), s.id"
            start = "FROM words JOIN shots s ON s.id = words.rowid"
            where = ["words MATCH ?", *where]
            values = [match, *values]
        else:
            start = "FROM shots s"
        condition = f"WHERE {' AND '.join(where)}" if where else ""
        rows = self._base.execute(
            f"SELECT s.project, s.film, s.seam, s.number, s.start, s.end, s.name, s.note, s.scene"
            f" {start} {condition} {order} LIMIT ?",
            (*values, most + 1),
        ).fetchall()
        return FoundShots(tuple(self._told(rows[:most])), len(rows) > most)

    def _told(self, rows: Sequence[tuple[Any, ...]]) -> Iterator[FoundShot]:
        projects: dict[int, tuple[Path, str, bool]] = {}
        films: dict[int, tuple[Media, str, int] | None] = {}
        for project, film, seam, number, start, end, name, note, scene in rows:
            if project not in projects:
                path, title = self._base.execute(
                    "SELECT path, name FROM projects WHERE id = ?", (project,)
                ).fetchone()
                projects[project] = _path(path), str(title), _path(path).is_file()
            if film not in films:
                films[film] = self._film(film)
            known = films[film]
            if known is not None:
                path_, title_, there = projects[project]
                yield FoundShot(path_, title_, known[0], known[1], known[2], seam, number, start,
                                end, name, note, scene, there)  # fmt: skip

    def _film(self, film: int) -> tuple[Media, str, int] | None:
        text, display, source = self._base.execute(
            "SELECT media, display, source FROM films WHERE id = ?", (film,)
        ).fetchone()
        try:
            return media_in(json.loads(text), None), str(display), int(source)
        except UNFIT:
            return None


def keep_up(project: Project, path: Path) -> None:
    """Take a project in that was saved or opened; where the library cannot be written, it is not.

    It can be rebuilt at any time, so nothing is said.
    """
    try:
        with Library() as library:
            library.take(project, path)
    except Exception as error:  # saving never fails for it
        log.info("%s", error, exc_info=not isinstance(error, OffcutError))


def keep_up_file(path: Path) -> None:
    """Take a project in as its file has it, as `keep_up` does."""
    try:
        with Library() as library:
            library.take_file(path)
    except Exception as error:
        log.info("%s", error, exc_info=not isinstance(error, OffcutError))


def _is_shut(error: Exception) -> bool:
    """Tell whether a base is busy, or cannot be written or read for reasons outside of it."""
    code = getattr(error, "sqlite_errorcode", None)
    return code is not None and (code & 0xFF) in _SHUT


_SHUT = {
    sqlite3.SQLITE_PERM, sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED, sqlite3.SQLITE_NOMEM,
    sqlite3.SQLITE_READONLY, sqlite3.SQLITE_INTERRUPT, sqlite3.SQLITE_IOERR,
    sqlite3.SQLITE_FULL, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_AUTH,
}  # fmt: skip
_HARM = (TypeError, ValueError, OverflowError, RecursionError)
"""What reading a base ends in where its rows hold what was never written."""


def _kept(path: Path) -> str | bytes:
    """Return a path as the base keeps it: in bytes where it is no UTF-8."""
    text = str(path)
    try:
        text.encode()
    except UnicodeEncodeError:
        return os.fsencode(text)
    return text


def _path(kept: str | bytes) -> Path:
    return Path(os.fsdecode(kept))


def _text(text: str) -> str:
    """Return a text as it can be kept: without single surrogates."""
    return text.encode("utf-8", "replace").decode()


def projects_below(folder: Path) -> Iterator[Path]:
    """Return the projects below a folder; hidden ones and kept older formats are none."""
    for place, folders, files in os.walk(folder):
        folders[:] = sorted(f for f in folders if not f.startswith("."))
        for name in sorted(files):
            older = ".format-" in name and name.rsplit(".format-", 1)[1].split(".")[0].isdigit()
            if name.endswith(SUFFIX) and not name.startswith(".") and not older:
                yield Path(place, name).absolute()


def _where(query: Query) -> tuple[list[str], list[Any]]:
    where: list[str] = []
    values: list[Any] = []
    for term in query.terms:
        if term.without or term.flag or not term.text:
            condition, more = _condition(term)
            where.append(f"NOT ({condition})" if term.without else condition)
            values += more
    for bound in query.bounds:
        condition, more = _length(bound)
        where.append(condition)
        values += more
    return where, values


def _condition(term: Term) -> tuple[str, list[Any]]:
    if not term.text:
        return f"s.id IN (SELECT rowid FROM words WHERE {term.field} = '')", []
    by_words = "s.id IN (SELECT rowid FROM words WHERE words MATCH ?)"
    match = _match([term])
    if term.flag in KINDS:
        return f"(s.kind = ? OR {by_words})", [term.flag, match]
    if term.flag:
        return f"(s.{term.flag} OR {by_words})", [match]
    return by_words, [match]


def _match(terms: Sequence[Term]) -> str:
    """Return terms as FTS5 has them: each a row of words, the last of which may go on."""
    parts = []
    for term in terms:
        quoted = '"' + term.text.replace('"', '""') + '" *'
        parts.append(f"{{{term.field}}} : {quoted}" if term.field in FIELDS else quoted)
    return " AND ".join(parts)


def _length(bound: Bound) -> tuple[str, list[Any]]:
    sign = bound.sign
    much = Fraction(bound.much)
    if bound.frames:
        return f"(s.end - s.start) * ? {sign} ?", [much.denominator, much.numerator]
    return (
        f"(s.end - s.start) * s.rate_down * ? {sign} ? * s.rate_up",
        [much.denominator, much.numerator],
    )
