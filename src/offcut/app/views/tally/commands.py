"""The commands of Tally. Their keys are in force while it is open."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from offcut.app.commands.actions import Command
from offcut.app.views.description import ViewContext

if TYPE_CHECKING:
    from offcut.app.views.tally.view import TallyView

TALLY = "tally"
JUDGE, LOOK = "What changed", "Both versions looked at"


def commands(context: ViewContext, view: Callable[[], TallyView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""

    def c(name: str, words: str, keys: tuple[str, ...], run: Callable[[TallyView], object],
          group: str = JUDGE) -> Command:  # fmt: skip
        return Command(f"tally-{name}", words, keys, group, lambda: run(view()), True, None,
                       TALLY)  # fmt: skip

    return [
        c("after", "The next change", ("Down",), lambda v: v.page.tally.step(1)),
        c("before", "The change before", ("Up",), lambda v: v.page.tally.step(-1)),
        c("along", "The next shot of the film", ("PgDown",), lambda v: v.page.tally.step_along(1)),
        c("back", "The shot of the film before", ("PgUp",), lambda v: v.page.tally.step_along(-1)),
        c("order", "As the film runs, or doubt first", ("R",), lambda v: v.page.other_order()),
        c("doubt", "Next doubtful change", ("D",), lambda v: v.page.next_doubt()),
        c("agree", "It is so", ("Return", "Enter"), lambda v: v.page.agree()),
        c("untie", "Untie, or take the original off", ("Del",), lambda v: v.page.untie()),
        c("take-back", "Let the pictures tell again", ("Shift+Del",),
          lambda v: v.page.take_back()),
        c("mark", "Take this old shot for a tie by hand", ("B",),
          lambda v: v.versions.take_for_tie()),
        c("tie", "Tie it to the old shot that was taken", ("T",),
          lambda v: v.versions.tie_by_hand()),
        c("open", "Show it in Seams", ("G",), lambda v: v.page.open_in_seams()),
        c("film", "The film’s side, not the list’s", ("F",), lambda v: v.page.take_film()),
        c("list", "Read a list to hold against the film…", ("Ctrl+L",),
          lambda v: v.lists.ask_list()),
        c("likely", "The next likeliest original", ("N",), lambda v: v.page.next_likely()),
        c("take-all", "Take every original that is not in doubt", ("Ctrl+Shift+Return",),
          lambda v: v.originals.take_sure()),
        c("two", "Hold two lists against each other", (), lambda v: v.open_page("two-lists")),
        c("folder", "Look for originals in a folder…", ("Ctrl+Shift+O",),
          lambda v: v.originals.ask_folder()),
        c("pairs", "Keep a sheet of the pairs…", (), lambda v: v.originals.keep_sheet()),
        c("page", "The next part of Tally", (), lambda v: v.next_page()),
        c("swap-versions", "Which one is the new version", (), lambda v: v.versions.tally.swap()),
        c("bring", "Bring in another version…", ("Ctrl+B",), lambda v: v.versions.bring_other()),
        c("carry", "Carry over to the new version", ("Ctrl+Return",), lambda v: v.versions.carry()),
        c("keep", "Keep the change list, or a pull list…", ("Ctrl+P",),
          lambda v: v.page.keep_list()),
        c("frame-after", "A frame on in both", ("Right",),
          lambda v: v.page.well.go_to(v.page.well.frame + 1),
          LOOK),
        c("frame-before", "A frame back in both", ("Left",),
          lambda v: v.page.well.go_to(v.page.well.frame - 1), LOOK),
        c("ten-after", "Ten frames on in both", ("Shift+Right",),
          lambda v: v.page.well.go_to(v.page.well.frame + 10), LOOK),
        c("ten-before", "Ten frames back in both", ("Shift+Left",),
          lambda v: v.page.well.go_to(v.page.well.frame - 10), LOOK),
        c("first", "Its first frame", ("Home",), lambda v: v.page.well.go_to(0), LOOK),
        c("last", "Its last frame", ("End",),
          lambda v: v.page.well.go_to(v.page.well.length - 1), LOOK),
        c("later", "The new one a frame later", ("]",),
          lambda v: v.page.well.set_later(v.page.well.later + 1), LOOK),
        c("earlier", "The new one a frame earlier", ("[",),
          lambda v: v.page.well.set_later(v.page.well.later - 1), LOOK),
        c("play", "Play both in step, or stop", ("Space",),
          lambda v: v.page.well.toggle_play(), LOOK),
        c("sound", "Hear the other one", ("S",), lambda v: v.page.well.hear_other(), LOOK),
        c("lock-by", "Lock by pictures, timecodes or an offset", ("Shift+L",),
          lambda v: v.versions.lock_by_next(), LOOK),
        c("lock", "Lock here: these two frames are the same", ("L",), lambda v: v.page.lock_here(),
          LOOK),
        c("look", "Look at both in the next way", ("V",), lambda v: v.page.next_look(), LOOK),
        c("swap", "Swap old and new", ("X",), lambda v: v.page.well.swap(), LOOK),
        c("stronger", "The difference stronger", (), lambda v: v.page.well.change_gain(2.0), LOOK),
        c("weaker", "The difference weaker", (), lambda v: v.page.well.change_gain(0.5), LOOK),
        c("nearer", "Nearer, in both", ("Ctrl++", "Ctrl+="),
          lambda v: v.page.well.magnify(1.5), LOOK),
        c("farther", "Farther, in both", ("Ctrl+-",), lambda v: v.page.well.magnify(1 / 1.5), LOOK),
        c("fit", "Fit both", ("Ctrl+0",), lambda v: v.page.well.fit(), LOOK),
    ]  # fmt: skip
