"""The check before a hand-over: everything that would make somebody call back."""

from __future__ import annotations

import os
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from pathlib import Path

from offcut.core.errors import TimecodeError
from offcut.core.lists.events import record_start_of
from offcut.core.media.probe import OpenedFilm
from offcut.core.model.project import Certainty
from offcut.core.model.shots import counted_seams, shots_of
from offcut.core.timecode import frames_per_day, length_words, timecode_from_frame
from offcut.core.turnover.copying import Copying
from offcut.core.turnover.plan import Plan, over_a_film
from offcut.core.words import many, size_words


class Weight(StrEnum):
    """How much a finding matters: it stops the hand-over, wants a look, or is only said."""

    STOP = "stop"
    LOOK = "look"
    SAID = "said"


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding: a sentence, and the frame of the film to go to, -1 for none.

    ``code`` tells findings that something can be done about from here: "exists".
    """

    weight: Weight
    words: str
    frame: int = -1
    code: str = ""


def checked(
    plan: Plan,
    folder: Path | None,
    *,
    film: OpenedFilm | None,
    copying: Sequence[Copying] | None = None,
) -> tuple[Finding, ...]:
    """Check a plan against its film and the folder it goes to; the gravest findings first.

    ``film`` is None where it is missing; ``copying`` tells for each shot what copying its packets
    would give, where that is asked for.
    """
    found: list[Finding] = []
    stop, look, said = Weight.STOP, Weight.LOOK, Weight.SAID
    asked = plan.asked
    if not plan.items:
        found.append(Finding(stop, "No shot goes: choose other shots"))
    elif not plan.outputs:
        found.append(Finding(stop, "Nothing is asked for: choose a list, movies or pictures"))
    if plan.problem:
        found.append(Finding(stop, plan.problem[0].upper() + plan.problem[1:]))
    found += _timecode(plan)
    needs_film = bool(plan.way or asked.stills or asked.sheets)
    if film is None:
        words = f"{Path(plan.media.path).name} is missing"
        found.append(
            Finding(stop, f"{words}: movies and pictures cannot be made")
            if needs_film
            else Finding(look, f"{words}: the lists point at where it was")
        )
    if (
        plan.way is not None
        and plan.way.code == "dnxhr"
        and (plan.written.width < 256 or plan.written.height < 120)
    ):
        found.append(Finding(stop, "DNxHR begins at 256x120; the picture is smaller"))
    if film is not None:
        found += _oddities(plan, film)
    if asked.framing and plan.way is not None and not plan.way.codec and plan.source.framing:
        found.append(Finding(look, "Copied packets hold the whole picture: no framing is applied"))
    if asked.framing and needs_film and not plan.source.framing:
        found.append(Finding(said, "No framing is set: movies and pictures hold it whole"))
    found += _place(plan, folder)
    found += _shots(plan)
    if any(f.originals for f in plan.forms):
        bare = sum(i.shot.words.original is None for i in plan.items)
        if bare:
            what = f"{many(bare, 'shot')} without an original"
            found.append(Finding(look, f"{what}: the list points at this film there"))
    if copying is not None and plan.way is not None and not plan.way.codec:
        found += _copying(plan, copying)
    short = [i for i in plan.items if i.short]
    if short and (asked.handles or 0):
        names = ", ".join(f"shot {i.shot.number}" for i in short[:3])
        more = ", …" if len(short) > 3 else ""
        words = f"Handles are cut short by the film’s ends at {names}{more}"
        found.append(Finding(said, words, short[0].shot.start))
    found += [Finding(said, m[0].upper() + m[1:]) for m in plan.mended]
    order = list(Weight)
    return tuple(sorted(found, key=lambda f: order.index(f.weight)))


def _timecode(plan: Plan) -> list[Finding]:
    media, asked = plan.media, plan.asked
    if not plan.forms or not plan.items:
        return []
    text = asked.record_start
    try:
        start = record_start_of(text, media.rate, media.drop)
    except TimecodeError as error:
        return [Finding(Weight.STOP, f"Where the record side begins: {error}")]
    found = []
    if ";" in text and not media.drop:
        found.append(
            Finding(Weight.LOOK, "The record side is written drop-frame, the film counts without")
        )
    day = frames_per_day(media.rate, media.drop)
    end = start + sum(i.shot.length for i in plan.items)
    if end > day:
        found.append(Finding(Weight.LOOK, "The record side passes 24 hours and begins again at 0"))
    if media.start + max(i.shot.end for i in plan.items) > day:
        found.append(
            Finding(Weight.LOOK, "The film’s own timecode passes 24 hours and begins again at 0")
        )
    return found


def _oddities(plan: Plan, film: OpenedFilm) -> list[Finding]:
    """Say what the next program may take amiss of interlaced films and of variable rates."""
    found = []
    encoded = plan.way is not None and bool(plan.way.codec)
    if film.fields and plan.way is not None and plan.way.code == "dnxhr":
        words = "DNxHR has no word for fields: the film’s stay in the picture, untold"
        found.append(Finding(Weight.LOOK, words))
    if film.fields and encoded and (plan.framing.top % 4 or plan.framing.bottom % 4):
        words = "The film is interlaced: its framing’s top and bottom want steps of 4 pixels"
        found.append(Finding(Weight.LOOK, words))
    if film.index.uneven and plan.forms:
        words = "The film’s rate varies: lists count its frames, so what goes by time will differ"
        found.append(Finding(Weight.LOOK, words))
    return found


def _place(plan: Plan, folder: Path | None) -> list[Finding]:
    if folder is None:
        return [Finding(Weight.STOP, "Choose a folder to write to")]
    there = folder if folder.exists() else folder.parent
    if folder.exists() and not folder.is_dir():
        return [Finding(Weight.STOP, f"{folder} is a file, not a folder")]
    if not there.is_dir():
        return [Finding(Weight.STOP, f"{folder}: there is no such folder")]
    if not os.access(there, os.W_OK):
        return [Finding(Weight.STOP, f"{folder} may not be written to")]
    found = []
    free = shutil.disk_usage(there).free
    if plan.size > free:
        words = f"About {size_words(plan.size)} are needed, {size_words(free)} are free"
        found.append(Finding(Weight.STOP, f"{words} in {folder}"))
    film = over_a_film(plan, folder)
    if film:
        words = f"{film} would be written over the film itself: choose another folder or pattern"
        found.append(Finding(Weight.STOP, words))
    exist = [o.name for o in plan.outputs if (folder / o.name).exists()]
    if exist:
        names = ", ".join(exist[:2]) + (", …" if len(exist) > 2 else "")
        words = f"{many(len(exist), 'file')} there already: {names}"
        found.append(Finding(Weight.LOOK, words, code="exists"))
    doubles = len(plan.outputs) - len({o.name.casefold() for o in plan.outputs})
    if doubles:
        words = f"{many(doubles, 'file')} would have the name of another: change the pattern"
        found.append(Finding(Weight.STOP, words))
    return found


def _shots(plan: Plan) -> list[Finding]:
    found = []
    look, said = Weight.LOOK, Weight.SAID
    media, source = plan.media, plan.source
    starts = {i.shot.start for i in plan.items} | {i.shot.end for i in plan.items}
    open_ones = [
        s
        for s in counted_seams(source)
        if s.certainty is Certainty.DOUBTFUL and not s.judged and s.frame in starts
    ]
    for seam in open_ones[:5]:
        at = timecode_from_frame(media.start + seam.frame, media.rate, media.drop)
        found.append(Finding(look, f"Doubtful and not judged: the {seam.kind} at {at}", seam.frame))
    if len(open_ones) > 5:
        frame = open_ones[5].frame
        found.append(Finding(look, f"{len(open_ones) - 5} more doubtful seams are open", frame))
    limit = plan.asked.shortest
    short = [i.shot for i in plan.items if i.shot.length < limit]
    if short:
        words = f"{many(len(short), 'shot')} under {length_words(limit, media.rate)}"
        shown = ", ".join(str(s.number) for s in short[:4]) + (", …" if len(short) > 4 else "")
        found.append(Finding(look, f"{words}: {shown}", short[0].start))
    shots = [i.shot for i in plan.items]
    in_order = all(a.start < b.start for a, b in pairwise(shots))
    gaps = [b.start for a, b in pairwise(shots) if a.end != b.start]
    if not in_order:
        words = "The shots go in another order than the film’s: the record side follows it"
        found.append(Finding(said, words))
    elif gaps and plan.forms:
        words = f"{many(len(gaps), 'gap')} where shots stay out: the record side closes up"
        found.append(Finding(said, words, gaps[0]))
    aside = sum(s.words.set_aside for s in shots_of(source))
    if aside and not plan.asked.offcuts:
        stay = "stays" if aside == 1 else "stay"
        found.append(Finding(said, f"{many(aside, 'offcut')} {stay} out"))
    if not source.searched:
        found.append(Finding(look, "The search for seams was not finished"))
    return found


def _copying(plan: Plan, copying: Sequence[Copying]) -> list[Finding]:
    exact = sum(c.exact for c in copying)
    if exact == len(copying):
        return [Finding(Weight.SAID, f"All {exact} shots can be copied to the frame")]
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
    return [Finding(Weight.LOOK, words, first.shot.start)]
