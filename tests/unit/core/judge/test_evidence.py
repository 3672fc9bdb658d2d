"""Evidence, reasons and likeness: what the judge is told, on signals made by hand and on films."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.errors import JudgeError
from offcut.core.judge import trees
from offcut.core.judge.dips import dips
from offcut.core.judge.evidence import candidates, join_figures
from offcut.core.judge.judge import KINDS, _widened
from offcut.core.judge.planes import Planes
from offcut.core.judge.reasons import cut_reasons, span_reasons
from offcut.core.judge.span_figures import span_figures, with_rivals
from offcut.core.judge.spans import Span, fades, thinkable_spans, wipes
from offcut.core.judge.trees import Trees, trees_named
from offcut.core.measure.ranges import signals_from
from offcut.core.measure.registry import CHANGE
from offcut.core.measure.signals import Signals
from offcut.core.measure.small_pictures import SmallPictures
from offcut.core.media.probe import open_source
from offcut.core.model.seam import Kind


def signals_of(path: Path) -> Signals:
    return find_seams(open_source(path)).signals


@pytest.fixture(scope="module")
def cuts(four_shots: Path, tmp_path_factory: pytest.TempPathFactory) -> Signals:
    return signals_of(four_shots)


def mixed(length: int, at: int = 50, whole: int = 120) -> list[np.ndarray]:
    """A dissolve of so many frames between two shots, from ``at`` on."""
    before, after = list(scene(91, whole)), list(scene(92, whole))
    share = [min(1.0, max(0.0, (t - at + 1) / (length + 1))) for t in range(whole)]
    return [
        (a * (1 - s) + b * s).astype(np.uint8) for a, b, s in zip(before, after, share, strict=True)
    ]


def test_every_cut_is_thought_of_and_stands_out_in_the_figures(cuts: Signals) -> None:
    planes = Planes(cuts)
    at = candidates(planes)
    assert {40, 75, 120} <= set(at.tolist())
    figures, names = join_figures(planes, np.array([20, 40, 75, 90, 120]))
    step = figures[:, names.index("step")]
    assert min(step[[1, 2, 4]]) > 2 * max(step[[0, 3]])
    assert np.isfinite(figures).all()
    assert len(set(names)) == len(names) == figures.shape[1]


def test_the_figures_are_those_the_forests_were_trained_on(cuts: Signals) -> None:
    planes = Planes(cuts)
    _, names = join_figures(planes, np.array([40]))
    assert names == trees_named("cut").names
    spans = [Span(30, 50, Kind.DISSOLVE)]
    nowhere = np.zeros(0, np.int64), np.zeros(0, np.float32)
    _, names = with_rivals(*span_figures(planes, spans), spans, *nowhere)
    assert names == trees_named("gradual").names
    for kind in KINDS:
        assert names == trees_named(f"kind-{kind}").names


def test_a_span_is_told_which_cuts_lie_in_it_and_beside_it() -> None:
    spans = [Span(30, 50, Kind.DISSOLVE), Span(80, 84, Kind.WHIP), Span(200, 220, Kind.WIPE)]
    places, odds = np.array([31, 40, 50, 60, 90]), np.array([-3.0, 2.0, 1.0, 5.0, -20.0])
    told, names = with_rivals(np.ones((3, 1), np.float32), ("x",), spans, places, odds)
    assert names == ("x", "cut_inside", "cut_second", "cut_beside")
    assert told.tolist() == [[1, 2, 1, 5], [1, -12, -12, -12], [1, -12, -12, -12]]


def test_forests_refuse_figures_they_were_not_trained_on(cuts: Signals) -> None:
    figures, names = join_figures(Planes(cuts), np.array([40]))
    forest = trees_named("cut")
    for wrong, said in (
        ((*names[1:], "glow"), "without .*; new: glow"),
        ((names[1], names[0], *names[2:]), "in another order"),
    ):
        with pytest.raises(JudgeError, match=said):
            forest.odds(figures, wrong)


def test_a_judges_file_without_names_or_with_too_few_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with np.load(trees._FILE) as data:
        held = {k: data[k] for k in data.files}
    for name, harm in (
        ("no names", lambda d: d.pop("cut_names")),
        ("few names", lambda d: d.update(cut_names=d["cut_names"][:3])),
    ):
        changed = dict(held)
        harm(changed)
        file = tmp_path / f"{name}.npz"
        np.savez(file, **changed)
        monkeypatch.setattr(trees, "_FILE", file)
        trees_named.cache_clear()
        with pytest.raises(JudgeError, match=name):
            trees_named("cut")
    monkeypatch.undo()
    trees_named.cache_clear()
    assert isinstance(trees_named("cut"), Trees)


@pytest.mark.parametrize("length", [10, 24])
def test_a_dissolve_is_thought_of_where_it_is(length: int, films: Path) -> None:
    path = encode(films / f"mixed-{length}.mp4", mixed(length))
    found = [s for s in thinkable_spans(Planes(signals_of(path))) if s.kind is Kind.DISSOLVE]
    best = min(found, key=lambda s: abs(s.start - 50) + abs(s.end - 50 - length))
    assert abs(best.start - 50) <= 3
    assert abs(best.end - 50 - length) <= 3
    assert best.middle == pytest.approx(50 + length / 2, abs=3)


def test_a_fade_and_a_wipe_are_thought_of_as_such(films: Path) -> None:
    dark = [
        (p * abs(1 - min(1.0, max(0.0, (t - 40) / 40)) * 2)).astype(np.uint8)
        for t, p in enumerate([*scene(93, 60), *scene(94, 60)])
    ]
    planes = Planes(signals_of(encode(films / "dark.mp4", dark)))
    assert any(abs(s.middle - 60) <= 6 for s in fades(planes))
    wiped = []
    for t, (a, b) in enumerate(zip(scene(95, 120), scene(96, 120), strict=True)):
        edge = round(a.shape[1] * min(1.0, max(0.0, (t - 50) / 20)))
        wiped.append(np.concatenate([b[:, :edge], a[:, edge:]], axis=1))
    planes = Planes(signals_of(encode(films / "wiped.mp4", wiped)))
    assert any(s.start <= 60 <= s.end and s.kind is Kind.WIPE for s in wipes(planes))


def test_a_fade_is_seen_by_its_light_where_letters_stand_over_it(films: Path) -> None:
    pictures = []
    for t, p in enumerate([*scene(93, 60), *scene(94, 60)]):
        share = min(1.0, max(0.0, abs(t + 0.5 - 60) / 16))
        faded = (p * share).astype(np.uint8).copy()
        faded[60:120, 40:280:6] = 235
        pictures.append(faded)
    planes = Planes(signals_of(encode(films / "lettered.mp4", pictures)))
    assert any(abs(s.start - 44) <= 3 and abs(s.end - 76) <= 3 for s in fades(planes))


def test_a_dissolve_is_seen_by_its_contrast_where_everything_moves() -> None:
    """Pictures of independent noise: no two frames are more alike than any other two."""
    rng = np.random.default_rng(5)
    share = np.clip((np.arange(160) - 59) / 31, 0, 1)[:, None, None]
    one, other = (rng.normal(0, sd, (160, 40, 64)) for sd in (42, 30))
    luma = np.clip(118 + one * (1 - share) + other * share, 0, 255).astype(np.uint8)
    grey = np.full((160, 2, 20, 32), 128, np.uint8)
    run = SmallPictures(0, luma, grey, np.zeros(160, bool), luma[:0])
    signals = signals_from(0, CHANGE.compare([], CHANGE.prepare(run)))
    found = dips(Planes(signals))
    assert any(abs(s.start - 60) <= 5 and abs(s.end - 90) <= 5 for s in found)


def test_flash_frames_are_taken_for_the_frame_before_and_nothing_else_is(films: Path) -> None:
    plain = list(scene(91, 100))
    lit = [np.minimum(p.astype(int) + 120, 255).astype(np.uint8) if t in (40, 41, 60) else p
           for t, p in enumerate(plain)]  # fmt: skip
    planes = Planes(signals_of(encode(films / "lit.mp4", lit)))
    last, first = planes.clear()
    assert [last[t] for t in (39, 40, 41, 42, 60)] == [39, 39, 39, 42, 59]
    assert [first[t] for t in (39, 40, 41, 42, 60)] == [39, 42, 42, 42, 61]
    calm = planes.calm()
    far = planes.apart(np.array([40, 60]), 1)
    assert far.min() > 20 > 5 > calm.apart(np.arange(30, 90), 1).max()
    assert (calm.far[:, :30] == planes.far[:, :30]).all()
    assert calm.apart(np.array([42]), 1) == planes.apart(np.array([42]), 3)
    steady = Planes(signals_of(encode(films / "steady.mp4", plain)))
    assert steady.calm() is steady


def test_a_wipe_is_widened_by_likely_ones_but_not_into_another_seam() -> None:
    spans = [Span(40, 60, Kind.WIPE), Span(38, 61, Kind.WIPE), Span(42, 66, Kind.WIPE),
             Span(30, 39, Kind.DISSOLVE), Span(36, 60, Kind.DISSOLVE)]  # fmt: skip
    chances = np.array([0.95, 0.9, 0.2, 0.9, 0.94])
    assert _widened(spans, chances, 0, [spans[0]]) == Span(38, 61, Kind.WIPE)
    assert _widened(spans, chances, 0, [spans[0], spans[3]]) == Span(39, 61, Kind.WIPE)
    assert _widened(spans, chances, 3, spans) == spans[3]


# reasons: plain words for the figures, whichever they are

PLAIN = {
    "step": 20.0, "step_colour": 0.4, "before_most": 2.0, "after_most": 2.0,
    "returns_short": 20.0, "returns_middle": 20.0, "returns_long": 20.0, "light_step": 1.0,
    "peaks_near": 0.0, "step_unmatched": 0.9, "edges_1": 0.1,
}  # fmt: skip
SPAN = {
    "ends": 20.0, "misfit": 0.2, "unlike": 18.0, "contrast_least": 2.0, "edge_order": 0.9,
    "before": 0.1, "after": 0.1, "edge_form": 0.0, "edge_sharp": 3.0, "ramp_error": 0.1,
    "burnt": 0.0,
    "inside_out": 4.0, "detail_dip": 0.5, "back_later": 0.9, "block_usual": 2.0,
    "block_outside": 1.0, "edges_whole": 0.1,
}  # fmt: skip


@pytest.mark.parametrize(
    ("figures", "code"),
    [
        ({"returns_short": 3.0}, "flash"),
        ({"returns_middle": 3.0}, "flash"),
        ({"returns_long": 3.0}, "passer"),
        ({"step": 5.0, "light_step": 30.0}, "light"),
        ({"step": 5.0}, "alike"),
        ({"before_most": 19.0}, "motion"),
        ({"peaks_near": 9.0}, "flicker"),
        ({"step": 12.0, "step_unmatched": 0.05}, "part"),
        ({"edges_1": 0.9}, "lines"),
    ],
)
def test_what_speaks_against_a_cut_is_said(figures: dict[str, float], code: str) -> None:
    plain = cut_reasons(PLAIN)
    assert [r for r in plain if r.against] == []
    assert {r.code for r in plain} == {"structure", "colour", "steady"}
    said = cut_reasons(PLAIN | figures)
    assert code in {r.code for r in said if r.against}
    assert all(0 <= r.weight <= 1 for r in said)
    assert [r.weight for r in said] == sorted((r.weight for r in said), reverse=True)


@pytest.mark.parametrize(
    ("kind", "figures", "code"),
    [
        (Kind.DISSOLVE, {}, "mixed"),
        (Kind.FADE, {}, "fade"),
        (Kind.FADE, {"burnt": 40.0}, "fade"),
        (Kind.WIPE, {}, "wipe-edge"),
        (Kind.WIPE, {"edge_sharp": 1.5}, "wipe-soft"),
        (Kind.WIPE, {"edge_order": 0.3}, "wipe-soft"),
        (Kind.WIPE, {"block_usual": 9.0}, "wipe-push"),
        (Kind.WIPE, {"edge_form": 1.0}, "wipe-iris"),
        (Kind.WIPE, {"edge_form": 2.0}, "wipe-clock"),
        (Kind.WIPE, {"edge_form": 4.0}, "wipe-doors"),
        (Kind.WHIP, {}, "whip"),
        (Kind.WHIP, {}, "blur"),
        (Kind.WHIP, {"back_later": 0.1}, "flash"),
        (Kind.CUT, {}, "stop"),
        (Kind.DISSOLVE, {"misfit": 0.8}, "misfit"),
        (Kind.DISSOLVE, {"unlike": 5.0}, "alike"),
        (Kind.DISSOLVE, {"after": 0.9}, "motion"),
        (Kind.DISSOLVE, {"ends": 4.0}, "little"),
        (Kind.DISSOLVE, {"edges_whole": 0.8}, "lines"),
    ],
)
def test_what_speaks_for_and_against_a_span_is_said(
    kind: Kind, figures: dict[str, float], code: str
) -> None:
    said = span_reasons(Span(10, 30, kind), SPAN | figures)
    assert code in {r.code for r in said}
    assert all(0 <= r.weight <= 1 and r.text for r in said)
