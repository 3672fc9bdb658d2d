"""The plan of a hand-over: which shots go, what they are called, and what will be written."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from offcut.core.errors import OffcutError
from offcut.core.facts.fact_words import columns_of
from offcut.core.facts.in_shot import InShot, InShots, in_shot, in_shots
from offcut.core.files import safe_name
from offcut.core.lists.outgoing import EventList, Pick, events_of
from offcut.core.lists.registry import ListFormat, format_of
from offcut.core.model.handover import Asked
from offcut.core.model.orders import shots_meant, uses_of
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.scenes import shots_in_scene
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import WHOLE, Framing, Media, Source
from offcut.core.turnover.movies import WAYS, Way
from offcut.core.turnover.names import shot_names

STILLS = ("first", "middle", "last", "sharpest", "telling", "faces")
STILL_SUFFIXES = {"png": ".png", "tiff": ".tif", "jpeg": ".jpg"}
_STILL_BYTES = {"png": 1.4, "tiff": 3.1, "jpeg": 0.25}
PER_PAGE = 20


@dataclass(frozen=True, slots=True)
class Item:
    """One shot that goes: its film, its name, and frames [start, end) with the handles it has.

    ``head`` and ``tail`` are those handles; ``short`` how many frames of handle the ends of the
    film took away.
    """

    source: Source
    shot: Shot
    number: int
    name: str
    start: int
    end: int
    head: int
    tail: int
    short: int

    @property
    def frames(self) -> int:
        """Frames with the handles."""
        return self.end - self.start


@dataclass(frozen=True, slots=True)
class Output:
    """One file that will be written: its name in the folder, what it is, about how large."""

    name: str
    what: str
    size: int


@dataclass(frozen=True)
class Plan:
    """Everything a hand-over will do, before anything is done.

    ``gone`` is how many places of a running order show no shot now.
    """

    project: Project
    asked: Asked
    items: tuple[Item, ...]
    outputs: tuple[Output, ...]
    mended: tuple[str, ...] = ()
    problem: str = ""
    gone: int = 0

    @property
    def source(self) -> Source:
        """The film that is asked for, or the first one whose shots go."""
        if self.asked.which in ("order", "picked") and self.items:
            return self.items[0].source
        return source_asked(self.project, self.asked)

    @property
    def sources(self) -> tuple[Source, ...]:
        """The films whose shots go, each once."""
        return tuple({i.source.id: i.source for i in self.items}.values())

    @property
    def media(self) -> Media:
        """The facts of the first film."""
        return self.source.media

    def framing_of(self, source: Source) -> Framing:
        """Return what movies and pictures of a film are cut to."""
        return source.framing if self.asked.framing else WHOLE

    def display_of(self, source: Source) -> str:
        """Return the display that movies of a film are written through, empty for none."""
        return source.ticket.display if self.asked.seen else ""

    def written_of(self, source: Source) -> Media:
        """Return the facts of a film, with the size of what is written of it."""
        width, height = self.framing_of(source).size(source.media)
        return replace(source.media, width=width, height=height)

    @property
    def size(self) -> int:
        """About how many bytes all of it takes."""
        return sum(o.size for o in self.outputs)

    @property
    def formats(self) -> tuple[ListFormat, ...]:
        """The lists that are asked for; those of markers only where there are some."""
        found = (f for c in self.asked.lists if (f := format_of(c)) is not None)
        return tuple(f for f in found if not f.of_markers or self.marked)

    @property
    def marked(self) -> bool:
        """True where a shot that goes has a marker."""
        return any(
            item.shot.start <= marker.start < item.shot.end
            for item in self.items
            for marker in item.source.markers
        )

    @property
    def needs_films(self) -> bool:
        """True when pictures of the films themselves are asked for."""
        return bool(self.way or self.asked.stills or self.asked.sheets)

    @property
    def way(self) -> Way | None:
        """How movies are written, None when none are."""
        return WAYS.get(self.asked.movies)

    @property
    def stem(self) -> str:
        """What the files that are one for all shots are called."""
        return safe_name(self.project.name)[0]

    def movie_suffix(self, item: Item) -> str:
        """Return what the movie of a shot ends in."""
        way = self.way
        return (way.suffix if way else "") or Path(item.source.media.path).suffix

    def events(self, form: ListFormat) -> EventList:
        """Return the events of a list. Raises OffcutError where the films do not go together."""
        return events_of(
            self.project,
            [Pick(i.source, i.shot) for i in self.items],
            record_start=self.asked.record_start,
            originals=form.originals,
            handles=self.asked.handles,
            shows=lambda pick: columns_of(self.inside(pick.source, pick.shot).facts),
        )

    @cached_property
    def _inside(self) -> dict[int, InShots]:
        return {source.id: in_shots(source) for source in self.sources}

    def inside(self, source: Source, shot: Shot) -> InShot:
        """Return what is in a shot that goes, as far as it was looked at."""
        return in_shot(self._inside[source.id], shot)


def source_asked(project: Project, asked: Asked) -> Source:
    """Return the film that is asked for, the first one for 0. Raises OffcutError for none."""
    if not asked.source and project.sources:
        return project.sources[0]
    return project.source(asked.source)


def shots_going(
    project: Project, asked: Asked, marked: tuple[int, int] | None = None
) -> tuple[Pick, ...]:
    """Return the shots that go: of a running order in its order, all others in the film's.

    Of the marked range those that lie in it or reach into it, or all when nothing is marked.
    """
    if asked.which in ("order", "picked"):
        picks = _of_several(project, asked)
        if asked.film_order:
            rank = {s.id: n for n, s in enumerate(project.sources)}
            picks.sort(key=lambda p: (rank[p.source.id], p.shot.start))
    else:
        source = source_asked(project, asked)
        picks = [Pick(source, shot) for shot in _of_one(source, asked, marked)]
    by_hand = asked.which == "picked"  # whoever picks an offcut wants it
    return tuple(p for p in picks if asked.offcuts or by_hand or not p.shot.card.set_aside)


def _of_several(project: Project, asked: Asked) -> list[Pick]:
    if asked.which == "picked":
        refs = tuple(ShotRef(*pair) for pair in asked.picked)
        return [Pick(source, shot) for source, shot in shots_meant(project, refs)]
    return [
        Pick(u.source, u.shot)
        for u in uses_of(project, project.order(asked.order))
        if u.source is not None and u.shot is not None
    ]


def _of_one(source: Source, asked: Asked, marked: tuple[int, int] | None) -> tuple[Shot, ...]:
    if asked.which == "scene":
        return shots_in_scene(source, asked.scene)
    shots = shots_of(source)
    if asked.which == "chosen":
        by_seam = {(s.opened_by.id if s.opened_by else 0): s for s in shots}
        chosen = tuple(by_seam[i] for i in dict.fromkeys(asked.chosen) if i in by_seam)
        return tuple(sorted(chosen, key=lambda s: s.start)) if asked.film_order else chosen
    if asked.which == "marked" and marked is not None:
        return tuple(s for s in shots if s.start < marked[1] and s.end > marked[0])
    return shots


def plan_of(project: Project, asked: Asked, marked: tuple[int, int] | None = None) -> Plan:
    """Return the plan; a pattern of names that cannot be used is told in ``problem``.

    Raises OffcutError for a film or a running order that the project does not have.
    """
    picks = shots_going(project, asked, marked)
    problem = ""
    mended: list[str] = []
    try:
        names, mended = shot_names(project, picks, asked)
    except OffcutError as error:
        problem = str(error)
        names = [f"shot-{n:03d}" for n in range(1, len(picks) + 1)]
    items = []
    for place, ((source, shot), name) in enumerate(zip(picks, names, strict=True)):
        start = max(0, shot.start - asked.handles)
        end = min(source.media.frames, shot.end + asked.handles)
        head, tail = shot.start - start, end - shot.end
        short = 2 * asked.handles - head - tail
        number = asked.first + place * asked.step
        items.append(Item(source, shot, number, name, start, end, head, tail, short))
    gone = 0
    if asked.which == "order":
        gone = sum(u.shot is None for u in uses_of(project, project.order(asked.order)))
    plan = Plan(project, asked, tuple(items), (), tuple(mended), problem, gone)
    return replace(plan, outputs=tuple(_outputs(plan)))


def _outputs(plan: Plan) -> list[Output]:
    asked = plan.asked
    if not plan.items:
        return []
    outputs = [
        Output(f"{plan.stem}{form.suffix}", form.words, form.bytes_each * len(plan.items) + 400)
        for form in plan.formats
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
    if asked.stills in STILLS:
        suffix = STILL_SUFFIXES.get(asked.still_format, ".png")
        each = _STILL_BYTES.get(asked.still_format, 1.4)
        outputs += [
            Output(f"{i.name}{suffix}", f"Still, {asked.stills}", int(_pixels(plan, i) * each))
            for i in plan.items
        ]
    way = plan.way
    if way is not None:
        for item in plan.items:
            size = int(way.bytes_a_pixel * _pixels(plan, item) * item.frames)
            media = item.source.media
            if not way.codec:
                size = _film_size(media) * item.frames // max(1, media.frames)
            outputs.append(Output(f"{item.name}{plan.movie_suffix(item)}", way.words, size))
    return outputs


def _pixels(plan: Plan, item: Item) -> int:
    written = plan.written_of(item.source)
    return written.width * written.height


def over_a_film(plan: Plan, folder: Path) -> str:
    """Return the name of an output that would lie where one of the project's films does, or ""."""
    for source in plan.project.sources:
        run = source.media.run
        same = run is not None and Path(source.media.path).parent == folder.absolute()
        for output in plan.outputs:
            if same and run is not None and run.holds_name(output.name):
                return output.name
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
