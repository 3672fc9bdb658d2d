"""Nothing about a film is swallowed: what it says that makes no sense, what cannot be heard."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from films import beeped, encode, picture_of, scene
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_packets, open_reader, sound_of


@pytest.mark.parametrize("written", ["99:99:99:99", "one o'clock", "10:00:00:30"])
def test_a_start_timecode_without_sense_is_told(written: str, tmp_path: Path) -> None:
    path = encode(tmp_path / "odd.mkv", scene(1, 12), tags={"timecode": written})
    film = open_source(path)
    assert film.media.start == 0
    (note,) = (n for n in film.notes if "timecode" in n)
    assert note.startswith("odd.mkv: its start timecode")
    assert written in note
    assert open_source(path).notes == film.notes  # also from what is kept


def test_a_start_timecode_with_sense_is_not_spoken_of(tmp_path: Path) -> None:
    path = encode(tmp_path / "good.mkv", scene(1, 12), tags={"timecode": "10:00:00:12"})
    film = open_source(path)
    assert film.media.start == 10 * 3600 * 25 + 12
    assert not any("timecode" in n for n in film.notes)


def test_a_track_that_cannot_be_read_is_told_and_the_others_are_heard(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "two.mov"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 160, 96, "yuv420p"
        tracks = [out.add_stream("pcm_s16le", rate=48_000, layout="mono") for _ in range(2)]
        for n in range(25):
            frame = av.VideoFrame.from_ndarray(picture_of(n), "rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        for track in tracks:
            piece = av.AudioFrame.from_ndarray(np.zeros((1, 48_000), np.int16), "s16", "mono")
            piece.sample_rate, piece.pts = 48_000, 0
            out.mux(track.encode(piece))
            out.mux(track.encode(None))
    data = path.read_bytes()
    # the second track's codec is renamed to one that nobody knows
    at = data.rindex(b"sowt")
    path.write_bytes(data[:at] + b"zzzz" + data[at + 4 :])
    film = open_source(path)
    assert len(film.tracks) == 1
    (note,) = (n for n in film.notes if "sound" in n)
    assert note.startswith("two.mov:")
    assert sum(len(p) for p in sound_of(film, Fraction(0))) >= 40_000


def test_readers_are_handed_out_by_purpose(films: Path) -> None:
    path = films / "beeped.mov"
    if not path.exists():
        beeped(path, "pcm_s16le")
    film = open_source(path)
    for purpose in Purpose:
        with open_reader(film, purpose) as reader:
            assert reader.frame(3).width == film.media.width
            assert len(reader.index) == film.media.frames
    with open_packets(film) as container:
        assert container.streams.video
