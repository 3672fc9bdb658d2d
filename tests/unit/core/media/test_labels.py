"""What labels say of films, and the orders they lie in."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from offcut.core.media.labels import (
    ORDERS,
    State,
    UnderWay,
    facts_words,
    in_order,
    lacking_words,
    one_or_differ,
    running_time,
    state_of,
)
from offcut.core.model.project import Project
from offcut.core.model.run import Run
from offcut.core.model.seam import Certainty
from offcut.core.model.source import Framed, Framing, Media, Source
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.searching import take_found
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.ticket import rate_is_right, set_like, set_rate, set_start
from projects import FIRST, found_at

HD = Media("/a/tape 10.mov", Fraction(25), 1975, 1920, 1080, codec="ProRes")
TAPE = Media("/a/tape 9.mxf", Fraction(30000, 1001), 43_163, 720, 576, codec="MPEG-2")
RUN = Run("K07_", ".dpx", 4, 0, 2411, ((1204, 1205), (1788, 1790)))
ROLL = Media("/a/K07_[0000-2411].dpx", Fraction(24), 2412, 2048, 1556, codec="DPX 10 bit log",
             run=RUN)  # fmt: skip


def source(media: Media) -> Source:
    return add_source(Project(), media).source(FIRST)


def test_a_label_says_size_rate_length_and_codec() -> None:
    assert facts_words(HD) == "1920×1080  25  1:19  ProRes"
    assert facts_words(ROLL) == "2048×1556  24  1:40  DPX 10 bit log"
    assert running_time(43_163, Fraction(30000, 1001)) == "24:00"
    assert running_time(108_000, Fraction(25)) == "1:12:00"


def test_the_state_is_what_matters_most() -> None:
    bare, roll = source(HD), source(ROLL)

    def words(of: Source, under_way: UnderWay | None = None, *, missing: bool = False) -> str:
        return state_of(of, under_way, missing=missing).words

    assert words(bare) == "not searched"
    assert words(bare, UnderWay()) == "waiting"
    assert words(bare, UnderWay(0.43, 120)) == "43 %, 2 min left"
    assert words(roll, UnderWay(0.5, 0)) == "50 %"
    assert words(roll, missing=True) == "missing: find it"
    assert words(roll) == "3 pictures missing"
    silent = replace(roll, media=replace(ROLL, run=replace(RUN, rate_told=False)))
    assert words(silent) == "tells no rate: 24 taken"
    assert state_of(silent, None, missing=False).bad
    uhd = source(replace(HD, width=3840, height=2160))
    assert words(uhd) == "not searched; wants a proxy"


def test_a_searched_film_tells_its_seams_and_its_doubts() -> None:
    project = add_source(Project(), ROLL)
    found = [replace(found_at(f, 99.0), certainty=Certainty.SURE) for f in (100, 200)]
    found.append(replace(found_at(300, 55.0), certainty=Certainty.DOUBTFUL))
    project = take_found(project, FIRST, found, 0, 2412)
    project = place_seam(project, FIRST, 400)
    told = state_of(project.source(FIRST), None, missing=False)
    assert told.words == "4 seams, 1 doubtful; 3 pictures missing"
    assert not told.bad


@pytest.mark.parametrize(
    ("order", "names"),
    [
        ("came", ["tape 10", "tape 9", "K07"]),
        ("name", ["K07", "tape 9", "tape 10"]),
        ("size", ["K07", "tape 10", "tape 9"]),
        ("rate", ["K07", "tape 10", "tape 9"]),
        ("codec", ["K07", "tape 9", "tape 10"]),
        ("length", ["tape 9", "K07", "tape 10"]),
        ("shape", ["tape 10", "K07", "tape 9"]),
        ("state", ["tape 9", "tape 10", "K07"]),
    ],
)
def test_labels_lie_in_any_order(order: str, names: list[str]) -> None:
    assert order in ORDERS
    films = [replace(source(m), id=n) for n, m in enumerate((HD, TAPE, ROLL), 1)]
    states = {n: State("", False, 0, rank) for n, rank in ((1, 3), (2, 0), (3, 6))}
    ordered = in_order(films, order, states)
    assert [s.media.path.split("/")[-1].split(".")[0].split("_")[0] for s in ordered] == names


def test_what_runs_lack_is_one_line() -> None:
    roll = source(ROLL)
    words = "K07 holds 2,409 of 2,412 pictures: 1204 and 1788 to 1789 are missing"
    assert lacking_words([source(HD), roll]) == words
    assert lacking_words([source(HD)]) == ""
    silent = replace(roll, media=replace(ROLL, run=Run("r_", ".png", 2, 0, 9, rate_told=False)))
    assert "r_[00-09].png tells no rate: 24 frames a second are taken" in lacking_words([silent])


def test_values_that_differ_say_so() -> None:
    assert one_or_differ([24, 24]) == 24
    assert one_or_differ([24, 25]) is None


def test_a_rate_keeps_the_label_of_the_first_frame_and_goes_back() -> None:
    project = set_start(add_source(Project(), HD), FIRST, 90_000)  # 01:00:00:00
    slower = set_rate(project, FIRST, Fraction(24))
    assert slower.source(FIRST).media.start == 86_400
    assert slower.source(FIRST).ticket.own_rate == 25
    assert set_rate(slower, FIRST, None) == project
    assert set_start(project, FIRST, None) == add_source(Project(), HD)


def test_what_is_set_of_one_goes_for_all_but_start_reel_and_range() -> None:
    project = add_source(add_source(Project(), ROLL), replace(ROLL, path="/a/K08_[0-9].dpx"))
    like, other = (s.id for s in project.sources)
    project = rate_is_right(set_rate(project, like, Fraction(18)), like)
    first = project.source(like)
    first = replace(first, sensitivity=70, framing=Framing(8, 8, 8, 8), framed=Framed.SET, start=9)
    project = replace(project, sources=(first, project.source(other)))
    alike = set_like(project, like, [other]).source(other)
    assert alike.media.rate == 18
    assert (alike.sensitivity, alike.framing, alike.framed) == (70, first.framing, Framed.SET)
    assert (alike.start, alike.media.start) == (0, 0)
