"""Two searches of one film at once: what one keeps meanwhile the other reads; nothing is missed."""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.cli.main import main
from offcut.core.errands import searching
from offcut.core.errands.seams import Finding
from offcut.core.measure.film_pass import Measured
from offcut.core.measure.measuring import OnThisThread, ToMeasure, measuring_on
from offcut.core.measure.ranges import change_signals, measure_range
from offcut.core.measure.signals import signals_joined
from offcut.core.media.probe import open_source


@pytest.fixture(scope="module")
def film_of_four(tmp_path_factory: pytest.TempPathFactory) -> Path:
    pictures = (p for seed in range(4) for p in scene(seed, 60))
    path = tmp_path_factory.mktemp("two") / "film.mp4"
    return encode(path, pictures, options={"g": "20"})


@pytest.mark.parametrize("threads", [1, 2])
def test_what_another_search_keeps_meanwhile_is_not_left_out(
    film_of_four: Path, threads: int
) -> None:
    film = open_source(film_of_four)
    whole = film.media.frames
    alone = signals_joined(list(change_signals(film, 0, whole, limit=0)))
    for run in measure_range(film, 100, 140):  # a range in the middle is kept already
        assert run.start >= 100
    slow = change_signals(film, 0, whole, measuring=measuring_on(threads))
    parts = [next(slow)]
    for _ in measure_range(film, 0, whole):  # the other one overtakes
        pass
    parts += list(slow)
    assert [a.end for a in parts[:-1]] == [b.start for b in parts[1:]]
    together = signals_joined(parts)
    assert (together.start, together.end) == (0, whole)
    assert np.array_equal(together.trace, alone.trace)


def test_what_cannot_be_measured_to_its_end_ends_all_the_same(
    film_of_four: Path,
) -> None:
    class Short(OnThisThread):
        def measured(self, wanted: ToMeasure) -> Generator[Measured]:
            if wanted.start < 100:
                yield from super().measured(replace(wanted, end=min(wanted.end, 100)))

    film = open_source(film_of_four)
    signals = change_signals(film, 0, film.media.frames, measuring=Short())
    found = signals_joined(list(signals))
    assert (found.start, found.end) == (0, 100)


def test_half_a_result_is_never_told_as_whole(
    film_of_four: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    plain = searching.find_seams

    def half(*words, **more):  # type: ignore[no-untyped-def]
        found = plain(*words, **more)
        return Finding(found.signals, found.seams, found.start, 103, False)

    monkeypatch.setattr(searching, "find_seams", half)
    assert main(["detect", str(film_of_four), "--json", "--quiet"]) == 1
    out, err = capsys.readouterr()
    assert not out
    assert "only 103 of 240 frames could be measured" in err
