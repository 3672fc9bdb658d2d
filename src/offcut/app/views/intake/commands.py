"""The commands that need the Intake view itself."""

from __future__ import annotations

from collections.abc import Callable

from offcut.app.commands.actions import Command
from offcut.app.views.description import ViewContext
from offcut.app.views.intake.view import IntakeView


def commands(context: ViewContext, view: Callable[[], IntakeView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""
    c, s, search = Command, context.session, context.search

    def ids() -> list[int]:
        return [x.id for x in s.chosen_sources]

    def find_all() -> None:
        search.find_all(x.id for x in s.project.sources if not x.searched)

    def choose_all() -> None:
        view().shelf.selectAll()

    return [
        c("find-chosen", "Find seams in the chosen films", ("Ctrl+Shift+R",), "Film",
          lambda: search.find_all(ids())),
        c("find-all", "Find seams in all films", (), "Film", find_all),
        c("make-proxies", "Make proxies of the chosen films", (), "Film",
          lambda: search.make_proxies(ids())),
        c("look-films", "Look what is in the chosen films", (), "Film",
          lambda: context.facts.look_through(s.chosen_sources)),
        c("same-for-all", "Set this film’s ticket for all films", (), "Film",
          lambda: view().same_for_all()),
        c("choose-all", "Choose all films", (), "Film", choose_all),
        c("hold-work", "Hold the work under way", (), "Film", search.hold, True,
          lambda: search.busy and not search.held),
        c("go-on", "Go on with the work held", (), "Film", search.go_on, True,
          lambda: search.held),
        c("take-off", "Take the chosen films off the queue", (), "Film",
          lambda: search.take_off(ids()), True, lambda: search.busy),
    ]  # fmt: skip
