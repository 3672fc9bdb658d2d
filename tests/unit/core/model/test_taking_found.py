"""What a search finds, taken in: in one piece or in many, it comes to the same seams."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.model import rules
from offcut.core.model.cuts import cuts_of
from offcut.core.model.history import History
from offcut.core.model.project import Project
from offcut.core.model.seam import AsFound, Kind, Origin, Reason, Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.cuts import with_cuts_merged, with_cuts_replaced
from offcut.core.model.verbs.judging import keep_seams, reopen_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import take_found, take_one
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.spans import set_kind
from projects import FIRST, FRAMES, found_at

Said = tuple[int, int, int, str, str, str, float]


def film() -> Project:
    return add_source(Project(), Media("/film.mov", Fraction(25), FRAMES, 64, 36))


def mix_at(frame: int, score: float, span: int = 12) -> Seam:
    start = frame - span // 2
    return Seam(0, frame, start, start + span, Kind.DISSOLVE, score)


def one(frame: int, gradual: bool, score: float) -> Seam:
    return mix_at(frame, score) if gradual else found_at(frame, score)


SCORES = st.integers(1, 99).map(float)
FRAME = st.integers(10, FRAMES - 10)


@st.composite
def findings(draw: st.DrawFn) -> list[Seam]:
    """Possible seams as a search tells them, cuts and mixes at one frame among them."""
    at = draw(st.dictionaries(st.tuples(FRAME, st.booleans()), SCORES, min_size=1, max_size=14))
    for frame, gradual in list(at)[:2]:
        at.setdefault((frame, not gradual), draw(SCORES))
    return [one(frame, gradual, score) for (frame, gradual), score in sorted(at.items())]


def so_far(found: list[Seam], reached: int, salt: int) -> list[Seam]:
    """What a search tells after a piece: near its end it does not know yet what follows."""
    seen: list[Seam] = []
    for n, seam in enumerate(found):
        near = reached - seam.frame < 40
        if seam.frame >= reached or (near and (n + salt) % 3 == 0):
            continue
        unsure = near and (n + salt) % 3 == 1
        seen.append(replace(seam, score=(seam.score * 7) % 99 + 0.5) if unsure else seam)
    return seen


def told(project: Project) -> list[Said]:
    """The seams without their ids."""
    return sorted(
        (s.frame, s.start, s.end, s.kind.value, s.standing.value, s.origin.value, s.score)
        for s in project.sources[0].seams
    )


Edit = Callable[[Project, Seam], Project]
EDITS: list[Edit] = [
    lambda p, s: keep_seams(p, FIRST, [s.id]),
    lambda p, s: strike_seams(p, FIRST, [s.id]),
    lambda p, s: roll_seam(p, FIRST, s.id, 7),
    lambda p, s: roll_seam(p, FIRST, s.id, -1),
    lambda p, s: reopen_seams(roll_seam(p, FIRST, s.id, 4), FIRST, [s.id]),
    lambda p, s: set_kind(p, FIRST, [s.id], Kind.CUT),
    lambda p, s: name_shot(p, FIRST, s.frame, "The quay"),
]
STEPS = st.lists(
    st.tuples(st.sampled_from(["piece", "range", "edit", "place"]), st.integers(0, 10_000)),
    max_size=10,
)


def gone_through(found: list[Seam], steps: list[tuple[str, int]]) -> Project:
    """A film searched in pieces, stopped, searched over ranges and judged meanwhile."""
    project = film()
    for step, n in steps:
        seams = project.sources[0].seams
        if step == "piece":
            reached = 1 + n % FRAMES
            told_now = so_far(found, reached, n)
            project = take_found(project, FIRST, told_now, 0, reached, done=False)
        elif step == "range":
            low, high = sorted((n % FRAMES, (n * 7) % FRAMES + 1))
            inside = [s for s in found if low <= s.frame < high]
            project = take_found(project, FIRST, inside, low, high)
        elif step == "edit" and seams:
            project = EDITS[n % len(EDITS)](project, seams[n // 7 % len(seams)])
        elif step == "place":
            project = place_seam(project, FIRST, 10 + n % (FRAMES - 20))
    return project


@settings(max_examples=200)
@given(findings(), STEPS)
def test_a_search_in_pieces_ends_as_one_that_was_never_interrupted(
    found: list[Seam], steps: list[tuple[str, int]]
) -> None:
    project = gone_through(found, steps)
    pieces = take_found(project, FIRST, found, 0, FRAMES)
    source = pieces.sources[0]
    assert not rules.fault_of_source(source)
    assert len({s.id for s in source.seams}) == len(source.seams)
    # the same decisions, and one search that nothing came before
    decided = tuple(
        s for s in project.sources[0].seams if s.judged or s.opening or s.origin is not Origin.FOUND
    )
    bare = replace(project, sources=(replace(project.sources[0], seams=decided),))
    assert told(take_found(bare, FIRST, found, 0, FRAMES)) == told(pieces)
    # and once more changes nothing, ids and all
    assert take_found(pieces, FIRST, found, 0, FRAMES) == pieces
    if not decided:
        assert told(pieces) == told(take_found(film(), FIRST, found, 0, FRAMES))


@settings(max_examples=100)
@given(findings(), st.lists(st.tuples(st.integers(0, 5), st.integers(0, 50)), max_size=5))
def test_judging_before_the_search_is_done_comes_to_the_same_as_after_it(
    found: list[Seam], edits: list[tuple[int, int]]
) -> None:
    """All is found when it is judged, and then it is found again."""
    first = take_found(film(), FIRST, found, 0, FRAMES)
    for verb, which in edits:
        seams = first.sources[0].seams
        first = EDITS[verb](first, seams[which % len(seams)])
    again = take_found(first, FIRST, found, 0, FRAMES)
    decided = {s.id: s for s in first.sources[0].seams if s.judged}
    assert {s.id: s for s in again.sources[0].seams if s.judged} == decided
    assert len(again.sources[0].seams) == len(found)


def test_a_cut_and_a_mix_at_one_frame_are_two_seams_with_two_ids() -> None:
    found = [found_at(100, 97), mix_at(100, 3)]
    project = film()
    for reached in (60, 150, 300, FRAMES):
        project = take_found(project, FIRST, found, 0, reached, done=reached == FRAMES)
    assert [(s.frame, s.gradual, s.score) for s in project.sources[0].seams] == [
        (100, False, 97),
        (100, True, 3),
    ]
    assert len({s.id for s in project.sources[0].seams}) == 2


def test_striking_the_faint_mix_leaves_the_cut_at_its_frame_when_found_again() -> None:
    found = [found_at(100, 97), mix_at(100, 3)]
    project = take_found(film(), FIRST, found, 0, FRAMES)
    mix = next(s for s in project.sources[0].seams if s.gradual)
    again = take_found(strike_seams(project, FIRST, [mix.id]), FIRST, found, 0, FRAMES)
    assert [s.frame for s in counted_seams(again.sources[0])] == [100]


def test_a_shot_of_one_frame_stays_when_its_first_cut_was_kept() -> None:
    found = [found_at(100, 97), found_at(101, 96)]
    project = take_found(film(), FIRST, found, 0, FRAMES)
    kept = keep_seams(project, FIRST, [project.sources[0].seams[0].id])
    again = take_found(kept, FIRST, found, 0, FRAMES)
    assert [s.frame for s in counted_seams(again.sources[0])] == [100, 101]


def test_a_seam_that_was_rolled_far_is_not_found_a_second_time() -> None:
    project = take_found(film(), FIRST, [found_at(100, 97)], 0, FRAMES)
    rolled = roll_seam(project, FIRST, project.sources[0].seams[0].id, 9)
    assert rolled.sources[0].seams[0].as_found == AsFound(100, False)
    again = take_found(rolled, FIRST, [found_at(100, 98)], 0, FRAMES)
    assert [s.frame for s in again.sources[0].seams] == [109]
    back = roll_seam(again, FIRST, again.sources[0].seams[0].id, -9)
    assert back.sources[0].seams[0].as_found is None


def test_what_a_search_tells_later_is_not_taken_back_with_an_edit() -> None:
    """A seam kept while little was known of it counts by what is known now once that is undone."""
    history = History(take_found(film(), FIRST, [found_at(100, 20)], 0, 120, done=False))
    seam = history.project.sources[0].seams[0]
    history.edit(keep_seams(history.project, FIRST, [seam.id]), "keep")
    surely = replace(found_at(100, 99), reasons=(Reason("all of it changes", 1.0),))
    history.replace(lambda p: take_found(p, FIRST, [surely], 0, FRAMES))
    history.undo()
    now = history.project.sources[0].seams[0]
    assert (now.standing, now.score, now.reasons) == (Standing.OPEN, 99, surely.reasons)
    history.redo()
    assert history.project.sources[0].seams[0].standing is Standing.KEPT


def test_placing_a_cut_where_a_faint_mix_has_its_middle_places_a_cut() -> None:
    project = take_found(film(), FIRST, [mix_at(100, 3)], 0, FRAMES)
    placed = place_seam(project, FIRST, 100)
    assert [(s.kind, s.origin) for s in counted_seams(placed.sources[0])] == [
        (Kind.CUT, Origin.PLACED)
    ]
    one_cut = take_one(project, FIRST, replace(mix_at(100, 40), id=0))
    assert [s.kind for s in counted_seams(one_cut.sources[0])] == [Kind.DISSOLVE]


def test_a_colleagues_word_on_the_cut_is_not_put_on_the_mix_at_its_frame() -> None:
    ours = take_found(film(), FIRST, [found_at(100, 97), mix_at(100, 3)], 0, FRAMES)
    cut = next(s for s in ours.sources[0].seams if not s.gradual)
    theirs = cuts_of(strike_seams(ours, FIRST, [cut.id]), FIRST)
    for made in (
        with_cuts_merged(ours, FIRST, theirs).project,
        with_cuts_replaced(ours, FIRST, theirs),
    ):
        standing = {(s.id, s.gradual): s.standing for s in made.sources[0].seams}
        assert standing[cut.id, False] is Standing.STRUCK
        assert sorted(standing.values()) == [Standing.OPEN, Standing.STRUCK]
