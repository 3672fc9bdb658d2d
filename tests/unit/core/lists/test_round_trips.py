"""What goes out as a list comes back as the same shots with the same words, at every rate."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from offcut.core.files import safe_name
from offcut.core.lists.csv import write_csv
from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import going, record_start_of
from offcut.core.lists.registry import Writer, read_list
from offcut.core.lists.timelines.writing import write_otio
from offcut.core.model.handover import Asked
from offcut.core.model.project import Project
from offcut.core.model.scenes import scenes_in
from offcut.core.model.shots import shots_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot, note_shot, put_in_scene
from offcut.core.model.verbs.folding import fold_shots
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.tally.cutting import Use, cut_by_list
from offcut.core.tally.fitting import found_fit
from offcut.core.tally.joins import joins_of
from offcut.core.turnover.names import shot_names
from projects import FIRST, list_of

RATES = [
    (Fraction(24000, 1001), False),
    (Fraction(24), False),
    (Fraction(25), False),
    (Fraction(30000, 1001), False),
    (Fraction(30000, 1001), True),
    (Fraction(30), False),
    (Fraction(50), False),
    (Fraction(60000, 1001), True),
]
WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("C",)), max_size=24)
PLAIN = st.text("ABC abc-_.:;*0123456789äöß", max_size=24)


@st.composite
def cut_films(draw: st.DrawFn, words: st.SearchStrategy[str]) -> Project:
    """A film at any rate, cut anywhere, its shots named, noted and sorted into scenes."""
    rate, drop = draw(st.sampled_from(RATES))
    start = draw(st.sampled_from([0, 1000, 107_892]))
    frames = draw(st.integers(200, 30_000))
    project = add_source(
        Project("Line 7"), Media("/films/Line 7.mov", rate, frames, 64, 48, start=start, drop=drop)
    )
    for frame in draw(st.sets(st.integers(1, frames - 1), max_size=8)):
        project = place_seam(project, FIRST, frame)
    for shot in shots_of(project.sources[0]):
        project = name_shot(project, FIRST, shot.start, draw(words))
        project = note_shot(project, FIRST, shot.start, draw(words))
        project = put_in_scene(project, FIRST, shot.start, draw(words))
    return project


def came_back(project: Project, write: Writer, suffix: str) -> Project:
    """Write a list, read it, and cut the bare film by it."""
    media = project.sources[0].media
    bare = add_source(Project(), media)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"list{suffix}"
        write(list_of(project), path)
        listed = read_list(path, media.rate, media.drop)
    assert not listed.troubles
    offset = record_start_of("01:00:00:00", media.rate, media.drop)
    joins = joins_of(listed)
    if len(shots_of(project.sources[0])) == 1:
        return bare  # no join, nothing to cut by
    return cut_by_list(bare, FIRST, joins, offset, Use.ALONE)


def told(project: Project) -> list[tuple[int, int]]:
    return [(s.start, s.end) for s in shots_of(project.sources[0])]


def same(back: Project, project: Project) -> bool:
    """Tell whether the shots came back with names and scenes; False for a film in one piece."""
    assert told(back) == told(project)
    if len(told(project)) == 1:
        return False
    for ours, theirs in zip(shots_of(project.sources[0]), shots_of(back.sources[0]), strict=True):
        assert theirs.title == " ".join(ours.title.split())
        assert back.scene_name(theirs.card.scene) == project.scene_name(ours.card.scene)
    return True


@settings(max_examples=60)
@pytest.mark.parametrize(("write", "suffix"), [(write_otio, ".otio"), (write_csv, ".csv")])
@given(project=cut_films(WORDS))
def test_every_word_comes_back(write: Writer, suffix: str, project: Project) -> None:
    back = came_back(project, write, suffix)
    if same(back, project):
        notes = [[s.card.note.split() for s in shots_of(p.sources[0])] for p in (project, back)]
        assert notes[0] == notes[1]
        assert names_of(back) == names_of(project)


@settings(max_examples=60)
@given(cut_films(PLAIN))
def test_an_edl_brings_the_shots_back_to_the_frame(project: Project) -> None:
    same(came_back(project, write_edl, ".edl"), project)


def test_a_list_of_ours_finds_its_place_by_itself() -> None:
    media = Media(
        "/films/Line 7.mov", Fraction(30000, 1001), 9000, 64, 48, start=107_892, drop=True
    )
    project = add_source(Project("Line 7"), media)
    for frame in (100, 450, 2000, 7777):
        project = place_seam(project, FIRST, frame)
    with tempfile.TemporaryDirectory() as folder:
        path = write_edl(list_of(project, record_start="10:00:00;00"), Path(folder) / "a.edl")
        listed = read_list(path, media.rate, media.drop)
    fit = found_fit(joins_of(listed), project.sources[0], drop=listed.drop)
    assert (fit.agree, fit.whole) == (4, 4)
    assert fit.offset == record_start_of("10:00:00;00", media.rate, True)


def names_of(project: Project) -> list[str]:
    """The names of the scenes that shots of the first film belong to."""
    return [s.name for s in scenes_in(project, project.sources[0])]


def test_a_scene_stays_with_its_shots_through_mending() -> None:
    media = Media("/films/Line 7.mov", Fraction(25), 300, 64, 48)
    project = place_seam(place_seam(add_source(Project(), media), FIRST, 100), FIRST, 200)
    project = put_in_scene(put_in_scene(project, FIRST, 0, "The depot"), FIRST, 150, "The quay")
    struck = strike_seams(project, FIRST, [project.sources[0].seams[0].id])
    scenes = [struck.scene_name(s.card.scene) for s in shots_of(struck.sources[0])]
    assert scenes == ["The depot", ""]
    folded = fold_shots(project, FIRST, {100: -1})
    assert names_of(folded)[0] == "The depot"
    assert names_of(project) == ["The depot", "The quay"]


@given(cut_films(WORDS), st.text(max_size=20))
def test_names_are_safe_and_each_there_once(project: Project, around: str) -> None:
    pattern = around.replace("{", "").replace("}", "") + "{scene}-{name}"
    names, _ = shot_names(project, going(project.sources[0]), Asked(pattern=pattern))
    assert len({n.casefold() for n in names}) == len(names)
    for name in names:
        assert safe_name(name) == (name, "")
        assert "/" not in name


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{scene}-{number}", "001"),
        ("{number}-{scene}", "001"),
        ("{scene}_{reel}_{number}", "001"),
        ("a-{scene}-{number}", "a-001"),
        ("{number} {scene} {reel} end", "001 end"),
        ("{scene}{reel}", "shot"),
    ],
)
def test_an_empty_field_takes_its_joint_with_it(pattern: str, name: str) -> None:
    media = Media("/films/Line 7.mov", Fraction(25), 300, 64, 48)
    project = add_source(Project(), media)
    picks = going(project.sources[0])
    assert shot_names(project, picks, Asked(pattern=pattern))[0] == [name]
