"""What can be found of a shot: its words, its length, and what is true of it."""

from __future__ import annotations

from pathlib import Path

from offcut.core.facts.query import Findable, folded
from offcut.core.model.seam import Certainty, Seam
from offcut.core.model.shots import Shot
from offcut.core.model.source import Source


def findable(
    source: Source, shot: Shot, scene: str, sliver_frames: int, shows: str = ""
) -> Findable:
    """Return what can be found of a shot; ``shows`` are the words for what is in it, folded."""
    card = shot.card
    reel = reel_of(source, shot)
    said = f"{card.original.clip} {' '.join(card.original.comments)}" if card.original else ""
    flags = {
        "aside": card.set_aside,
        "doubtful": is_doubtful(shot.opened_by),
        "sliver": shot.length < sliver_frames,
        "unnamed": not card.name,
        "noted": bool(card.note),
        "unsorted": not card.scene,
    }
    words = (card.name, f"{card.note} {said}", scene, reel, Path(source.media.path).name)
    return Findable(
        (*map(folded, words), shows),  # type: ignore[arg-type]
        shot.length,
        source.media.rate,
        shot.opened_by.kind.value if shot.opened_by else "",
        frozenset(name for name, on in flags.items() if on),
    )


def reel_of(source: Source, shot: Shot) -> str:
    """Return the reel of a shot: that of its original, else the one its film's ticket has."""
    original = shot.card.original
    return original.reel if original is not None else source.ticket.reel


def is_doubtful(opener: Seam | None) -> bool:
    """Tell whether a shot is opened by a seam that is doubtful and not judged yet."""
    return opener is not None and opener.certainty is Certainty.DOUBTFUL and not opener.judged
