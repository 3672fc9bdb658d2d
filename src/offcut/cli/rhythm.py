"""`offcut rhythm`: how a project, a film or a list is paced, in figures, tables and charts."""

from __future__ import annotations

import argparse

from offcut.core.model.papers import PAPERS
from offcut.core.rhythm.usual import LIMIT, SMOOTHING


def add_rhythm(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    said = kinds.add_parser(
        "rhythm",
        help="tell how a project, a film or a list is paced",
        epilog="A list is an EDL, an OTIO timeline, a CSV with a column of seconds or with record"
        " timecodes, a reference set, or what detect and rhythm print as JSON.",
    )
    said.add_argument("file", metavar="PROJECT|FILM|LIST", help="what is studied")
    said.add_argument("--beside", action="append", default=[], metavar="OTHER",
                      help="another project, film or list to hold it beside")  # fmt: skip
    said.add_argument("--rate", metavar="FPS", help="of lists that do not tell theirs")
    of = said.add_argument_group("what of a project")
    of.add_argument("--film", default="", metavar="NAME", help="one film, by its file’s name")
    of.add_argument("--scene", default="", metavar="NAME", help="the shots of a scene")
    of.add_argument("--order", default="", metavar="NAME", help="a running order")
    of.add_argument("--all-films", action="store_true", help="all its films, one after another")
    of.add_argument("--offcuts", action="store_true", help="count what was set aside too")
    how = said.add_argument_group("how")
    how.add_argument("--limit", type=float, default=LIMIT, metavar="SECONDS",
                     help="under which shots are short (1)")  # fmt: skip
    how.add_argument("--smooth", type=int, default=SMOOTHING, metavar="SHOTS",
                     help=f"how many shots wide the pace is smoothed ({SMOOTHING})")  # fmt: skip
    how.add_argument("--log", action="store_true", help="the skyline on a logarithmic scale")
    how.add_argument("--true-time", action="store_true",
                     help="what is beside in its own seconds, not stretched")  # fmt: skip
    out = said.add_argument_group("what is written")
    out.add_argument("--json", action="store_true", help="all figures as one JSON object")
    out.add_argument("--csv", metavar="FILE", help="all lengths; the figures go beside it")
    out.add_argument("--xlsx", metavar="FILE", help="figures and lengths as a spreadsheet")
    out.add_argument("--pdf", metavar="FILE", help="the study page")
    out.add_argument("--paper", choices=tuple(PAPERS), default="A4")
    out.add_argument("--pictures", metavar="N,N,…", default="",
                     help="on the study page: the pictures of these shots, or none"
                     " (the shortest, the longest and some between)")  # fmt: skip
    out.add_argument("--svg", metavar="DIR", help="every chart as SVG")
    out.add_argument("--png", metavar="DIR", help="every chart as PNG, 300 dots an inch")
    out.add_argument("--keep", metavar="FILE", help="a reference set of it and all beside it")
    said.add_argument("--quiet", action="store_true", help="no progress, and nothing but errors")
    said.set_defaults(run=_run)


def _run(call: argparse.Namespace) -> int:
    from offcut.cli.rhythm_study import run_rhythm  # statistics take a second to load

    return run_rhythm(call)
