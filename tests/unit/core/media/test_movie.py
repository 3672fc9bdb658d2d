"""Frame n is the n-th picture shown: checked by reading the number in every picture."""

from __future__ import annotations

import contextlib
import subprocess
import sys
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from films import encode, number_in, picture_of
from offcut.core.errors import MediaError
from offcut.core.media.movie import MovieReader
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.timecode import NTSC

COUNT = 90
KINDS = {
    "h264-b-frames.mp4": ("libx264", "yuv420p", {"x264-params": "bframes=3:keyint=24"}),
    "h264-open-gop.mkv": ("libx264", "yuv420p", {"x264-params": "bframes=4:open-gop=1:keyint=20"}),
    "h264.ts": ("libx264", "yuv420p", {"x264-params": "bframes=3:keyint=30"}),
    "mpeg2.mpg": ("mpeg2video", "yuv420p", {"bf": "2", "g": "15"}),
    "prores.mov": ("prores_ks", "yuv422p10le", {}),
    "mjpeg.avi": ("mjpeg", "yuvj420p", {}),
    "mpeg4-b-frames.avi": ("mpeg4", "yuv420p", {"bf": "2", "g": "20"}),
    "vp9.webm": ("libvpx-vp9", "yuv420p", {"deadline": "realtime", "cpu-used": "8", "g": "30"}),
}


@pytest.fixture(scope="module", params=sorted(KINDS))
def numbered(request: pytest.FixtureRequest, films: Path) -> Path:
    codec, pixels, options = KINDS[request.param]
    pictures = (picture_of(n) for n in range(COUNT))
    return encode(films / request.param, pictures, codec, pixels=pixels, options=options)


def test_every_frame_got_by_number_is_the_one_plain_decoding_gives(numbered: Path) -> None:
    with av.open(str(numbered)) as plain:
        shown = [number_in(f.to_ndarray(format="rgb24")) for f in plain.decode(video=0)]
    assert shown == list(range(COUNT))
    film = open_source(numbered)
    assert len(film.index) == COUNT
    assert film.media.rate == 25
    order = np.random.default_rng(1).permutation(COUNT).tolist()
    with MovieReader(numbered, film.index) as reader:
        for number in [*order, *reversed(range(40, 60))]:
            assert number_in(rgb_of(reader.frame(number), 160, 96)) == number
        run = [(n, number_in(rgb_of(f, 160, 96))) for n, f in reader.frames(33, 71)]
        assert run == [(n, n) for n in range(33, 71)]
        assert not reader.missing


def test_a_read_given_up_halfway_does_not_disturb_the_next(films: Path) -> None:
    options = {"x264-params": "bframes=3:keyint=250:min-keyint=250:scenecut=0"}
    path = encode(films / "long-group.mp4", (picture_of(n) for n in range(200)), options=options)
    film = open_source(path)

    class GivenUpError(Exception):
        pass

    def give_up(frame: int, _picture: av.VideoFrame) -> None:
        if frame > 40:
            raise GivenUpError

    with MovieReader(path, film.index) as reader:
        for target, wanted in ((190, 60), (180, 61), (195, 43), (199, 150), (120, 119)):
            with contextlib.suppress(GivenUpError):
                reader.frame(target, give_up)
            assert number_in(rgb_of(reader.frame(wanted), 160, 96)) == wanted
        assert not reader.missing


def test_a_variable_rate_counts_pictures(films: Path) -> None:
    path = encode(
        films / "variable.mkv",
        (picture_of(n) for n in range(40)),
        times=lambda n: n + n // 10 * 7,
    )
    film = open_source(path)
    assert film.media.frames == 40
    assert any("variable" in note for note in film.notes) or film.media.rate != 25
    with MovieReader(path, film.index) as reader:
        assert [number_in(rgb_of(reader.frame(n), 160, 96)) for n in (39, 11, 0, 25)] == [
            39,
            11,
            0,
            25,
        ]


def test_a_picture_that_was_given_its_neighbours_time_still_counts(films: Path) -> None:
    whole = encode(films / "whole.mp4", (picture_of(n) for n in range(60)))
    path = films / "same-time-twice.mp4"
    with av.open(str(whole)) as source, av.open(str(path), "w") as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        shown = sorted(p.pts for p in source.demux(video=0) if p.size)
        source.seek(0)
        for packet in source.demux(video=0):
            if packet.size:
                packet.pts = shown[30] if packet.pts == shown[31] else packet.pts
                packet.stream = stream
                out.mux(packet)
    with av.open(str(path)) as plain:
        numbers = [number_in(f.to_ndarray(format="rgb24")) for f in plain.decode(video=0)]
    film = open_source(path)
    assert film.media.frames == len(numbers) == 60
    with MovieReader(path, film.index) as reader:
        for n in (59, 30, 31, 32, 0, 45):
            assert number_in(rgb_of(reader.frame(n), 160, 96)) == numbers[n]
        assert [n for n, _ in reader.frames(20, 50)] == list(range(20, 50))


def test_a_first_time_that_is_not_zero(films: Path) -> None:
    path = encode(films / "late.mkv", (picture_of(n) for n in range(30)), times=lambda n: n + 250)
    film = open_source(path)
    with MovieReader(path, film.index) as reader:
        assert number_in(rgb_of(reader.frame(0), 160, 96)) == 0
        assert number_in(rgb_of(reader.frame(29), 160, 96)) == 29


def test_pictures_that_an_edit_list_hides_are_not_counted(films: Path, tmp_path: Path) -> None:
    whole = encode(
        films / "whole.mp4",
        (picture_of(n) for n in range(60)),
        options={"x264-params": "bframes=2:keyint=30"},
    )
    cut = tmp_path / "edit-list.mp4"
    with av.open(str(whole)) as source, av.open(str(cut), "w") as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        early = round(10 / 25 / source.streams.video[0].time_base)
        for packet in source.demux(video=0):
            if packet.size:
                packet.stream = stream
                packet.pts -= early
                packet.dts -= early
                out.mux(packet)
    with av.open(str(cut)) as plain:
        shown = [number_in(f.to_ndarray(format="rgb24")) for f in plain.decode(video=0)]
    index = open_source(cut).index
    with MovieReader(cut, index) as reader:
        assert [number_in(rgb_of(reader.frame(n), 160, 96)) for n in range(len(index))] == shown


def test_start_timecode_and_drop_frame_are_read(films: Path) -> None:
    path = encode(
        films / "drop.mov",
        (picture_of(n) for n in range(10)),
        rate=NTSC,
        tags={"timecode": "01:00:00;00"},
    )
    media = open_source(path).media
    assert (media.rate, media.start, media.drop) == (Fraction(30000, 1001), 107892, True)


BROKEN = {
    "empty.mp4": b"",
    "words.mp4": b"This is not a film.\n" * 200,
    "noise.mov": np.random.default_rng(3).bytes(40_000),
}


@pytest.mark.parametrize("name", sorted(BROKEN))
def test_broken_files_get_one_sentence_naming_them(name: str, tmp_path: Path) -> None:
    path = tmp_path / name
    path.write_bytes(BROKEN[name])
    _refused(path)


def test_a_folder_and_a_missing_path_get_one_sentence(tmp_path: Path) -> None:
    _refused(tmp_path)
    _refused(tmp_path / "nowhere.mp4")


def test_half_an_mp4_gets_one_sentence(four_shots: Path, tmp_path: Path) -> None:
    half = tmp_path / "half.mp4"
    half.write_bytes(four_shots.read_bytes()[: four_shots.stat().st_size // 2])
    _refused(half)


def test_sound_alone_gets_one_sentence(tmp_path: Path) -> None:
    path = tmp_path / "sound.wav"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=48000, layout="mono")
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4800), np.int16), "s16", "mono")
        frame.sample_rate = 48000
        out.mux(stream.encode(frame))
    _refused(path)


def _refused(path: Path) -> None:
    with pytest.raises(MediaError, match=str(path.name)):
        open_source(path)
    done = subprocess.run(
        [sys.executable, "-m", "offcut.cli", "detect", str(path), "--json"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1
    assert done.stdout == ""
    assert path.name in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_half_an_avi_gives_what_can_be_read(films: Path, tmp_path: Path) -> None:
    whole = encode(
        films / "whole.avi", (picture_of(n) for n in range(80)), "mjpeg", pixels="yuvj420p"
    )
    half = tmp_path / "half.avi"
    half.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    film = open_source(half)
    assert 20 < film.media.frames < 60
    assert any("half.avi ends early" in note for note in film.notes)
    with MovieReader(half, film.index) as reader:
        assert number_in(rgb_of(reader.frame(12), 160, 96)) == 12


def test_damaged_frames_are_stepped_over_and_told(four_shots: Path, tmp_path: Path) -> None:
    hurt = tmp_path / "hurt.mp4"
    data = bytearray(four_shots.read_bytes())
    start = len(data) // 2
    data[start : start + 3000] = np.random.default_rng(5).bytes(3000)
    hurt.write_bytes(bytes(data))
    done = subprocess.run(
        [sys.executable, "-m", "offcut.cli", "detect", str(hurt)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode in (0, 1)
    assert "Traceback" not in done.stderr
    if done.returncode:
        assert "hurt.mp4" in done.stderr
