"""`offcut detect`: the seams of films, found without a window."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from offcut import __version__
from offcut.cli.progress import progress_told
from offcut.core.errors import OffcutError
from offcut.core.find import find_seams
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl import write_edl
from offcut.core.lists.otio import write_otio
from offcut.core.lists.outgoing import events_of, going
from offcut.core.lists.registry import read_list
from offcut.core.measure.small_pictures import crop_of
from offcut.core.media.framing import find_framing
from offcut.core.media.probe import OpenedFilm, open_source
from offcut.core.model.project import Project
from offcut.core.model.shots import is_counted, shots_of
from offcut.core.model.source import SMALLEST, Framing, Source
from offcut.core.model.verbs.searching import set_framing, set_range, set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.store.project_file import save_project
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.fitting import found_fit, misgivings, verdicts
from offcut.core.tally.joins import joins_of
from offcut.core.timecode import frame_from_typed, rate_words, timecode_from_frame

FIND = "find"
_WRITERS = (("edl", write_edl), ("otio", write_otio), ("csv", write_csv))


def add_detect(kinds: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command to the command line's parser."""
    detect = kinds.add_parser("detect", help="find the seams of films, without a window")
    detect.add_argument("files", nargs="+", metavar="FILE")
    detect.add_argument("--json", action="store_true", help="print one JSON object a film")
    detect.add_argument("--list", metavar="FILE", help="cut by this list as well (EDL, OTIO, CSV)")
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
        help="look only at this part, in pixels; the word find leaves black bars out",
    )
    detect.add_argument("--save", metavar="FILE", help="keep it all as a .offcut project")
    detect.add_argument("--quiet", action="store_true", help="no progress")
    detect.set_defaults(run=_run_detect, parser=detect)


def _percent(text: str) -> int:
    if not text.isdigit() or int(text) > 100:
        raise argparse.ArgumentTypeError("sensitivity goes from 0 to 100")
    return int(text)


def _crop(text: str) -> tuple[int, int, int, int] | str:
    if text == FIND:
        return text
    parts = text.split(":")
    if len(parts) != 4 or not all(p.isdigit() for p in parts):
        raise argparse.ArgumentTypeError("a crop is WIDTH:HEIGHT:X:Y in pixels, or the word find")
    width, height, x, y = (int(p) for p in parts)
    return width, height, x, y


def _run_detect(call: argparse.Namespace) -> int:
    if len(call.files) > 1:
        for word in ("list", "edl", "otio", "csv", "save"):
            if getattr(call, word):
                call.parser.error(f"--{word} is for one film, and {len(call.files)} are named")
    if call.save and Path(call.save).exists():
        raise OffcutError(f"{call.save}: is there already; nothing was found or written")
    status = 0
    for file in call.files:
        try:
            _detect(call, file)
        except OffcutError as error:
            if len(call.files) == 1:
                raise
            print(f"offcut: {error}", file=sys.stderr)
            status = 1
    return status


def _detect(call: argparse.Namespace, file: str) -> None:
    film = open_source(file)
    for note in film.notes:
        print(f"offcut: {note}", file=sys.stderr)
    project = add_source(Project(name=_stem(file)), film.media)
    (source,) = project.sources
    start = _typed(call.start, film, 0)
    end = _typed(call.end, film, film.media.frames)
    project = set_range(project, source.id, start, end)
    project = set_sensitivity(project, source.id, call.sensitivity)
    if call.crop is not None:
        project = _framed(call, project, film)
    (source,) = project.sources
    told = progress_told(call.quiet)
    crop = crop_of(source.framing, source.media)
    finding = find_seams(film, source.start, source.end, crop=crop, progress=told)
    held = int(finding.signals.held.sum())
    if held:
        print(f"offcut: {held} damaged pictures of {file} could not be read", file=sys.stderr)
    project = take_found(project, source.id, finding.seams, source.start, source.end)
    if call.list:
        project = _cut_by(project, call.list)
    _hand_out(call, project)


def _framed(call: argparse.Namespace, project: Project, film: OpenedFilm) -> Project:
    """Return a project whose film is framed as the call asks."""
    (source,) = project.sources
    framing = find_framing(film, source.start, source.end) if call.crop == FIND else call.crop
    if isinstance(framing, tuple):
        framing = _framing_of(framing, film)
    elif not call.quiet:
        print(f"offcut: the framing is {_framing_words(framing, film)}", file=sys.stderr)
    return set_framing(project, source.id, framing)


def _hand_out(call: argparse.Namespace, project: Project) -> None:
    """Write and print what the call asks for."""
    (source,) = project.sources
    shots = len(shots_of(source))
    if call.save:
        save_project(project, call.save)
        if not call.json:
            print(f"{shots} shots kept in {call.save}")
    wanted = [(write, getattr(call, word)) for word, write in _WRITERS if getattr(call, word)]
    for write, path in wanted:
        write(events_of(project, going(source)), path)
        if not call.json:
            print(f"{shots} shots written to {path}")
    if call.json:
        print(json.dumps(detection_of(source), ensure_ascii=False))
    elif not (wanted or call.save):
        _print_shots(source)


def _cut_by(project: Project, path: str) -> Project:
    """Cut by a list and the found seams together, where the list falls by itself."""
    (source,) = project.sources
    media = source.media
    listed = read_list(path, media.rate, media.drop)
    joins = joins_of(listed)
    fit = found_fit(joins, source, drop=listed.drop)
    said = [f"{fit.agree} of {fit.whole} joins lie on a found seam ({fit.why})"]
    for verdict in verdicts(joins, source, fit.offset)[0]:
        if not verdict.agrees and verdict.join.event is not None:
            far = f"{abs(verdict.off)} frames {'later' if verdict.off > 0 else 'earlier'} than"
            how = f"{far} the film’s seam" if verdict.seam else "has no seam in the film"
            said.append(f"event {verdict.join.event.number}: {how}")
    said += misgivings(listed, joins, media, fit.offset)
    said += [str(trouble) for trouble in listed.troubles]
    for words in said:
        print(f"offcut: {listed.name}: {words}", file=sys.stderr)
    return cut_by_list(project, source.id, joins, fit.offset, Use.TOGETHER, markers=listed.markers)


def _stem(path: str) -> str:
    return path.rsplit("/", 1)[-1].rsplit(".", 1)[0]


def _typed(text: str | None, film: OpenedFilm, otherwise: int) -> int:
    if text is None:
        return otherwise
    media = film.media
    return frame_from_typed(text, media.rate, drop=media.drop, start=media.start)


def _framing_words(framing: Framing, film: OpenedFilm) -> str:
    wide, high = framing.size(film.media)
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
    media = source.media

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
    }


def _print_shots(source: Source) -> None:
    media = source.media
    for shot in shots_of(source):
        first, last = (
            timecode_from_frame(media.start + f, media.rate, media.drop)
            for f in (shot.start, shot.end)
        )
        opener = shot.opened_by
        how = f"{opener.kind.value}, {opener.certainty.value}" if opener else "start"
        print(f"{shot.number:4d}  {first}  {last}  {shot.length:6d} fr  {how}")
    print(f"{len(shots_of(source))} shots at {rate_words(media.rate)} frames per second")
