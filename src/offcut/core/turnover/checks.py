"""The check before a hand-over: everything that would make somebody call back."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

from offcut.core.errors import TimecodeError
from offcut.core.lists.outgoing import record_start_of
from offcut.core.lists.registry import format_of
from offcut.core.media.opened import OpenedFilm
from offcut.core.model.seam import Certainty, between_fields
from offcut.core.model.shots import counted_seams, shots_of
from offcut.core.model.source import Source
from offcut.core.timecode import frames_per_day, length_words, timecode_from_frame
from offcut.core.turnover.copying import Copying
from offcut.core.turnover.plan import Item, Plan, over_a_film
from offcut.core.words import many, size_words


class Weight(StrEnum):
    """How much a remark matters: it stops the hand-over, wants a look, or is only said."""

    STOP = "stop"
    LOOK = "look"
    SAID = "said"


@dataclass(frozen=True, slots=True)
class Remark:
    """One remark: a sentence, and the frame of a source to go to, -1 for none.

    ``code`` tells remarks that something can be done about from here: "exists".
    """

    weight: Weight
    words: str
    frame: int = -1
    source: int = 0
    code: str = ""


def checked(
    plan: Plan,
    folder: Path | None,
    *,
    films: Mapping[int, OpenedFilm],
    copying: Sequence[Copying] | None = None,
) -> tuple[Remark, ...]:
    """Check a plan against its films and the folder it goes to; the gravest remarks first.

    ``films`` are those that are there, by the ids of their sources; ``copying`` tells for each
    shot what copying its packets would give, where that is asked for.
    """
    asked = _Asked(plan, folder, films, copying)
    found = [remark for remarks in REMARKS for remark in remarks(asked)]
    order = list(Weight)
    return tuple(sorted(found, key=lambda f: order.index(f.weight)))


class _Asked(NamedTuple):
    """What is checked, as `checked` has it."""

    plan: Plan
    folder: Path | None
    films: Mapping[int, OpenedFilm]
    copying: Sequence[Copying] | None


def _nothing(asked: _Asked) -> list[Remark]:
    """Say where nothing goes, or what of it cannot."""
    plan, found = asked.plan, []
    if not plan.items:
        found.append(Remark(Weight.STOP, "No shot goes: choose other shots"))
    elif not plan.outputs:
        words = "Nothing is asked for: choose a list, movies or pictures"
        found.append(Remark(Weight.STOP, words))
    if plan.problem:
        found.append(Remark(Weight.STOP, plan.problem[0].upper() + plan.problem[1:]))
    if plan.gone:
        places = "1 place shows" if plan.gone == 1 else f"{plan.gone} places show"
        words = f"{places} no shot now: the seam that opened it does not count"
        found.append(Remark(Weight.LOOK, words))
    return found


def _films(asked: _Asked) -> list[Remark]:
    """Say what is odd with each film, and not settled about its shots."""
    found = []
    for source in asked.plan.sources:
        film = asked.films.get(source.id)
        if film is None:
            found.append(_missing(asked.plan, source))
        else:
            found += _oddities(asked.plan, source, film)
        found += _shots(asked.plan, source)
    return found


def _framing(asked: _Asked) -> list[Remark]:
    """Say where a framing that is asked for is not applied."""
    plan, found = asked.plan, []
    if not plan.asked.framing:
        return []
    framed = [s for s in plan.sources if s.framing]
    if plan.way is not None and not plan.way.codec and framed:
        words = "Copied packets hold the whole picture: no framing is applied"
        found.append(Remark(Weight.LOOK, words))
    if plan.needs_films and not framed:
        words = "No framing is set: movies and pictures hold it whole"
        found.append(Remark(Weight.SAID, words))
    return found


def _originals(asked: _Asked) -> list[Remark]:
    """Say how many shots a list of originals has none for."""
    bare = sum(i.shot.card.original is None for i in asked.plan.items)
    if not bare or not any(f.originals for f in asked.plan.formats):
        return []
    what = f"{many(bare, 'shot')} without an original"
    return [Remark(Weight.LOOK, f"{what}: the list points at this film there")]


def _handles(asked: _Asked) -> list[Remark]:
    """Say where the film's ends cut handles short."""
    short = [i for i in asked.plan.items if i.short]
    if not short or not asked.plan.asked.handles:
        return []
    names = ", ".join(f"shot {i.shot.number}" for i in short[:3])
    more = ", …" if len(short) > 3 else ""
    words = f"Handles are cut short by the film’s ends at {names}{more}"
    return [_at(Weight.SAID, words, short[0])]


def _mended(asked: _Asked) -> list[Remark]:
    """Say what of the names was mended."""
    return [Remark(Weight.SAID, m[0].upper() + m[1:]) for m in asked.plan.mended]


def _forms(plan: Plan) -> list[Remark]:
    """Say which lists cannot hold what goes."""
    found = []
    asked = [f for c in plan.asked.lists if (f := format_of(c)) is not None]
    if any(f.of_markers for f in asked) and plan.items and not plan.marked:
        words = "No shot that goes has a marker: lists of markers stay out"
        found.append(Remark(Weight.LOOK, words))
    for form in asked:
        for item in plan.items:
            pointed = form.originals and item.shot.card.original is not None
            if not form.stills and item.source.media.run is not None and not pointed:
                words = f"{form.words} has no place for numbered stills: choose EDL or OTIO"
                found.append(_at(Weight.STOP, words, item))
                break
    return found


def _at(weight: Weight, words: str, item: Item) -> Remark:
    """Return a remark that leads to the first frame of a shot."""
    return Remark(weight, words, item.shot.start, item.source.id)


def _missing(plan: Plan, source: Source) -> Remark:
    words = f"{Path(source.media.path).name} is missing"
    if plan.needs_films:
        return Remark(Weight.STOP, f"{words}: movies and pictures cannot be made")
    return Remark(Weight.LOOK, f"{words}: the lists point at where it was")


def _timecode(plan: Plan) -> list[Remark]:
    if not plan.formats or not plan.items:
        return []
    media, asked = plan.media, plan.asked
    if any(s.media.rate != media.rate for s in plan.sources):
        words = "The shots are of films that run at different rates: no list can hold them all"
        return [Remark(Weight.STOP, words)]
    text = asked.record_start
    try:
        start = record_start_of(text, media.rate, media.drop)
    except TimecodeError as error:
        return [Remark(Weight.STOP, f"Where the record side begins: {error}")]
    found = []
    if ";" in text and not media.drop:
        found.append(
            Remark(Weight.LOOK, "The record side is written drop-frame, the film counts without")
        )
    day = frames_per_day(media.rate, media.drop)
    end = start + sum(i.shot.length for i in plan.items)
    if end > day:
        found.append(Remark(Weight.LOOK, "The record side passes 24 hours and begins again at 0"))
    if max(i.source.media.start + i.shot.end for i in plan.items) > day:
        found.append(
            Remark(Weight.LOOK, "The film’s own timecode passes 24 hours and begins again at 0")
        )
    return found


def _oddities(plan: Plan, source: Source, film: OpenedFilm) -> list[Remark]:
    """Say what the next program may take amiss of a film: its size, fields, rate and sound."""
    found = []
    framing, written = plan.framing_of(source), plan.written_of(source)
    dnxhr = plan.way is not None and plan.way.code == "dnxhr"
    if dnxhr and (written.width < 256 or written.height < 120):
        found.append(Remark(Weight.STOP, "DNxHR begins at 256x120; the picture is smaller"))
    encoded = plan.way is not None and bool(plan.way.codec)
    if film.fields and dnxhr:
        words = "DNxHR has no word for fields: the film’s stay in the picture, untold"
        found.append(Remark(Weight.LOOK, words))
    if film.fields and encoded and (framing.top % 4 or framing.bottom % 4):
        words = "The film is interlaced: its framing’s top and bottom want steps of 4 pixels"
        found.append(Remark(Weight.LOOK, words))
    woven = [i.shot.opened_by for i in plan.items if i.source.id == source.id]
    split = sorted({s.frame for s in woven if s is not None and between_fields(s)})
    if split:
        media = source.media
        at = timecode_from_frame(media.start + split[0], media.rate, media.drop)
        words = f"{many(len(split), 'cut')} between the fields of a frame, the first at {at}: "
        words += "that frame’s earlier field is still the shot before"
        found.append(Remark(Weight.LOOK, words))
    if source.media.run is not None and plan.way is not None and not plan.way.codec:
        found.append(Remark(Weight.STOP, "Stills have no packets to copy: choose a codec"))
    if source.ticket.own_rate is not None and plan.way is not None and not plan.way.codec:
        words = "Copied packets keep the file’s own rate, not the one that was set"
        found.append(Remark(Weight.LOOK, words))
    if source.ticket.own_rate is not None and plan.way is not None and plan.way.codec:
        found.append(Remark(Weight.LOOK, "At a rate that was set by hand, movies have no sound"))
    if film.index.uneven and plan.formats:
        words = "The film’s rate varies: lists count its frames, so what goes by time will differ"
        found.append(Remark(Weight.LOOK, words))
    if plan.way is not None:
        found += [Remark(Weight.LOOK, n) for n in film.notes if "of its sound cannot be read" in n]
    return found


def _place(plan: Plan, folder: Path | None) -> list[Remark]:
    if folder is None:
        return [Remark(Weight.STOP, "Choose a folder to write to")]
    there = folder if folder.exists() else folder.parent
    if folder.exists() and not folder.is_dir():
        return [Remark(Weight.STOP, f"{folder} is a file, not a folder")]
    if not there.is_dir():
        return [Remark(Weight.STOP, f"{folder}: there is no such folder")]
    if not os.access(there, os.W_OK):
        return [Remark(Weight.STOP, f"{folder} may not be written to")]
    found = []
    free = shutil.disk_usage(there).free
    if plan.size > free:
        words = f"About {size_words(plan.size)} are needed, {size_words(free)} are free"
        found.append(Remark(Weight.STOP, f"{words} in {folder}"))
    film = over_a_film(plan, folder)
    if film:
        words = f"{film} would be written over the film itself: choose another folder or pattern"
        found.append(Remark(Weight.STOP, words))
    exist = [o.name for o in plan.outputs if (folder / o.name).exists()]
    if exist:
        names = ", ".join(exist[:2]) + (", …" if len(exist) > 2 else "")
        words = f"{many(len(exist), 'file')} there already: {names}"
        found.append(Remark(Weight.LOOK, words, code="exists"))
    doubles = len(plan.outputs) - len({o.name.casefold() for o in plan.outputs})
    if doubles:
        words = f"{many(doubles, 'file')} would have the name of another: change the pattern"
        found.append(Remark(Weight.STOP, words))
    return found


def _shots(plan: Plan, source: Source) -> list[Remark]:
    """Say what is not settled about the shots that go of one film."""
    found = []
    look, said = Weight.LOOK, Weight.SAID
    media = source.media
    shots = [i.shot for i in plan.items if i.source.id == source.id]
    edges = {s.start for s in shots} | {s.end for s in shots}
    open_ones = [
        s
        for s in counted_seams(source)
        if s.certainty is Certainty.DOUBTFUL and not s.judged and s.frame in edges
    ]
    for seam in open_ones[:5]:
        at = timecode_from_frame(media.start + seam.frame, media.rate, media.drop)
        words = f"Doubtful and not judged: the {seam.kind} at {at}"
        found.append(Remark(look, words, seam.frame, source.id))
    if len(open_ones) > 5:
        words = f"{len(open_ones) - 5} more doubtful seams are open"
        found.append(Remark(look, words, open_ones[5].frame, source.id))
    limit = plan.asked.shortest
    short = [s for s in shots if s.length < limit]
    if short:
        words = f"{many(len(short), 'shot')} under {length_words(limit, media.rate)}"
        shown = ", ".join(str(s.number) for s in short[:4]) + (", …" if len(short) > 4 else "")
        found.append(Remark(look, f"{words}: {shown}", short[0].start, source.id))
    aside = sum(s.card.set_aside for s in shots_of(source))
    if aside and not plan.asked.offcuts and plan.asked.which != "order":
        stay = "stays" if aside == 1 else "stay"
        found.append(Remark(said, f"{many(aside, 'offcut')} {stay} out"))
    if not source.searched:
        found.append(Remark(look, "The search for seams was not finished"))
    return found


def _order(plan: Plan) -> list[Remark]:
    """Say how the record side follows from the order the shots go in."""
    pairs = list(pairwise(plan.items))
    rank = {s.id: n for n, s in enumerate(plan.project.sources)}

    def place(item: Item) -> tuple[int, int]:
        return rank[item.source.id], item.shot.start

    if any(place(a) >= place(b) for a, b in pairs):
        words = "The shots go in another order than the film’s: the record side follows it"
        return [Remark(Weight.SAID, words)]
    gaps = [b for a, b in pairs if a.source is b.source and a.shot.end != b.shot.start]
    if gaps and plan.formats:
        words = f"{many(len(gaps), 'gap')} where shots stay out: the record side closes up"
        return [_at(Weight.SAID, words, gaps[0])]
    return []


def _copying(plan: Plan, copying: Sequence[Copying]) -> list[Remark]:
    if not copying or plan.way is None or plan.way.codec:
        return []
    exact = sum(c.exact for c in copying)
    if exact == len(copying):
        return [Remark(Weight.SAID, f"All {exact} shots can be copied to the frame")]
    early = max((c.early for c in copying), default=0)
    late = max((c.late for c in copying), default=0)
    ways = []
    if early:
        ways.append(f"begin up to {many(early, 'frame')} early")
    if late:
        ways.append(f"end up to {many(late, 'frame')} late")
    words = (
        f"{exact} of {len(copying)} shots can be copied to the frame; others {' and '.join(ways)}"
    )
    first = next(i for i, c in zip(plan.items, copying, strict=True) if not c.exact)
    return [_at(Weight.LOOK, words, first)]


REMARKS: tuple[Callable[[_Asked], list[Remark]], ...] = (
    _nothing,
    lambda asked: _timecode(asked.plan),
    _films,
    _framing,
    lambda asked: _place(asked.plan, asked.folder),
    lambda asked: _order(asked.plan),
    _originals,
    lambda asked: _forms(asked.plan),
    lambda asked: _copying(asked.plan, asked.copying or ()),
    _handles,
    _mended,
)
"""All that is remarked on, in this order among those as grave; a new remark is a line here."""
