"""The commands on the marked range, on zones and markers, and searching."""

from __future__ import annotations

from offcut.app.commands.actions import Command
from offcut.app.commands.order_actions import OrderActions
from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session


def range_commands(
    session: Session, ranges: RangeAndMarkers, search: SeamSearch, orders: OrderActions
) -> list[Command]:
    """Return the table."""
    c, r = Command, ranges

    def marked() -> bool:
        return session.marked is not None

    return [
        c("in", "The range begins here", ("I",), "Range", r.mark_in),
        c("out", "The range ends here", ("O",), "Range", r.mark_out),
        c("mark-shot", "Mark the shot", ("X",), "Range", r.mark_shot),
        c("unmark", "Clear the range", ("Shift+X",), "Range", r.clear_range, True, marked),
        c("strike-range", "Strike every seam in it", ("Ctrl+Del",), "Range", r.strike_all),
        c("keep-piece", "Keep it as a piece in the running order", ("B",), "Range",
          orders.keep_piece),
        c("hush", "Hush it", ("H",), "Range", r.hush),
        c("zone", "Give it its own sensitivity", ("Z",), "Range", r.own_sensitivity),
        c("search-only", "Search only it", (), "Range", r.search_only),
        c("search-whole", "Search the whole film", (), "Range", r.search_whole),
        c("find-one", "Find one seam here", ("R",), "Seam", r.find_one),
        c("find", "Find the seams again", ("Ctrl+R",), "Range", search.find),
        c("marker-remove", "Remove the marker here", (), "Range", r.remove_marker_here),
        c("zone-remove", "Remove the zone here", (), "Range", r.remove_zone_here),
        c("zone-range", "Give the zone the marked range", (), "Range", r.zone_here_to_marked),
        c("next-marker", "To the marker after", ("Shift+Down",), "Walk", r.next_marker),
        c(
            "marker-before",
            "To the marker before",
            ("Shift+Up",),
            "Walk",
            lambda: r.next_marker(-1),
        ),
    ]  # fmt: skip
