"""What a person says of versions, and what was decided carried over to the next one."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from offcut.core.errors import OffcutError
from offcut.core.model.card import Card, Original
from offcut.core.model.orders import ref_of, uses_of
from offcut.core.model.project import Project, Ruling, ShotRef
from offcut.core.model.seam import Certainty, Kind, Origin, Seam, Standing
from offcut.core.model.shots import counted_seams, shots_of
from offcut.core.model.source import Media, Source
from offcut.core.model.verbs.cards import name_shot, put_in_scene
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.orders import add_order
from offcut.core.model.verbs.replacing import with_card
from offcut.core.model.verbs.rulings import rule_shot, take_ruling_back
from offcut.core.tally.versions.carrying import Carry, carried_over
from offcut.core.tally.versions.changes import Change, Comparison, What
from offcut.core.tally.versions.ruled import doubt_first, with_rulings

OLD, NEW = 1, 2


def found_at(frame: int, seam_id: int) -> Seam:
    return Seam(seam_id, frame, frame, frame, Kind.CUT, 95.0, Certainty.SURE)


def film(source_id: int, frames: int, *cuts: int) -> Source:
    media = Media(f"/films/v{source_id}.mov", Fraction(25), frames, 1920, 1080)
    seams = tuple(found_at(f, 100 * source_id + n) for n, f in enumerate(cuts))
    return Source(source_id, media, 0, frames, seams=seams, searched=True)


@pytest.fixture
def project() -> Project:
    """Two versions: shots of 40, 30, 50 and 20 frames; the second without the second shot, and with
    ten frames off the third's tail.
    """
    return Project("Line 7", (film(OLD, 140, 40, 70, 120), film(NEW, 100, 40, 80)), next_id=900)


COMPARISON = Comparison(
    (
        Change(What.SAME, (0, 40), (0, 40), offset=0),
        Change(What.GONE, (40, 70), None),
        Change(What.SHORTER, (70, 120), (40, 80), 0, -10, offset=30),
        Change(What.SAME, (120, 140), (80, 100), offset=40, certainty=Certainty.DOUBTFUL),
    )
)


def shot_named(project: Project, source_id: int, frame: int) -> Card:
    return next(s.card for s in shots_of(project.source(source_id)) if s.start == frame)


def test_cards_go_along_with_their_shots_rolled_to_where_they_lie(project: Project) -> None:
    project = name_shot(project, OLD, 80, "The quay")
    project = put_in_scene(project, OLD, 80, "Harbour")
    project = name_shot(project, OLD, 50, "Only here")
    source = project.source(OLD)
    third = shots_of(source)[2]
    card = replace(third.card, original=Original("A012", 5000, 70, speed=Fraction(1)))
    project = with_card(project, OLD, third.opened_by, card)
    carried = carried_over(project, OLD, NEW, COMPARISON)
    now = shot_named(carried.project, NEW, 40)
    assert now.name == "The quay"
    assert carried.project.scene_name(now.scene) == "Harbour"
    assert now.original is not None
    assert now.original.timecode_at(45) == card.original.timecode_at(75)  # type: ignore[union-attr]
    assert carried.shots == 1
    assert carried.left == ("Only here: there is no such shot now, so its card stays",)
    assert shot_named(carried.project, OLD, 40).name == "Only here"


def test_what_a_person_said_of_the_new_version_stays(project: Project) -> None:
    project = name_shot(project, OLD, 10, "From the first day")
    project = name_shot(project, NEW, 10, "From the second day")
    carried = carried_over(project, OLD, NEW, COMPARISON)
    assert shot_named(carried.project, NEW, 0).name == "From the second day"
    assert carried.shots == 0


def test_judged_seams_are_judged_in_the_new_version_and_placed_where_it_has_none(
    project: Project,
) -> None:
    project = keep_seams(project, OLD, [102])  # at 120, the tail that changed
    old = project.source(OLD)
    more = Seam(150, 90, 90, 90, Kind.CUT, 30.0, Certainty.LIKELY, origin=Origin.PLACED)
    wrong = replace(found_at(20, 151), standing=Standing.OPEN)
    project = replace(
        project,
        sources=(
            replace(old, seams=tuple(sorted((*old.seams, more, wrong), key=lambda s: s.frame))),
            replace(project.source(NEW), seams=(found_at(20, 250), *project.source(NEW).seams)),
        ),
    )
    project = strike_seams(project, OLD, [151])
    carried = carried_over(project, OLD, NEW, COMPARISON, [Carry.JUDGED])
    new = carried.project.source(NEW)
    standing = {s.frame: s.standing for s in new.seams}
    assert standing[20] is Standing.STRUCK
    assert [s.frame for s in counted_seams(new)] == [40, 60, 80]
    assert standing[80] is Standing.KEPT


def test_markers_and_running_orders_go_along_and_what_cannot_is_told(project: Project) -> None:
    project = add_marker(project, OLD, 75, 76, "Look here")
    project = add_marker(project, OLD, 50, 51, "Lost")
    refs = [ref_of(project.source(OLD), s) for s in shots_of(project.source(OLD))]
    project = add_order(project, "Trailer", [refs[2], refs[1], refs[0]])
    carried = carried_over(project, OLD, NEW, COMPARISON)
    new = carried.project.source(NEW)
    assert [(m.start, m.name) for m in new.markers] == [(45, "Look here")]
    made = carried.project.orders[-1]
    assert made.name == "Trailer, new version"
    assert [u.shot.start for u in uses_of(carried.project, made) if u.shot] == [40, 0]
    assert carried.left == (
        "marker Lost: its frame is not there now",
        "Trailer: Shot 2 is not there now",
    )


def test_a_ruling_unties_a_shot_and_the_one_it_was_tied_to_is_gone(project: Project) -> None:
    new = ref_of(project.source(NEW), shots_of(project.source(NEW))[2])
    ruled = rule_shot(project, Ruling(new, OLD, None))
    shown = with_rulings(COMPARISON, ruled, OLD, NEW)
    assert [(c.what, c.old, c.new) for c in shown.changes] == [
        (What.SAME, (0, 40), (0, 40)),
        (What.GONE, (40, 70), None),
        (What.SHORTER, (70, 120), (40, 80)),
        (What.GONE, (120, 140), None),
        (What.NEW, None, (80, 100)),
    ]
    assert take_ruling_back(ruled, new, OLD) == project


def test_a_tie_by_hand_takes_the_shot_from_whom_it_was_found_for(project: Project) -> None:
    old = ref_of(project.source(OLD), shots_of(project.source(OLD))[2])
    new = ref_of(project.source(NEW), shots_of(project.source(NEW))[2])
    shown = with_rulings(COMPARISON, rule_shot(project, Ruling(new, OLD, old)), OLD, NEW)
    by_new = {c.new: c for c in shown.changes if c.new}
    assert by_new[80, 100].old == (70, 120)
    assert (by_new[80, 100].what, by_new[80, 100].tail) == (What.SHORTER, -30)
    assert by_new[80, 100].by_hand
    assert by_new[40, 80].what is What.NEW


def test_agreeing_makes_a_doubtful_one_sure_and_puts_it_last(project: Project) -> None:
    assert doubt_first(COMPARISON.changes)[0].new == (80, 100)
    old = ref_of(project.source(OLD), shots_of(project.source(OLD))[3])
    new = ref_of(project.source(NEW), shots_of(project.source(NEW))[2])
    shown = with_rulings(COMPARISON, rule_shot(project, Ruling(new, OLD, old, 40)), OLD, NEW)
    agreed = next(c for c in shown.changes if c.new == (80, 100))
    assert (agreed.what, agreed.certainty, agreed.by_hand) == (What.SAME, Certainty.SURE, True)
    assert all(c.new != (80, 100) for c in doubt_first(shown.changes))


def test_a_ruling_that_makes_no_sense_is_refused(project: Project) -> None:
    with pytest.raises(OffcutError, match="not held against itself"):
        rule_shot(project, Ruling(ShotRef(NEW), NEW, None))
    with pytest.raises(OffcutError, match="not there any more"):
        rule_shot(project, Ruling(ShotRef(NEW, 777), OLD, None))
    with pytest.raises(OffcutError, match="another film"):
        rule_shot(project, Ruling(ShotRef(NEW), OLD, ShotRef(NEW)))
