"""`offcut originals`: for each shot of a project the file it was made from, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path

from offcut.cli.progress import progress_told
from offcut.cli.saying import answer, say, warn
from offcut.core.errands.conforming import conformed, rushes_in, with_originals
from offcut.core.errands.held_against import held
from offcut.core.errors import OffcutError
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import events_of, going
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.aaf import write_aaf
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.lists.timelines.xml import write_xml
from offcut.core.reports.conform_lists import (
    conform_document,
    conform_text,
    write_pairs_sheet,
    write_pull_list,
)
from offcut.core.store.library import keep_up
from offcut.core.store.project_file import save_project

_WRITERS = {"edl": write_edl, "otio": write_otio, "xml": write_xml, "aaf": write_aaf}


def add_originals(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    said = kinds.add_parser("originals", help="find the camera files a film was made from")
    said.add_argument("project", metavar="PROJECT", help="a .offcut project, or a film")
    said.add_argument("folders", nargs="+", metavar="DIR", help="files and folders of originals")
    said.add_argument("--film", metavar="NAME", help="which film of a project, by its file")
    said.add_argument("--json", action="store_true", help="print one JSON object")
    said.add_argument(
        "--bin", dest="bins", action="append", default=[], metavar="FILE",
        help="a bin (ALE) that tells reels and timecodes of the files",
    )  # fmt: skip
    for form in _WRITERS:
        said.add_argument(
            f"--{form}", metavar="FILE", help=f"the film cut again from its originals, {form}"
        )
    said.add_argument("--pull", metavar="FILE", help="the frames needed of each (.csv .edl .ale)")
    said.add_argument("--pdf", metavar="FILE", help="every shot and its original on paper")
    said.add_argument("--handles", type=int, default=0, metavar="FRAMES", help="of the pull list")
    said.add_argument("--save", metavar="FILE", help="keep the project with what was found")
    said.add_argument("--quiet", action="store_true", help="no progress")
    said.set_defaults(run=run_originals)


def run_originals(call: argparse.Namespace) -> int:
    """Run the command; return the exit status. Raises OffcutError."""
    if call.handles < 0:
        raise OffcutError("--handles cannot be less than 0")
    if call.save and Path(call.save).exists():
        raise OffcutError(f"{call.save}: is there already; nothing was found or written")
    if call.pdf and not call.pdf.lower().endswith(".pdf"):
        raise OffcutError(f"{call.pdf}: --pdf writes a file that ends in .pdf")
    told = progress_told(call.quiet)
    film = held(call.project, film=call.film or "", progress=told)
    if film.project is None or film.source is None:
        raise OffcutError(f"{call.project}: is a list, and originals are found for a film")
    media = film.source.media
    bins = [read_list(b, media.rate, media.drop) for b in call.bins]
    rushes = rushes_in(call.folders, bins=bins, besides=[media], progress=told)
    for note in rushes.notes if not call.quiet else ():
        warn(note)
    conform = conformed(film.source, rushes, progress=told)
    project = with_originals(film.project, conform)
    written = []
    for form, write in _WRITERS.items():
        if getattr(call, form):
            picks = going(project.source(film.source.id))
            written.append(write(events_of(project, picks, originals=True), getattr(call, form)))
    if call.pull:
        written.append(write_pull_list(call.pull, conform, project, call.handles))
    if call.pdf:
        written.append(write_pairs_sheet(call.pdf, conform))
    if call.save:
        keep_up(project, save_project(project, call.save))
        written.append(Path(call.save))
    if call.json:
        answer(conform_document(conform))
    elif not written:
        say(conform_text(conform))
    for file in written if not call.quiet else ():
        warn(file)
    return 0
