"""The menus of a right click, by what lies under the pointer; all from the tables of commands."""

from __future__ import annotations

from offcut.app.commands.actions import Menu

MENUS: dict[str, Menu] = {
    "seam": (
        "keep", "strike", "reopen", None,
        "roll-earlier", "roll-later", "roll-to", None,
        "kind-cut", "kind-dissolve", "kind-fade", "kind-wipe", "one-cut", None,
        "play", "find-one", None,
        "before", "after", "doubtful",
    ),
    "shot": (
        "name", "aside", "fold", "fold-after", None,
        "place", "place-gradual", "find-one", "marker", None,
        "mark-shot", "in", "out", "unmark", "loop",
    ),
    "ribbon": (
        "in", "out", "mark-shot", "unmark", None,
        "marker", "strike-range", "hush", "zone", "search-only", "search-whole", None,
        "zoom-in", "zoom-out", "ribbon-fit",
    ),
    "picture": (
        "play", "place", "place-gradual", "marker", None,
        "nearer", "farther", "whole", "full", "framing",
    ),
    "film": (
        "find-chosen", "make-proxies", "take-off", None,
        "framing", "same-for-all", "find-films", None,
        "view-seams", "view-turnover", None,
        "choose-all", "take-films-out",
    ),
    "marker": ("marker-name", "marker-remove", None, "next-marker", "marker-before"),
    "zone": ("zone-range", "zone-remove"),
}  # fmt: skip
"""By kind of thing: the ids of what can be done with it."""
