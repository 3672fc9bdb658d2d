"""Lengths of films, ranges, scenes, running orders and lists: the same shots, the same figures."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from offcut.core.lists.registry import format_of
from offcut.core.model.orders import shots_meant
from offcut.core.model.project import Project, ShotRef
from offcut.core.model.seam import Kind
from offcut.core.model.shots import shots_of
from offcut.core.model.verbs.cards import put_in_scene, set_aside
from offcut.core.model.verbs.orders import add_order, trim_use
from offcut.core.model.verbs.sources import add_source
from offcut.core.rhythm.figures import figures_of
from offcut.core.rhythm.figures_out import figures_document
from offcut.core.rhythm.length_files import read_lengths
from offcut.core.rhythm.lengths import (
    lengths_of_film,
    lengths_of_films,
    lengths_of_order,
    lengths_of_scene,
    lengths_of_seconds,
    places_of,
    some_of,
)
from offcut.core.rhythm.subjects import (
    StudyOf,
    Subject,
    lengths_of_subject,
    offered,
    subject_from,
)
from projects import FIRST, RATES, cut_film, list_of

PAL = Fraction(25)


def test_a_film_of_five_shots_counts_gradual_joins_at_their_middle() -> None:
    lengths = lengths_of_film(cut_film(PAL, False).source(FIRST))
    assert lengths.held.tolist() == [4.0, 68.04, 27.96, 44.0, 56.0]
    assert [s.kind for s in lengths.shots] == [
        None, Kind.CUT, Kind.CUT, Kind.DISSOLVE, Kind.CUT,
    ]  # fmt: skip
    figures = figures_of(lengths)
    assert figures.seconds == 200.0
    assert dict(figures.joins) == {Kind.CUT: 0.75, Kind.DISSOLVE: 0.25}
    assert figures.gradual == 0.25
    assert figures.mixed == pytest.approx(24 / 25 / 200)
    assert figures.cuts_per_minute == pytest.approx(4 / 200 * 60)


def test_what_is_set_aside_counts_only_where_it_is_asked_for() -> None:
    project = cut_film(PAL, False)
    seam = project.source(FIRST).seams[0].id
    project = set_aside(project, [ShotRef(FIRST, seam)])
    without = lengths_of_film(project.source(FIRST))
    assert figures_of(without).shots == 4
    assert len(without) == 5
    assert figures_of(lengths_of_film(project.source(FIRST), aside=True)).shots == 5


def test_of_a_range_those_shots_count_whose_middle_lies_in_it_and_each_is_whole() -> None:
    project = cut_film(PAL, False)
    subject = Subject(StudyOf.RANGE, FIRST)
    lengths = lengths_of_subject(project, subject, marked=(90, 2600))
    assert lengths is not None
    assert lengths.held.tolist() == [68.04, 27.96]
    whole = lengths_of_subject(project, subject)
    assert whole is not None
    assert len(whole.held) == 5


def test_a_scene_goes_over_films_and_an_order_has_its_own_ins_and_outs() -> None:
    project = cut_film(PAL, False)
    other = replace(project.source(FIRST).media, path="/films/Other.mov", rate=Fraction(24))
    project = add_source(project, other)
    second = project.sources[1].id
    refs = [ShotRef(FIRST), ShotRef(FIRST, project.source(FIRST).seams[0].id), ShotRef(second)]
    for ref in refs:
        source = project.source(ref.source)
        frame = 0 if not ref.seam else 100
        project = put_in_scene(project, source.id, frame, "Harbour")
    scene = lengths_of_scene(project, project.scenes[0].id)
    assert scene.held.tolist() == [4.0, 68.04, 5000 / 24]
    assert scene.begins.tolist() == pytest.approx([0, 4, 72.04])
    assert [s.kind for s in scene.shots] == [None, Kind.CUT, Kind.CUT]
    project = add_order(project, "Trailer", (refs[2], refs[0], refs[0]))
    order = project.orders[0]
    project = trim_use(project, order.id, order.uses[1].id, 10, 0)
    told = lengths_of_order(project, project.orders[0])
    assert told.held.tolist() == pytest.approx([5000 / 24, 3.6, 4.0])
    assert [s.number for s in told.shots] == [1, 2, 3]
    every = lengths_of_films(project.sources)
    assert figures_of(every).shots == 6
    assert every.films == (FIRST, second)


def test_what_can_be_studied_is_offered_in_order() -> None:
    project = cut_film(PAL, False)
    project = put_in_scene(project, FIRST, 50, "Harbour")
    project = add_order(project, "Trailer", (ShotRef(FIRST),))
    found = offered(project, project.source(FIRST), (), marked=False)
    assert [o.words for o in found] == [
        "Whole film", "Marked range", "Scene: Harbour", "Order: Trailer",
    ]  # fmt: skip
    assert found[1].why_not
    for entry in found:
        assert subject_from(entry.subject.key) == entry.subject
    assert subject_from("file:/x") is None
    assert lengths_of_subject(project, Subject(StudyOf.SCENE, 99)) is None
    assert lengths_of_subject(project, Subject(StudyOf.ORDER, 99)) is None
    assert lengths_of_subject(project, Subject(StudyOf.FILM, 99)) is None


@pytest.mark.parametrize(("rate", "drop"), RATES)
@pytest.mark.parametrize("code", ["edl", "otio", "csv"])
def test_a_list_gives_the_same_figures_as_the_film_it_comes_from(
    rate: Fraction, drop: bool, code: str, tmp_path: Path
) -> None:
    project = cut_film(rate, drop)
    form = format_of(code)
    assert form is not None
    assert form.write is not None
    file = form.write(list_of(project), tmp_path / f"line-7{form.suffix}")
    (listed,) = read_lengths(file)
    film = lengths_of_film(project.source(FIRST))
    told, expected = (figures_document(x, figures_of(x)) for x in (listed, film))
    for name in ("shots", "seconds", "lengths", "mean", "sd", "q1", "q3", "skewness", "log_sd"):
        assert told[name] == pytest.approx(expected[name], rel=1e-12), name
    assert told["autocorrelation"] == pytest.approx(expected["autocorrelation"])


def test_a_few_shots_stand_for_all_from_the_shortest_to_the_longest() -> None:
    project: Project = cut_film(PAL, False)
    lengths = lengths_of_film(project.source(FIRST))
    assert some_of(lengths, 3) == [0, 3, 1]
    assert len(some_of(lengths)) == len(shots_of(project.source(FIRST)))


def test_moments_of_the_axis_and_frames_of_films_are_found_from_each_other() -> None:
    project = cut_film(PAL, False)
    refs = [ShotRef(FIRST, s.id) for s in project.source(FIRST).seams[:2]]
    project = add_order(project, "Trailer", (refs[1], refs[0]))
    order = lengths_of_order(project, project.orders[0])  # frames 1801-2500, then 100-1801
    for frame in (1801, 2000, 2499, 100, 101, 1800):
        moment = order.moment_of(FIRST, frame)
        assert moment is not None
        assert order.frame_at(moment) == (FIRST, frame)
    assert order.moment_of(FIRST, 1801) == 0
    assert order.moment_of(FIRST, 100) == pytest.approx(699 / 25)
    assert order.moment_of(FIRST, 99) is None
    assert order.moment_of(99, 100) is None
    assert order.frame_at(-1) is None
    assert order.frame_at(1e4) is None
    listed = lengths_of_seconds("", [2.0, 3.0])
    assert listed.frame_at(1.0) is None
    assert lengths_of_seconds("", []).moment_of(FIRST, 3) is None
    picks = shots_meant(project, (refs[0],))
    assert places_of(order, picks) == [1]
    assert places_of(lengths_of_film(project.source(FIRST)), picks) == [1]
    assert places_of(order, []) == []
