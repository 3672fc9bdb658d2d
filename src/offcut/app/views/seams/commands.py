"""The commands that need the Seams view itself."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from offcut.app.commands.actions import Command
from offcut.app.views.description import ViewContext
from offcut.app.views.seams.view import SeamsView


def commands(context: ViewContext, view: Callable[[], SeamsView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""
    c = Command

    def add_marker() -> None:
        marker = context.ranges.add_marker()
        if marker is not None:
            view().drawers.show_marker(marker)

    def name_marker() -> None:
        marker = context.ranges.marker_here()
        if marker is not None:
            view().drawers.show_marker(marker.id)

    return [
        c("name", "Name the shot", ("N",), "Shot", lambda: view().drawers.name_shot()),
        c("sliver", "To the next sliver", ("S",), "Walk", lambda: view().drawers.next_sliver()),
        c("marker", "Put a marker here, or over the range", ("M",), "Range", add_marker),
        c("marker-name", "Name the marker here", (), "Range", name_marker),
        c(
            "look",
            "Pair side by side, swapping, difference",
            ("P",),
            "View",
            lambda: view().pair.next_look(),
        ),
        c("swap", "Swap the pair while held", ("V",), "View", lambda: view().pair.hold_swap()),
        c(
            "edge-notes",
            "Edge notes: what is in the film, under the rolls",
            ("U",),
            "View",
            lambda: view().turn_notes(),
        ),
        *_found_commands(context, view),
        c("nearer", "Zoom in", ("Ctrl++", "Ctrl+="), "View", lambda: view().pair.nearer()),
        c("farther", "Zoom out", ("Ctrl+-",), "View", lambda: view().pair.farther()),
        c("whole", "Fit", ("Ctrl+0",), "View", lambda: view().pair.whole()),
    ]


def _found_commands(context: ViewContext, view: Callable[[], SeamsView]) -> list[Command]:
    """Return what is done with what was found in the film."""
    c, act = Command, context.fact_actions

    def chosen() -> bool:
        return act.any

    def here(
        name: str, words: str, keys: tuple[str, ...], run: Callable[[], object],
        when: Callable[[], bool] | None = None,
    ) -> Command:  # fmt: skip
        return c(name, words, keys, "Found", run, True, when, "seams")

    return [
        c("found", "Found in the film, or the seams", ("Shift+U",), "View",
          lambda: view().turn_found()),
        here("found-play", "Play what is chosen one after another", ("Shift+L",),
             lambda: view().play_chosen()),
        here("found-shots", "Make shots of what is chosen", ("Shift+C",), act.make_shots),
        here("found-order", "Put what is chosen into a running order", ("Shift+B",),
             act.into_order),
        here("found-aside", "Set what is chosen aside", ("Shift+A",), act.set_aside),
        here("found-markers", "Put markers over what is chosen", ("Shift+M",), act.mark_all),
        here("found-range", "Mark the range from the first to the last", (), act.mark_range,
             chosen),
        here("found-after", "To the next of its kind", ("Alt+Down",), partial(act.step, 1)),
        here("found-before", "To the one before of its kind", ("Alt+Up",), partial(act.step, -1)),
        here("programme", "Mark the programme", ("Ctrl+U",), act.mark_programme),
        here("programme-only", "Set aside what is no programme", ("Ctrl+Shift+U",),
             act.leave_programme),
    ]  # fmt: skip
