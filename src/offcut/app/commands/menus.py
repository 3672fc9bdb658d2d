"""The menus of a right click, by what lies under the pointer; all from the tables of commands."""

from __future__ import annotations

from offcut.app.commands.actions import Menu

MENUS: dict[str, Menu] = {
    "seam": (
        "keep", "strike", "reopen", None,
        "roll-earlier", "roll-later", "roll-to", None,
        "kind-cut", "kind-dissolve", "kind-fade", "kind-wipe", "kind-whip",
        "one-cut", None,
        "play", "find-one", None,
        "before", "after", "doubtful",
    ),
    "note": (
        "found-play", None,
        "found-shots", "found-order", "found-aside", "found-markers", "found-range", None,
        "found-after", "found-before", None,
        "programme", "programme-only",
    ),
    "notes": ("edge-notes", "found", None, "programme", "programme-only"),
    "shot": (
        "name", "aside", "fold", "fold-after", None,
        "place", "place-gradual", "find-one", "marker", None,
        "mark-shot", "in", "out", "unmark", "loop", "keep-piece",
    ),
    "ribbon": (
        "in", "out", "mark-shot", "unmark", "keep-piece", None,
        "marker", "strike-range", "hush", "zone", "search-only", "search-whole", None,
        "zoom-in", "zoom-out", "ribbon-fit",
    ),
    "picture": (
        "play", "place", "place-gradual", "marker", None,
        "nearer", "farther", "whole", "full", "framing",
    ),
    "film": (
        "find-chosen", "look-films", "make-proxies", "take-off", None,
        "framing", "same-for-all", "find-films", None,
        "view-seams", "view-board", "view-rhythm", "view-tally", "view-turnover", None,
        "choose-all", "take-films-out",
    ),
    "board-shot": (
        "board-enter", "board-play", None,
        "board-name", "board-name-many", "board-scene", "board-new-scene", None,
        "board-order", "board-new-order", None,
        "board-aside", "board-fold", "board-fold-after", None,
        "board-hand-over", "board-sort-likeness",
    ),
    "board-use": (
        "board-enter", "board-play", "board-name", None,
        "board-earlier", "board-later", "board-take-out", "board-order", None,
        "board-in-earlier", "board-in-later", "board-out-earlier", "board-out-later",
        "board-untrim", None,
        "board-fill-before", "board-fill-after", "board-fill-instead", "board-make-shot", None,
        "board-hand-over",
    ),
    "board-scene": (
        "board-rename", "board-scene-look", None,
        "board-scene-up", "board-scene-down", "board-scene-join", "board-scene-remove",
    ),
    "board-order": (
        "board-play-shown", "board-hand-over", None,
        "board-rename", "board-order-copy", "board-order-remove",
    ),
    "board": (
        "board-all", "board-play-shown", "board-name-many", None,
        "board-bin", "board-sheet", "board-table", "board-telling", None,
        "board-larger", "board-smaller", "board-new-scene", "board-new-order",
    ),
    "rhythm-skyline": (
        "rhythm-pick", "rhythm-whole", "in", "out", "mark-shot", None,
        "rhythm-larger", "rhythm-smaller", "rhythm-fit", "rhythm-log", None,
        "rhythm-copy-chart", "rhythm-chart-svg", "rhythm-chart-png",
    ),
    "rhythm-chart": (
        "rhythm-window", None,
        "rhythm-copy-chart", "rhythm-chart-svg", "rhythm-chart-png",
    ),
    "rhythm-figures": ("rhythm-copy", "rhythm-copy-lengths", None, "rhythm-figures"),
    "rhythm-beside": ("rhythm-take-away", None, "rhythm-beside", "rhythm-true-time"),
    "rhythm-keep": (
        "rhythm-page", "rhythm-paper", None,
        "rhythm-svg", "rhythm-png", "rhythm-figures", "rhythm-reference", None,
        "rhythm-copy", "rhythm-copy-lengths", "rhythm-copy-chart",
    ),
    "tally-lists": (
        "tally-agree", "tally-film", "tally-open", None, "tally-list",
    ),
    "tally-two-lists": (
        "tally-after", "tally-along", "tally-order", None, "tally-keep",
    ),
    "tally-originals": (
        "tally-agree", "tally-likely", "tally-untie", None,
        "tally-open", "tally-take-all", "tally-keep", "tally-pairs", "tally-folder",
    ),
    "tally-versions": (
        "tally-agree", "tally-untie", "tally-take-back", None,
        "tally-mark", "tally-tie", None,
        "tally-open", "tally-swap-versions", None,
        "tally-carry", "tally-keep",
    ),
    "tally-picture": (
        "tally-look", "tally-swap", "tally-stronger", "tally-weaker", None,
        "tally-later", "tally-earlier", None,
        "tally-nearer", "tally-farther", "tally-fit",
    ),
    "marker": ("marker-name", "marker-remove", None, "next-marker", "marker-before"),
    "zone": ("zone-range", "zone-remove"),
}  # fmt: skip
"""By kind of thing: the ids of what can be done with it."""
