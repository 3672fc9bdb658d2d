"""Projects that several tests share, and edits to try on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from typing import Any

from hypothesis import strategies as st

from offcut.core.board.rows import rows_of
from offcut.core.errors import OffcutError
from offcut.core.lists.outgoing import EventList, Pick, events_of, going
from offcut.core.model.card import Original, OriginalFile
from offcut.core.model.handover import Asked, Handover
from offcut.core.model.project import Project, Ruling, ShotRef
from offcut.core.model.run import Holes, Run
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.seam import Kind, Seam
from offcut.core.model.shots import Shot, shots_of
from offcut.core.model.source import Framing, MarkerColour, Media, Zone
from offcut.core.model.ticket import Fields, Flash, ProxyUse
from offcut.core.model.verbs.cards import name_shot, name_shots, note_shots, set_aside, wave_away
from offcut.core.model.verbs.folding import fold_shot, fold_shots
from offcut.core.model.verbs.judging import keep_seams, strike_range, strike_seams
from offcut.core.model.verbs.markers import add_marker, change_marker, remove_marker
from offcut.core.model.verbs.orders import add_order, keep_piece, trim_use
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.scenes import put_shots_in_scene, scene_named, set_scene_look
from offcut.core.model.verbs.searching import set_framing, set_sensitivity, take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.spans import one_cut_or_back, set_kind, set_span
from offcut.core.model.verbs.ticket import (
    set_display,
    set_fields,
    set_file_numbers,
    set_flash,
    set_holes,
    set_proxy_use,
    set_rate,
    set_reel,
    set_squeeze,
    set_start,
    set_stops,
)
from offcut.core.model.verbs.zones import add_zone
from offcut.core.timecode import NTSC, NTSC_DOUBLE, NTSC_FILM

FIRST = 1
"""The id of the first film that is brought into an empty project."""

RATES = [
    (NTSC_FILM, False),
    (Fraction(24), False),
    (Fraction(25), False),
    (NTSC, True),
    (NTSC, False),
    (Fraction(30), False),
    (Fraction(50), False),
    (NTSC_DOUBLE, True),
    (Fraction(60), False),
]


def cut_film(rate: Fraction, drop: bool, start: int = 0) -> Project:
    media = Media("/films/Line 7.mov", rate, 5000, 1920, 1080, start=start, drop=drop)
    project = add_source(Project(name="Line 7"), media)
    for frame in (100, 1801, 3600):
        project = place_seam(project, FIRST, frame)
    project = place_seam(project, FIRST, 2500, kind=Kind.DISSOLVE, span=24)
    return name_shot(project, FIRST, 150, "The bridge, from below")


def film_of_originals(rate: Fraction, drop: bool, start: int = 1000) -> Project:
    """A film of seven shots whose originals are known, joins of every kind and two markers."""
    project = cut_film(rate, drop, start=start)
    project = place_seam(project, FIRST, 4300, kind=Kind.FADE, span=20)
    project = place_seam(project, FIRST, 4700, kind=Kind.WIPE, span=10)
    bell = MarkerColour.CYAN
    project = add_marker(project, FIRST, 120, None, "bell", "from the quay", bell)
    project = add_marker(project, FIRST, 2000, 2050, "crossing", "", MarkerColour.RED)
    project, harbour = scene_named(project, "Harbour")
    speeds = [Fraction(1), Fraction(1, 2), Fraction(1), Fraction(2), *[Fraction(1)] * 3]
    for n, shot in enumerate(shots_of(project.sources[0])):
        reel, clip = f"A{n:03d}C{n}", f"clip{n}.mov"
        original = Original(reel, 90_000 + n * 1000, shot.start, clip, drop, speeds[n])
        card = replace(
            shot.card,
            name=shot.card.name or f"Name {n}",
            original=original,
            scene=harbour if n % 2 else 0,
            note="a note" if n == 2 else "",
        )
        project = with_card(project, FIRST, shot.opened_by, card)
    return project


def list_of(project: Project, *, shots: list[Shot] | None = None, **asked: Any) -> EventList:
    """The events of the first film: of all shots that are not set aside, or of these."""
    source = project.sources[0]
    picks = going(source) if shots is None else [Pick(source, shot) for shot in shots]
    return events_of(project, picks, **asked)


def full_project() -> Project:
    """A project with one of everything that can be saved."""
    project: Project = cut_film(25, False)  # type: ignore[assignment]
    project = one_cut_or_back(project, FIRST, project.sources[0].seams[2].id)
    project = add_zone(project, FIRST, Zone(1, 5, None))
    project = set_framing(project, FIRST, Framing(0, 20, 0, 22))
    project = add_marker(project, FIRST, 3, 6, "bell", "at the quay")
    original = Original("A012", 90_000, 0, "quay.mov", False, Fraction(-1, 2), ("ASC_SAT 0.9",),
                        OriginalFile("/rushes/quay.mov", 89_000, 4000, 1920, 1080))  # fmt: skip
    project, harbour = scene_named(project, "Harbour")
    card = replace(project.sources[0].first, original=original, scene=harbour)
    project = with_card(project, FIRST, None, card)
    refs = (ShotRef(FIRST, project.sources[0].seams[1].id), ShotRef(FIRST), ShotRef(99, 7))
    project = add_order(project, "Trailer", refs)
    order = project.orders[0]
    project = trim_use(project, order.id, order.uses[0].id, 2, -3)
    project = keep_piece(project, order.id, FIRST, 2000, 2100, 1, "Bell")
    project = set_scene_look(project, harbour, Pattern.CHECK, Tint.SEA)
    project = wave_away(project, refs[:2])
    asked = Asked(FIRST, which="chosen", chosen=(0, 2), lists=("edl", "csv"), sheets=("pdf",),
                  picked=((FIRST, 0),))  # fmt: skip
    project = _ticketed(project)
    made = Handover("1962-05-01T04:52:00+00:00", "/tmp/out", asked, ("a.edl",), 1.5)
    rulings = (Ruling(refs[0], 99, refs[2], -12), Ruling(refs[1], 99, None))
    return replace(project, handovers=(made,), rulings=rulings)


def _ticketed(project: Project) -> Project:
    """The project with a ticket written in every field, and a run of stills beside the film."""
    project = set_rate(project, FIRST, Fraction(24))
    project = set_start(project, FIRST, 24 * 3600)
    project = set_squeeze(set_reel(project, FIRST, "K07"), FIRST, Fraction("1.33"))
    project = set_display(project, FIRST, "cineon")
    project = set_proxy_use(set_fields(project, FIRST, Fields.TOP), FIRST, ProxyUse.ALWAYS)
    project = set_flash(set_stops(project, FIRST, True), FIRST, Flash.AFTER)
    run = Run("K08_", ".dpx", 4, 100, 199, ((120, 121), (150, 153)), rate_told=False)
    media = Media("/films/K08_[0100-0199].dpx", Fraction(24), 100, 2048, 1556, codec="DPX 10 bit",
                  run=run)  # fmt: skip
    source_id = project.next_id
    project = place_seam(add_source(project, media), source_id, 60)
    return set_file_numbers(set_holes(project, source_id, Holes.CLOSE), source_id, True)


FRAMES = 400


def found_at(frame: int, score: float) -> Seam:
    return Seam(0, frame, frame, frame, score=score)


@st.composite
def projects(draw: st.DrawFn) -> Project:
    media = Media("/film.mov", Fraction(25), FRAMES, 64, 36)
    project = add_source(Project(), media)
    at = draw(st.dictionaries(st.integers(1, FRAMES - 1), st.floats(0, 100), max_size=20))
    project = take_found(project, FIRST, [found_at(f, s) for f, s in sorted(at.items())], 0, FRAMES)
    for seam in project.sources[0].seams:
        choice = draw(st.integers(0, 4))
        if choice == 0:
            project = keep_seams(project, FIRST, [seam.id])
        elif choice == 1:
            project = strike_seams(project, FIRST, [seam.id])
    return project


def _on_one(project: Project, n: int, verb: Callable[[Project, int], Project]) -> Project:
    """Do something to one seam; where there is none, or it makes no sense, nothing."""
    if not project.sources[0].seams:
        return project
    try:
        return verb(project, project.sources[0].seams[n % len(project.sources[0].seams)].id)
    except OffcutError:
        return project


VERBS: list[Callable[[Project, int], Project]] = [
    lambda p, n: place_seam(p, FIRST, 1 + n % (FRAMES - 1)),
    lambda p, n: place_seam(p, FIRST, 1 + n % (FRAMES - 1), kind=Kind.DISSOLVE, span=n % 30),
    lambda p, n: fold_shot(p, FIRST, n % FRAMES),
    lambda p, n: fold_shots(p, FIRST, {f: (f % 3) - 1 for f in range(n % 90, FRAMES, 90)}),
    lambda p, n: strike_range(p, FIRST, n % 300, n % 300 + n % 60),
    lambda p, n: add_marker(p, FIRST, n % (FRAMES - 50), n % (FRAMES - 50) + 1 + n % 50, f"m{n}"),
    lambda p, n: (
        change_marker(p, FIRST, p.sources[0].markers[0].id, start=n, note="x")
        if p.sources[0].markers
        else p
    ),
    lambda p, n: (
        remove_marker(p, FIRST, p.sources[0].markers[-1].id) if p.sources[0].markers else p
    ),
    lambda p, n: _on_one(p, n, lambda q, i: one_cut_or_back(q, FIRST, i)),
    lambda p, n: _on_one(p, n, lambda q, i: set_kind(q, FIRST, [i], list(Kind)[n % 4])),
    lambda p, n: _on_one(p, n, lambda q, i: set_span(q, FIRST, i, n % FRAMES, n % FRAMES + n % 40)),
    lambda p, n: set_sensitivity(p, FIRST, n % 101),
    lambda p, n: name_shot(p, FIRST, n % FRAMES, f"name {n}"),
    lambda p, n: add_zone(p, FIRST, Zone(n % 300, n % 300 + 50, None if n % 2 else n % 101)),
    lambda p, n: set_rate(p, FIRST, [None, Fraction(18), Fraction(24), NTSC][n % 4]),
    lambda p, n: set_start(p, FIRST, None if n % 3 == 0 else n),
    lambda p, n: set_squeeze(p, FIRST, Fraction(100 + n % 100, 100)),
    lambda p, n: set_stops(p, FIRST, [None, True, False][n % 3]),
    lambda p, n: strike_seams(p, FIRST, [s.id for s in p.sources[0].seams[n % 5 :: 7]]),
    lambda p, n: keep_seams(p, FIRST, [s.id for s in p.sources[0].seams[n % 3 :: 5]]),
    lambda p, n: (
        roll_seam(p, FIRST, p.sources[0].seams[n % len(p.sources[0].seams)].id, n % 41 - 20)
        if p.sources[0].seams
        else p
    ),
]


STEPS = st.lists(st.tuples(st.sampled_from(VERBS), st.integers(0, 10_000)), max_size=12)


def film_of(name: str, noted: str = "") -> Project:
    """A project of one film of five shots, the second named and in a scene."""
    project: Project = cut_film(Fraction(25), False)
    source = project.sources[0]
    media = replace(source.media, path=f"/films/{name}.mov", fingerprint=name)
    project = replace(project, name=name, sources=(replace(source, media=media),))
    refs = [r.ref for r in rows_of(project)]
    project = name_shots(project, {refs[1]: f"Night shot of the bridge, {name}"})
    project = put_shots_in_scene(project, refs[1:2], "Hafen bei Nacht")
    project = note_shots(project, refs[2:3], noted)
    return set_aside(project, refs[4:5])
