"""The table of everything a person can do in the window."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from offcut.app.commands.actions import Command
from offcut.core.model.seam import Kind

if TYPE_CHECKING:
    from offcut.app.shell.window import Window

VIEWS = ("Intake", "Seams", "Board", "Rhythm", "Tally", "Turnover")


def commands_of(window: Window) -> list[Command]:
    """Return the table for a window."""
    return [*_file(window), *_seam(window), *_place(window), *_play(window), *_view(window)]


def _file(w: Window) -> list[Command]:
    c, s = Command, w.session
    return [
        c("open-film", "Open a film…", ("Ctrl+O",), "File", w.ask_film, False),
        c("open-project", "Open a project…", ("Ctrl+Shift+O",), "File", w.ask_project, False),
        c("save", "Save", ("Ctrl+S",), "File", w.save),
        c("save-as", "Save as…", ("Ctrl+Shift+S",), "File", w.save_as),
        c("by-list", "Cut by a list…", ("Ctrl+L",), "File", w.ask_list_in),
        c("cuts-out", "Hand the cuts alone to a colleague…", (), "File", w.ask_cuts_out),
        c("cuts-merge", "Merge a colleague’s cuts…", (), "File", partial(w.ask_cuts_in, True)),
        c(
            "cuts-replace",
            "Replace by a colleague’s cuts…",
            (),
            "File",
            partial(w.ask_cuts_in, False),
        ),
        c(
            "find-films",
            "Look for missing films in a folder…",
            (),
            "File",
            lambda: w.troubles.ask_folder(),
            True,
            lambda: s.film is None,
        ),
        c("hand-over", "Hand over", ("Ctrl+Return",), "File", w.hand_over),
        c("quit", "Close Offcut", ("Ctrl+Q",), "File", w.close, False),
        c("undo", "Undo", ("Ctrl+Z",), "Edit", s.undo, True, lambda: bool(s.history.undoable)),
        c(
            "redo",
            "Redo",
            ("Ctrl+Shift+Z", "Ctrl+Y"),
            "Edit",
            s.redo,
            True,
            lambda: bool(s.history.redoable),
        ),
        c("all", "Select every seam listed", ("Ctrl+A",), "Edit", w.hands.select_all),
    ]


def _seam(w: Window) -> list[Command]:
    c, h = Command, w.hands
    return [
        c("keep", "Keep and go on", ("Return", "Enter"), "Seam", h.keep),
        c("strike", "Strike and go on", ("Del",), "Seam", h.strike),
        c("reopen", "Re-open", ("Shift+Del",), "Seam", h.reopen),
        c("roll-earlier", "Roll a frame earlier", ("[",), "Seam", lambda: h.roll(-1)),
        c("roll-later", "Roll a frame later", ("]",), "Seam", lambda: h.roll(1)),
        c("roll-to", "Roll to a timecode typed", ("Y",), "Seam", w.type_roll),
        c("place", "Place a cut at the playhead", ("+",), "Seam", h.place),
        c("place-gradual", "Place a dissolve about the playhead", ("G",), "Seam", h.place_gradual),
        c("find-one", "Find one seam here", ("R",), "Seam", w.places.find_one),
        c("one-cut", "Make it one cut at its middle, or back", ("C",), "Seam", h.one_cut),
        *(
            c(f"kind-{k.value}", f"Make it a {k.value}", (), "Seam", partial(h.set_kind, k))
            for k in Kind
        ),
        c(
            "start-earlier",
            "First mixed frame a frame earlier",
            ("Ctrl+[",),
            "Seam",
            partial(h.move_edge, -1, 0),
        ),
        c(
            "start-later",
            "First mixed frame a frame later",
            ("Ctrl+]",),
            "Seam",
            partial(h.move_edge, 1, 0),
        ),
        c(
            "end-earlier",
            "First clean frame a frame earlier",
            ("Alt+[",),
            "Seam",
            partial(h.move_edge, 0, -1),
        ),
        c(
            "end-later",
            "First clean frame a frame later",
            ("Alt+]",),
            "Seam",
            partial(h.move_edge, 0, 1),
        ),
        c("before", "To the seam before", ("Up",), "Walk", lambda: h.next_seam(-1)),
        c("after", "To the seam after", ("Down",), "Walk", lambda: h.next_seam(1)),
        c("doubtful", "To the next doubtful seam", ("D",), "Walk", h.next_doubtful),
        c("sliver", "To the next sliver", ("S",), "Walk", w.next_sliver),
        c("next-marker", "To the marker after", ("Shift+Down",), "Walk", w.places.next_marker),
        c(
            "marker-before",
            "To the marker before",
            ("Shift+Up",),
            "Walk",
            lambda: w.places.next_marker(-1),
        ),
        c("timecode", "Type a timecode to go to", ("T",), "Walk", w.type_place),
        c("fold", "Fold into the shot before", ("F",), "Shot", h.fold),
        c("fold-after", "Fold into the shot after", ("Shift+F",), "Shot", lambda: h.fold(1)),
        c("aside", "Set aside, or take back", ("A",), "Shot", h.set_aside),
        c("name", "Name the shot", ("N",), "Shot", w.name_here),
    ]


def _place(w: Window) -> list[Command]:
    c, p = Command, w.places

    def marked() -> bool:
        return w.session.marked is not None

    return [
        c("in", "The range begins here", ("I",), "Range", p.mark_in),
        c("out", "The range ends here", ("O",), "Range", p.mark_out),
        c("mark-shot", "Mark the shot", ("X",), "Range", p.mark_shot),
        c("unmark", "Unmark the range", ("Shift+X",), "Range", p.unmark, True, marked),
        c("loop", "Play it round and round", ("Shift+Space",), "Range", w.play_marked),
        c("strike-range", "Strike every seam in it", ("Ctrl+Del",), "Range", p.strike_all),
        c("hush", "Hush it", ("H",), "Range", p.hush),
        c("zone", "Give it its own sensitivity", ("Z",), "Range", p.own_sensitivity),
        c("search-only", "Search only it", (), "Range", p.search_only),
        c("search-whole", "Search the whole film", (), "Range", p.search_whole),
        c("marker", "Put a marker here, or over the range", ("M",), "Range", w.add_marker),
        c("framing", "Framing, and black bars…", (), "Range", w.open_framing),
        c("find", "Find the seams again", ("Ctrl+R",), "Range", w.session.search.find),
        c(
            "stop",
            "Stop the work under way",
            ("Esc",),
            "Range",
            w.stop_work,
            False,
        ),
    ]


def _play(w: Window) -> list[Command]:
    c, h, p = Command, w.hands, w.playing
    return [
        c("play", "Play, on a seam across it", ("Space",), "Play", p.toggle),
        c("forwards", "Play forwards, again for faster", ("L",), "Play", lambda: p.faster(1)),
        c("halt", "Stop", ("K",), "Play", p.stop),
        c("backwards", "Play backwards, again for faster", ("J",), "Play", lambda: p.faster(-1)),
        c("left", "A frame back", ("Left",), "Play", lambda: h.step(-1)),
        c("right", "A frame on", ("Right",), "Play", lambda: h.step(1)),
        c("left-ten", "Ten frames back", ("Shift+Left",), "Play", lambda: h.step(-10)),
        c("right-ten", "Ten frames on", ("Shift+Right",), "Play", lambda: h.step(10)),
        c("home", "To the first frame", ("Home",), "Play", lambda: w.session.go_to(0)),
        c("end", "To the last frame", ("End",), "Play", lambda: w.session.go_to(1 << 40)),
    ]


def _view(w: Window) -> list[Command]:
    c = Command
    return [
        c(
            "look",
            "Pair side by side, swapping, difference",
            ("P",),
            "View",
            lambda: w.seams.pair.next_look(),
        ),
        c("swap", "Swap the pair while held", ("V",), "View", lambda: w.seams.pair.hold_swap()),
        c("full", "The picture on the whole screen", ("F11",), "View", w.turn_full),
        c(
            "nearer",
            "Nearer to the picture",
            ("Ctrl++", "Ctrl+="),
            "View",
            lambda: w.seams.pair.nearer(),
        ),
        c("farther", "Farther from it", ("Ctrl+-",), "View", lambda: w.seams.pair.farther()),
        c("whole", "The whole picture", ("Ctrl+0",), "View", lambda: w.seams.pair.whole()),
        c("zoom-in", "Zoom the ribbon in", ("Ctrl+Up",), "View", lambda: w.ribbon.zoom(1.6)),
        c("zoom-out", "Zoom the ribbon out", ("Ctrl+Down",), "View", lambda: w.ribbon.zoom(0.625)),
        *(
            c(f"view-{v.lower()}", v, (f"Ctrl+{i}",), "View", partial(w.open_view, i - 1), False)
            for i, v in enumerate(VIEWS, start=1)
        ),
        c("theme", "Change between Day and Night", ("Ctrl+T",), "View", w.turn_theme, False),
        c("settings", "Settings…", ("Ctrl+,",), "View", w.open_settings, False),
        c("finder", "Find a command", ("Ctrl+K",), "Help", w.open_finder, False),
        c("keys", "All keys, and change them", ("F1",), "Help", w.open_sheet, False),
    ]
