"""Where the originals of a film were looked for last, kept from one session to the next."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QSettings

_KEY = "originals-of"
_MOST = 60


def folders_of(settings: QSettings, fingerprint: str) -> tuple[str, ...]:
    """Return the folders that were looked in last for a film, those of them that are there."""
    known = _known(settings).get(fingerprint, [])
    return tuple(f for f in known if Path(f).is_dir())


def keep_folders(settings: QSettings, fingerprint: str, folders: Sequence[str]) -> None:
    """Keep the folders that are looked in for a film; the oldest of many films are forgotten."""
    known = _known(settings)
    known.pop(fingerprint, None)
    known[fingerprint] = list(folders)
    lately = dict(list(known.items())[-_MOST:])
    settings.setValue(_KEY, json.dumps(lately, ensure_ascii=False))


def _known(settings: QSettings) -> dict[str, list[str]]:
    try:
        held = json.loads(str(settings.value(_KEY, "{}")))
    except ValueError:
        return {}
    if not isinstance(held, dict):
        return {}
    return {str(k): [str(f) for f in v] for k, v in held.items() if isinstance(v, list)}
