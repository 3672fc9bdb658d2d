"""`offcut find`: shots of every project saved on this machine, found again by words."""

from __future__ import annotations

import argparse
from pathlib import Path

from offcut.cli.progress import progress_told
from offcut.cli.saying import beside, say, warn
from offcut.core.errors import OffcutError
from offcut.core.facts.query import FLAGS, query_of
from offcut.core.store.library import MOST, FoundShot, Library
from offcut.core.words import as_json, many


def add_find(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    said = kinds.add_parser(
        "find",
        help="find shots in all projects saved on this machine",
        epilog="Words in names, notes, scenes, reels, film names and what shots show; “-word”"
        " without it; “> 3 s”, “< 12 f”; scene:, film:, name:, note:, reel:, shows:;"
        " cut, dissolve, fade, wipe, whip; " + ", ".join(FLAGS) + ".",
    )
    said.add_argument("words", nargs="*", metavar="WORDS", help="what is looked for")
    said.add_argument("--index", metavar="DIR", action="append", default=[],
                      help="take the projects below a folder in")  # fmt: skip
    said.add_argument("--rebuild", action="store_true", help="read all known projects again")
    said.add_argument("--most", type=int, default=MOST, metavar="N", help="so many at most")
    said.add_argument("--json", action="store_true", help="one object a line")
    said.add_argument("--quiet", action="store_true", help="no progress")
    said.set_defaults(run=run_find)


def run_find(call: argparse.Namespace) -> int:
    """Take in, then find. Raises OffcutError."""
    text = " ".join(call.words)
    query = query_of(text)
    if query.problem:
        raise OffcutError(query.problem)
    if call.most < 1:
        raise OffcutError("--most cannot be less than 1")
    if not query and not call.index and not call.rebuild:
        beside("offcut find: say what is looked for, or --index DIR")
        return 2
    bad = False
    with Library() as library:
        for folder in call.index:
            read, problems = library.take_folder(Path(folder), progress_told(call.quiet))
            bad = _said(call, read, problems) or bad
        if call.rebuild:
            read, problems = library.rebuild(progress_told(call.quiet))
            bad = _said(call, read, problems) or bad
        if query:
            found = library.find(query, call.most)
            for shot in found.shots:
                say(as_json(shot.document()) if call.json else _line(shot))
            if found.more and not call.quiet:
                warn(f"there are more than {call.most}")
    return 1 if bad else 0


def _said(call: argparse.Namespace, read: int, problems: tuple[str, ...]) -> bool:
    for problem in problems:
        warn(problem)
    if not call.quiet:
        warn(f"{many(read, 'project')} taken in")
    return bool(problems)


def _line(shot: FoundShot) -> str:
    first, last = shot.timecodes
    name = shot.name or f"Shot {shot.number}"
    scene = f"  [{shot.scene}]" if shot.scene else ""
    gone = "" if shot.there else "  (the project is gone)"
    return f"{first} {last}  {name}{scene}  {Path(shot.media.path).name}  {shot.project}{gone}"
