"""What is in hand without a window: places in the film, what follows from edits, open films."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from films import encode, picture_of
from offcut.app.session.document import Document
from offcut.app.session.in_hand import OPEN_FILMS, InHand
from offcut.core.errors import OffcutError
from offcut.core.media.probe import open_source
from offcut.core.model.project import OrderUse, Project
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.judging import strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source, remove_source
from offcut.core.store.missing_films import FilmThere
from projects import FIRST

RATE = Fraction(25)


def media(name: str, frames: int = 1000) -> Media:
    return Media(f"/films/{name}.mp4", RATE, frames, 320, 240, start=90_000, fingerprint=name)


@pytest.fixture
def document() -> Document:
    project = add_source(add_source(Project(), media("one")), media("two"))
    for frame in (100, 300, 600):
        project = place_seam(project, FIRST, frame)
    made = Document()
    made.put_in(project, Path("/films/tram.offcut"))
    return made


@pytest.fixture
def hand(document: Document) -> InHand:
    made = InHand(document)
    made.begin(0)
    made.follow()
    return made


def test_the_first_film_is_in_hand_with_its_shots(hand: InHand) -> None:
    assert hand.source_id == FIRST
    assert [(s.start, s.end) for s in hand.shots] == [(0, 100), (100, 300), (300, 600), (600, 1000)]
    assert len(hand.counted_ids) == 3
    assert hand.lies_at == Path("/films/one.mp4")
    assert hand.words_of(25) == "01:00:01:00"


def test_the_playhead_stays_in_the_film_and_knows_where_it_is(hand: InHand) -> None:
    assert hand.go_to(5000)
    assert hand.bench.playhead == 999
    assert not hand.go_to(999)
    hand.go_to(300)
    seam, shot = hand.seam_here(), hand.shot_here()
    assert seam is not None
    assert shot is not None
    assert (seam.frame, shot.start) == (300, 300)
    hand.go_to(301)
    assert hand.seam_here() is None
    assert {s.frame for s in hand.next_stops()} >= {300, 600}


def test_a_marked_range_goes_into_an_order_before_the_shot_here(hand: InHand) -> None:
    hand.go_to(150)
    use = hand.use_here()
    assert use is not None
    assert use.shot is not None
    hand.mark(10, None)
    assert hand.marked == (10, 1000)
    hand.mark(20, 15)  # the end that was there goes
    assert hand.marked in ((20, 1000), (0, 15))
    hand.mark(20, 40)
    assert hand.use_here() == OrderUse(0, FIRST, None, 20, 40)


def test_what_is_typed_is_a_frame_of_the_film_or_a_sentence(hand: InHand) -> None:
    assert hand.frame_typed("01:00:02:00") == 50
    with pytest.raises(OffcutError, match="02:00:00:00 lies outside the film"):
        hand.frame_typed("02:00:00:00")


def test_what_follows_is_worked_out_anew_where_the_film_is_another_value(
    document: Document, hand: InHand
) -> None:
    before = hand.shots
    hand.follow()
    assert hand.shots is before
    document.edit(lambda p: name_shot(p, FIRST, 310, "The quay"), "Name it", FIRST, 0)
    hand.follow()
    assert [s.title for s in hand.shots][2] == "The quay"
    assert [a is b for a, b in zip(before, hand.shots, strict=True)] == [True, True, False, True]
    struck = hand.shots[1].opened_by
    assert struck is not None
    document.edit(lambda p: strike_seams(p, FIRST, [struck.id]), "Strike it", FIRST, 0)
    hand.follow()
    assert len(hand.shots) == 3
    assert struck.id not in hand.counted_ids


def test_films_are_chosen_stepped_through_and_left(document: Document, hand: InHand) -> None:
    assert hand.choose([2, 2, 99])
    assert hand.chosen == (2,)
    assert [s.id for s in hand.chosen_sources] == [FIRST]  # the one in hand is not among them
    assert hand.take(hand.film_beside(1))
    assert [s.id for s in hand.chosen_sources] == [2]
    assert not hand.take(2)
    document.edit(lambda p: remove_source(p, 2), "Take it out", 2, 0)
    hand.let_go_of_the_gone()
    assert hand.source is None
    assert hand.film_beside(1) == 0


def test_few_films_stay_open(tmp_path: Path) -> None:
    film = open_source(encode(tmp_path / "film.mp4", [picture_of(n) for n in range(4)]))
    project = Project()
    for n in range(OPEN_FILMS + 3):
        project = add_source(project, replace(film.media, path=f"/films/{n}.mp4"))
    document = Document()
    document.put_in(project, None)
    hand = InHand(document)
    hand.begin(0)
    for source in project.sources:
        assert hand.lay(source.id, FilmThere(film))
    assert sorted(hand.films) == [s.id for s in project.sources][-OPEN_FILMS:]
    assert not hand.lay(999, FilmThere(film))
    assert hand.lay(FIRST, FilmThere(None, "gone"))
    assert hand.bench.missing is not None
    assert hand.bench.film is None
