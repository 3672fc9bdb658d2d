"""Where files were asked for last: a dialog begins where the film lies, then where such went."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

MOST = 60
"""So many kinds of files are remembered."""


class FilePlaces:
    """Where each kind of file ("project", "list" …) was found or kept last.

    What is remembered counts for films of the same folder: with a film from elsewhere a dialog
    begins where that one lies. ``kept`` is what an earlier session left, as `as_text` gives it;
    ``keep`` hears it anew whenever it changes.
    """

    def __init__(self, kept: str = "", keep: Callable[[str], object] = lambda _text: None) -> None:
        self._keep = keep
        self._known: dict[str, tuple[str, str]] = {}
        try:
            held = json.loads(kept or "{}")
        except ValueError:
            held = {}
        if isinstance(held, dict):
            for kind, pair in list(held.items())[:MOST]:
                if isinstance(pair, list) and len(pair) == 2:
                    self._known[str(kind)] = (str(pair[0]), str(pair[1]))

    def as_text(self) -> str:
        """Return what is remembered as text."""
        return json.dumps(self._known, ensure_ascii=False)

    def start(self, kind: str, beside: Path | None) -> Path:
        """Return where a dialog for a kind begins; ``beside`` is the film, or the project."""
        near = _folder_of(beside)
        film, last = self._known.get(kind, ("", ""))
        if last and (near is None or film == str(near)) and Path(last).is_dir():
            return Path(last)
        if near is not None and near.is_dir():
            return near
        lately = [Path(p) for _, p in reversed(self._known.values()) if Path(p).is_dir()]
        return lately[0] if lately else Path.home()

    def went(self, kind: str, folder: Path, beside: Path | None) -> None:
        """Remember that a kind of file was found or kept in a folder."""
        self._known.pop(kind, None)
        self._known[kind] = (str(_folder_of(beside) or ""), str(folder))
        self._keep(self.as_text())


def _folder_of(path: Path | None) -> Path | None:
    return path.parent if path is not None else None
