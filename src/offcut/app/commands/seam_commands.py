"""The commands on seams and shots, and walking between them."""

from __future__ import annotations

from functools import partial

from offcut.app.commands.actions import Command
from offcut.app.commands.seam_actions import SeamActions
from offcut.core.model.seam import Kind


def seam_commands(actions: SeamActions) -> list[Command]:
    """Return the table."""
    c, a = Command, actions
    return [
        c("all", "Select all", ("Ctrl+A",), "Edit", a.select_all),
        c("keep", "Keep and go on", ("Return", "Enter"), "Seam", a.keep),
        c("strike", "Strike and go on", ("Del",), "Seam", a.strike),
        c("reopen", "Re-open", ("Shift+Del",), "Seam", a.reopen),
        c("roll-earlier", "Roll a frame earlier", ("[",), "Seam", partial(a.roll, -1)),
        c("roll-later", "Roll a frame later", ("]",), "Seam", partial(a.roll, 1)),
        c("place", "Place a cut at the playhead", ("+",), "Seam", a.place),
        c("place-gradual", "Place a dissolve about the playhead", ("G",), "Seam", a.place_gradual),
        c("one-cut", "Make it one cut at its middle, or back", ("C",), "Seam", a.one_cut),
        *(
            c(f"kind-{k.value}", f"Make it a {k.value}", (), "Seam", partial(a.set_kind, k))
            for k in Kind
        ),
        *(
            c(name, words, (key,), "Seam", partial(a.move_edge, first, last))
            for name, words, key, first, last in _EDGES
        ),
        c("before", "To the seam before", ("Up",), "Walk", partial(a.next_seam, -1)),
        c("after", "To the seam after", ("Down",), "Walk", partial(a.next_seam, 1)),
        c("doubtful", "To the next doubtful seam", ("D",), "Walk", a.next_doubtful),
        c("fold", "Fold into the shot before", ("F",), "Shot", a.fold),
        c("fold-after", "Fold into the shot after", ("Shift+F",), "Shot", partial(a.fold, 1)),
        c("aside", "Set aside, or take back", ("A",), "Shot", a.set_aside),
        c("left", "A frame back", ("Left",), "Play", partial(a.step, -1)),
        c("right", "A frame on", ("Right",), "Play", partial(a.step, 1)),
        c("left-ten", "Ten frames back", ("Shift+Left",), "Play", partial(a.step, -10)),
        c("right-ten", "Ten frames on", ("Shift+Right",), "Play", partial(a.step, 10)),
    ]


_EDGES = (
    ("start-earlier", "First mixed frame a frame earlier", "Ctrl+[", -1, 0),
    ("start-later", "First mixed frame a frame later", "Ctrl+]", 1, 0),
    ("end-earlier", "First clean frame a frame earlier", "Alt+[", 0, -1),
    ("end-later", "First clean frame a frame later", "Alt+]", 0, 1),
)
