"""`offcut open` and `offcut demo`: the window."""

from __future__ import annotations

import argparse


def add_open(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add both commands to the command line's parser."""
    opening = kinds.add_parser("open", help="open the window (also without the word)")
    opening.add_argument("files", nargs="*", help="films, or a project")
    opening.set_defaults(run=_run_window)

    demo = kinds.add_parser("demo", help="open the demo film")
    demo.add_argument("--screenshot", metavar="FILE.png", help="draw the window to a picture")
    demo.add_argument("--theme", choices=("day", "night"), help="day or night")
    demo.set_defaults(run=_run_demo)


def _run_window(call: argparse.Namespace) -> int:
    from offcut.app.shell.main import leave, run_window

    leave(run_window(call.files))


def _run_demo(call: argparse.Namespace) -> int:
    from offcut.app.shell.main import leave, run_demo

    leave(run_demo(screenshot=call.screenshot, theme=call.theme))
