"""Stills read as frames: what OpenImageIO wrote, it and we read the same."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from numpy.typing import NDArray

from films import number_in, picture_of
from offcut.core.errands.seams import find_seams
from offcut.core.errors import MediaError
from offcut.core.media.opened import OpenedFilm, as_set
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader, sound_of
from offcut.core.media.stills import header_of, pixels_of, timecode_of_bits
from offcut.core.model.project import Project
from offcut.core.model.run import Holes, Run
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source
from offcut.core.model.verbs.ticket import set_holes
from projects import FIRST
from scans import deep, write_cineon, write_run, write_still

LIKE = {h: Run("", "", 1, 0, 0, holes=h) for h in Holes}


def numbers(film: OpenedFilm, frames: range) -> list[int]:
    with open_reader(film, Purpose.PLAY) as reader:
        return [number_in(rgb_of(reader.frame(n), 160, 96)) for n in frames]


@pytest.mark.parametrize(
    ("ending", "bits", "kind"),
    [
        ("dpx", 8, np.uint8), ("dpx", 10, np.uint16), ("dpx", 12, np.uint16),
        ("dpx", 16, np.uint16), ("tif", 0, np.uint8), ("tif", 0, np.uint16), ("png", 0, np.uint16),
        ("exr", 0, np.float32), ("jpg", 0, np.uint8), ("jp2", 0, np.uint16),
    ],
)  # fmt: skip
def test_each_kind_reads_as_openimageio_wrote_it(
    ending: str, bits: int, kind: type, tmp_path: Path
) -> None:
    def pixels(number: int) -> NDArray:
        rgb = picture_of(number)
        if kind is np.float32:
            return (rgb / 255.0).astype(np.float32) ** 2.2
        return deep(rgb) if kind is np.uint16 else rgb

    name = f"shot.{{:d}}.{ending}"
    write_run(tmp_path, map(pixels, range(7, 12)), name=name, first=7, bits=bits)
    film = open_source(tmp_path / name.format(8))
    assert film.media.frames == 5
    assert (film.media.width, film.media.height) == (160, 96)
    assert numbers(film, range(5)) == [7, 8, 9, 10, 11]
    # and by the library's own easy way, to the sample
    own = oiio.ImageBuf(str(tmp_path / name.format(9))).get_pixels(oiio.UINT16)
    if kind is not np.float32:
        ours = pixels_of(tmp_path / name.format(9), (160, 96))
        as_sixteen = deep(ours) if ours.dtype == np.uint8 else ours
        assert np.abs(as_sixteen.astype(int) - own.reshape(96, 160, 3)).max() <= 1


def test_cineon_is_read_and_known_as_log(tmp_path: Path) -> None:
    codes = np.zeros((48, 64, 3), np.uint16)
    codes[:, :32], codes[:, 32:] = 95, 685
    for number in range(3):
        write_cineon(tmp_path / f"c_{number:03d}.cin", codes)
    film = open_source(tmp_path / "c_001.cin")
    assert film.log
    assert film.media.codec == "Cineon 10 bit log"
    pixels = pixels_of(tmp_path / "c_000.cin", (64, 48))
    assert np.round(pixels[0, [0, 60], 0] / 65535 * 1023).tolist() == [95, 685]


def test_rate_timecode_and_names_come_from_the_header(tmp_path: Path) -> None:
    told = {
        "dpx:FrameRate": 18.0,
        "dpx:Transfer": "Printing density",
        "dpx:InputDevice": "Scanner of the town archive",
        "dpx:SourceImageFileName": "K07_0000",
        "smpte:TimeCode": (0x01020304, 0),
        "PixelAspectRatio": 2.0,
    }
    write_run(tmp_path, [deep(picture_of(n)) for n in range(3)], bits=10, told=told)
    film = open_source(tmp_path / "K07_0001.dpx")
    assert film.media.rate == 18
    assert film.media.start == ((1 * 60 + 2) * 60 + 3) * 18 + 4
    assert (film.reel, film.device) == ("K07", "Scanner of the town archive")
    assert film.log
    assert film.media.pixel_shape == 2
    assert not film.notes
    exr = write_still(tmp_path / "e_1.exr", np.zeros((96, 160, 3), np.float32),
                      told={"FramesPerSecond": (24000, 1001)})  # fmt: skip
    assert header_of(exr).rate == Fraction(24000, 1001)


def test_timecode_bits_are_those_of_smpte_st_12_1() -> None:
    assert timecode_of_bits(0x01020304) == "01:02:03:04"
    assert timecode_of_bits(0x23595929) == "23:59:59:29"
    assert timecode_of_bits(0x10203044 | 0x40) == "10:20:30;04"  # the drop-frame flag is bit 6
    assert timecode_of_bits(0xFFFFFFFF) == ""


def test_a_rate_that_is_not_told_is_asked_for(tmp_path: Path) -> None:
    write_run(tmp_path, [picture_of(n) for n in range(3)], name="p{}.png")
    film = open_source(tmp_path / "p1.png")
    assert film.media.rate == 24
    assert film.media.run is not None
    assert not film.media.run.rate_told
    assert "tells no rate" in film.notes[0]


@pytest.mark.parametrize(
    ("holes", "shown"),
    [
        (Holes.HOLD, [10, 11, 11, 13, 13, 13, 16]),
        (Holes.BLACK, [10, 11, 0, 13, 0, 0, 16]),
        (Holes.CLOSE, [10, 11, 13, 16]),
    ],
)
def test_holes_are_held_black_or_closed(holes: Holes, shown: list[int], tmp_path: Path) -> None:
    pictures = [picture_of(n) for n in range(10, 17)]
    write_run(tmp_path, pictures, name="r{:03d}.png", first=10, holes=[12, 14, 15])
    film = open_source(tmp_path / "r[010-016].png", LIKE[holes])
    assert film.media.frames == len(shown)
    assert numbers(film, range(len(shown))) == shown
    assert "lacks 3 pictures: 12 and 14 to 15" in film.notes[0]


def test_closing_a_gap_moves_what_is_decided_with_its_pictures(tmp_path: Path) -> None:
    write_run(tmp_path, [picture_of(n) for n in range(30)], name="r{:02d}.png", holes=[5, 6, 20])
    film = open_source(tmp_path / "r00.png")
    project = add_source(Project(), film.media)
    for frame in (4, 10, 21):
        project = place_seam(project, FIRST, frame)
    closed = set_holes(project, FIRST, Holes.CLOSE)
    source = closed.source(FIRST)
    assert [s.frame for s in source.seams] == [4, 8, 18]
    assert (source.start, source.end, source.media.frames) == (0, 27, 27)
    again = as_set(film, source)
    assert numbers(again, range(27)) == [n for n in range(30) if n not in (5, 6, 20)]
    assert set_holes(closed, FIRST, Holes.HOLD) == project


def test_damaged_pictures_are_stepped_over(tmp_path: Path) -> None:
    write_run(tmp_path, [deep(picture_of(n)) for n in range(40)], bits=10)
    (tmp_path / "K07_0005.dpx").write_bytes((tmp_path / "K07_0005.dpx").read_bytes()[:3000])
    (tmp_path / "K07_0009.dpx").write_bytes(b"SDPX nothing")
    write_still(tmp_path / "K07_0012.dpx", deep(picture_of(12, 80, 48)), bits=10)
    film = open_source(tmp_path / "K07_0000.dpx")
    with open_reader(film, Purpose.MEASURE) as reader:
        assert [n for n, _ in reader.frames(0, 40)] == [n for n in range(40) if n not in (5, 9, 12)]
        assert reader.missing == {5, 9, 12}
        assert number_in(rgb_of(reader.frame(9), 160, 96)) == 8
    finding = find_seams(film)
    assert finding.damaged == ((5, 6), (9, 10), (12, 13))


def test_a_folder_that_goes_away_is_told_and_not_read_on(tmp_path: Path) -> None:
    folder = write_run(tmp_path / "disk", [picture_of(n) for n in range(60)], name="r{:02d}.png")
    film = open_source(folder / "r00.png")
    with open_reader(film, Purpose.MEASURE) as reader:
        frames = reader.frames(0, 60)
        assert next(frames)[0] == 0
        folder.rename(tmp_path / "elsewhere")
        with pytest.raises(MediaError, match="is no longer there"):
            next(frames)
    with pytest.raises(MediaError, match="is no longer there"):
        find_seams(film)


def test_a_part_of_a_picture_lies_where_its_window_says(tmp_path: Path) -> None:
    for number in range(3):
        spec = oiio.ImageSpec(40, 30, 3, "half")
        spec.x, spec.y = 10 + number, 20
        spec.full_x, spec.full_y, spec.full_width, spec.full_height = 0, 0, 160, 96
        out = oiio.ImageOutput.create("x.exr")
        assert out.open(str(tmp_path / f"w_{number}.exr"), spec)
        out.write_image(np.ones((30, 40, 3), np.float32))
        out.close()
    film = open_source(tmp_path / "w_0.exr")
    assert (film.media.width, film.media.height) == (160, 96)
    light = pixels_of(tmp_path / "w_2.exr", (160, 96))[..., 0] > 0
    assert np.argwhere(light).min(axis=0).tolist() == [20, 12]
    assert light.sum() == 1200


def test_a_run_of_two_sizes_says_so(tmp_path: Path) -> None:
    write_run(tmp_path, [picture_of(n) for n in range(20)], name="r{:02d}.png")
    write_run(tmp_path, [picture_of(n, 80, 48) for n in range(20)], name="r{:02d}.png", first=20)
    film = open_source(tmp_path / "r00.png")
    assert (film.media.width, film.media.frames) == (160, 40)
    assert any("changes its size at" in n and "80x48" in n for n in film.notes)


def test_what_cannot_be_read_at_all_is_one_sentence(tmp_path: Path) -> None:
    for n in range(3):
        (tmp_path / f"x_{n}.dpx").write_bytes(b"SDPX" + bytes(40))
    with pytest.raises(MediaError, match=r"x_0\.dpx"):
        open_source(tmp_path / "x_1.dpx")
    with pytest.raises(MediaError, match="there are no such pictures"):
        open_source(tmp_path / "y_[0-9].dpx")
    write_run(tmp_path, [picture_of(0), picture_of(1)], name="r{}.png")
    film = open_source(tmp_path / "r0.png")
    with pytest.raises(MediaError, match="no sound"):
        next(iter(sound_of(film, Fraction(0))))
    with pytest.raises(MediaError, match="no frame 2"), open_reader(film, Purpose.PLAY) as reader:
        reader.frame(2)


def test_a_run_still_being_written_says_so(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    write_run(tmp_path, [picture_of(n) for n in range(4)], name="r{:02d}.png")
    from offcut.core.media import opening_runs as probe

    real = probe.header_of

    def header(path: Path) -> object:
        write_still(tmp_path / "r04.png", picture_of(4))
        return real(path)

    monkeypatch.setattr(probe, "header_of", header)
    assert any("is still being written" in n for n in open_source(tmp_path / "r00.png").notes)
