"""`offcut turnover`: hand a project's shots over without a window."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path

from offcut.cli.progress import progress_told
from offcut.cli.saying import beside, say, warn
from offcut.core.errors import OffcutError, ProjectError
from offcut.core.lists.registry import FORMATS, ListFormat, written_formats
from offcut.core.machine.added import LIST_FORMS, leave_out
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.handover import Asked
from offcut.core.model.papers import PAPERS
from offcut.core.model.project import Project
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Source
from offcut.core.store.missing_films import film_there, with_films_found, with_shape_of
from offcut.core.store.project_file import open_project, read_project, save_project, stamp_of
from offcut.core.store.project_lock import LockedError, ProjectLock
from offcut.core.turnover.checks import Weight, checked
from offcut.core.turnover.movies import WAYS
from offcut.core.turnover.names import FIELDS
from offcut.core.turnover.plan import STILL_SUFFIXES, STILLS, Plan, plan_of
from offcut.core.turnover.writing import Report, copying_for, hand_over, with_handover
from offcut.core.words import many, size_words


def add_turnover(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    said = kinds.add_parser("turnover", help="hand over lists, movies and pictures of a project")
    said.add_argument("project", help="a .offcut project")
    said.add_argument("--to", metavar="DIR", help="the folder to write to")
    lists = said.add_argument_group("lists")
    ours = [form for form in written_formats() if form in FORMATS]
    for form in ours:
        _add_form(lists, form)
    lists.add_argument("--record-start", metavar="TIMECODE", help="usually 01:00:00:00")
    files = said.add_argument_group("movies and pictures")
    files.add_argument("--files", choices=tuple(WAYS), help="each shot as a movie")
    files.add_argument("--handles", type=int, metavar="FRAMES", help="before and after each shot")
    files.add_argument(
        "--framing", action="store_true", help="movies and pictures cut to the project’s framing"
    )
    files.add_argument(
        "--seen", action="store_true", help="movies as the display shows them, burnt in"
    )
    files.add_argument("--stills", choices=STILLS, help="a still of each shot")
    files.add_argument("--still-format", choices=tuple(STILL_SUFFIXES))
    files.add_argument("--sheet", dest="sheets", action="append", choices=("pdf", "png"))
    files.add_argument("--sheet-still", choices=STILLS, help="which frame the sheet shows")
    files.add_argument("--paper", choices=tuple(PAPERS))
    names = said.add_argument_group("which shots, and their names")
    names.add_argument(
        "--film", metavar="NAME", help="of which film, by its file’s name; else the first"
    )
    names.add_argument("--scene", metavar="NAME", help="only the shots of this scene")
    names.add_argument("--order", metavar="NAME", help="the shots of this running order")
    names.add_argument("--shots", metavar="N,N,…", help="only these shots, in this order")
    names.add_argument("--film-order", action="store_true", help="in the film's own order")
    names.add_argument("--offcuts", action="store_true", help="take along what was set aside")
    names.add_argument("--shortest", type=int, metavar="FRAMES", help="point out shorter shots")
    names.add_argument("--pattern", help="fields: " + ", ".join(f"{{{f}}}" for f in FIELDS))
    for word in ("first", "step", "padding"):
        names.add_argument(f"--{word}", type=int, metavar="N")
    said.add_argument("--again", action="store_true", help="the same as the last hand-over")
    said.add_argument("--overwrite", action="store_true", help="write over files that are there")
    said.add_argument("--check", action="store_true", help="only check, write nothing")
    said.add_argument("--quiet", action="store_true", help="no progress")
    for form in written_formats():
        if form not in ours:
            _add_form(lists, form)  # after ours, so that one with a code of ours is the one to go
    said.set_defaults(run=run_turnover)


def _add_form(lists: argparse._ArgumentGroup, form: ListFormat) -> None:
    try:
        lists.add_argument(
            f"--{form.code}", dest="lists", action="append_const", const=form.code,
            help=f"{form.words}: {form.about}",
        )  # fmt: skip
    except argparse.ArgumentError:  # another package’s, with a code that means something here
        leave_out(LIST_FORMS, form.code, "on the command line its code means something else")


def _asked(call: argparse.Namespace, project: Project) -> Asked:
    asked = Asked(lists=())
    if call.again:
        if not project.handovers:
            raise OffcutError(f"{call.project}: nothing was handed over yet")
        asked = project.handovers[-1].asked
    source = _source(call, project, asked.source)
    lists = tuple(dict.fromkeys(call.lists or ()))
    given = {
        "lists": lists or None,
        "movies": call.files,
        "framing": call.framing or None,
        "seen": call.seen or None,
        "handles": call.handles,
        "stills": call.stills,
        "still_format": call.still_format,
        "sheets": tuple(call.sheets) if call.sheets else None,
        "sheet_still": call.sheet_still,
        "paper": call.paper,
        "source": source.id,
        "which": _which(call),
        "scene": _scene(call.scene, project) if call.scene else None,
        "order": _order(call.order, project) if call.order else None,
        "chosen": _chosen(call.shots, source) if call.shots else None,
        "film_order": call.film_order or None,
        "offcuts": call.offcuts or None,
        "shortest": call.shortest,
        "pattern": call.pattern,
        "first": call.first,
        "step": call.step,
        "padding": call.padding,
        "record_start": call.record_start or (None if call.again else project.record_start),
    }
    for word in ("handles", "shortest", "first", "padding"):
        if (given[word] or 0) < 0:
            raise OffcutError(f"--{word} cannot be less than 0")
    return replace(asked, **{k: v for k, v in given.items() if v is not None})


def _which(call: argparse.Namespace) -> str | None:
    ways = {"scene": call.scene, "order": call.order, "chosen": call.shots}
    asked = [way for way, given in ways.items() if given]
    if len(asked) > 1:
        raise OffcutError("choose by one of --scene, --order and --shots")
    return asked[0] if asked else None


def _source(call: argparse.Namespace, project: Project, before: int) -> Source:
    """Return the film that is asked for, or that of the hand-over before, or the first one."""
    if call.film:
        named = [s for s in project.sources if Path(s.media.path).name == call.film]
        if not named:
            raise OffcutError(f"{call.project}: there is no film {call.film} in it")
        return named[0]
    return project.source(before) if project.holds(before) else project.sources[0]


def _scene(name: str, project: Project) -> int:
    found = next((s.id for s in project.scenes if s.name == name), None)
    if found is None:
        known = ", ".join(s.name for s in project.scenes) or "none"
        raise OffcutError(f"there is no scene “{name}”; there are: {known}")
    return found


def _order(name: str, project: Project) -> int:
    found = next((o.id for o in project.orders if o.name == name), None)
    if found is None:
        known = ", ".join(o.name for o in project.orders) or "none"
        raise OffcutError(f"there is no running order “{name}”; there are: {known}")
    return found


def _chosen(text: str, source: Source) -> tuple[int, ...]:
    """Return the seams that open the shots numbered in a text like 3,1,5-7."""
    openers = {s.number: s.opened_by.id if s.opened_by else 0 for s in shots_of(source)}
    chosen: list[int] = []
    for part in text.split(","):
        first, _, last = part.strip().partition("-")
        if not first.isdigit() or (last and not last.isdigit()):
            raise OffcutError(f"“{part.strip()}” is not a shot’s number")
        for number in range(int(first), min(int(last or first), int(first) + 100_000) + 1):
            if number not in openers:
                raise OffcutError(f"there is no shot {number}; there are {len(openers)}")
            chosen.append(openers[number])
    return tuple(chosen)


def _films(project: Project, plan: Plan) -> tuple[Project, dict[int, OpenedFilm]]:
    """Return the films of a plan that are there, and the project with their shapes."""
    films: dict[int, OpenedFilm] = {}
    for source in plan.sources:
        there = film_there(source.media)
        if there.film is not None:
            films[source.id] = there.film
            project = with_shape_of(project, source.id, there.film)
    return project, films


def run_turnover(call: argparse.Namespace) -> int:
    """Run the command; return the exit status."""
    path = Path(call.project).absolute()
    project, _ = with_films_found(open_project(path), path)
    if not project.sources:
        raise OffcutError(f"{path}: the project has no film")
    asked = _asked(call, project)
    folder = Path(call.to) if call.to else None
    if folder is None and call.again:
        folder = Path(project.handovers[-1].folder)
    project, films = _films(project, plan_of(project, asked))
    plan = plan_of(project, asked)
    copying = None
    if plan.way is not None and not plan.way.codec and len(films) == len(plan.sources):
        copying = copying_for(plan, films)
    remarks = checked(plan, folder, films=films, copying=copying)
    for remark in remarks:
        if remark.code != "exists" or not call.overwrite:
            warn(f"{path.name}: {remark.words}")
    stop = next((r for r in remarks if r.weight is Weight.STOP), None)
    if call.check:
        for output in plan.outputs:
            say(f"{output.name}  {output.what}, about {size_words(output.size)}")
        return 1 if stop else 0
    if stop is not None or folder is None:
        raise OffcutError(f"{path.name}: nothing was handed over")
    report = hand_over(
        plan, folder, films, overwrite=call.overwrite, progress=progress_told(call.quiet)
    )
    for name, size in report.written:
        say(f"{report.folder / name}  {size_words(size)}")
    for words in (*report.notes, *report.problems):
        warn(words)
    files = many(len(report.written), "file")
    beside(f"{files}, {size_words(report.size)}, in {report.seconds:.1f} s")
    _keep(path, report, plan)
    return 1 if report.problems else 0


def _keep(path: Path, report: Report, plan: Plan) -> None:
    """Keep the hand-over with the project, unless a window holds it."""
    try:
        lock = ProjectLock(path)
    except LockedError:
        warn("the project is open in a window, so this is not kept in it")
        return
    stamp = stamp_of(path)
    try:
        saved = read_project(path)
        made = with_handover(saved.project, report.handover(plan))
        save_project(made, path, over=stamp, in_hand=saved.in_hand)
    except ProjectError as error:
        warn(f"{error}, so this is not kept in it")
    lock.release()
