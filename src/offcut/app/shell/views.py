"""The views there are, in the order of the work: a folder beside the others, and a line here.

What other packages add comes after ours.
"""

from __future__ import annotations

import re
from dataclasses import replace
from functools import cache

from offcut.app.views import board, intake, rhythm, seams, tally, turnover
from offcut.app.views.description import View
from offcut.core.machine.added import VIEWS as GROUP
from offcut.core.machine.added import added

OURS: tuple[View, ...] = (
    intake.VIEW,
    seams.VIEW,
    board.VIEW,
    rhythm.VIEW,
    tally.VIEW,
    turnover.VIEW,
)
_KEYS = 9


@cache
def views() -> tuple[View, ...]:
    """Return all views; an added one gets the next place, and a key as long as there are some."""
    known = {v.id for v in OURS}

    def fault(view: View) -> str:
        if view.id in known:
            return f"there is a view called {view.id}"
        if not re.fullmatch(r"[a-z][a-z-]*", view.id) or not view.title.strip():
            return "its id is no small word, or it has no title"
        known.add(view.id)
        return "" if len(known) <= _KEYS else f"there are {_KEYS} views already"

    more = added(GROUP, View, fault)
    return OURS + tuple(replace(v, place=len(OURS) + n) for n, v in enumerate(more, start=1))
