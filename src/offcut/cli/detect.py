"""`offcut detect`: the seams of films, found without a window."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

from offcut import __version__
from offcut.cli.cutting_by_list import cut_by
from offcut.cli.progress import progress_told
from offcut.cli.saying import answer, say, warn
from offcut.core.errands.bringing_in import (
    same_film,
    with_framing,
)
from offcut.core.errands.searching import brought_in, search, taken
from offcut.core.errors import OffcutError
from offcut.core.judge.cadence import pulldown_words
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import events_of, going
from offcut.core.lists.registry import read_list
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.arrivals import arrived
from offcut.core.media.display import display_of, displays
from offcut.core.media.live_picture import FoundFraming, find_framing
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.model.project import Project
from offcut.core.model.run import Holes, Run
from offcut.core.model.seam import Certainty
from offcut.core.model.shots import is_counted, shots_of
from offcut.core.model.source import SMALLEST, WHOLE, Framing, Marker, Media, Source
from offcut.core.model.ticket import MOST_SQUEEZE, Flash
from offcut.core.model.verbs.searching import set_framing, set_range, set_sensitivity
from offcut.core.model.verbs.ticket import (
    rate_is_right,
    set_display,
    set_flash,
    set_rate,
    set_squeeze,
    set_stops,
)
from offcut.core.store.library import keep_up
from offcut.core.store.project_file import SUFFIX, save_project
from offcut.core.tally.cutting import Use
from offcut.core.timecode import frame_from_typed, rate_from, rate_words, timecode_from_frame
from offcut.core.words import many

FIND, WHOLE_PICTURE = "find", "whole"
_WRITERS = (("edl", write_edl), ("otio", write_otio), ("csv", write_csv))


def add_detect(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    detect = kinds.add_parser("detect", help="find the seams of films, without a window")
    detect.add_argument("files", nargs="+", metavar="FILE|DIR", help="films, stills, or folders")
    detect.add_argument("--json", action="store_true", help="print one JSON object a film")
    detect.add_argument(
        "--list", metavar="FILE", help="cut by this list as well (EDL, OTIO, XML, AAF, ALE, CSV)"
    )
    detect.add_argument(
        "--list-as", choices=[use.value for use in Use],
        help="what the list is for; else cuts with what is found, or what it is by its contents",
    )  # fmt: skip
    detect.add_argument("--in", dest="start", metavar="TIME", help="first timecode or frame")
    detect.add_argument("--out", dest="end", metavar="TIME", help="timecode or frame after the end")
    detect.add_argument("--sensitivity", type=_percent, default=50, metavar="0-100")
    detect.add_argument("--edl", metavar="FILE", help="write the shots as a CMX 3600 EDL")
    detect.add_argument("--otio", metavar="FILE", help="write the shots as an OTIO timeline")
    detect.add_argument("--csv", metavar="FILE", help="write the shots as CSV")
    detect.add_argument(
        "--crop",
        type=_crop,
        metavar="W:H:X:Y",
        help="look only at this part, in pixels; find looks for bars and gate thoroughly, whole "
        "looks at all of it (without it, what is sure to be no picture is left out)",
    )
    scan = detect.add_argument_group("stills and scans")
    scan.add_argument("--rate", type=_rate, metavar="FPS", help="frames per second")
    scan.add_argument("--squeeze", type=_squeeze, metavar="TIMES", help="the lens squeezed by")
    scan.add_argument("--display", metavar="NAME", help="log seen through this, or a .cube")
    scan.add_argument(
        "--holes", choices=[h.value for h in Holes], default="hold",
        help="where a number is missing: hold the picture before, leave it black, or close the gap",
    )  # fmt: skip
    scan.add_argument(
        "--stops", choices=("before", "after", "split", "off"),
        help="camera stops as one cut: which shot their flash frames stay with",
    )  # fmt: skip
    detect.add_argument(
        "--save", metavar="FILE|DIR", help="keep it as a .offcut project; in DIR one for each film"
    )
    detect.add_argument("--project", metavar="FILE", help="keep all films in one .offcut project")
    detect.add_argument("--quiet", action="store_true", help="no progress")
    detect.set_defaults(run=_run_detect, parser=detect)


def _percent(text: str) -> int:
    if not text.isdigit() or int(text) > 100:
        raise argparse.ArgumentTypeError("sensitivity goes from 0 to 100")
    return int(text)


def _rate(text: str) -> Fraction:
    try:
        rate = rate_from(float(Fraction(text)))
    except (ValueError, ZeroDivisionError, OverflowError, OffcutError) as error:
        raise argparse.ArgumentTypeError("a rate is a number such as 24 or 23.976") from error
    if not 1 <= rate <= 1000:
        raise argparse.ArgumentTypeError("a film runs at 1 to 1000 frames per second")
    return rate


def _squeeze(text: str) -> Fraction:
    try:
        squeeze = Fraction(text)
    except (ValueError, ZeroDivisionError) as error:
        raise argparse.ArgumentTypeError("a squeeze is a number such as 1.33 or 2") from error
    if not Fraction(1, MOST_SQUEEZE) <= squeeze <= MOST_SQUEEZE:
        raise argparse.ArgumentTypeError(f"a lens squeezes a picture up to {MOST_SQUEEZE} times")
    return squeeze


def _crop(text: str) -> tuple[int, int, int, int] | str:
    if text in (FIND, WHOLE_PICTURE):
        return text
    parts = text.split(":")
    if len(parts) != 4 or not all(p.isdigit() for p in parts):
        raise argparse.ArgumentTypeError("a crop is WIDTH:HEIGHT:X:Y in pixels, find or whole")
    width, height, x, y = (int(p) for p in parts)
    return width, height, x, y


def _run_detect(call: argparse.Namespace) -> int:
    if call.save and call.project:
        call.parser.error("--save and --project are two ways to keep it; choose one")
    came = arrived(call.files)
    if call.display:
        call.display = _display(call.display)
    several = len(came.paths) > 1 or any(Path(f).is_dir() for f in call.files)
    into = _into(call, several)
    if several:
        for word in ("list", "edl", "otio", "csv"):
            if getattr(call, word):
                call.parser.error(f"--{word} is for one film, and {len(came.paths)} are named")
    for file in (call.save if into is None else None, call.project):
        if file and Path(file).exists():
            raise OffcutError(f"{file}: is there already; nothing was found or written")
    status = 0
    for problem in came.problems:
        warn(problem)
        status = 1
    whole = Project(name=_stem(call.project) if call.project else "")
    for path in came.paths:
        try:
            whole = _detect(call, str(path), into, whole)
        except OffcutError as error:
            if not several:
                raise
            warn(error)
            status = 1
    if came.left and not call.quiet:
        warn(came.left_words)
    if not came.paths:
        raise OffcutError(f"{call.files[0]}: there is no film in it")
    if call.project and whole.sources:
        keep_up(whole, save_project(whole, call.project))
        if not call.json:
            say(f"{many(len(whole.sources), 'film')} kept in {call.project}")
    return status


def _into(call: argparse.Namespace, several: bool) -> Path | None:
    """Return the folder that a project a film is kept in, None for one project or none."""
    if not call.save:
        return None
    folder = Path(call.save)
    if not (several or folder.is_dir() or not folder.suffix or call.save.endswith("/")):
        return None
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OffcutError(f"{folder}: cannot be made ({error.strerror})") from error
    return folder


def _display(asked: str) -> str:
    """Return a display by its name, by a short form of its words, or a cube's path."""
    if Path(asked).suffix.lower() == ".cube" or Path(asked).is_file():
        name = str(Path(asked).absolute())
    else:
        known = {
            **{_short(w): n for n, w in displays().items()},
            **{_short(n): n for n in displays()},
        }
        fits = [n for words, n in known.items() if words.startswith(_short(asked))]
        if not fits:
            raise OffcutError(
                f"there is no display “{asked}”; there are: {', '.join(displays().values())}"
            )
        name = fits[0]
    display_of(name)
    return name


def _short(words: str) -> str:
    return words.lower().replace(" ", "").replace("-", "")


def _detect(call: argparse.Namespace, file: str, into: Path | None, whole: Project) -> Project:
    """Find the seams of one film, and return the project of all films with it."""
    before = whole if call.project else Project(name=_stem(file))
    project, film = brought_in(file, before, _LIKE[call.holes])
    for note in film.notes:
        if call.rate is None or "tells no rate" not in note:
            warn(note)
    known = same_film(before, film.media)
    if known is not None:
        warn(f"{film.media.path}: is in the project already")
        return whole
    kept = f"{Path(film.media.path).stem}{SUFFIX}"
    if into is not None and (into / kept).exists():
        raise OffcutError(f"{into / kept}: is there already; nothing was found or written")
    source_id = project.sources[-1].id
    project = _ticketed(call, project, source_id)
    film = as_set(film, project.source(source_id))
    start = _typed(call.start, film, 0)
    end = _typed(call.end, film, film.media.frames)
    project = set_range(project, source_id, start, end)
    project = set_sensitivity(project, source_id, call.sensitivity)
    project = _framed(call, project, film, source_id)
    source = project.source(source_id)
    # what cannot be read is told before anything is looked for
    listed = read_list(call.list, source.media.rate, source.media.drop) if call.list else None
    told = progress_told(call.quiet)
    searched = search(source, film, framed=partial(_tell_framing, call, source), progress=told)
    finding = searched.finding
    if not finding.complete:
        reached, frames = finding.reached - source.start, source.end - source.start
        raise OffcutError(f"{file}: only {reached} of {many(frames, 'frame')} could be measured")
    held = int(finding.signals.held.sum())
    if held:
        warn(f"{held} damaged pictures of {file} could not be read")
    if finding.pulldown is not None and not call.quiet:
        warn(pulldown_words(finding.pulldown, source.media))
    project = taken(project, searched)
    if listed is not None:
        project = cut_by(project, listed, call.list_as)
    keep = str(into / kept) if into is not None else call.save
    _hand_out(call, project, source_id, keep)
    return project


_LIKE = {h.value: Run("", "", 1, 0, 0, holes=h) for h in Holes}


def _ticketed(call: argparse.Namespace, project: Project, source_id: int) -> Project:
    """Return a project whose film has on its ticket what the call says."""
    if call.rate is not None:
        project = rate_is_right(set_rate(project, source_id, call.rate), source_id)
    if call.squeeze is not None:
        project = set_squeeze(project, source_id, call.squeeze)
    if call.display is not None:
        project = set_display(project, source_id, call.display)
    if call.stops == "off":
        project = set_stops(project, source_id, False)
    elif call.stops is not None:
        project = set_flash(set_stops(project, source_id, True), source_id, Flash(call.stops))
    return project


def _framed(
    call: argparse.Namespace, project: Project, film: OpenedFilm, source_id: int
) -> Project:
    """Return a project whose film is framed as the call asks; with no word, by the search."""
    source = project.source(source_id)
    if call.crop == WHOLE_PICTURE:
        return set_framing(project, source_id, WHOLE)
    if isinstance(call.crop, tuple):
        return set_framing(project, source_id, _framing_of(call.crop, film))
    if call.crop is None:
        return project
    found = find_framing(film, source.start, source.end, thorough=True)
    project = with_framing(project, source_id, found)
    if not call.quiet:
        warn(f"the framing is {_framing_words(found.framing, film.media)}")
    return set_framing(project, source_id, found.framing)


def _tell_framing(call: argparse.Namespace, source: Source, found: FoundFraming) -> None:
    """Say what the search found around the picture, where it is sure."""
    if found.certainty is Certainty.SURE and found.framing and not call.quiet:
        warn(f"the framing is {_framing_words(found.framing, source.media)}")


def _hand_out(call: argparse.Namespace, project: Project, source_id: int, keep: str | None) -> None:
    """Write and print what the call asks for."""
    source = project.source(source_id)
    shots = len(shots_of(source))
    if keep:
        keep_up(project, save_project(project, keep))
        if not call.json:
            say(f"{shots} shots kept in {keep}")
    wanted = [(write, getattr(call, word)) for word, write in _WRITERS if getattr(call, word)]
    for write, path in wanted:
        write(events_of(project, going(source)), path)
        if not call.json:
            say(f"{shots} shots written to {path}")
    if call.json:
        answer(detection_of(source))
    elif not (wanted or keep or call.project):
        _print_shots(source)


def _stem(path: str) -> str:
    return path.rsplit("/", 1)[-1].rsplit(".", 1)[0]


def _typed(text: str | None, film: OpenedFilm, otherwise: int) -> int:
    if text is None:
        return otherwise
    media = film.media
    return frame_from_typed(text, media.rate, drop=media.drop, start=media.start)


def _framing_words(framing: Framing, media: Media) -> str:
    wide, high = framing.size(media)
    return f"{wide}x{high} from {framing.left}, {framing.top}" if framing else "the whole picture"


def _framing_of(crop: tuple[int, int, int, int], film: OpenedFilm) -> Framing:
    width, height, x, y = crop
    media = film.media
    framing = Framing(x, y, media.width - x - width, media.height - y - height)
    sides = (framing.left, framing.top, framing.right, framing.bottom)
    if min(width, height) < SMALLEST or min(sides) < 0:
        raise OffcutError(
            f"{media.path}: the crop does not fit its {media.width}x{media.height} picture"
        )
    return framing


def detection_of(source: Source) -> dict[str, Any]:
    """Return what `offcut detect --json` prints, as docs/formats.md describes it."""
    media, framing = source.media, source.framing

    def words(frame: int) -> str:
        return timecode_from_frame(media.start + frame, media.rate, media.drop)

    return {
        "offcut": __version__,
        "source": {
            "path": media.path,
            "rate": f"{media.rate.numerator}/{media.rate.denominator}",
            "frames": media.frames,
            "start": words(0),
            "width": media.width,
            "height": media.height,
            **_run_words(media),
            "framing": [framing.left, framing.top, framing.right, framing.bottom],
            "fields": crop_of(source).first or None,
        },
        "sensitivity": source.sensitivity,
        "seams": [
            {
                "frame": s.frame,
                "timecode": words(s.frame),
                "kind": s.kind.value,
                "start": s.start,
                "end": s.end,
                "score": s.score,
                "certainty": s.certainty.value,
                "counted": is_counted(s, source),
                "reasons": [r.text for r in s.reasons],
            }
            for s in source.seams
        ],
        "shots": [
            {
                "number": s.number,
                "start": s.start,
                "end": s.end,
                "timecode_in": words(s.start),
                "timecode_out": words(s.end),
            }
            for s in shots_of(source)
        ],
        **({"markers": [_marker(m, words) for m in source.markers]} if source.markers else {}),
    }


def _marker(marker: Marker, words: Callable[[int], str]) -> dict[str, Any]:
    return {
        "start": marker.start,
        "end": marker.end,
        "timecode": words(marker.start),
        "name": marker.name,
        "note": marker.note,
        "colour": marker.colour.value,
    }


def _run_words(media: Media) -> dict[str, Any]:
    """Return what is said of a run of stills: its first number, those missing, its pattern."""
    if media.run is None:
        return {}
    holes = [n for start, end in media.run.missing for n in range(start, end)]
    return {"first": media.run.first, "holes": holes, "pattern": media.run.pattern}


def _print_shots(source: Source) -> None:
    media = source.media
    for shot in shots_of(source):
        first, last = (
            timecode_from_frame(media.start + f, media.rate, media.drop)
            for f in (shot.start, shot.end)
        )
        opener = shot.opened_by
        how = f"{opener.kind.value}, {opener.certainty.value}" if opener else "start"
        say(f"{shot.number:4d}  {first}  {last}  {shot.length:6d} fr  {how}")
    say(f"{len(shots_of(source))} shots at {rate_words(media.rate)} frames per second")
