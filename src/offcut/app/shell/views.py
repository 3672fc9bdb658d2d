"""The views there are, in the order of the work: a folder beside the others, and a line here."""

from __future__ import annotations

from offcut.app.views import board, intake, rhythm, seams, tally, turnover
from offcut.app.views.description import View

VIEWS: tuple[View, ...] = (
    intake.VIEW,
    seams.VIEW,
    board.VIEW,
    rhythm.VIEW,
    tally.VIEW,
    turnover.VIEW,
)
