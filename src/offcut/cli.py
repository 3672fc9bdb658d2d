"""The command line: the other face of the core."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from offcut import __version__
from offcut.cli_progress import progress_told
from offcut.cli_turnover import add_turnover
from offcut.core.detect.small import crop_of
from offcut.core.errors import OffcutError
from offcut.core.lists.cutting import Use, cut_by_list
from offcut.core.lists.fitting import found_fit, misgivings, verdicts
from offcut.core.lists.joins import joins_of
from offcut.core.lists.reading import read_list
from offcut.core.media.framing import find_framing
from offcut.core.media.probe import OpenedFilm, open_source
from offcut.core.model.project import SMALLEST, Framing, Project, Source
from offcut.core.model.shots import is_counted, shots_of
from offcut.core.model.verbs import (
    project_with_media,
    set_framing,
    set_range,
    set_sensitivity,
    take_found,
)
from offcut.core.store.project_file import save_project
from offcut.core.store.signal_cache import find_seams
from offcut.core.timecode import frame_from_typed, rate_words, timecode_from_frame

_COMMANDS = ("detect", "demo", "open", "turnover")
FIND = "find"


def main(words: Sequence[str] | None = None) -> int:
    """Run the command line and return its exit status: 0, 1 (cannot) or 2 (wrong call)."""
    said = list(sys.argv[1:] if words is None else words)
    parser = _parser()
    if said and said[0] not in _COMMANDS and not said[0].startswith("-"):
        said.insert(0, "open")
    call = parser.parse_args(said or ["open"])
    try:
        status: int = call.run(call)
        return status
    except OffcutError as error:
        print(f"offcut: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("offcut: stopped", file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="offcut", description="Turns one flattened film back into its shots."
    )
    parser.add_argument("--version", action="version", version=f"offcut {__version__}")
    kinds = parser.add_subparsers(metavar="COMMAND")

    opening = kinds.add_parser("open", help="open the window (also without the word)")
    opening.add_argument("file", nargs="?", help="a film or a project")
    opening.set_defaults(run=_run_window)

    demo = kinds.add_parser("demo", help="open the demo film")
    demo.add_argument("--screenshot", metavar="FILE.png", help="draw the window to a picture")
    demo.add_argument("--theme", choices=("day", "night"), help="day or night")
    demo.set_defaults(run=_run_demo)

    detect = kinds.add_parser("detect", help="find the seams of a film, without a window")
    detect.add_argument("file")
    detect.add_argument("--json", action="store_true", help="print one JSON object")
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
    detect.set_defaults(run=_run_detect)
    add_turnover(kinds)
    return parser


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
    if call.save and Path(call.save).exists():
        raise OffcutError(f"{call.save}: is there already; nothing was found or written")
    film = open_source(call.file)
    for note in film.notes:
        print(f"offcut: {note}", file=sys.stderr)
    project = project_with_media(Project(name=_stem(call.file)), film.media)
    start = _typed(call.start, film, 0)
    end = _typed(call.end, film, film.media.frames)
    project = set_sensitivity(set_range(project, start, end), call.sensitivity)
    if call.crop is not None:
        source = project.source
        framing = find_framing(film, source.start, source.end) if call.crop == FIND else call.crop
        if isinstance(framing, tuple):
            framing = _framing_of(framing, film)
        elif not call.quiet:
            print(f"offcut: the framing is {_framing_words(framing, film)}", file=sys.stderr)
        project = set_framing(project, framing)
    source = project.source
    told = progress_told(call.quiet)
    crop = crop_of(source.framing, source.media)
    finding = find_seams(film, source.start, source.end, crop=crop, progress=told)
    held = int(finding.signals.held.sum())
    if held:
        print(f"offcut: {held} damaged pictures of {call.file} could not be read", file=sys.stderr)
    project = take_found(project, finding.seams, source.start, source.end)
    if call.list:
        project = _cut_by(project, call.list)
    if call.save:
        save_project(project, call.save)
        if not call.json:
            print(f"{len(shots_of(project.source))} shots kept in {call.save}")
    for write, path in ((_write_edl, call.edl), (_write_otio, call.otio), (_write_csv, call.csv)):
        if path:
            write(project, path)
            if not call.json:
                print(f"{len(shots_of(project.source))} shots written to {path}")
    if call.json:
        print(json.dumps(detection_of(project.source), ensure_ascii=False))
    elif not (call.edl or call.otio or call.csv or call.save):
        _print_shots(project.source)
    return 0


def _cut_by(project: Project, path: str) -> Project:
    """Cut by a list and the found seams together, where the list falls by itself."""
    media = project.source.media
    listed = read_list(path, media.rate, media.drop)
    joins = joins_of(listed)
    fit = found_fit(joins, project.source, drop=listed.drop)
    said = [f"{fit.agree} of {fit.whole} joins lie on a found seam ({fit.why})"]
    for verdict in verdicts(joins, project.source, fit.offset)[0]:
        if not verdict.agrees and verdict.join.event is not None:
            far = f"{abs(verdict.off)} frames {'later' if verdict.off > 0 else 'earlier'} than"
            how = f"{far} the film’s seam" if verdict.seam else "has no seam in the film"
            said.append(f"event {verdict.join.event.number}: {how}")
    said += misgivings(listed, joins, media, fit.offset)
    said += [str(trouble) for trouble in listed.troubles]
    for words in said:
        print(f"offcut: {listed.name}: {words}", file=sys.stderr)
    return cut_by_list(project, joins, fit.offset, Use.TOGETHER, markers=listed.markers)


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


def _write_edl(project: Project, path: str) -> None:
    from offcut.core.lists.edl import write_edl
    from offcut.core.lists.events import events_of

    write_edl(events_of(project), path)


def _write_otio(project: Project, path: str) -> None:
    from offcut.core.lists.events import events_of
    from offcut.core.lists.otio import write_otio

    write_otio(events_of(project), path)


def _write_csv(project: Project, path: str) -> None:
    from offcut.core.lists.csv import write_csv
    from offcut.core.lists.events import events_of

    write_csv(events_of(project), path)


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


def _run_window(call: argparse.Namespace) -> int:
    from offcut.app.main import run_window

    return run_window(call.file)


def _run_demo(call: argparse.Namespace) -> int:
    from offcut.app.main import run_demo

    return run_demo(screenshot=call.screenshot, theme=call.theme)


if __name__ == "__main__":
    sys.exit(main())
