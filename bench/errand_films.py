"""The films of `bench/errands.py`, with what is true of them; made where they are not there yet.

A long film is cut from shots that are encoded once, each closed in itself, and laid one after
another as packets: so half an hour of 1080p takes a minute or two to make.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np
import OpenImageIO as oiio
from numpy.typing import NDArray
from skimage import data

Frames = NDArray[np.uint8]
ROOM = 48_000


@dataclass(frozen=True)
class Laid:
    """A film that was cut: its file, and the first frame of every shot but the first."""

    path: Path
    joins: tuple[int, ...]
    frames: int


def _kept(path: Path, make: Callable[[Path], tuple[list[int], int]]) -> Laid:
    """Return a film; it is made, and what is true of it written beside it, where it is not there."""
    truth = path.with_name(path.name + ".json")
    if not truth.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        joins, frames = make(path)
        truth.write_text(json.dumps({"joins": joins, "frames": frames}))
    told = json.loads(truth.read_text())
    return Laid(path, tuple(told["joins"]), int(told["frames"]))


PHOTOS = ("astronaut", "coffee", "chelsea", "rocket", "camera", "brick", "cat")


def shots(seed: int, lengths: list[int], size: tuple[int, int]) -> Iterator[list[Frames]]:
    """Yield shots of a size, with grain: a camera that moves over photographs of scikit-image."""
    rng = np.random.default_rng(seed)
    wide, high = size
    photos = [np.atleast_3d(getattr(data, name)()) for name in PHOTOS]
    photos = [p if p.shape[2] == 3 else np.repeat(p, 3, axis=2) for p in photos]
    grain = [
        np.repeat(np.clip(rng.normal(9, 3, (high, wide, 1)), 0, 18).astype(np.uint8), 3, axis=2)
        for _ in range(5)
    ]
    last = -1
    for length in lengths:
        which = int(rng.integers(0, len(photos) - 1))
        which += which >= last >= 0
        last = which
        photo = np.ascontiguousarray(photos[which][:, :: int(rng.choice([-1, 1]))])
        light, tint = rng.uniform(0.5, 1.2), rng.uniform(0.8, 1.2, 3)
        photo = np.clip(photo * light * tint, 0, 255).astype(np.uint8)
        near = rng.uniform(0.35, 0.6) * min(photo.shape[0], photo.shape[1] * high / wide)
        at = np.array(photo.shape[1::-1]) * rng.uniform(0.4, 0.6, 2)
        way, closer = rng.uniform(-0.5, 0.5, 2), rng.uniform(-0.001, 0.001)
        made = []
        for n in range(length):
            scale = near * (1 + closer * n) / high
            moved = at + way * n
            matrix = np.array(
                [[scale, 0, moved[0] - scale * wide / 2], [0, scale, moved[1] - scale * high / 2]]
            )
            seen = cv2.warpAffine(
                photo, matrix, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REFLECT,
            )  # fmt: skip
            made.append(cv2.add(seen, grain[n % 5]))
        yield made


@dataclass(frozen=True)
class _Shot:
    """A shot as packets: (bytes, pts, dts, key) counted in frames, and its frames."""

    packets: list[tuple[bytes, int, int, bool]]
    frames: int


def _encoded(pictures: list[Frames], rate: Fraction, folder: Path) -> tuple[Path, _Shot]:
    path = folder / "shot.mp4"
    high, wide = pictures[0].shape[:2]
    with av.open(str(path), "w") as out:
        options = {"preset": "veryfast", "crf": "21", "bf": "2", "g": "72"}
        stream = out.add_stream("libx264", rate=rate, options=options)
        stream.width, stream.height, stream.pix_fmt = wide, high, "yuv420p"
        for n, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, "rgb24")
            frame.pts, frame.time_base = n, 1 / rate
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    packets = []
    with av.open(str(path)) as film:
        stream = film.streams.video[0]
        tick = stream.time_base * rate
        for packet in film.demux(stream):
            if packet.pts is None or packet.dts is None:
                continue
            pts, dts = round(packet.pts * tick), round(packet.dts * tick)
            packets.append((bytes(packet), pts, dts, packet.is_keyframe))
    return path, _Shot(packets, len(pictures))


def cut_long(
    path: Path, seed: int, size: tuple[int, int], rate: Fraction, kinds: int, count: int,
    lengths: tuple[int, int], *, sound: bool = True,
) -> Laid:  # fmt: skip
    """Return a film of ``count`` shots of ``kinds`` different ones, no one beside itself."""

    def make(path: Path) -> tuple[list[int], int]:
        rng = np.random.default_rng(seed)
        lasts = rng.integers(*lengths, kinds).tolist()
        first, made = path, []
        for pictures in shots(seed, lasts, size):
            first, shot = _encoded(pictures, rate, path.parent)
            made.append(shot)
        order: list[int] = []
        while len(order) < count:
            turn = rng.permutation(kinds).tolist()
            order += turn if not order or turn[0] != order[-1] else turn[::-1]
        order = order[:count]
        at, joins = 0, []
        with av.open(str(first)) as like, av.open(str(path), "w") as out:
            stream = out.add_stream_from_template(like.streams.video[0], opaque=True)
            heard = out.add_stream("aac", rate=ROOM, layout="stereo") if sound else None
            base = 1 / rate
            for which in order:
                shot = made[which]
                for data, pts, dts, key in shot.packets:
                    packet = av.Packet(data)
                    packet.stream, packet.time_base = stream, base
                    packet.pts, packet.dts, packet.is_keyframe = at + pts, at + dts, key
                    out.mux(packet)
                if heard is not None:
                    for frame in _heard(at, shot.frames, rate, which):
                        out.mux(heard.encode(frame))
                at += shot.frames
                joins.append(at)
            if heard is not None:
                out.mux(heard.encode(None))
        first.unlink(missing_ok=True)
        return joins[:-1], at

    return _kept(path, make)


def _heard(at: int, frames: int, rate: Fraction, which: int) -> Iterator[av.AudioFrame]:
    """Yield a tone of its own for a shot."""
    begins, ends = round(at * ROOM / rate), round((at + frames) * ROOM / rate)
    for low in range(begins, ends, 4800):
        t = np.arange(low, min(ends, low + 4800)) / ROOM
        wave_ = np.sin(2 * np.pi * (180 + 20 * which) * t).astype(np.float32) * 0.2
        frame = av.AudioFrame.from_ndarray(np.stack([wave_, wave_]), "fltp", "stereo")
        frame.sample_rate, frame.pts, frame.time_base = ROOM, low, Fraction(1, ROOM)
        yield frame


def half_an_hour(home: Path) -> Laid:
    """Return thirty minutes of 1080p H.264 with sound and 300 joins."""
    return cut_long(home / "half-an-hour.mp4", 11, (1920, 1080), Fraction(24), 36, 301, (60, 226))


def pieces(
    path: Path, seed: int, size: tuple[int, int], rate: Fraction, encoder: str, pixels: str,
    lengths: list[int], options: dict[str, str] | None = None, *, mix: int = 0,
    start: str = "",
) -> Laid:  # fmt: skip
    """Return a film encoded as a whole; with ``mix`` every third join is a dissolve as long."""

    def make(path: Path) -> tuple[list[int], int]:
        joins: list[int] = []
        pictures: list[Frames] = []
        for n, shot in enumerate(shots(seed, lengths, size)):
            if mix and n % 3 == 2:
                shares = np.linspace(0, 1, mix + 2)[1:-1]
                for k, share in enumerate(shares):
                    old, new = pictures[k - mix], shot[k]
                    pictures[k - mix] = cv2.addWeighted(old, 1 - share, new, share, 0)
                joins.append(len(pictures) - mix + mix // 2)
                shot = shot[mix:]
            elif n:
                joins.append(len(pictures))
            pictures += shot
        with av.open(str(path), "w") as out:
            if start:
                out.metadata["timecode"] = start
            stream = out.add_stream(encoder, rate=rate, options=dict(options or {}))
            stream.width, stream.height, stream.pix_fmt = *size, pixels
            if encoder in ("mpeg2video", "mpeg4"):
                stream.bit_rate = 8_000_000
            for n, picture in enumerate(pictures):
                frame = av.VideoFrame.from_ndarray(picture, "rgb24")
                frame.pts, frame.time_base = n, 1 / rate
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
        return joins, len(pictures)

    return _kept(path, make)


def prores(home: Path) -> Laid:
    """Return half a minute of 1080p ProRes that begins at one hour."""
    lengths = np.random.default_rng(3).integers(30, 90, 12).tolist()
    return pieces(home / "master.mov", 3, (1920, 1080), Fraction(25), "prores_ks", "yuv422p10le",
                  lengths, {"profile": "2"}, start="01:00:00:00")  # fmt: skip


def dpx_roll(home: Path, stills: int = 3000) -> Laid:
    """Return a roll of DPX: its folder, ``stills`` pictures of 1024 by 778."""
    folder = home / "roll"

    def make(path: Path) -> tuple[list[int], int]:
        path.mkdir(parents=True, exist_ok=True)
        rng = np.random.default_rng(21)
        lengths = rng.integers(40, 160, 60).tolist()
        at, joins = 0, []
        for pictures in shots(21, lengths, (1024, 778)):
            for picture in pictures:
                if at >= stills:
                    break
                spec = oiio.ImageSpec(1024, 778, 3, "uint16")
                spec.attribute("oiio:BitsPerSample", 10)
                spec.attribute("dpx:FrameRate", 24.0)
                out = oiio.ImageOutput.create("a.dpx")
                out.open(str(path / f"K11_{at:05d}.dpx"), spec)
                out.write_image(picture.astype(np.uint16) * 257)
                out.close()
                at += 1
            joins.append(at)
            if at >= stills:
                break
        return [j for j in joins if j < stills], at

    return _kept(folder, make)


KINDS = (
    ("h264.mp4", "libx264", "yuv420p", {"preset": "veryfast"}, Fraction(25)),
    ("hevc.mp4", "libx265", "yuv420p", {"preset": "ultrafast", "x265-params": "log-level=none"},
     Fraction(24)),
    ("mpeg2.mpg", "mpeg2video", "yuv420p", {"bf": "2"}, Fraction(25)),
    ("mpeg4.avi", "mpeg4", "yuv420p", {}, Fraction(25)),
    ("prores.mov", "prores_ks", "yuv422p10le", {"profile": "1"}, Fraction(24)),
    ("dnxhr.mov", "dnxhd", "yuv422p", {"profile": "dnxhr_sq"}, Fraction(25)),
    ("vp9.webm", "libvpx-vp9", "yuv420p", {"deadline": "realtime", "cpu-used": "8"}, Fraction(30)),
    ("ntsc.mp4", "libx264", "yuv420p", {"preset": "veryfast"}, Fraction(30000, 1001)),
    ("intra.mov", "mjpeg", "yuvj420p", {"qscale": "3"}, Fraction(25)),
    ("ffv1.mkv", "ffv1", "yuv420p", {}, Fraction(24)),
    ("sixty.mp4", "libx264", "yuv420p", {"preset": "veryfast"}, Fraction(60)),
    ("long-groups.mp4", "libx264", "yuv420p", {"preset": "veryfast", "g": "400"}, Fraction(25)),
)  # fmt: skip


def folder_of_twelve(home: Path) -> list[Laid]:
    """Return a folder of twelve films of 640 by 360, each of another kind, forty seconds long."""
    made = []
    for n, (name, encoder, pixels, options, rate) in enumerate(KINDS):
        lengths = np.random.default_rng(40 + n).integers(25, 110, 15).tolist()
        made.append(pieces(home / "twelve" / name, 40 + n, (640, 360), rate, encoder, pixels,
                           lengths, options, mix=12))  # fmt: skip
    return made


def recut(film: Laid, path: Path, drop: tuple[int, ...], rate: Fraction = Fraction(25)) -> Laid:
    """Return another version of a film, without some of its shots."""

    def make(path: Path) -> tuple[list[int], int]:
        bounds = [0, *film.joins, film.frames]
        left = [n for n in range(len(bounds) - 1) if n not in drop]
        spans = [(bounds[n], bounds[n + 1]) for n in left]
        at, joins = 0, []
        with av.open(str(film.path)) as source, av.open(str(path), "w") as out:
            here = source.streams.video[0]
            stream = out.add_stream("libx264", rate=rate, options={"preset": "veryfast"})
            stream.width, stream.height, stream.pix_fmt = here.width, here.height, "yuv420p"
            for n, frame in enumerate(source.decode(here)):
                if not any(low <= n < high for low, high in spans):
                    continue
                if at and any(n == low for low, _ in spans):
                    joins.append(at)
                again = frame.reformat(format="yuv420p")
                again.pts, again.time_base, again.pict_type = at, 1 / rate, 0
                out.mux(stream.encode(again))
                at += 1
            out.mux(stream.encode(None))
        return joins, at

    return _kept(path, make)


def camera_files(film: Laid, folder: Path, handles: int = 12) -> list[Path]:
    """Return the originals of a film's first eight shots: longer, with timecodes of their own."""
    bounds = [0, *film.joins, film.frames]
    made: list[Path] = []
    for n, (low, high) in enumerate(list(pairwise(bounds))[:8]):
        path = folder / f"A{n:03d}C001.mov"
        made.append(path)
        if path.exists():
            continue
        folder.mkdir(parents=True, exist_ok=True)
        with av.open(str(film.path)) as source, av.open(str(path), "w") as out:
            here = source.streams.video[0]
            out.metadata["timecode"] = f"{10 + n:02d}:00:00:00"
            stream = out.add_stream(
                "libx264", rate=here.average_rate, options={"preset": "veryfast"}
            )
            stream.width, stream.height, stream.pix_fmt = here.width, here.height, "yuv420p"
            at = 0
            for k, frame in enumerate(source.decode(here)):
                if k >= high:
                    break
                if k < low:
                    continue
                held = handles if k in (low, high - 1) else 0
                again = frame.reformat(format="yuv420p")
                for _ in range(1 + held):
                    again.pts, again.time_base, again.pict_type = at, 1 / here.average_rate, 0
                    out.mux(stream.encode(again))
                    at += 1
            out.mux(stream.encode(None))
    return made


def edl_of(film: Laid, path: Path, rate: int = 25, hour: int = 1) -> Path:
    """Write a cut list of a film as its editor would have: its record side begins at one hour."""

    def words(frame: int) -> str:
        s, f = divmod(frame, rate)
        return f"{s // 3600:02d}:{s // 60 % 60:02d}:{s % 60:02d}:{f:02d}"

    lines = ["TITLE: REEL", "FCM: NON-DROP FRAME", ""]
    base = hour * 3600 * rate
    for n, (low, high) in enumerate(pairwise([0, *film.joins, film.frames]), start=1):
        times = " ".join(map(words, (low, high, base + low, base + high)))
        lines.append(f"{n:03d}  A{n:03d}     V     C        {times}")
        lines.append(f"* FROM CLIP NAME: SHOT {n:03d}")
    path.write_text("\n".join(lines) + "\n")
    return path


def beginning(film: Laid, path: Path, seconds: int) -> Laid:
    """Return the first seconds of a film, its packets as they are, up to a keyframe."""

    def make(path: Path) -> tuple[list[int], int]:
        with av.open(str(film.path)) as source, av.open(str(path), "w") as out:
            kinds = [source.streams.video[0], *source.streams.audio[:1]]
            to = {s.index: out.add_stream_from_template(s, opaque=True) for s in kinds}
            frames = 0
            for packet in source.demux(kinds):
                if packet.dts is None:
                    continue
                video = packet.stream.type == "video"
                if video and packet.is_keyframe and packet.pts * packet.time_base >= seconds:
                    break
                frames += video
                packet.stream = to[packet.stream.index]
                out.mux(packet)
        return [j for j in film.joins if j < frames], frames

    return _kept(path, make)
