"""Cuts alone: handed to a colleague and taken in again."""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from offcut.core.errors import ProjectError
from offcut.core.model.cuts import cuts_of, misfit
from offcut.core.model.project import Project
from offcut.core.model.seam import Certainty, Seam, Standing
from offcut.core.model.source import Zone
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.cuts import with_cuts_merged, with_cuts_replaced
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.markers import add_marker
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.zones import add_zone
from offcut.core.store.cuts_file import read_cuts, write_cuts
from projects import FIRST, cut_film, full_project


def found_film() -> Project:
    """A film with found seams at 200, 300 and 400."""
    project = cut_film(Fraction(25), False)
    project = replace(project, sources=(replace(project.sources[0], seams=()),))
    found = [
        Seam(0, f, f, f, score=60.0 + f / 100, certainty=Certainty.LIKELY) for f in (200, 300, 400)
    ]
    return take_found(project, FIRST, found, 0, 5000)


def ids(project: Project) -> dict[int, int]:
    return {s.frame: s.id for s in project.sources[0].seams}


def test_cuts_come_back_from_their_file_without_the_way_to_the_film(tmp_path: Path) -> None:
    project = full_project()
    path = write_cuts(project, FIRST, tmp_path / "for Ada")
    assert path.name == "for Ada.cuts.json"
    assert "/films" not in path.read_text()
    cuts = read_cuts(path)
    assert cuts.seams == project.sources[0].seams
    assert cuts.markers == project.sources[0].markers
    assert cuts.first == project.sources[0].first
    assert misfit(cuts, project.sources[0].media) == ""


def test_cuts_of_another_film_are_refused_in_words() -> None:
    media = full_project().sources[0].media
    cuts = replace(cuts_of(full_project(), FIRST), media=replace(media, fingerprint="x"))
    assert misfit(cuts, media) == ""  # a copy: as many frames at the same rate
    longer = replace(media, fingerprint="y", frames=5001)
    assert misfit(cuts, longer) == "belongs to a film of 5000 frames, this one has 5001"
    assert "another rate" in misfit(cuts, replace(media, fingerprint="y", rate=Fraction(30)))


def test_merging_takes_what_only_the_colleague_decided() -> None:
    ours = found_film()
    theirs = strike_seams(ours, FIRST, [ids(ours)[200]])
    theirs = roll_seam(theirs, FIRST, ids(ours)[300], 2)
    theirs = name_shot(place_seam(theirs, FIRST, 350), FIRST, 400, "The bell")
    theirs = add_marker(theirs, FIRST, 7, 8, "scratch")
    merged = with_cuts_merged(ours, FIRST, cuts_of(theirs, FIRST))
    seams = {s.frame: s for s in merged.project.sources[0].seams}
    assert sorted(seams) == [200, 302, 350, 400]
    assert seams[200].standing is Standing.STRUCK
    assert seams[302].id == ids(ours)[300]
    assert seams[400].opening.name == "The bell"
    assert [m.name for m in merged.project.sources[0].markers] == ["scratch"]
    assert merged.ours == ()
    assert merged.taken == 5
    assert len({s.id for s in merged.project.sources[0].seams}) == 4
    assert with_cuts_merged(merged.project, FIRST, cuts_of(theirs, FIRST)).taken == 0


def test_where_both_decided_differently_ours_stays_and_is_told() -> None:
    base = found_film()
    ours = keep_seams(base, FIRST, [ids(base)[200], ids(base)[300]])
    theirs = strike_seams(base, FIRST, [ids(base)[200]])
    theirs = name_shot(keep_seams(theirs, FIRST, [ids(base)[300]]), FIRST, 220, "Depot")
    merged = with_cuts_merged(ours, FIRST, cuts_of(theirs, FIRST))
    assert merged.ours == (200,)
    seam = next(s for s in merged.project.sources[0].seams if s.frame == 200)
    assert seam.standing is Standing.KEPT


def test_a_colleagues_zones_come_in_where_ours_leave_room() -> None:
    ours = add_zone(found_film(), FIRST, Zone(100, 250))
    theirs = add_zone(add_zone(found_film(), FIRST, Zone(200, 300, 80)), FIRST, Zone(350, 420))
    merged = with_cuts_merged(ours, FIRST, cuts_of(theirs, FIRST))
    assert [(z.start, z.end) for z in merged.project.sources[0].zones] == [(100, 250), (350, 420)]
    assert with_cuts_merged(merged.project, FIRST, cuts_of(theirs, FIRST)).taken == 0


def test_replacing_leaves_nothing_of_ours_and_ids_stay_apart() -> None:
    base = found_film()
    theirs = place_seam(place_seam(base, FIRST, 1000), FIRST, 1100)
    ours = place_seam(base, FIRST, 2000)
    replaced = with_cuts_replaced(ours, FIRST, cuts_of(theirs, FIRST))
    seams = [replace(s, id=0) for s in replaced.sources[0].seams]
    assert seams == [replace(s, id=0) for s in theirs.sources[0].seams]
    ids = {s.frame: s.id for s in ours.sources[0].seams}
    assert all(ids.get(s.frame, s.id) == s.id for s in replaced.sources[0].seams)
    assert replaced.next_id > max(s.id for s in replaced.sources[0].seams)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        "{}",
        '{"format": "offcut-project", "version": 2}',
        '{"format": "offcut-cuts", "version": 2}',
        '{"format": "offcut-cuts", "version": 2, "source": 7}',
        '{"format": "offcut-cuts", "version": 99, "source": {}}',
        "[" * 100_000,
    ],
)
def test_what_are_no_cuts_gets_one_sentence(text: str, tmp_path: Path) -> None:
    path = tmp_path / "x.cuts.json"
    path.write_text(text)
    with pytest.raises(ProjectError, match=r"x\.cuts\.json"):
        read_cuts(path)


def test_damaged_cuts_say_where(tmp_path: Path) -> None:
    path = write_cuts(full_project(), FIRST, tmp_path / "x.cuts.json")
    document = json.loads(path.read_text())
    document["source"]["seams"][0]["frame"] = -4
    path.write_text(json.dumps(document))
    with pytest.raises(ProjectError, match="frame of a seam is out of range"):
        read_cuts(path)
