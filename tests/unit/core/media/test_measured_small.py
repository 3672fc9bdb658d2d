"""Large MPEG-2 pictures are measured from a quarter of their size, and the same is found."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from films import encode, scene, woven
from offcut.core.errands.seams import find_seams
from offcut.core.measure.measuring import OnThisThread, ToMeasure
from offcut.core.measure.registry import CHANGE
from offcut.core.measure.small_pictures import Crop
from offcut.core.media import readers
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, measured_small, open_reader

SIZE = {"width": 1280, "height": 720}


def shots() -> Iterator[np.ndarray]:
    """A cut at 24, and a dissolve that is over at 58."""
    yield from scene(1, 24, **SIZE)
    before, after = list(scene(2, 34, **SIZE)), list(scene(3, 34, **SIZE))
    for t, (a, b) in enumerate(zip(before, after, strict=True)):
        share = min(1.0, max(0.0, (t - 21) / 13))
        yield (a * (1 - share) + b * share).astype(np.uint8)
    yield from after[-1:] * 14


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> OpenedFilm:
    path = tmp_path_factory.mktemp("small") / "tape.mpg"
    return open_source(encode(path, shots(), "mpeg2video", options={"g": "15", "bf": "2"}))


def test_pictures_to_be_measured_are_small_and_all_others_whole(film: OpenedFilm) -> None:
    assert measured_small(film)
    for purpose, width in ((Purpose.MEASURE, 320), (Purpose.SMALL, 1280), (Purpose.PLAY, 1280)):
        with open_reader(film, purpose, threads=1) as reader:
            assert reader.frame(30).width == width


def test_what_is_measured_and_found_is_what_whole_pictures_give(
    film: OpenedFilm, monkeypatch: pytest.MonkeyPatch
) -> None:
    def seen() -> tuple[np.ndarray, list[tuple[int, int, str]]]:
        runs = OnThisThread().measured(ToMeasure(film, 0, film.media.frames, [CHANGE]))
        unlike = np.concatenate([r.signals[CHANGE.name]["unlike"] for r in runs])
        seams = find_seams(film, limit=0).seams
        return unlike, [(s.start, s.end, s.kind) for s in seams if s.score >= 50]

    small = seen()
    monkeypatch.setattr(readers, "measured_small", lambda _film: False)
    whole = seen()
    assert small[1] == whole[1]
    assert [w for w in whole[1] if w[0] == w[1] == 24]
    assert np.abs(small[0].astype(float) - whole[0]).mean() < 0.5


def test_fields_and_lesser_pictures_are_measured_whole(tmp_path: Path) -> None:
    low = encode(tmp_path / "low.mpg", scene(1, 6), "mpeg2video")
    assert not measured_small(open_source(low))
    pictures = woven(scene(2, 24, **SIZE))
    options = {"flags": "+ildct+ilme"}
    tape = open_source(encode(tmp_path / "tape.mpg", pictures, "mpeg2video", options=options))
    assert tape.fields
    assert not measured_small(tape)


def test_where_fields_were_set_by_hand_every_line_is_read(film: OpenedFilm) -> None:
    seen = []

    class Width:
        whole = True

        def see(self, _number: int, frame: object, _luma: object, /) -> None:
            seen.append(frame.width)  # type: ignore[attr-defined]

        def end(self) -> None:
            pass

    for crop in (Crop(), Crop(first="top")):
        list(OnThisThread().measured(ToMeasure(film, 0, 2, [CHANGE], crop, watches=[Width])))
    assert set(seen[:2]) == {320}
    assert set(seen[-2:]) == {1280}
