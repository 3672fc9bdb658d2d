"""Thumbnails kept on disk: the ribbon and the lists fill at once, also where the film is gone.

One SQLite file in the cache folder holds them as JPEG under the film's fingerprint, each with a
checksum. It can be deleted at any time; a damaged one is made anew. The oldest go first.
"""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
import zlib
from pathlib import Path

import cv2
import numpy as np
import platformdirs
from numpy.typing import NDArray

from offcut.core.model.source import Media

LIMIT = 256 << 20
_QUALITY = 88
_HARMED = (sqlite3.DatabaseError, ValueError, TypeError, OverflowError)
"""What a damaged file raises: also values that are of another type than their column."""
_BATCH = 64


def thumbnails_file() -> Path:
    """Return where they lie."""
    return Path(platformdirs.user_cache_path("offcut")) / "thumbnails.db"


def film_key(media: Media) -> str:
    """Return the name under which the pictures of a film are kept; counted otherwise, another."""
    run = media.run
    holes = f" {run.holes.value}" if run is not None and run.missing else ""
    return f"{media.fingerprint}{holes}" if media.fingerprint else ""


class Thumbnails:
    """The kept thumbnails of one film; belongs to one thread."""

    def __init__(self, film: str, limit: int = LIMIT, file: Path | None = None) -> None:
        """``film`` is the film's `film_key`, ``limit`` the most bytes kept of all films."""
        self._film = film
        self._limit = limit
        self._file = file or thumbnails_file()
        self._waiting: list[tuple[str, int, int, int, float, int, bytes]] = []
        self._base = self._opened()

    def _opened(self) -> sqlite3.Connection | None:
        """Open the file, making it anew where it is damaged; None where there can be none."""
        for _ in range(2):
            try:
                self._file.parent.mkdir(parents=True, exist_ok=True)
                base = sqlite3.connect(self._file, timeout=2.0)
                if base.execute("PRAGMA journal_mode").fetchone() != ("wal",):
                    base.execute("PRAGMA journal_mode=WAL")
                base.execute("PRAGMA synchronous=OFF")
                base.execute(
                    "CREATE TABLE IF NOT EXISTS pictures (film TEXT, frame INTEGER, width INTEGER,"
                    " height INTEGER, used REAL, sum INTEGER, data BLOB,"
                    " PRIMARY KEY (film, frame, width, height))"
                )
                base.execute("SELECT count(*) FROM pictures WHERE film = ?", (self._film,))
                return base
            except (sqlite3.OperationalError, OSError):
                return None  # busy, or nowhere to write
            except _HARMED:
                self._give_up()
        return None

    def _give_up(self) -> None:
        """Take a damaged file away."""
        for end in ("", "-wal", "-shm"):
            with contextlib.suppress(OSError):
                self._file.with_name(self._file.name + end).unlink(missing_ok=True)

    def get(self, frame: int, width: int, height: int) -> NDArray[np.uint8] | None:
        """Return a kept picture as uint8 RGB (height, width, 3), None when there is none."""
        if self._base is None:
            return None
        try:
            row = self._base.execute(
                "SELECT sum, data FROM pictures"
                " WHERE film = ? AND frame = ? AND width = ? AND height = ?",
                (self._film, frame, width, height),
            ).fetchone()
            if row is None or zlib.crc32(row[1]) != row[0]:
                return None
        except sqlite3.OperationalError:
            return None
        except _HARMED:
            self._start_again()
            return None
        picture = cv2.imdecode(np.frombuffer(row[1], np.uint8), cv2.IMREAD_COLOR)
        if picture is None or picture.shape != (height, width, 3):
            return None
        return np.ascontiguousarray(picture[..., ::-1])

    def at_any_size(
        self, frame: int, width: int, height: int, least: int = 0
    ) -> NDArray[np.uint8] | None:
        """Return a frame's picture kept at another size, ``least`` wide, fitted."""
        if self._base is None:
            return None
        with contextlib.suppress(*_HARMED):
            row = self._base.execute(
                "SELECT frame, width, height FROM pictures WHERE film = ? AND frame = ?"
                " AND width >= ? ORDER BY width DESC LIMIT 1",
                (self._film, frame, least),
            ).fetchone()
            picture = self.get(*row) if row is not None else None
            if picture is not None:
                fitted = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)
                return np.asarray(fitted, np.uint8)
        return None

    def frames(self) -> NDArray[np.int64]:
        """Return the frames that have a picture, rising."""
        found: NDArray[np.int64] = np.zeros(0, np.int64)
        if self._base is not None:
            with contextlib.suppress(*_HARMED):
                rows = self._base.execute(
                    "SELECT DISTINCT frame FROM pictures"
                    " WHERE film = ? AND typeof(frame) = 'integer' ORDER BY frame",
                    (self._film,),
                ).fetchall()
                found = np.array([f for (f,) in rows], np.int64)
        return found

    def keep(self, frame: int, picture: NDArray[np.uint8]) -> bytes:
        """Keep a picture, uint8 RGB (height, width, 3), and return it as JPEG, empty for none."""
        height, width = picture.shape[:2]
        good, data = cv2.imencode(".jpg", picture[..., ::-1], (cv2.IMWRITE_JPEG_QUALITY, _QUALITY))
        if not good:
            return b""
        self.keep_coded(frame, width, height, data.tobytes())
        return data.tobytes()

    def keep_coded(self, frame: int, width: int, height: int, raw: bytes) -> None:
        """Keep a picture that is coded as JPEG already."""
        if self._base is None or not self._film:
            return
        self._waiting.append((self._film, frame, width, height, time.time(), zlib.crc32(raw), raw))
        if len(self._waiting) >= _BATCH:
            self.flush()

    def flush(self) -> None:
        """Write what waits; a full disk only means no cache."""
        waiting, self._waiting = self._waiting, []
        if self._base is None or not waiting:
            return
        try:
            with self._base:
                self._base.executemany(
                    "INSERT OR REPLACE INTO pictures VALUES (?, ?, ?, ?, ?, ?, ?)", waiting
                )
            make_room(self._base, self._limit)
        except sqlite3.OperationalError:
            return
        except _HARMED:
            self._start_again()

    def _start_again(self) -> None:
        self.close()
        self._give_up()
        self._base = self._opened()

    def close(self) -> None:
        """Write what waits and close the file."""
        if self._base is not None:
            self.flush()
        if self._base is not None:
            with contextlib.suppress(*_HARMED):
                self._base.close()
            self._base = None


def make_room(base: sqlite3.Connection, limit: int) -> None:
    """Delete the oldest pictures until all take no more than ``limit`` bytes, less a tenth."""
    (whole,) = base.execute("SELECT coalesce(sum(length(data)), 0) FROM pictures").fetchone()
    if whole <= limit:
        return
    with base:
        for row, size in base.execute(
            "SELECT rowid, length(data) FROM pictures ORDER BY used"
        ).fetchall():
            if whole <= limit * 9 // 10:
                break
            base.execute("DELETE FROM pictures WHERE rowid = ?", (row,))
            whole -= size
    base.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    base.execute("VACUUM")


_emptying = threading.Lock()


def empty_thumbnails() -> None:
    """Forget all kept thumbnails; open films make theirs again."""
    with _emptying, contextlib.suppress(sqlite3.DatabaseError, OSError):
        if thumbnails_file().exists():
            base = sqlite3.connect(thumbnails_file(), timeout=2.0)
            with base:
                base.execute("DELETE FROM pictures")
            base.execute("VACUUM")
            base.close()
