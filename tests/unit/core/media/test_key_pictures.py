"""A keyframe's picture decoded alone is that of the frame, and what is read after it is right."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from films import encode, scene
from offcut.core.media.probe import open_source
from offcut.core.media.readers import Purpose, open_reader


@pytest.mark.parametrize(
    ("name", "codec"),
    [("a.mp4", "libx264"), ("a.mkv", "libx264"), ("a.mpg", "mpeg2video"), ("a.avi", "mpeg4"),
     ("a.webm", "libvpx-vp9"), ("a.ts", "libx264")],
)  # fmt: skip
def test_it_is_the_frames_own(tmp_path: Path, name: str, codec: str) -> None:
    options = {"g": "12"} | ({"bf": "2"} if codec != "libvpx-vp9" else {"deadline": "realtime"})
    path = encode(tmp_path / name, scene(1, 90), codec=codec, options=options)
    film = open_source(path)
    with open_reader(film, Purpose.SMALL, threads=1) as reader:
        whole = {n: p.to_ndarray() for n, p in reader.frames(0, film.media.frames)}
    with open_reader(film, Purpose.SMALL, threads=1) as reader:
        for key in reversed(film.index.keys.tolist()):
            assert np.array_equal(reader.key(key).to_ndarray(), whole[key])
            after = min(film.media.frames - 1, key + 5)
            assert np.array_equal(reader.frame(after).to_ndarray(), whole[after])
            assert np.array_equal(reader.key(after).to_ndarray(), whole[after])
