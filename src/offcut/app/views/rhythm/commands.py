"""The commands of Rhythm. Their keys are in force while it is open."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from offcut.app.commands.actions import Command
from offcut.app.views.description import ViewContext

if TYPE_CHECKING:
    from offcut.app.views.rhythm.view import RhythmView

RHYTHM = "rhythm"
STUDY, LOOK, KEEP = "What is studied", "Look of Rhythm", "Keeping a study"


def commands(context: ViewContext, view: Callable[[], RhythmView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""

    def c(name: str, words: str, keys: tuple[str, ...], run: Callable[[RhythmView], object],
          group: str = STUDY) -> Command:  # fmt: skip
        return Command(f"rhythm-{name}", words, keys, group, lambda: run(view()), True, None,
                       RHYTHM)  # fmt: skip

    return [
        c("whole", "Study the whole again, not a range", ("W",), lambda v: v.study.whole_again()),
        c("after", "Study what stands after in the list", ("PgDown",),
          lambda v: v.left.subjects.step(1)),
        c("before", "Study what stands before in the list", ("PgUp",),
          lambda v: v.left.subjects.step(-1)),
        c("aside", "Count what is set aside, or not", ("A",),
          lambda v: v.study.set_aside(not v.study.aside)),
        c("pick", "The shot’s picture on the page, or off it", ("P",), lambda v: v.pick_here()),
        c("beside", "Add a film, a list or a version beside…", ("Ctrl+B",),
          lambda v: v.ask_beside()),
        c("take-away", "Take away what is chosen beside", ("Del",),
          lambda v: v.study.take_away(v.left.beside_here)),
        c("true-time", "What is beside in its own time, or stretched", ("U",),
          lambda v: v.study.set_manner(true_time=not v.study.manner.true_time), LOOK),
        c("log", "Logarithmic lengths, or plain", ("G",),
          lambda v: v.study.set_manner(log=not v.study.manner.log), LOOK),
        c("smoother", "The pace smoother", ("]",), lambda v: v.smooth(1), LOOK),
        c("rougher", "The pace rougher", ("[",), lambda v: v.smooth(-1), LOOK),
        c("larger", "The skyline larger", ("Ctrl++", "Ctrl+="), lambda v: v.skyline.zoom(1.6),
          LOOK),
        c("smaller", "The skyline smaller", ("Ctrl+-",), lambda v: v.skyline.zoom(0.625), LOOK),
        c("fit", "Fit all of it on the skyline", ("Ctrl+0",), lambda v: v.skyline.show_all(), LOOK),
        c("left", "The skyline’s earlier part", ("Ctrl+Left",), lambda v: v.skyline.push(-0.5),
          LOOK),
        c("right", "The skyline’s later part", ("Ctrl+Right",), lambda v: v.skyline.push(0.5),
          LOOK),
        c("window", "The pulse’s window: as usual, 10 s, 30 s, a minute, two", (),
          lambda v: v.next_window(), LOOK),
        c("charts", "Other charts below", ("V",), lambda v: v.next_charts(), LOOK),
        c("page", "Keep the page as PDF…", ("Ctrl+P",), lambda v: v.keeping.ask_page(), KEEP),
        c("paper", "The page on A4, or on Letter", (), lambda v: v.keeping.turn_paper(), KEEP),
        c("figures", "Keep figures and lengths…", ("Ctrl+Shift+F",),
          lambda v: v.keeping.ask_figures(), KEEP),
        c("svg", "Keep every chart as SVG…", (), lambda v: v.keeping.ask_charts("svg"), KEEP),
        c("png", "Keep every chart as PNG…", (), lambda v: v.keeping.ask_charts("png"), KEEP),
        c("chart-svg", "Keep this chart as SVG…", (), lambda v: v.keep_chart("svg"), KEEP),
        c("chart-png", "Keep this chart as PNG…", (), lambda v: v.keep_chart("png"), KEEP),
        c("reference", "Keep it and all beside it as a reference set…", (),
          lambda v: v.keeping.ask_reference(), KEEP),
        c("copy", "Copy the figures", ("Ctrl+C",), lambda v: v.copy(), KEEP),
        c("copy-lengths", "Copy the lengths", ("Ctrl+Shift+C",),
          lambda v: v.keeping.copy_lengths(), KEEP),
        c("copy-chart", "Copy the chart", ("Ctrl+Alt+C",), lambda v: v.copy_chart(), KEEP),
    ]  # fmt: skip
