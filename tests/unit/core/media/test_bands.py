"""Rows of blocks alone are, line for line, what FFmpeg makes of the whole picture."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from films import encode, scene, woven
from offcut.core.errands.seams import find_seams
from offcut.core.measure.film_pass import Watch
from offcut.core.measure.measuring import OnThisThread, ToMeasure
from offcut.core.measure.registry import CHANGE
from offcut.core.measure.small_pictures import Crop, banded
from offcut.core.media.bands import Bands
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.planes import planes_of
from offcut.core.media.probe import open_source

KINDS = {
    "ProRes 422": ("prores_ks", "yuv422p10le", {"profile": "2"}, 1080),
    "ProRes 4444 with alpha": ("prores_ks", "yuva444p10le", {"profile": "4"}, 1080),
    "ProRes of an odd size": ("prores_ks", "yuv422p10le", {"profile": "0"}, 1078),
    "DNxHR HQ": ("dnxhd", "yuv422p", {"profile": "dnxhr_hq"}, 1080),
    "DNxHR HQX, UHD": ("dnxhd", "yuv422p10le", {"profile": "dnxhr_hqx"}, 2160),
    "DNxHR 444": ("dnxhd", "yuv444p10le", {"profile": "dnxhr_444"}, 1080),
    "DNxHR 444, RGB": ("dnxhd", "gbrp10le", {"profile": "dnxhr_444"}, 1080),
}


class Sees:
    """A watcher that notes how many lines pictures have."""

    def __init__(self, seen: list[int], whole: bool) -> None:
        self.seen, self.whole = seen, whole

    def see(self, _number: int, frame: av.VideoFrame, _luma: Any, /) -> None:
        """Note a picture."""
        self.seen.append(frame.height)

    def end(self) -> None:
        """Nothing is under way."""


def film_of(folder: Path, kind: str, frames: int = 3) -> OpenedFilm:
    codec, pixels, options, high = KINDS[kind]
    pictures = [*scene(1, frames, 270, high), *scene(2, frames, 270, high)]
    return open_source(encode(folder / "film.mov", pictures, codec, pixels=pixels, options=options))


def signals_of(film: OpenedFilm, *watches: Watch) -> dict[str, np.ndarray]:
    runs = OnThisThread().measured(ToMeasure(film, 0, film.media.frames, [CHANGE], watches=watches))
    (run,) = runs
    return dict(run.signals[CHANGE.name])


@pytest.mark.parametrize("kind", KINDS)
def test_fewer_lines_are_those_of_the_whole_picture(kind: str, tmp_path: Path) -> None:
    film = film_of(tmp_path, kind)
    looks = banded(film, Crop())
    assert looks is not None
    bands = looks.bands
    rows = np.concatenate([np.arange(16 * r, 16 * r + 16) for r in bands.rows])
    rows = rows[rows < film.media.height]
    with av.open(film.media.path) as one, av.open(film.media.path) as other:
        coded = one.streams.video[0].codec_context
        whole = other.decode(other.streams.video[0])
        for packet in one.demux(one.streams.video[0]):
            for part in coded.decode(bands.narrowed(coded.name, packet)):
                picture = next(whole)
                assert part.height == bands.lines < picture.height
                assert (part.pts, part.format.name) == (picture.pts, picture.format.name)
                for plane in range(3):
                    lines = [_plane(p, plane) for p in (part, picture)]
                    assert np.array_equal(lines[0][: len(rows)], lines[1][rows])


def _plane(frame: av.VideoFrame, plane: int) -> np.ndarray:
    planes = planes_of(frame)
    return planes[0][plane] if planes is not None else frame.to_ndarray()[..., plane]


@pytest.mark.parametrize("kind", ["ProRes 422", "DNxHR HQX, UHD", "DNxHR 444, RGB"])
def test_what_is_measured_does_not_depend_on_it(kind: str, tmp_path: Path) -> None:
    film = film_of(tmp_path, kind)
    narrow: list[int] = []
    whole: list[int] = []
    ours = signals_of(film, lambda: Sees(narrow, whole=False))
    theirs = signals_of(film, lambda: Sees(whole, whole=True))
    assert set(whole) == {film.media.height}
    assert max(narrow) < film.media.height
    assert not ours["held"].any()
    for name, array in ours.items():
        assert np.array_equal(array, theirs[name]), name


def test_a_cut_is_found_to_the_frame_by_fewer_lines(tmp_path: Path) -> None:
    film = film_of(tmp_path, "ProRes 422", 20)
    assert [s.frame for s in find_seams(film).seams if s.score >= 50] == [20]


def test_only_what_is_won_is_left_out(tmp_path: Path) -> None:
    film = film_of(tmp_path, "DNxHR HQ", 1)
    assert banded(film, Crop(top=0.3, bottom=0.7)) is not None
    assert banded(film, Crop(first="top")) is None
    low = encode(tmp_path / "low.mov", scene(1, 2, 270, 480), "prores_ks", pixels="yuv422p10le")
    assert banded(open_source(low), Crop()) is None
    long = encode(tmp_path / "long.mp4", scene(1, 2, 270, 1080))
    assert banded(open_source(long), Crop()) is None


def packets(path: str | Path) -> list[Any]:
    with av.open(str(path)) as film:
        return [p for p in film.demux(film.streams.video[0]) if p.size]


@pytest.mark.parametrize(("codec", "pixels"), [("prores_ks", "yuv422p10le"), ("dnxhd", "yuv422p")])
def test_pictures_in_fields_or_of_another_size_stay_whole(
    codec: str, pixels: str, tmp_path: Path
) -> None:
    size = (1920, 1080) if codec == "dnxhd" else (270, 1080)
    options = {"flags": "+ildct"}
    if codec == "dnxhd":
        options["b"] = "120M"
    pictures = woven(scene(1, 2, *size))
    film = encode(tmp_path / "film.mov", pictures, codec, pixels=pixels, options=options)
    name = "prores" if codec == "prores_ks" else codec
    (packet,) = packets(film)
    assert Bands(1080, tuple(range(0, 60, 2))).narrowed(name, packet) is packet


@pytest.fixture(scope="module")
def frames(tmp_path_factory: pytest.TempPathFactory) -> dict[str, bytes]:
    made = {}
    for name, kind in (("prores", "ProRes 422"), ("dnxhd", "DNxHR HQ"), ("uhd", "DNxHR HQX, UHD")):
        film = film_of(tmp_path_factory.mktemp(name), kind, 1)
        made[name] = bytes(packets(film.media.path)[0])
    return made


@given(
    name=st.sampled_from(["prores", "dnxhd", "uhd"]),
    cut=st.integers(0, 3000),
    at=st.integers(0, 1400),
    value=st.integers(0, 255),
    other=st.booleans(),
)
def test_damaged_packets_stay_as_they_are_or_become_others(
    frames: dict[str, bytes], name: str, cut: int, at: int, value: int, other: bool
) -> None:
    data = bytearray(frames[name])
    data[at] = value
    if other:
        data = data[:cut]
    high = 2160 if name == "uhd" else 1080
    bands = Bands(1440 if cut % 7 == 0 else high, tuple(range(0, 60, 2)))
    packet = av.Packet(bytes(data)) if data else av.Packet(0)
    narrow = bands.narrowed("prores" if name == "prores" else "dnxhd", packet)
    assert narrow is packet or narrow.size > 0
