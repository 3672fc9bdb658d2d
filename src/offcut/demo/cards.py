"""What the demo says of its film's shots: names, scenes, a running order; all invented."""

from __future__ import annotations

import json
from bisect import bisect_right

from offcut.core.model.orders import ref_of
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import name_shots, set_aside
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.scenes import put_shots_in_scene
from offcut.demo import TRUTH

FIRST = "The roofs before dawn"
SCENES = {
    "Before dawn": (FIRST, "The tower over the roofs"),
    "The depot": ("The depot, dark", "A lamp is switched on", "The photographer's flash"),
    "In the cab": (
        "The driver takes his place", "His hand on the controller", "The driver in the tunnel",
        "The controller again",
    ),
    "Through the town": (
        "Car 7 comes out", "A street in the rain", "Car 7 in the street",
        "The same street, nearer", "The town in the morning",
    ),
    "The crossing": ("Out on the bridge", "The river from the bridge"),
}  # fmt: skip
ASIDE = ("Rain on the pane", "Between the rails")
ORDERS = {
    "For the trailer": (
        FIRST, "A lamp is switched on", "The driver takes his place", "Car 7 comes out",
        "Out on the bridge", "Car 7 at rest",
    ),
    "Night only": (
        "The tower over the roofs", "The depot, dark", "Lightning over the harbour",
        "A street in the rain",
    ),
}  # fmt: skip
NEAR = 12


def with_demo_cards(project: Project, source_id: int) -> Project:
    """Name the shots of the demo film, put them into scenes, and make running orders of them."""
    joins = json.loads(TRUTH.read_text())["joins"]
    frames, names = [0, *(j["frame"] for j in joins)], [FIRST, *(j["opens"] for j in joins)]
    source = project.source(source_id)
    refs: dict[str, ShotRef] = {}
    for shot in shots_of(source):
        place = bisect_right(frames, shot.start + NEAR) - 1
        if abs(frames[place] - shot.start) <= NEAR:
            refs.setdefault(names[place], ref_of(source, shot))
    project = name_shots(project, {ref: name for name, ref in refs.items()})
    for scene, held in SCENES.items():
        project = put_shots_in_scene(project, [refs[n] for n in held if n in refs], scene)
    project = set_aside(project, [refs[n] for n in ASIDE if n in refs])
    for order, held in ORDERS.items():
        project = add_order(project, order, [refs[n] for n in held if n in refs])
    return project
