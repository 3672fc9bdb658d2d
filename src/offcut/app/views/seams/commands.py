"""The commands that need the Seams view itself."""

from __future__ import annotations

from collections.abc import Callable

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
        c("nearer", "Zoom in", ("Ctrl++", "Ctrl+="), "View", lambda: view().pair.nearer()),
        c("farther", "Zoom out", ("Ctrl+-",), "View", lambda: view().pair.farther()),
        c("whole", "Fit", ("Ctrl+0",), "View", lambda: view().pair.whole()),
    ]
