"""A process that forks workers on request, so that many can be killed without importing anew.

    python nursery.py WORKER

``WORKER`` is a name in `WORKERS`. Each line on standard input is a JSON list of the worker's
arguments, the first of them a FIFO that the worker writes its words to; each answer is the
worker's process number.
"""

from __future__ import annotations

import ctypes
import json
import os
import random
import select
import signal
import struct
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

from projects import cut_film

_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG, prctl(2)


def keep_and_save(say: Callable[[str], None], folder: str, file: str) -> None:
    """Keep work aside and save it, again and again, as fast as the disk allows."""

    from offcut.core.model.verbs.sources import name_project
    from offcut.core.store.project_file import save_project
    from offcut.core.store.recovery import Recovery

    project = cut_film(25, False)  # type: ignore[arg-type]
    recovery = Recovery(Path(folder))
    n = 0
    while True:
        n += 1
        project = name_project(project, f"edit {n}")
        recovery.keep(project, Path(file))
        say(f"{n} kept")
        if n % 3 == 0:
            save_project(project, file)
            say(f"{n} saved")


def work_in_window(say: Callable[[str], None], state: str, file: str, seed: int) -> None:
    """Edit, save, search, hand over, make proxies and bring films in, thirty times a second."""
    for name in ("XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_CONFIG_HOME"):
        os.environ[name] = str(Path(state, name))
    from PySide6.QtCore import QSettings, QTimer
    from PySide6.QtWidgets import QApplication

    from offcut.app.shell.window import Window
    from offcut.app.theme import load_fonts
    from offcut.core.model.handover import Asked
    from offcut.core.model.verbs.judging import keep_seams, strike_seams
    from offcut.core.model.verbs.placing import place_seam
    from offcut.core.model.verbs.sources import name_project
    from offcut.core.turnover.plan import plan_of
    from offcut.core.turnover.writing import hand_over

    app = QApplication(["offcut"])
    load_fonts()
    window = Window(QSettings(f"{state}/settings.ini", QSettings.Format.IniFormat))
    window.show()
    session = window.session
    rng = random.Random(seed)
    done = 0

    def one_more() -> None:
        nonlocal done
        source = session.source
        if session.film is None or source is None or not source.seams:
            return
        done += 1
        some = rng.choice(source.seams)
        act = rng.choice(
            [
                lambda p, i: keep_seams(p, i, [some.id]),
                lambda p, i: strike_seams(p, i, [some.id]),
                lambda p, i: place_seam(p, i, rng.randrange(1, source.media.frames)),
            ]
        )
        session.edit(lambda p, i: name_project(act(p, i), f"edit {done}"), f"edit {done}")
        say(f"{done} {time.monotonic()}")
        if rng.random() < 0.1:
            window.files.save()
        if rng.random() < 0.05:
            window.search.find(session.in_hand)
        if rng.random() < 0.05:
            hand_over_all()
        if rng.random() < 0.03:
            window.search.make_proxies([source.id])
        if rng.random() < 0.02 and len(session.project.sources) < 3:
            more = Path(state, f"more-{done}.mp4")
            end = struct.pack(">I4sQ", 16, b"free", done)  # a box that says nothing: another film
            more.write_bytes(Path(source.media.path).read_bytes() + end)
            window.files.open_films([more], stay=True)

    def hand_over_all() -> None:
        project, film = session.project, session.film
        asked = Asked(source=session.in_hand, lists=("edl", "otio"), movies="ffv1", stills="first")
        session.work(
            "Handing over",
            lambda job: hand_over(
                plan_of(project, asked),
                Path(state, "out"),
                {asked.source: film},
                overwrite=True,
                stop=job.stop,
            ),
        )

    timer = QTimer()
    timer.timeout.connect(one_more)
    timer.start(33)
    window.files.open_project(file)
    app.exec()


def search(say: Callable[[str], None], cache: str, film: str) -> None:
    """Measure a film, telling how far it is."""
    os.environ["XDG_CACHE_HOME"] = cache
    from offcut.core.errands.seams import find_seams
    from offcut.core.measure import ranges
    from offcut.core.media.probe import open_source

    ranges.KEPT_PIECE = 128  # a short film, and many pieces
    find_seams(open_source(film), progress=lambda done, _whole: say(str(done)))


WORKERS: dict[str, Callable[..., None]] = {
    "keep_and_save": keep_and_save,
    "work_in_window": work_in_window,
    "search": search,
}


@dataclass
class Worker:
    """One that lives until it is killed; ``words`` is what it says, line by line."""

    pid: int
    words: TextIO

    def kill(self) -> tuple[list[str], float]:
        """Kill it and wait until it is gone; return its last words and when that was."""
        with os.fdopen(os.pidfd_open(self.pid)) as handle:
            when = time.monotonic()
            os.kill(self.pid, signal.SIGKILL)
            select.select([handle], [], [])
        lines = [w for w in self.words.read().split("\n")[:-1] if w]
        self.words.close()
        return lines, when


@contextmanager
def nursery(worker: str, folder: Path) -> Iterator[Callable[..., Worker]]:
    """Start a nursery; yields what starts a worker with its arguments."""
    here = Path(__file__).parent
    process = subprocess.Popen(
        [sys.executable, __file__, worker],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": str(here)},
    )
    assert process.stdin is not None
    assert process.stdout is not None
    stdin, stdout = process.stdin, process.stdout
    born = 0

    def start(*words: object) -> Worker:
        nonlocal born
        born += 1
        fifo = folder / f"words-{born}"
        os.mkfifo(fifo)
        stdin.write(json.dumps([str(fifo), *words], default=str) + "\n")
        stdin.flush()
        return Worker(int(stdout.readline()), fifo.open())

    try:
        yield start
    finally:
        stdin.close()
        process.wait()
        stdout.close()


def main() -> None:
    """Fork a worker for each line."""
    work = WORKERS[sys.argv[1]]

    import offcut.app.shell.window
    import offcut.core.measure.kept_signals  # noqa: F401

    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # the dead are taken away at once
    for line in sys.stdin:
        fifo, *words = json.loads(line)
        pid = os.fork()
        if pid:
            print(pid, flush=True)
            continue
        ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
        out = os.open(fifo, os.O_WRONLY)
        work(lambda text, out=out: os.write(out, f"{text}\n".encode()), *words)
        signal.pause()  # whoever is done waits to be killed


if __name__ == "__main__":
    main()
