"""`offcut facts`: what is in the shots of a film or a project, without a window."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from offcut import __version__
from offcut.cli.progress import progress_told
from offcut.cli.saying import answer, say, warn
from offcut.core.errands.facts import find_facts
from offcut.core.errands.searching import brought_in, search, taken
from offcut.core.errors import OffcutError
from offcut.core.facts.fact import SORTS, Fact, Sort
from offcut.core.facts.parts import programme_of
from offcut.core.media.arrivals import arrived
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.project import Project
from offcut.core.model.source import Source
from offcut.core.store.project_file import SUFFIX, open_project
from offcut.core.timecode import timecode_from_frame
from offcut.core.words import many


def add_facts(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    facts = kinds.add_parser("facts", help="what is in the shots: camera, light, sound ...")
    facts.add_argument("file", metavar="FILE|PROJECT", help="a film, stills, or a project")
    facts.add_argument("--json", action="store_true", help="print one JSON object a film")
    facts.add_argument(
        "--only", type=_sorts, default=SORTS, metavar="SORT,...",
        help=f"only these: {', '.join(SORTS)}",
    )  # fmt: skip
    facts.add_argument("--quiet", action="store_true", help="no progress")
    facts.set_defaults(run=_run_facts, parser=facts)


def _sorts(text: str) -> tuple[Sort, ...]:
    asked = tuple(word.strip() for word in text.split(",") if word.strip())
    for word in asked:
        if word not in SORTS:
            raise argparse.ArgumentTypeError(f"there is no “{word}”; there are {', '.join(SORTS)}")
    if not asked:
        raise argparse.ArgumentTypeError(f"name one or more of {', '.join(SORTS)}")
    return tuple(map(Sort, asked))


def _run_facts(call: argparse.Namespace) -> int:
    """Tell the facts of each film; one that cannot be read is told and passed over."""
    films, status = _films(call)
    for film in films:
        try:
            source, opened = film()
            found = find_facts(source, opened, sorts=call.only, progress=progress_told(call.quiet))
        except OffcutError as error:
            if len(films) == 1:
                raise
            warn(error)
            status = 1
            continue
        for problem in found.problems:
            warn(problem)
            status = 1
        if call.json:
            answer(facts_as_json(source, found.facts))
        else:
            _print(source, found.facts)
    return status


_Film = Callable[[], tuple[Source, OpenedFilm | None]]


def _films(call: argparse.Namespace) -> tuple[list[_Film], int]:
    """Return what opens and searches each film that was named, and 1 where something is no film."""
    path = Path(call.file)
    if path.suffix.lower() == SUFFIX:
        sources = open_project(path).sources
        if not sources:
            raise OffcutError(f"{path}: there is no film in it")
        return [partial(_of_project, call, s) for s in sources], 0
    came = arrived([call.file])
    for problem in came.problems:
        warn(problem)
    if not came.paths:
        raise OffcutError(f"{call.file}: there is no film in it")
    return [partial(_of_file, call, str(p)) for p in came.paths], int(bool(came.problems))


def _of_file(call: argparse.Namespace, path: str) -> tuple[Source, OpenedFilm | None]:
    project, film = brought_in(path)
    for note in film.notes:
        warn(note)
    searched = search(project.sources[-1], film, progress=progress_told(call.quiet))
    return taken(project, searched).sources[-1], searched.film


def _of_project(call: argparse.Namespace, source: Source) -> tuple[Source, OpenedFilm | None]:
    """Return a film of a project with its seams, found now where nobody looked for them yet."""
    if source.searched:
        return source, None
    searched = search(source, progress=progress_told(call.quiet))
    project = Project(sources=(source,), next_id=source.id + 1)
    return taken(project, searched).sources[0], searched.film


def facts_as_json(source: Source, facts: tuple[Fact, ...]) -> dict[str, Any]:
    """Return what `offcut facts --json` prints, as docs/formats.md describes it."""
    media = source.media
    return {
        "offcut": __version__,
        "source": {
            "path": media.path,
            "rate": f"{media.rate.numerator}/{media.rate.denominator}",
            "frames": media.frames,
            "start": timecode_from_frame(media.start, media.rate, media.drop),
            "width": media.width,
            "height": media.height,
        },
        **_programme(source, facts),
        "facts": [fact_as_json(f) for f in facts],
    }


def _programme(source: Source, facts: tuple[Fact, ...]) -> dict[str, Any]:
    """Return where the programme lies, without what stands before and after it."""
    found = programme_of([f for f in facts if f.sort == Sort.PART], float(source.media.rate))
    return {} if found is None else {"programme": list(found)}


def fact_as_json(fact: Fact) -> dict[str, Any]:
    """Return one fact as JSON has it."""
    return {
        "fact": fact.sort,
        "value": fact.value,
        "start": fact.start,
        "end": fact.end,
        "certainty": fact.certainty.value,
        **{k: list(v) if isinstance(v, tuple) else v for k, v in fact.figures.items()},
    }


def _print(source: Source, facts: tuple[Fact, ...]) -> None:
    media = source.media
    for fact in facts:
        first, last = (
            timecode_from_frame(media.start + f, media.rate, media.drop)
            for f in (fact.start, fact.end)
        )
        speed = fact.figures.get("speed")
        how = f"  {speed:g}" if isinstance(speed, float) and speed else ""
        sure = "" if fact.certainty.value == "sure" else f"  ({fact.certainty.value})"
        say(f"{first}  {last}  {fact.sort:<11} {fact.value}{how}{sure}")
    say(f"{many(len(facts), 'fact')} in {media.path}")
