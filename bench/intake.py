"""What intake costs and gives: proxies, displays, small pictures, folders, many films in a row.

Proxy and small pictures made while measuring, as a ratio against measuring alone; seeking and
playing with and without a proxy in the real window; how soon a film measured before fills list and
ribbon. Films are drawn here or by `bench/films.py`.
"""

from __future__ import annotations

import argparse
import os
import resource
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
BENCH_CACHE = Path(tempfile.mkdtemp(prefix="offcut-intake-"))
os.environ["XDG_CACHE_HOME"] = str(BENCH_CACHE)

import av
import cv2
import numpy as np
import OpenImageIO as oiio
from PySide6.QtCore import QCoreApplication, QEventLoop, QSettings, QTimer

from films import HOME
from offcut.app.shell.main import _application, settle
from offcut.app.shell.window import Window
from offcut.core.errands.seams import find_seams
from offcut.core.measure.kept_signals import signals_folder
from offcut.core.media.arrivals import arrived
from offcut.core.media.display import CINEON, display_of, displays
from offcut.core.media.opened import OpenedFilm
from offcut.core.media.pictures import rgb_of
from offcut.core.media.probe import open_source
from offcut.core.media.proxy import ProxyMaker, ProxyPieces
from offcut.core.media.readers import Purpose, open_reader
from offcut.core.store.pictures_on_the_way import PicturesOnTheWay
from offcut.core.store.thumbnails import thumbnails_file
from speed import full_hd

STILLS = 192


def median(work: Callable[[], object], times: int = 3) -> float:
    """Return the median of the seconds that work takes."""
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def hd() -> Path:
    """Return the 1080p film of the other benches, made where it is not there."""
    path = HOME / "full-hd.mp4"
    if not path.exists():
        full_hd(path)
    return path


def long_groups() -> Path:
    """Return a 1080p film whose keyframes lie 250 frames apart, made where it is not there."""
    path = HOME / "groups-250.mp4"
    if path.exists():
        return path
    source = hd()
    with av.open(str(source)) as film, av.open(str(path), "w") as out:
        options = {"preset": "veryfast", "crf": "20", "g": "250", "sc_threshold": "0"}
        stream = out.add_stream("libx264", rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, "yuv420p"
        for number, frame in enumerate(film.decode(video=0)):
            frame.pts, frame.time_base, frame.pict_type = (
                number,
                1 / stream.codec_context.framerate,
                0,
            )
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def two_k_run() -> Path:
    """Return a run of 2K DPX, 10 bit and log, made where it is not there (2.4 GB)."""
    folder = HOME / "two-k"
    if not folder.exists():
        aside = HOME / "two-k.part"
        shutil.rmtree(aside, ignore_errors=True)
        aside.mkdir()
        rng = np.random.default_rng(3)
        for number in range(STILLS):
            if number % 48 == 0:
                small = rng.random((12, 16, 3)).astype(np.float32)
                scene = cv2.resize(small, (2048, 1556), interpolation=cv2.INTER_CUBIC)
            picture = np.roll(scene, 6 * number, axis=1)
            spec = oiio.ImageSpec(2048, 1556, 3, "uint16")
            spec.attribute("oiio:BitsPerSample", 10)
            spec.attribute("dpx:FrameRate", 24.0)
            spec.attribute("dpx:Transfer", "Printing density")
            out = oiio.ImageOutput.create("a.dpx")
            out.open(str(aside / f"K07_{number:05d}.dpx"), spec)
            out.write_image((np.clip(picture, 0, 1) * 45_000 + 6_000).astype(np.uint16))
            out.close()
        aside.rename(folder)
    return folder / f"K07_[00000-{STILLS - 1:05d}].dpx"


def forget() -> None:
    """Begin with nothing kept."""
    for there in BENCH_CACHE.iterdir():
        shutil.rmtree(there, ignore_errors=True)


def measuring(film: OpenedFilm, name: str) -> None:
    """Tell what small pictures and a proxy cost beside measuring alone."""
    folder = BENCH_CACHE / "proxies"

    def alone() -> None:
        shutil.rmtree(signals_folder(), ignore_errors=True)
        find_seams(film)

    def with_pictures() -> None:
        shutil.rmtree(signals_folder(), ignore_errors=True)
        thumbnails_file().unlink(missing_ok=True)
        find_seams(film, pictures=PicturesOnTheWay(film.media))

    def with_both() -> None:
        shutil.rmtree(signals_folder(), ignore_errors=True)
        thumbnails_file().unlink(missing_ok=True)
        shutil.rmtree(folder, ignore_errors=True)
        pieces = ProxyPieces(film.media, folder)
        find_seams(
            film, watches=[lambda: ProxyMaker(pieces)], pictures=PicturesOnTheWay(film.media)
        )

    alone()
    wall: list[list[float]] = [[], [], []]
    work: list[list[float]] = [[], [], []]
    for _ in range(5):  # in turn, so that a machine that wavers wavers for all
        for place, way in enumerate((alone, with_pictures, with_both)):
            began, busy = time.perf_counter(), time.process_time()
            way()
            wall[place].append(time.perf_counter() - began)
            work[place].append(time.process_time() - busy)
    times, cost = ([statistics.median(t) for t in many] for many in (wall, work))
    proxy = sum(p.stat().st_size for p in folder.rglob("*.mp4"))
    small = sum(f.stat().st_size for f in thumbnails_file().parent.glob("thumbnails.db*"))
    frames = film.media.frames
    print(f"| {name}, {frames} frames | alone | with small pictures | and a proxy |")
    print("|---|---|---|---|")
    print(f"| seconds | {times[0]:.2f} | {times[1]:.2f} | {times[2]:.2f} |")
    print(f"| ratio | 1 | {times[1] / times[0]:.3f} | {times[2] / times[0]:.2f} |")
    print(f"| processor seconds | {cost[0]:.2f} | {cost[1]:.2f} | {cost[2]:.2f} |")
    print(f"| ratio of those | 1 | {cost[1] / cost[0]:.3f} | {cost[2] / cost[0]:.2f} |")
    print(f"| bytes a frame on disk | | {small / frames:.0f} | {proxy / frames:.0f} |\n")


class Watching:
    """The real window, looked at from outside."""

    def __init__(self) -> None:
        settings = QSettings(str(BENCH_CACHE / "settings.ini"), QSettings.Format.IniFormat)
        self.window = Window(settings)
        self.window.set_theme("day")
        self.window.resize(1280, 800)
        self.window.show()
        self._tick = QTimer()
        self._tick.start(3)

    def open(self, path: Path) -> None:
        """Open a film and wait until all is done."""
        self.window.files.open_films([path])
        settle(self.window, 600)
        self.window.open_view("seams")
        settle(self.window, 60)

    def turn(self) -> None:
        """Let the window work until something happens; asking again and again would hold it up."""
        flags = QEventLoop.ProcessEventsFlag
        QCoreApplication.processEvents(flags.AllEvents | flags.WaitForMoreEvents)

    def there(self) -> bool:
        pair = self.window.view("seams").pair
        size = pair._size(pair._cells()[0])
        return all(self.window.large.picture(f, *size) is not None for f in pair._frames())

    def waited(
        self, act: Callable[[], object], done: Callable[[], bool], most: float = 20
    ) -> float:
        began = time.perf_counter()
        act()
        while not done() and time.perf_counter() - began < most:
            self.turn()
        return 1000 * (time.perf_counter() - began)

    def seeks(self, seed: int, many: int = 40) -> list[float]:
        rng = np.random.default_rng(seed)
        whole = self.window.session.source.media.frames
        times = []
        for frame in rng.integers(0, whole, many).tolist():
            times.append(self.waited(lambda f=frame: self.window.session.go_to(f), self.there))
            for _ in range(30):
                self.turn()
        return times

    def plays(self, seconds: float = 5.0) -> tuple[int, int]:
        player = self.window.player
        self.window.session.go_to(1)
        player.faster(1)
        until = time.perf_counter() + seconds
        while time.perf_counter() < until and player.speed:
            self.turn()
        told = player.shown, player.dropped
        player.stop()
        return told

    def close(self) -> None:
        self.window.session.history.mark_saved()
        self.window.close()


def looking(path: Path, name: str) -> None:
    """Tell how seeking and playing go with and without a proxy."""
    forget()
    watching = Watching()
    watching.open(path)
    window = watching.window
    film = window.session.film
    share = ProxyPieces(film.media).share()
    rate = float(film.media.rate)
    print(f"| {name} | within 100 ms | median | 95 of 100 | shown in 5 s | left out |")
    print("|---|---|---|---|---|---|")
    for use in (True, False):
        window.large.set_use_proxy(use)
        times = watching.seeks(5 + use)
        shown, dropped = watching.plays()
        within = 100 * sum(t <= 100 for t in times) / len(times)
        words = f"with a proxy ({share:.0%} made)" if use else "without"
        print(
            f"| {words} | {within:.0f} % | {np.percentile(times, 50):.0f} ms "
            f"| {np.percentile(times, 95):.0f} ms | {shown} ({shown / rate:.1f} s) | {dropped} |"
        )
    print()
    watching.close()


def filling(path: Path) -> None:
    """Tell how soon list and ribbon of a film measured before are full."""
    forget()
    first = Watching()
    first.open(path)
    first.close()
    times = []
    for _ in range(3):
        again = Watching()
        window = again.window
        window.files.open_films([path])
        opened = []
        window.session.film_changed.connect(lambda o=opened: o.append(time.perf_counter()))
        until = time.perf_counter() + 60
        while not opened and time.perf_counter() < until:
            again.turn()
        while time.perf_counter() < until and not (
            window.session.source.searched and window.small.idle
            and window.view("seams").list.model.seams
        ):  # fmt: skip
            again.turn()
        times.append(1000 * (time.perf_counter() - opened[0]))
        settle(window)
        again.close()
    print(f"A film measured before fills its list and ribbon {statistics.median(times):.0f} ms "
          f"after it is open ({', '.join(f'{t:.0f}' for t in times)})\n")  # fmt: skip


def seeing(path: Path) -> None:
    """Tell how many pictures a second are unsqueezed and seen through a display."""
    film = open_source(path)
    with open_reader(film, Purpose.PLAY) as reader:
        frames = [f for _, f in reader.frames(0, 24)]
    print("| seen at 1000x560, pictures a second | parked | moving |\n|---|---|---|")
    for name in ("", CINEON, list(displays())[2]):
        display = display_of(name)

        def draw(display: object = display, quick: bool = False) -> None:
            for frame in frames:
                rgb_of(frame, 1000, 560, display=display, quick=quick)

        draw(quick=True)
        exact, quick = median(draw), median(lambda d=draw: d(quick=True))
        print(f"| {name or 'as it is'} | {len(frames) / exact:.0f} | {len(frames) / quick:.0f} |")
    print()


def folder_of_300_000() -> None:
    """Tell how long a folder of 300,000 stills takes to list."""
    with tempfile.TemporaryDirectory() as folder:
        for number in range(300_000):
            os.close(os.open(f"{folder}/K07_{number:07d}.dpx", os.O_CREAT | os.O_WRONLY))
        Path(folder, "K07_0000000.dpx").write_bytes(b"SDPX")
        seconds = median(lambda: arrived([folder]))
    print(f"A folder of 300,000 stills is listed in {seconds:.2f} s\n")


def fifty_in_a_row() -> None:
    """Tell what memory 50 films in a row take at most."""
    source = HOME / "minute.mp4"
    if not source.exists():
        source = hd()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(50):
            data = source.read_bytes()
            Path(folder, f"film-{number:02d}.mp4").write_bytes(data + bytes([number]) * 8)
        began = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "offcut.cli", "detect", folder, "--json", "--quiet"],
            check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            env={**os.environ, "XDG_CACHE_HOME": str(BENCH_CACHE / "fifty")},
        )  # fmt: skip
        seconds = time.perf_counter() - began
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(f"50 films in a row: {peak:.0f} MB at most, {seconds:.0f} s\n")


def main() -> None:
    """Run what is asked for, or all of it."""
    parts = {
        "measure": lambda: measuring(open_source(hd()), "1080p H.264"),
        "stills": lambda: measuring(open_source(two_k_run()), "2K DPX, 10 bit"),
        "look": lambda: looking(long_groups(), "1080p H.264, groups of 250"),
        "play": lambda: looking(two_k_run(), "2K DPX run, Cineon display"),
        "fill": lambda: filling(HOME / "minute.mp4"),
        "see": lambda: seeing(hd()),
        "folder": folder_of_300_000,
        "fifty": fifty_in_a_row,
    }
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", choices=[[], *parts], help="all of them otherwise")
    asked = parser.parse_args().parts or list(parts)
    _application(offscreen=True)
    try:
        for part in asked:
            parts[part]()
            sys.stdout.flush()
    finally:
        shutil.rmtree(BENCH_CACHE, ignore_errors=True)


if __name__ == "__main__":
    main()
