"""The commands that need the Turnover view itself."""

from __future__ import annotations

from collections.abc import Callable

from offcut.app.commands.actions import Command
from offcut.app.views.description import ViewContext
from offcut.app.views.turnover.view import TurnoverView


def commands(context: ViewContext, view: Callable[[], TurnoverView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""

    def hand_over() -> None:
        """Show the view; where it is shown already, hand over what it plans."""
        shown = context.session.view == "turnover"
        turnover = view()
        problem = turnover.hand_over_now() if shown else ""
        if problem:
            context.session.failed.emit(problem)

    return [Command("hand-over", "Hand over", ("Ctrl+Return",), "File", hand_over)]
