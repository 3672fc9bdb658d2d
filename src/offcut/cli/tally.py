"""`offcut tally`: what changed from one version of a film to the other, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path

from offcut.cli.progress import progress_told
from offcut.cli.saying import answer, say, warn
from offcut.core.errands.held_against import OneSide, carried, held, versions_compared
from offcut.core.errors import OffcutError
from offcut.core.reports.change_list import change_document, comparison_text, write_change_list
from offcut.core.store.library import keep_up
from offcut.core.store.project_file import save_project
from offcut.core.tally.versions.changes import Comparison

FORMS = ("pdf", "csv", "edl", "otio")


def add_tally(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    tally = kinds.add_parser("tally", help="what changed from one version of a film to another")
    tally.add_argument("old", metavar="OLD", help="a film, a project or a list")
    tally.add_argument("new", metavar="NEW", help="a film, a project or a list")
    tally.add_argument("--json", action="store_true", help="print one JSON object")
    tally.add_argument("--pdf", metavar="FILE", help="the changed shots on paper, with pictures")
    tally.add_argument("--csv", metavar="FILE", help="every shot, and every unchanged stretch")
    tally.add_argument("--edl", metavar="FILE", help="the new version with a locator a change")
    tally.add_argument("--otio", metavar="FILE", help="the same as a timeline")
    tally.add_argument("--old-film", metavar="NAME", help="which film of a project, by its file")
    tally.add_argument("--new-film", metavar="NAME", help="which film of a project, by its file")
    tally.add_argument(
        "--save", metavar="FILE", help="a project with both, decisions carried over to the new one"
    )
    tally.add_argument("--quiet", action="store_true", help="no progress")
    tally.set_defaults(run=run_tally)


def run_tally(call: argparse.Namespace) -> int:
    """Run the command; return the exit status. Raises OffcutError."""
    told = progress_told(call.quiet)
    for form in FORMS:
        name = getattr(call, form)
        if name and not name.lower().endswith(f".{form}"):
            raise OffcutError(f"{name}: --{form} writes a file that ends in .{form}")
    if call.save and Path(call.save).exists():
        raise OffcutError(f"{call.save}: is there already; nothing was compared or written")
    old = held(call.old, film=call.old_film or "", progress=told)
    new = held(call.new, film=call.new_film or "", likely=old.rate, progress=told)
    for note in (old.note, new.note):
        if note and not call.quiet:
            warn(note)
    comparison = versions_compared(old, new, progress=told)
    written = [
        write_change_list(getattr(call, form), comparison, old, new)
        for form in FORMS
        if getattr(call, form)
    ]
    if call.save:
        written.append(_save_carried(call.save, old, new, comparison, call.quiet))
    if call.json:
        answer(change_document(comparison))
    elif not written:
        say(comparison_text(comparison, old, new))
    if not call.quiet:
        for file in written:
            warn(file)
    return 0


def _save_carried(
    path: str, old: OneSide, new: OneSide, comparison: Comparison, quiet: bool
) -> Path:
    """Keep a project with both films; tell what could not be placed in the new one."""
    done, new_id = carried(old, new, comparison)
    keep_up(done.project, save_project(done.project, path, in_hand=new_id))
    for sentence in done.left if not quiet else ():
        warn(f"stays with the old one: {sentence}")
    return Path(path)
