"""A damaged keyframe that begins a part gives the same, whatever the number of cores."""

from __future__ import annotations

import random
from pathlib import Path

import av
import numpy as np
import pytest

from films import encode, scene
from offcut.core.measure.decoding_pass import _parts, measured
from offcut.core.measure.registry import CHANGE
from offcut.core.media.probe import open_source


def harmed_at(path: Path, frames: set[int], seed: int) -> Path:
    """Return a copy in which the packets of some frames hold noise behind their head."""
    dice = random.Random(seed)
    out = path.with_name(f"harmed-{seed}{path.suffix}")
    with av.open(str(path)) as film, av.open(str(out), "w") as copy:
        stream = film.streams.video[0]
        to = copy.add_stream_from_template(stream)
        for n, packet in enumerate(p for p in film.demux(stream) if p.size):
            if n in frames:
                data = bytearray(bytes(packet))
                keep = dice.choice((0, 8, len(data) // 3))
                data[keep:] = dice.randbytes(len(data) - keep)
                other = av.Packet(bytes(data))
                other.pts, other.dts, other.time_base = packet.pts, packet.dts, packet.time_base
                other.is_keyframe = packet.is_keyframe
                packet = other
            packet.stream = to
            copy.mux(packet)
    return out


@pytest.mark.parametrize(
    ("codec", "name", "seeds"),
    [("mpeg4", "film.avi", (0, 1, 2)), ("mpeg2video", "film.avi", (0, 1, 2)),
     ("libx264", "film.mkv", (20, 22, 25))],
)  # fmt: skip
def test_the_same_on_any_number_of_cores(
    tmp_path: Path, codec: str, name: str, seeds: tuple[int, ...]
) -> None:
    """Of H.264 these are seeds where its decoder mended with pictures of another place."""
    options = {"g": "12", "bf": "0"}
    pictures = (p for n in range(8) for p in scene(n, 60, 192, 112))
    path = encode(tmp_path / name, pictures, codec=codec, options=options)
    firsts = [first for first, _ in _parts(open_source(path).index, 0, 480)][1:]
    assert len(firsts) >= 4
    for seed in seeds:
        two = {firsts[seed % len(firsts)], firsts[(seed + 1) % len(firsts)]}
        film = open_source(harmed_at(path, two | {30}, seed))
        told = []
        for threads in (1, 2, 3):
            runs = list(measured(film, 0, film.media.frames, [CHANGE], threads=threads))
            names = runs[0].signals[CHANGE.name]
            told.append(
                {n: np.concatenate([r.signals[CHANGE.name][n] for r in runs]) for n in names}
            )
        for other in told[1:]:
            for signal, held in told[0].items():
                assert np.array_equal(held, other[signal], equal_nan=True), (codec, seed, signal)
