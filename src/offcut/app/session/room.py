"""How much may be kept on disk, and where: a value that is handed down. No Qt."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from offcut.core.measure.kept_signals import LIMIT as SIGNALS
from offcut.core.media.proxy import LIMIT as PROXIES
from offcut.core.store.thumbnails import LIMIT as PICTURES


@dataclass(frozen=True)
class Room:
    """The most bytes of signals, small pictures and proxies kept on disk, of all films.

    Attributes: ``proxy_folder`` where proxies lie, None for the usual place.
    """

    signals: int = SIGNALS
    pictures: int = PICTURES
    proxies: int = PROXIES
    proxy_folder: Path | None = None
