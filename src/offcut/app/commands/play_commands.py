"""The commands of the player."""

from __future__ import annotations

from functools import partial

from offcut.app.commands.actions import Command
from offcut.app.session.session import Session
from offcut.app.shared.player import Player


def play_commands(session: Session, player: Player) -> list[Command]:
    """Return the table."""
    c, p = Command, player
    return [
        c("play", "Play, on a seam across it", ("Space",), "Play", p.toggle),
        c("loop", "Play it round and round", ("Shift+Space",), "Range", p.toggle_range),
        c("forwards", "Play forwards, again for faster", ("L",), "Play", partial(p.faster, 1)),
        c("halt", "Stop", ("K",), "Play", p.stop),
        c("backwards", "Play backwards, again for faster", ("J",), "Play", partial(p.faster, -1)),
        c("home", "To the first frame", ("Home",), "Play", partial(session.go_to, 0)),
        c("end", "To the last frame", ("End",), "Play", partial(session.go_to, 1 << 40)),
    ]
