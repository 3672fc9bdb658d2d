"""What `offcut rhythm` does; apart from its words, since statistics take a second to load."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from offcut.cli.progress import progress_told
from offcut.cli.saying import answer, say, warn
from offcut.core.errands.looking_along import look_along
from offcut.core.errands.study import Part, Studied, studied
from offcut.core.errors import OffcutError
from offcut.core.reports.shot_prints import prints_of
from offcut.core.rhythm.charts import write_charts
from offcut.core.rhythm.figures_out import (
    study_document,
    study_text,
    write_csv,
    write_workbook,
)
from offcut.core.rhythm.lanes import FilmSignals, lanes_of
from offcut.core.rhythm.length_files import write_reference
from offcut.core.rhythm.lengths import ShotLengths, some_of
from offcut.core.rhythm.noted import notes_of
from offcut.core.rhythm.page import ShotPicture, write_page
from offcut.core.rhythm.whole_study import Manner, WholeStudy, whole_study
from offcut.core.timecode import Rate, rate_from


def run_rhythm(call: argparse.Namespace) -> int:
    """Run the command; return the exit status. Raises OffcutError."""
    if not call.limit > 0:
        raise OffcutError("--limit must be more than 0")
    if not 1 <= call.smooth <= 1000:
        raise OffcutError("--smooth goes from 1 to 1000 shots")
    rate = rate_from(call.rate) if call.rate else None
    told = progress_told(call.quiet)
    part = Part(call.film, call.scene, call.order, call.all_films, call.offcuts)
    first, *rest = studied(call.file, part, rate=rate, progress=told)
    beside = [one.lengths for one in rest]
    likely = _rate_of(first)
    for other in call.beside:
        aside = Part(aside=call.offcuts)
        more = studied(other, aside, rate=rate, likely=likely, progress=told)
        beside += [one.lengths for one in more]
    for lengths in (first.lengths, *beside):
        if lengths.note and not call.quiet:
            warn(f"{lengths.name}: {lengths.note}")
    study = _study(call, first, beside)
    written = _written(call, first, study)
    if call.json:
        answer(study_document(study))
    elif not written:
        say(study_text(study))
    if not call.quiet:
        for file in written:
            warn(file)
    return 0


def _rate_of(first: Studied) -> Rate | None:
    """Return the rate of the film that is studied, None for a list."""
    films = first.lengths.films
    if first.project is None or not films:
        return None
    return first.project.source(films[0]).media.rate


def _study(call: argparse.Namespace, first: Studied, beside: Sequence[ShotLengths]) -> WholeStudy:
    project = first.project
    films: dict[int, FilmSignals] = {}
    drawn = bool(call.pdf or call.svg or call.png)
    if project is not None and drawn:
        for source_id in first.lengths.films:
            told = progress_told(call.quiet)
            films[source_id], trouble = look_along(project.source(source_id), progress=told)
            if trouble:
                warn(trouble)
    return whole_study(
        _title(call, first),
        first.lengths,
        beside,
        Manner(call.limit, call.smooth, call.log, call.true_time),
        project.scenes if project is not None else (),
        lanes_of(first.lengths, films) if films else None,
    )


def _title(call: argparse.Namespace, first: Studied) -> str:
    is_project = first.project is not None and Path(call.file).suffix == ".offcut"
    named = first.project.name if is_project and first.project is not None else ""
    return named or first.lengths.name


def _written(call: argparse.Namespace, first: Studied, study: WholeStudy) -> list[Path]:
    written: list[Path] = []
    if call.csv:
        written += write_csv(study, call.csv)
    if call.xlsx:
        written.append(write_workbook(study, call.xlsx))
    if call.pdf:
        pictures = _pictures(call, first, study)
        notes = notes_of(first.lengths, first.project) if first.project is not None else {}
        written.append(write_page(replace(study, notes=notes), call.pdf, call.paper, pictures))
    for form in ("svg", "png"):
        if getattr(call, form):
            written += write_charts(study, getattr(call, form), form)
    if call.keep:
        written.append(
            write_reference([study.lengths, *(b.lengths for b in study.beside)], call.keep)
        )
    return written


def _pictures(call: argparse.Namespace, first: Studied, study: WholeStudy) -> list[ShotPicture]:
    """Return the pictures that are asked for, from the middles of their shots."""
    if first.project is None or call.pictures == "none":
        return []
    return prints_of(study.lengths, _places(call.pictures, study.lengths), first.project)


def _places(asked: str, lengths: ShotLengths) -> list[int]:
    """Return the shots whose pictures go on the page; by length where none are named."""
    if not asked:
        return some_of(lengths)
    numbers = {s.number: n for n, s in enumerate(lengths.shots)}
    found = []
    for word in asked.split(","):
        if not word.strip().isdigit() or int(word) not in numbers:
            raise OffcutError(f"there is no shot “{word.strip()}”; there are {len(lengths)}")
        found.append(numbers[int(word)])
    return found
