"""The plan of a hand-over: which shots go, what they are called, and what will be written."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from offcut.core.errors import OffcutError
from offcut.core.lists.events import EventList, events_of
from offcut.core.model.handover import Asked
from offcut.core.model.project import WHOLE, Framing, Media, Project, Source
from offcut.core.model.shots import Shot, shots_of
from offcut.core.timecode import timecode_from_frame
from offcut.core.turnover.forms import Form, form_of
from offcut.core.turnover.movies import WAYS, Way
from offcut.core.turnover.names import safe_name, shot_names

STILLS = ("first", "middle", "last", "sharpest")
STILL_SUFFIXES = {"png": ".png", "tiff": ".tif", "jpeg": ".jpg"}
PAPERS = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
_STILL_BYTES = {"png": 1.4, "tiff": 3.1, "jpeg": 0.25}
PER_PAGE = 20


@dataclass(frozen=True, slots=True)
class Item:
    """One shot that goes: its name, and frames [start, end) with the handles it has.

    ``head`` and ``tail`` are those handles; ``short`` how many frames of handle the ends of the
    film took away.
    """

    shot: Shot
    number: int
    name: str
    start: int
    end: int
    head: int
    tail: int
    short: int


@dataclass(frozen=True, slots=True)
class Output:
    """One file that will be written: its name in the folder, what it is, about how large."""

    name: str
    what: str
    size: int


@dataclass(frozen=True)
class Plan:
    """Everything a hand-over will do, before anything is done."""

    project: Project
    asked: Asked
    items: tuple[Item, ...]
    outputs: tuple[Output, ...]
    mended: tuple[str, ...] = ()
    problem: str = ""

    @property
    def source(self) -> Source:
        """The source on the bench."""
        return self.project.source

    @property
    def media(self) -> Media:
        """The facts of its film."""
        return self.project.source.media

    @property
    def framing(self) -> Framing:
        """What movies and pictures are cut to."""
        return self.source.framing if self.asked.framing else WHOLE

    @property
    def written(self) -> Media:
        """The facts of the film, with the size of what is written of it."""
        width, height = self.framing.size(self.media)
        return replace(self.media, width=width, height=height)

    @property
    def size(self) -> int:
        """About how many bytes all of it takes."""
        return sum(o.size for o in self.outputs)

    @property
    def forms(self) -> tuple[Form, ...]:
        """The lists that are asked for."""
        return tuple(f for c in self.asked.lists if (f := form_of(c)) is not None)

    @property
    def way(self) -> Way | None:
        """How movies are written, None when none are."""
        return WAYS.get(self.asked.movies)

    @property
    def stem(self) -> str:
        """What the files that are one for all shots are called."""
        return safe_name(self.project.name)[0]

    def words(self, frame: int) -> str:
        """Return the film's timecode of a frame."""
        media = self.media
        return timecode_from_frame(media.start + frame, media.rate, media.drop)

    def events(self, form: Form) -> EventList:
        """Return the events of a list."""
        return events_of(
            self.project,
            record_start=self.asked.record_start,
            shots=[i.shot for i in self.items],
            originals=form.originals,
            handles=self.asked.handles,
        )


def shots_going(
    project: Project, asked: Asked, marked: tuple[int, int] | None = None
) -> tuple[Shot, ...]:
    """Return the shots that go: chosen ones in the running order, all others in the film's.

    Of the marked range those that lie in it or reach into it, or all when nothing is marked.
    """
    shots = shots_of(project.source)
    if asked.which == "chosen":
        by_start = {s.start: s for s in shots}
        shots = tuple(by_start[f] for f in dict.fromkeys(asked.chosen) if f in by_start)
        if asked.film_order:
            shots = tuple(sorted(shots, key=lambda s: s.start))
    elif asked.which == "scene":
        shots = tuple(s for s in shots if asked.scene and s.words.scene == asked.scene)
    elif asked.which == "marked" and marked is not None:
        shots = tuple(s for s in shots if s.start < marked[1] and s.end > marked[0])
    return tuple(s for s in shots if asked.offcuts or not s.words.set_aside)


def running_order(shots: Sequence[Shot], chosen: Sequence[int]) -> tuple[Shot, ...]:
    """Return all shots with those that are chosen by their first frames in the order they have.

    A chosen shot takes the place of the next chosen one in the film's order; others stay.
    """
    by_start = {s.start: s for s in shots}
    order = iter([by_start[f] for f in dict.fromkeys(chosen) if f in by_start])
    wanted = set(chosen)
    return tuple(next(order) if s.start in wanted else s for s in shots)


def plan_of(project: Project, asked: Asked, marked: tuple[int, int] | None = None) -> Plan:
    """Return the plan; a pattern of names that cannot be used is told in ``problem``."""
    source = project.source
    media = source.media
    shots = shots_going(project, asked, marked)
    problem = ""
    mended: list[str] = []
    try:
        names, mended = shot_names(project, source, shots, asked)
    except OffcutError as error:
        problem = str(error)
        names = [f"shot-{n:03d}" for n in range(1, len(shots) + 1)]
    items = []
    for place, (shot, name) in enumerate(zip(shots, names, strict=True)):
        start = max(0, shot.start - asked.handles)
        end = min(media.frames, shot.end + asked.handles)
        head, tail = shot.start - start, end - shot.end
        short = 2 * asked.handles - head - tail
        number = asked.first + place * asked.step
        items.append(Item(shot, number, name, start, end, head, tail, short))
    plan = Plan(project, asked, tuple(items), (), tuple(mended), problem)
    return Plan(project, asked, plan.items, tuple(_outputs(plan)), plan.mended, problem)


def _outputs(plan: Plan) -> list[Output]:
    asked, media = plan.asked, plan.media
    if not plan.items:
        return []
    outputs = [
        Output(f"{plan.stem}{form.suffix}", form.words, form.bytes_each * len(plan.items) + 400)
        for form in plan.forms
    ]
    pages = -(-len(plan.items) // PER_PAGE)
    if "pdf" in asked.sheets:
        size = 28_000 * len(plan.items)
        outputs.append(Output(f"{plan.stem}.pdf", "Contact sheet, PDF", size))
    if "png" in asked.sheets:
        outputs += [
            Output(sheet_name(plan.stem, n, pages), "Contact sheet, PNG", 1_500_000)
            for n in range(1, pages + 1)
        ]
    pixels = plan.written.width * plan.written.height
    if asked.stills in STILLS:
        suffix = STILL_SUFFIXES.get(asked.still_format, ".png")
        size = int(pixels * _STILL_BYTES.get(asked.still_format, 1.4))
        outputs += [Output(f"{i.name}{suffix}", f"Still, {asked.stills}", size) for i in plan.items]
    way = plan.way
    if way is not None:
        folder_size = _film_size(media)
        for item in plan.items:
            frames = item.end - item.start
            size = int(way.bytes_a_pixel * pixels * frames)
            if not way.codec:
                size = folder_size * frames // max(1, media.frames)
            suffix = way.suffix or Path(media.path).suffix
            outputs.append(Output(f"{item.name}{suffix}", way.words, size))
    return outputs


def over_a_film(plan: Plan, folder: Path) -> str:
    """Return the name of an output that would lie where one of the project's films does, or ""."""
    for source in plan.project.sources:
        for output in plan.outputs:
            with contextlib.suppress(OSError):
                if (folder / output.name).samefile(source.media.path):
                    return output.name
    return ""


def sheet_name(stem: str, page: int, pages: int) -> str:
    """Return the name of one page of a contact sheet as PNG."""
    return f"{stem}.png" if pages == 1 else f"{stem}-page-{page}.png"


def _film_size(media: Media) -> int:
    try:
        return Path(media.path).stat().st_size
    except OSError:
        return 0
