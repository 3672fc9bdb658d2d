"""What is measured is the same on threads, on processes and in parts, of damaged films too."""

from __future__ import annotations

import pickle
import random
import threading
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from films import encode, scene
from offcut.core.errands.seams import find_seams
from offcut.core.errors import MediaError, OffcutError
from offcut.core.measure.film_pass import Measured
from offcut.core.measure.measurer import Arrays, Kept
from offcut.core.measure.measuring import OnThisThread, OnThreads, ToMeasure, measuring_on
from offcut.core.measure.part import measure_part
from offcut.core.measure.plan import parts_between
from offcut.core.measure.processes import OnProcesses
from offcut.core.measure.ranges import measure_range, missing_ranges
from offcut.core.measure.registry import CHANGE, OURS, PRINTS
from offcut.core.measure.small_pictures import Crop
from offcut.core.media.opened import as_set
from offcut.core.media.probe import open_source
from offcut.core.model.run import Holes
from offcut.core.model.source import Source
from offcut.demo import FILM
from scans import write_run

OPTIONS = {"g": "12", "bf": "0"}
Held = dict[str, dict[str, NDArray[Any]]]


def pictures() -> Iterator[NDArray[np.uint8]]:
    return (p for n in range(8) for p in scene(n, 60, 192, 112))


def arrays(runs: Iterable[Measured]) -> Held:
    """Return what runs hold, put together, by measurer and signal."""
    held = list(runs)
    return {
        name: {n: np.concatenate([r.signals[name][n] for r in held]) for n in first}
        for name, first in held[0].signals.items()
    }


def same(one: Held, other: Held) -> None:
    assert one.keys() == other.keys()
    for name, held in one.items():
        for signal, values in held.items():
            assert values.tobytes() == other[name][signal].tobytes(), (name, signal)


class InMemory:
    """A store that keeps nothing on disk."""

    def __init__(self) -> None:
        self._kept: dict[str, list[tuple[int, int, Any]]] = {}

    def ranges(self, measurer: Kept, start: int, end: int) -> list[tuple[int, int]]:
        return [(low, high) for low, high, _ in self.pieces(measurer, start, end)]

    def pieces(self, measurer: Kept, start: int, end: int) -> Iterator[tuple[int, int, Arrays]]:
        at = start
        for first, last, held in sorted(self._kept.get(measurer.name, []), key=lambda p: p[:2]):
            low, high = max(first, at), min(last, end)
            if low < high:
                yield low, high, {n: a[low - first : high - first] for n, a in held.items()}
                at = high

    def keep(self, measurer: Kept, start: int, parts: Sequence[Arrays]) -> None:
        held = {n: np.concatenate([p[n] for p in parts]) for n in measurer.arrays}
        end = start + len(held[measurer.arrays[0]])
        self._kept.setdefault(measurer.name, []).append((start, end, held))

    def use(self, limit: int = 0) -> None:
        pass

    def whole(self, measurer: Kept) -> dict[str, NDArray[Any]]:
        pieces = [arrays for _, _, arrays in self.pieces(measurer, 0, 1 << 30)]
        return {n: np.concatenate([p[n] for p in pieces]) for n in measurer.arrays}


@pytest.fixture(scope="module")
def on_two() -> Iterator[OnProcesses]:
    with OnProcesses(2) as measuring:
        yield measuring


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


def test_the_same_wherever_it_is_measured(tmp_path: Path, on_two: OnProcesses) -> None:
    """A damaged film by this thread, by threads, by processes, and in two goes."""
    path = encode(tmp_path / "film.avi", pictures(), codec="mpeg4", options=OPTIONS)
    firsts = [first for first, _ in parts_between(open_source(path).index, 0, 480)][1:]
    assert len(firsts) >= 4
    film = open_source(harmed_at(path, {firsts[1], firsts[2], 30}, 2))
    wanted = arrays(OnThisThread().measured(ToMeasure(film, 0, 480, OURS)))
    for measuring in (OnThreads(2), on_two):
        same(wanted, arrays(measuring.measured(ToMeasure(film, 0, 480, OURS))))
        store = InMemory()
        how: dict[str, Any] = {"measuring": measuring, "store": store}
        list(measure_range(film, 100, firsts[2] + 7, **how))
        list(measure_range(film, 0, 480, **how))
        assert missing_ranges(film.media, 0, 480, store=store) == []
        same(wanted, {m.name: store.whole(m) for m in OURS})


def test_a_part_is_told_by_values_alone(tmp_path: Path) -> None:
    """What it takes and gives goes through pickle, and is what the whole film has there."""
    path = encode(tmp_path / "film.avi", pictures(), codec="mpeg4", options=OPTIONS)
    film = open_source(path)
    asked = (film.media.path, film.media.fingerprint, None, Crop(), 140, 330, ["change", "prints"])
    told = measure_part(*pickle.loads(pickle.dumps(asked)))
    runs = pickle.loads(pickle.dumps(told))
    assert (runs[0].start, runs[-1].end) == (140, 330)
    whole = arrays(OnThisThread().measured(ToMeasure(film, 0, 480, [CHANGE, PRINTS])))
    cut = {name: {n: a[140:330] for n, a in held.items()} for name, held in whole.items()}
    same(cut, arrays(runs))
    with pytest.raises(MediaError, match=r"film\.avi: another film lies here"):
        measure_part(film.media.path, "0" * 32, None, Crop(), 0, 10, ["change"])
    with pytest.raises(OffcutError, match=r"no measurer “colour of hats”; there are: change"):
        measure_part(*asked[:-1], ["colour of hats"])


def test_a_run_of_stills_is_taken_as_its_ticket_has_it(tmp_path: Path, on_two: OnProcesses) -> None:
    """Holes closed, where a run by itself holds the picture before."""
    folder = write_run(tmp_path / "scan", scene(3, 60, 192, 112), holes=(20, 21))
    run = open_source(next(folder.iterdir()))
    assert run.media.run is not None
    closed = replace(run.media.run, holes=Holes.CLOSE)
    film = as_set(run, Source(1, replace(run.media, run=closed), 0, closed.frames))
    assert film.media.frames == 58 < run.media.frames
    wanted = arrays(OnThisThread().measured(ToMeasure(film, 0, 58, [CHANGE])))
    same(wanted, arrays(on_two.measured(ToMeasure(film, 0, 58, [CHANGE]))))


def test_seams_from_processes_are_those_from_here(on_two: OnProcesses) -> None:
    film = open_source(FILM)
    one = find_seams(film, 0, 700, store=InMemory())
    other = find_seams(film, 0, 700, measuring=on_two, store=InMemory())
    assert one.seams == other.seams


def test_a_stop_waits_for_no_process_and_keeps_what_came(
    tmp_path: Path, on_two: OnProcesses
) -> None:
    film = open_source(encode(tmp_path / "film.avi", pictures(), codec="mpeg4", options=OPTIONS))
    stop, store = threading.Event(), InMemory()
    for run in measure_range(film, 0, 480, measuring=on_two, store=store, stop=stop):
        stop.set()
        reached = run.end
    assert missing_ranges(film.media, 0, 480, store=store)[0] == (reached, 480)
    list(measure_range(film, 0, 480, measuring=on_two, store=store))
    assert missing_ranges(film.media, 0, 480, store=store) == []


def test_a_process_that_is_killed_is_told_and_others_come(tmp_path: Path) -> None:
    film = open_source(encode(tmp_path / "film.avi", pictures(), codec="mpeg4", options=OPTIONS))
    with OnProcesses(1) as measuring:
        runs = measuring.measured(ToMeasure(film, 0, 480, [CHANGE]))
        next(runs)
        pool = measuring._pool
        assert pool is not None
        for process in list(pool._processes.values()):
            process.kill()
        with pytest.raises(MediaError, match=r"film\.avi: a process that measured it was ended"):
            list(runs)
        assert list(measuring.measured(ToMeasure(film, 0, 20, [CHANGE])))[-1].end == 20


@pytest.mark.parametrize(
    ("codec", "name", "seeds"),
    [("mpeg4", "film.avi", (0,)), ("mpeg2video", "film.avi", (1,)),
     ("libx264", "film.mkv", (20, 22, 25))],
)  # fmt: skip
def test_the_same_on_any_number_of_cores(
    tmp_path: Path, codec: str, name: str, seeds: tuple[int, ...]
) -> None:
    """Of H.264 these are seeds where its decoder mended with pictures of another place."""
    path = encode(tmp_path / name, pictures(), codec=codec, options=OPTIONS)
    firsts = [first for first, _ in parts_between(open_source(path).index, 0, 480)][1:]
    assert len(firsts) >= 4
    for seed in seeds:
        two = {firsts[seed % len(firsts)], firsts[(seed + 1) % len(firsts)]}
        film = open_source(harmed_at(path, two | {30}, seed))
        told = []
        for threads in (1, 3):
            told.append(arrays(measuring_on(threads).measured(ToMeasure(film, 0, 480, [CHANGE]))))
        for other in told[1:]:
            same(told[0], other)
