"""The study page and charts on paper: whole files, our type in them, nothing said on the way."""

from __future__ import annotations

import io
import re
import warnings
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from test_curves import signals

from offcut.core.errors import ListError
from offcut.core.facts.fact import Fact, FactCertainty, Sort
from offcut.core.model.papers import PAPERS
from offcut.core.model.seam import Kind
from offcut.core.model.verbs.cards import put_in_scene
from offcut.core.rhythm.charts import (
    CHARTS,
    chart_bytes,
    charts_of,
    write_charts,
)
from offcut.core.rhythm.lanes import lanes_of
from offcut.core.rhythm.lengths import lengths_of_film, lengths_of_seconds
from offcut.core.rhythm.noted import Note
from offcut.core.rhythm.page import ShotPicture, page_bytes, page_figures, write_page
from offcut.core.rhythm.print_look import in_our_look
from offcut.core.rhythm.scales import join_strokes, nice_ticks, stretched
from offcut.core.rhythm.whole_study import Manner, WholeStudy, whole_study
from projects import FIRST, cut_film


def study(**how: object) -> WholeStudy:
    project = put_in_scene(cut_film(Fraction(25), False), FIRST, 150, "Harbour $7")
    lengths = lengths_of_film(project.source(FIRST))
    lanes = lanes_of(lengths, {FIRST: signals(5000)})
    others = [lengths_of_seconds("Night ferry", [4.0, 5.0, 6.5, 3.0, 4.4, 2.0])]
    return whole_study("Line 7", lengths, others, Manner(**how), project.scenes, lanes)  # type: ignore[arg-type]


def odd(count: int) -> WholeStudy:
    rng = np.random.default_rng(count)
    return whole_study("Odd", lengths_of_seconds("odd", rng.lognormal(1, 0.5, count).tolist()))


def test_what_was_found_is_printed_in_lanes_of_its_own() -> None:
    told = {
        Sort.CAMERA: ("pan left", "tilt up", "zoom in", "roll right", "travel", "whip"),
        Sort.STEADINESS: ("strong", "medium"),
    }
    moves = [
        Note(n, n + 0.8, fact(sort, value)) for sort in told for n, value in enumerate(told[sort])
    ]
    faces = [Note(2, 3, Fact(Sort.FACES, 2, 0, 9, FactCertainty.PERHAPS, {"size": "close"}))]
    plain = study()
    noted = replace(plain, notes={"camera": tuple(moves), "faces": tuple(faces), "speech": ()})
    with in_our_look():
        before, after = (page_figures(of)[0] for of in (plain, noted))
    words = [text.get_text() for ax in after.axes for text in ax.texts]
    assert "camera" in words
    assert "faces" in words
    assert "speech" not in words  # nothing was found of it
    assert len(after.axes) == len(before.axes) + 2
    assert page_bytes(noted).startswith(b"%PDF")


def fact(sort: Sort, value: str) -> Fact:
    return Fact(sort, value, 0, 9, FactCertainty.SURE, {})


@pytest.mark.parametrize("paper", PAPERS)
def test_the_page_is_a_pdf_of_that_paper_with_our_type_in_it(paper: str) -> None:
    picture = np.full((90, 160, 3), 120, np.uint8)
    data = page_bytes(study(), paper, [ShotPicture(n, picture) for n in range(5)])
    assert data.startswith(b"%PDF")
    assert b"FiraSans" in data
    found = re.search(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", data)
    assert found is not None
    size = tuple(float(points) / 72 * 25.4 for points in found.groups())
    assert size == pytest.approx(PAPERS[paper], abs=0.1)
    assert data.count(b"/Type /Page ") + data.count(b"/Type /Page\n") == 2
    assert data == page_bytes(study(), paper, [ShotPicture(n, picture) for n in range(5)])


@pytest.mark.filterwarnings("ignore:Glyph")
def test_nothing_is_said_and_every_page_is_drawn_of_odd_studies(
    capfd: pytest.CaptureFixture[str],
) -> None:
    equal = whole_study("Equal", lengths_of_seconds("equal", [2.0] * 30))
    foreign = whole_study("夜 $x^2$", lengths_of_seconds("\x1b[31m名", [1.0, 2.0, 3.0]))
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        for one in (odd(0), odd(1), odd(2), odd(400), equal):
            assert page_bytes(one).startswith(b"%PDF")
    assert page_bytes(foreign).startswith(b"%PDF")
    told = capfd.readouterr()
    assert told.err == ""
    assert told.out == ""


@pytest.mark.parametrize("name", CHARTS)
@pytest.mark.parametrize("log", [False, True])
def test_each_chart_is_drawn_as_svg_and_at_print_size(name: str, log: bool) -> None:
    drawn = chart_bytes(study(log=log, true_time=log), name, "svg")
    assert drawn.lstrip().startswith(b"<?xml")
    assert drawn == chart_bytes(study(log=log, true_time=log), name, "svg")
    with Image.open(io.BytesIO(chart_bytes(study(log=log), name, "png"))) as image:
        _, wide, _ = CHARTS[name]
        assert image.width == pytest.approx(wide / 25.4 * 300, abs=2)


def test_charts_of_pictures_are_left_out_where_there_are_none(tmp_path: Path) -> None:
    assert "movement" in charts_of(study())
    assert "movement" not in charts_of(odd(5))
    written = write_charts(odd(5), tmp_path / "new" / "folder", "svg")
    assert [f.name for f in written] == ["skyline.svg", "spread.svg", "echo.svg", "pulse.svg"]


def test_what_cannot_be_written_is_named(tmp_path: Path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(ListError, match="cannot be written"):
        write_page(odd(5), blocked / "page.pdf")
    with pytest.raises(ListError, match="cannot be written"):
        write_charts(odd(5), blocked / "charts", "svg")


def test_ticks_of_a_logarithmic_scale_are_round_lengths() -> None:
    assert nice_ticks(0.5, 20) == [0.5, 1, 2, 5, 10, 20]
    assert nice_ticks(1.2, 4.5) == [1.5, 2, 3, 4]
    assert len(nice_ticks(0.001, 100_000)) <= 14


def test_what_is_beside_lies_over_what_counts() -> None:
    film = lengths_of_film(cut_film(Fraction(25), False).source(FIRST))
    part = film.within(4.0, 100.0)  # two shots, from 4 s to 100 s
    other = lengths_of_seconds("Night ferry", [10.0, 20.0, 18.0])
    moments = np.array([0.0, 24.0, 48.0])
    wide = whole_study("", part, [other])
    assert stretched(wide, other, moments).tolist() == [4.0, 52.0, 100.0]
    own = whole_study("", part, [other], Manner(true_time=True))
    assert stretched(own, other, moments).tolist() == [4.0, 28.0, 52.0]
    none = lengths_of_seconds("", [])
    assert stretched(wide, none, moments).tolist() == moments.tolist()


def test_gradual_joins_are_pencil_strokes_over_their_spans() -> None:
    kinds = [None, Kind.DISSOLVE, Kind.FADE, Kind.WIPE, Kind.WHIP, Kind.CUT]
    mixed = [0.0, 0.4, 0.4, 0.4, 0.6, 0.0]
    lengths = lengths_of_seconds("", [2.0] * 6, kinds=kinds, mixed=mixed)
    strokes = join_strokes(lengths, 0.01)
    assert len(strokes) == 2 + 4 + 1 + 3
    zigzag = strokes[7:]
    assert zigzag[:, 0].tolist() == pytest.approx([7.7, 7.9, 8.1])
    assert zigzag[:, 1:4:2].tolist() == [[0, 1], [1, 0], [0, 1]]
    crossing = {tuple(np.round(stroke, 6).tolist()) for stroke in strokes[:2]}
    assert crossing == {(1.8, 1.0, 2.2, 0.0), (2.2, 1.0, 1.8, 0.0)}
    vs = strokes[2:6]
    assert vs[:, ::2].min() == pytest.approx(3.8)
    assert vs[:2, ::2].max() < 4.0 < vs[2:, ::2].min()  # a gap where it is dark
    assert strokes[6].tolist() == pytest.approx([5.8, 0, 6.2, 1])
    assert join_strokes(lengths, 0.5)[0].tolist() == pytest.approx([1.5, 1, 2.5, 0])


def test_pages_and_charts_drawn_at_once_keep_our_look() -> None:
    one, shown = study(), odd(60)
    alone = page_bytes(one), chart_bytes(shown, "pulse", "svg")
    with ThreadPoolExecutor(4) as pool:
        pages = [pool.submit(page_bytes, one) for _ in range(2)]
        charts = [pool.submit(chart_bytes, shown, "pulse", "svg") for _ in range(6)]
    assert {p.result() for p in pages} == {alone[0]}
    assert {c.result() for c in charts} == {alone[1]}
