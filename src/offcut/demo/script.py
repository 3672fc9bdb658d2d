"""The script of the film: every shot, its camera, its light, and how it is joined."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from offcut.core.model.seam import Kind
from offcut.demo import sets
from offcut.demo.paint import Layer

Camera = tuple[float, float, float]
Light = Callable[[int], float]
RATE = 25
TITLE = "Line 7 at First Light"


@dataclass(frozen=True)
class Take:
    """One shot of the film.

    ``camera`` goes from (x, y, zoom) to (x, y, zoom) over the shot, eased; ``hand`` is how far a
    hand-held camera strays in pixels; ``light`` gives the gain at a frame of the shot; ``whip``
    (frame, length, distance) throws the camera sideways; ``passes`` is the frame at which a
    lorry fills the picture; ``joined`` how it begins, over ``mixed`` frames (``dark`` of them
    black); ``title`` (first, last, words) is lettering over the picture.
    """

    about: str
    place: Callable[[], list[Layer]]
    frames: int
    camera: tuple[Camera, Camera] = ((0, 0, 1.0), (0, 0, 1.04))
    hand: float = 0.0
    light: Light | None = None
    whip: tuple[int, int, float] | None = None
    passes: int | None = None
    joined: Kind = Kind.CUT
    mixed: int = 0
    dark: int = 0
    title: tuple[int, int, str] | None = None
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    rain: bool = False
    lamp_at: int | None = None


def _flash(at: int, length: int = 2, gain: float = 2.6) -> Light:
    return lambda t: gain if at <= t < at + length else 1.0


def _flicker(t: int) -> float:
    return 0.75 + 0.4 * (1 if (t // 3) % 2 else 0) * (0.8 + 0.2 * math.sin(t * 1.7))


def _lightning(t: int) -> float:
    return {21: 2.3, 22: 1.2, 24: 2.8, 25: 1.9, 26: 1.3}.get(t, 1.0)


def _dim(level: float) -> Light:
    return lambda _t: level


BLUE = (0.82, 0.94, 1.18)
WARM = (1.12, 1.0, 0.84)

TAKES: tuple[Take, ...] = (
    Take(
        "The harbour before dawn",
        lambda: sets.harbour("night", 1),
        110,
        ((-30, 8, 1.0), (26, -6, 1.05)),
        tint=BLUE,
        title=(26, 78, TITLE),
    ),
    Take(
        "The tower over the roofs",
        lambda: sets.harbour("night", 1),
        58,
        ((40, 60, 1.7), (52, 44, 1.78)),
        tint=BLUE,
    ),
    Take(
        "The depot, dark",
        lambda: sets.depot(False),
        50,
        ((-20, 0, 1.05), (10, 0, 1.08)),
        light=_dim(0.4),
        tint=BLUE,
    ),
    Take(
        "A lamp is switched on",
        lambda: sets.depot(True),
        66,
        ((60, 20, 1.2), (40, 14, 1.2)),
        lamp_at=27,
    ),
    Take(
        "The photographer's flash",
        lambda: sets.depot(True, 4),
        54,
        ((-90, 30, 1.5), (-76, 24, 1.54)),
        light=_flash(24),
    ),
    Take(
        "The driver takes his place",
        lambda: sets.cab("back", 5),
        60,
        ((0, 0, 1.05), (8, 4, 1.1)),
        tint=WARM,
    ),
    Take(
        "His hand on the controller",
        lambda: sets.cab("hands", 5),
        48,
        ((60, 40, 1.3), (44, 30, 1.36)),
        tint=WARM,
    ),
    Take(
        "Car 7 comes out",
        lambda: sets.street("dawn", 8, 0.55, people=False),
        72,
        ((0, -10, 1.0), (0, 10, 1.06)),
        tint=WARM,
    ),
    Take(
        "Rails at first light",
        lambda: sets.track("dawn", 12),
        88,
        ((0, 0, 1.0), (0, 6, 1.02)),
        hand=2.5,
        joined=Kind.DISSOLVE,
        mixed=24,
    ),
    Take("Wires overhead", sets.wires, 44, ((-30, 20, 1.1), (34, -16, 1.1))),
    Take(
        "The harbour at dawn", lambda: sets.harbour("dawn", 1), 100, ((34, 0, 1.02), (-34, 0, 1.02))
    ),
    Take(
        "Rain on the pane",
        lambda: sets.pane(17),
        104,
        ((0, 0, 1.05), (14, 0, 1.1)),
        joined=Kind.DISSOLVE,
        mixed=40,
        tint=BLUE,
    ),
    Take(
        "Lightning over the harbour",
        lambda: sets.harbour("storm", 2),
        62,
        ((0, 0, 1.0), (10, 0, 1.03)),
        light=_lightning,
        rain=True,
    ),
    Take(
        "A street in the rain",
        lambda: sets.street("storm", 9),
        56,
        ((-40, 0, 1.1), (20, 0, 1.1)),
        rain=True,
        hand=1.5,
    ),
    Take(
        "Into the tunnel", lambda: sets.tunnel(19), 66, ((0, 0, 1.0), (0, 0, 1.15)), light=_flicker
    ),
    Take(
        "The driver in the tunnel",
        lambda: sets.cab("back", 6),
        44,
        ((20, 0, 1.3), (14, 0, 1.3)),
        light=lambda t: 0.45 + 0.2 * (1 if (t // 4) % 2 else 0),
        tint=WARM,
    ),
    Take(
        "Out on the bridge",
        lambda: sets.bridge("morning", 23),
        96,
        ((-40, 0, 1.0), (50, 0, 1.0)),
        joined=Kind.FADE,
        mixed=44,
        dark=8,
    ),
    Take(
        "The river from the bridge",
        lambda: sets.sea("dawn", 33),
        52,
        ((0, 10, 1.25), (24, 0, 1.25)),
    ),
    Take(
        "Car 7 in the street",
        lambda: sets.street("morning", 8, 0.72),
        76,
        ((0, 0, 1.0), (0, 0, 1.0)),
        passes=40,
    ),
    Take(
        "The same street, nearer",
        lambda: sets.street("morning", 8, 0.9),
        50,
        ((26, 14, 1.16), (22, 12, 1.18)),
    ),
    Take(
        "Over the market",
        lambda: sets.market(29),
        70,
        ((-110, 0, 1.2), (110, 0, 1.2)),
        whip=(34, 9, 300.0),
    ),
    Take(
        "Faces at the stall",
        lambda: sets.market(30, True),
        54,
        ((0, 40, 1.1), (10, 30, 1.14)),
        hand=9.0,
    ),
    Take(
        "The same faces, from the side",
        lambda: sets.market(30, True),
        44,
        ((120, 44, 1.26), (112, 40, 1.28)),
        hand=5.0,
    ),
    Take(
        "Running past the houses",
        lambda: sets.street("morning", 14),
        26,
        ((-60, 10, 1.3), (70, 10, 1.3)),
        hand=6.0,
    ),
    Take(
        "Between the rails",
        lambda: sets.street("morning", 15),
        18,
        ((-30, 130, 1.9), (40, 130, 1.9)),
        hand=7.0,
    ),
    Take(
        "The controller again",
        lambda: sets.cab("hands", 7),
        22,
        ((90, 60, 1.5), (80, 52, 1.5)),
        tint=WARM,
    ),
    Take(
        "Rails, faster",
        lambda: sets.track("morning", 13, 30),
        40,
        ((0, 0, 1.1), (0, 0, 1.12)),
        hand=4.0,
    ),
    Take(
        "Coffee at the terminus",
        lambda: sets.cup(37),
        92,
        ((20, 20, 1.0), (0, 44, 1.5)),
        joined=Kind.WIPE,
        mixed=20,
        tint=WARM,
    ),
    Take(
        "The guard at the window",
        lambda: sets.pane(18),
        46,
        ((-20, 0, 1.2), (-10, 0, 1.22)),
        light=_dim(0.62),
    ),
    Take(
        "The town in the morning",
        lambda: sets.harbour("morning", 3, True),
        90,
        ((-30, 0, 1.0), (30, 0, 1.05)),
    ),
    Take("Car 7 at rest", lambda: sets.street("dawn", 10, 0.85), 58, ((0, 0, 1.1), (0, 0, 1.02))),
    Take(
        "The sea at the end of the line",
        lambda: sets.sea("morning", 31),
        118,
        ((0, 0, 1.08), (0, -20, 1.0)),
        title=(58, 92, "Port Ansel 1962"),
    ),
)


@dataclass(frozen=True)
class Join:
    """One true join of the film: [start, end) is mixed, ``frame`` its middle or the cut."""

    frame: int
    start: int
    end: int
    kind: Kind


def joins() -> tuple[Join, ...]:
    """Return the true joins. A dissolve or wipe overlaps its two shots; a fade lies between."""
    at = 0
    found: list[Join] = []
    for i, take in enumerate(TAKES):
        if i:
            start = at - take.mixed if take.joined in (Kind.DISSOLVE, Kind.WIPE) else at
            end = start + take.mixed
            found.append(Join((start + end) // 2, start, end, take.joined))
            at = start
        at += take.frames + (take.mixed if take.joined is Kind.FADE else 0)
    return tuple(found)


def length() -> int:
    """Return the frames of the whole film."""
    overlap = sum(t.mixed for t in TAKES if t.joined in (Kind.DISSOLVE, Kind.WIPE))
    return sum(t.frames + (t.mixed if t.joined is Kind.FADE else 0) for t in TAKES) - overlap
