"""Reels of an EDL: names cut short, and names replaced by others."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

_LONG = 8
"""CMX 3600 has room for reels of so many characters."""


def same_reel(told: str, own: str) -> bool:
    """Tell whether a speed line means a reel; a list may cut its name short."""
    told, own = told.upper().replace(" ", "_"), own.upper().replace(" ", "_")
    return told == own or (len(told) >= 6 and own.startswith(told))


def replaced_reel(said: str) -> tuple[str, str] | None:
    """Return the old and the new name that a note tells of a reel, None where it tells none."""
    at = said.upper().index(" REPLACED BY")
    begins = said.upper().rfind("REEL", 0, at)
    if begins < 0:
        return None
    old, new = said[begins + 4 : at].strip(" '\":"), said[at + 12 :].strip(" '\":")
    return (old, new) if old and new else None


def names_in_force(replaced: Mapping[str, str], reels: Iterable[str]) -> dict[str, str]:
    """Return what each reel is called, by its name in the events, in capitals.

    An old name in the events is replaced by the new one; where they have the new one, and it
    is a long name cut short to what a list can hold, the long name is meant.
    """
    used = {reel.upper() for reel in reels}
    names = {}
    for old, new in replaced.items():
        if old.upper() in used:
            names[old.upper()] = new
        elif new.upper() in used and len(old) > _LONG >= len(new):
            names[new.upper()] = old
    return names
