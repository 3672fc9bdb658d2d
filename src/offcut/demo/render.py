"""Draws the demo film from its script, encodes it with its sound, and writes its true list.

Run ``python -m offcut.demo.render`` to make the shipped files again; the same code gives the
same pictures.
"""

from __future__ import annotations

import json
import math
import sys
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPainter

from offcut.core.lists.edl.writing import write_edl
from offcut.core.lists.outgoing import events_of, going
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.sources import add_source, name_project
from offcut.demo import FILM, TRUE_LIST, TRUTH, sets
from offcut.demo.lab_list import write_lab_list
from offcut.demo.paint import HIGH, WIDE, Layer, sheet
from offcut.demo.script import RATE, TAKES, TITLE, Take, joins, length

SIZE = (960, 540)
SPOKEN = Path(__file__).with_name("announcement.flac")
SPOKEN_AT = 41.0
"""Seconds at which somebody speaks."""
_Picture = NDArray[np.float32]


class Stage:
    """A shot set up: its layers painted, ready to give any of its frames."""

    def __init__(self, take: Take, seed: int) -> None:
        self.take = take
        self.seed = seed
        self.layers = take.place()
        self.lorry = sets.lorry() if take.passes is not None else None
        self.lettering = _lettering(take.title[2]) if take.title else None
        yy, xx = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)
        edge = ((xx / SIZE[0] - 0.5) ** 2 + (yy / SIZE[1] - 0.5) ** 2) * 2
        self.vignette = (1.0 - 0.42 * edge**1.3)[..., None]

    def frame(self, t: int) -> _Picture:
        """Return frame ``t`` of the shot, RGB 0 to 255, shape (540, 960, 3)."""
        whip = self.take.whip
        if whip and whip[0] <= t < whip[0] + whip[1]:
            steps = [self._view(t + k / 6) for k in range(6)]
            picture = np.mean(steps, axis=0)
        else:
            picture = self._view(float(t))
        if self.take.rain:
            picture += self._rain(t)
        gain = self.take.light(t) if self.take.light else 1.0
        lit = picture * gain * np.array(self.take.tint, np.float32)
        if gain > 1.5:
            lit += 40 * (gain - 1.5)
        lit = 255 * (1 - np.exp(-np.maximum(lit, 0) / 190.0)) * 1.18
        soft = cv2.GaussianBlur(np.maximum(lit - 190, 0), (0, 0), 9)
        lit = (lit + 0.7 * soft) * self.vignette
        if self.lettering is not None and self.take.title:
            lit = self._lettered(lit, t)
        return np.clip(lit, 0, 255)

    def _camera(self, t: float) -> tuple[float, float, float]:
        take = self.take
        share = t / max(1, take.frames + take.mixed - 1)
        eased = share * share * (3 - 2 * share)
        (x0, y0, z0), (x1, y1, z1) = take.camera
        x, y, z = x0 + (x1 - x0) * eased, y0 + (y1 - y0) * eased, z0 + (z1 - z0) * eased
        if take.whip:
            first, long, far = take.whip
            x += far * min(1.0, max(0.0, (t - first) / long))
        if take.hand:
            s = self.seed
            x += take.hand * (math.sin(t * 0.31 + s) + 0.6 * math.sin(t * 0.83 + 2 * s))
            y += take.hand * (math.sin(t * 0.41 + 3 * s) + 0.5 * math.sin(t * 1.07 + s)) * 0.7
        return x, y, z

    def _view(self, t: float) -> _Picture:
        out = np.zeros((SIZE[1], SIZE[0], 3), np.float32)
        x, y, zoom = self._camera(t)
        seconds = t / RATE
        for layer in self.layers:
            strength = 1.0
            if layer.glow and self.take.lamp_at is not None:
                strength = 0.0 if t < self.take.lamp_at else 1.0
            if strength:
                _lay(out, layer, x, y, zoom, seconds)
        if self.take.lamp_at is not None and t < self.take.lamp_at:
            out *= 0.42
        if self.lorry is not None and self.take.passes is not None:
            gone = (t - self.take.passes) * 150.0
            _lay(out, self.lorry, -gone, y, zoom * 1.1, 0.0)
        return out

    def _rain(self, t: int) -> _Picture:
        rng = np.random.default_rng(self.seed * 1000 + t)
        veil = np.zeros((SIZE[1], SIZE[0]), np.uint8)
        for _ in range(90):
            px, py = int(rng.integers(0, SIZE[0])), int(rng.integers(-40, SIZE[1]))
            cv2.line(veil, (px, py), (px - 5, py + 36), int(rng.integers(30, 80)), 1, cv2.LINE_AA)
        return cv2.GaussianBlur(veil, (3, 3), 0).astype(np.float32)[..., None]

    def _lettered(self, picture: _Picture, t: int) -> _Picture:
        assert self.take.title is not None
        assert self.lettering is not None
        first, last, _ = self.take.title
        share = min(1.0, max(0.0, min((t - first) / 6.0, (last - t) / 6.0)))
        alpha = self.lettering[..., 3:4].astype(np.float32) / 255 * share
        shown: _Picture = picture * (1 - alpha) + self.lettering[..., :3].astype(np.float32) * share
        return shown


def _lay(out: _Picture, layer: Layer, x: float, y: float, zoom: float, seconds: float) -> None:
    near = 1.0 - 0.9 * layer.depth
    grow = 1.0
    if layer.growth:
        turn = seconds * layer.growth * 2.4
        grow = 1.0 + (turn % 0.9 if layer.wraps else layer.growth * seconds)
    scale = 0.80 * (1 + (zoom - 1) * (0.35 + 0.65 * near) * 1.25) * grow
    mx = layer.drift[0] * seconds - x * (0.25 + near)
    my = layer.drift[1] * seconds - y * (0.25 + near)
    if layer.wraps and layer.drift[1]:
        my = (my % HIGH) - HIGH / 2
    my += layer.sway * math.sin(seconds * 2.1) if layer.sway else 0.0
    centre = (WIDE / 2, HIGH / 2 if not layer.growth else 385.0)
    m = np.array(
        [
            [scale, 0, SIZE[0] / 2 + scale * (mx - centre[0])],
            [0, scale, SIZE[1] / 2 + scale * (my - centre[1]) + (0 if not layer.growth else 4)],
        ]
    )
    if layer.wraps and layer.drift[1]:
        border = cv2.BORDER_WRAP
    elif layer.depth >= 0.5 and not layer.growth and not layer.drift[0] > 100:
        border = cv2.BORDER_REPLICATE
    else:
        border = cv2.BORDER_CONSTANT
    laid = cv2.warpAffine(layer.pixels, m, SIZE, flags=cv2.INTER_LINEAR, borderMode=border).astype(
        np.float32
    )
    if layer.glow:
        out += laid[..., :3] * 0.8
    else:
        out *= 1.0 - laid[..., 3:4] / 255.0
        out += laid[..., :3]


def _lettering(words: str) -> NDArray[np.uint8]:
    def draw(p: QPainter) -> None:
        font = QFont("Fira Sans", 10)
        font.setPixelSize(66)
        font.setWeight(QFont.Weight.Medium)
        font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 2.5)
        p.setFont(font)
        for shift, colour in ((3, QColor(0, 0, 0, 150)), (0, QColor("#f6ecd2"))):
            p.setPen(colour)
            p.drawText(
                QRectF(shift, 200 + shift, SIZE[0], 120), Qt.AlignmentFlag.AlignCenter, words
            )
        p.setPen(QColor("#f5c518"))
        p.setBrush(QColor("#f5c518"))
        p.drawRect(QRectF(QPointF(SIZE[0] / 2 - 60, 322), QPointF(SIZE[0] / 2 + 60, 325)))

    return sheet(draw)[: SIZE[1], : SIZE[0]]


def pictures() -> Iterator[_Picture]:
    """Yield the frames of the whole film in order, with its joins."""
    places = joins()
    stages = [Stage(t, i + 1) for i, t in enumerate(TAKES[:1])]
    at = 0
    for i in range(len(TAKES)):
        stage = stages[i]
        join = places[i] if i < len(places) else None
        begin = 0 if i == 0 else places[i - 1].start
        own = begin if i == 0 or TAKES[i].joined is not Kind.FADE else places[i - 1].end
        if join is not None:
            stages.append(Stage(TAKES[i + 1], i + 2))
        stop = join.start if join else length()
        while at < stop:
            yield stage.frame(at - own)
            at += 1
        if join is None:
            return
        after = stages[i + 1]
        mixed = join.end - join.start
        for k in range(mixed):
            share = (k + 1) / (mixed + 1)
            if join.kind is Kind.DISSOLVE:
                yield stage.frame(at - own) * (1 - share) + after.frame(k) * share
            elif join.kind is Kind.WIPE:
                both = stage.frame(at - own)
                edge = int(share * SIZE[0])
                both[:, :edge] = after.frame(k)[:, :edge]
                yield both
            else:
                ramp = (mixed - TAKES[i + 1].dark) / 2
                if k < mixed / 2:
                    yield stage.frame(TAKES[i].frames - 1) * max(0.0, 1 - (k + 1) / (ramp + 1))
                else:
                    yield after.frame(0) * max(0.0, 1 - (mixed - k) / (ramp + 1))
            at += 1
        stages[i] = stage.__class__.__new__(Stage)


def announcement(rate: int) -> NDArray[np.float32]:
    """Return what the conductor says over the bridge, -1 to 1, as it sounds in a car.

    The line was read by the speech synthesis of a Linux system (espeak-ng), in no person's voice.
    """
    with av.open(str(SPOKEN)) as file:
        to = av.AudioResampler("fltp", "mono", rate)
        parts = [p.to_ndarray()[0] for f in file.decode(audio=0) for p in to.resample(f)]
        parts += [p.to_ndarray()[0] for p in to.resample(None)]
    return np.concatenate(parts).astype(np.float32)


def sound(frames: int, rate: int = 48000) -> NDArray[np.float32]:
    """Return the sound: sea, the motor's hum rising and falling, a bell now and then."""
    n = frames * rate // RATE
    rng = np.random.default_rng(7)
    time = np.arange(n) / rate
    noise = rng.standard_normal(n // 40 + 2)
    surf = np.interp(np.arange(n) / 40, np.arange(len(noise)), noise)
    surf *= 0.03 * (0.6 + 0.4 * np.sin(2 * np.pi * time / 7.3))
    speed = 46 + 22 * np.sin(2 * np.pi * time / 31) + 10 * np.sin(2 * np.pi * time / 11)
    phase = 2 * np.pi * np.cumsum(speed) / rate
    hum = 0.04 * (np.sin(phase) + 0.5 * np.sin(2 * phase) + 0.25 * np.sin(3.01 * phase))
    out = surf + hum * np.clip((time - 16) / 4, 0, 1)
    for ring in (19.5, 20.1, 44.0, 63.2, 63.7):
        since = np.maximum(time - ring, 0)
        out += (time > ring) * 0.07 * np.exp(-2.4 * since) * np.sin(2 * np.pi * 1320 * since)
        out += (time > ring) * 0.04 * np.exp(-3.1 * since) * np.sin(2 * np.pi * 2113 * since)
    words = announcement(rate)
    at = round(SPOKEN_AT * rate)
    out[at : at + len(words)] += 0.5 * words[: max(0, n - at)]
    edge = np.minimum(1, np.minimum(time, time[-1] - time) / 0.8)
    return np.asarray(out * edge, np.float32)


def encode(path: Path, crf: int) -> None:
    """Render and encode the film."""
    with av.open(str(path), "w", options={"movflags": "+faststart"}) as out:
        out.metadata["title"] = TITLE
        video = out.add_stream("libx264", rate=RATE)
        video.width, video.height = SIZE
        video.pix_fmt = "yuv420p"
        video.time_base = Fraction(1, RATE)
        video.options = {
            "crf": str(crf),
            "preset": "slower",
            "x264-params": "bframes=3:keyint=125:threads=1",
        }
        voice = out.add_stream("aac", rate=48000, layout="mono")
        voice.bit_rate = 40_000
        grain = np.random.default_rng(62)
        sheets = [
            cv2.GaussianBlur(grain.standard_normal(SIZE[::-1]).astype(np.float32), (0, 0), 0.9)
            for _ in range(5)
        ]
        for n, picture in enumerate(pictures()):
            grainy = picture + 2.2 * sheets[n % 5][..., None]
            rgb = np.clip(grainy, 0, 255).astype(np.uint8)
            frame = av.VideoFrame.from_ndarray(rgb, "rgb24")
            frame.pts = n
            frame.time_base = Fraction(1, RATE)
            out.mux(video.encode(frame))
            if n % 200 == 0:
                print(n, "of", length(), file=sys.stderr, flush=True)
        out.mux(video.encode(None))
        samples = sound(length())
        for at in range(0, len(samples), 1024):
            block = np.ascontiguousarray(samples[None, at : at + 1024])
            piece = av.AudioFrame.from_ndarray(block, "fltp", "mono")
            piece.sample_rate, piece.pts = 48000, at
            out.mux(voice.encode(piece))
        out.mux(voice.encode(None))


def true_project() -> Project:
    """Return the film cut at its true joins, every shot named."""
    media = Media(FILM.name, Fraction(RATE), length(), *SIZE)
    project = add_source(Project(), media)
    project = name_project(project, TITLE)
    film = project.sources[0].id
    for join in joins():
        span = join.end - join.start
        project = place_seam(project, film, join.frame, kind=join.kind, span=span)
    starts = [0, *(j.frame for j in joins())]
    for start, take in zip(starts, TAKES, strict=True):
        project = name_shot(project, film, start, take.about)
    return project


def write_truth() -> None:
    """Write the true list as JSON and as an EDL."""
    rows = [
        {"frame": j.frame, "start": j.start, "end": j.end, "kind": j.kind.value, "opens": t.about}
        for j, t in zip(joins(), TAKES[1:], strict=True)
    ]
    document = {"film": FILM.name, "rate": f"{RATE}/1", "frames": length(), "joins": rows}
    TRUTH.write_text(json.dumps(document, indent=1) + "\n")
    project = true_project()
    write_edl(events_of(project, going(project.sources[0])), TRUE_LIST)
    write_lab_list()


def main() -> None:
    """Make the shipped film and its true list."""
    app = QGuiApplication.instance() or QGuiApplication(["offcut-demo", "-platform", "offscreen"])
    for face in sorted((Path(__file__).parents[1] / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(face))
    write_truth()
    encode(FILM, 26)
    print(f"{length()} frames, {FILM.stat().st_size} bytes written to {FILM}")
    del app


if __name__ == "__main__":
    main()
