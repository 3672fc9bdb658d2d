"""What the window holds: the demo with each view visited, a long day at it, and two hundred films.

python bench/holding.py                     all three
python bench/holding.py demo day films      these
python bench/holding.py day --actions 3000  so many doings

Each runs in a process with folders of its own. Prints what is held now and the most so far, in MB.
"""

from __future__ import annotations

import argparse
import os
import random
import struct
import subprocess
import sys
import tempfile
import traceback
from pathlib import Path

import av  # first, as Offcut has it

from errand_hand import Hand
from offcut.app.shell.main import put_demo_beside, put_demo_cards
from offcut.core.model.verbs.judging import keep_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.demo import FILM

VIEWS = ("intake", "seams", "board", "rhythm", "tally", "turnover")
FILMS = 200


def held(where: str) -> None:
    """Print what is held."""
    status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
    now, most = (int(status[k].split()[0]) // 1024 for k in ("VmRSS", "VmHWM"))
    print(f"  {where}: {now} MB, {most} at most", flush=True)


def with_demo() -> Hand:
    """Open the demo as it opens at first use, and wait until all is found."""
    hand = Hand()
    held("an empty window")
    put_demo_beside(hand.window)
    hand.window.files.open_films([FILM])
    put_demo_cards(hand.window)
    hand.turn(3)
    hand.found()
    hand.quiet(600)
    held("the demo, found")
    return hand


def visit(hand: Hand, *, wait: bool = True) -> None:
    """Visit each view, and ``wait`` until what it works out is there."""
    for name in VIEWS:
        hand.window.open_view(name)
        hand.turn(2)
        if wait:
            hand.quiet(600)


def demo(_actions: int) -> None:
    """The demo at first use."""
    hand = with_demo()
    visit(hand)
    hand.turn(6)
    held("each view visited")


def day(actions: int) -> None:
    """A long day: so many doings, as fast as the window takes them."""
    hand, dice = with_demo(), random.Random(5)
    visit(hand)
    hand.turn(6)
    held("each view visited")
    w, s = hand.window, hand.window.session

    def edit() -> None:
        source = s.source
        if source is None or not source.seams:
            return
        seam, frame = dice.choice(source.seams), dice.randrange(1, source.media.frames)
        verb = dice.choice(
            [
                lambda p, i: keep_seams(p, i, [seam.id]),
                lambda p, i: strike_seams(p, i, [seam.id]),
                lambda p, i: place_seam(p, i, frame),
            ]
        )
        s.edit(verb, "A doing")

    def look() -> None:
        if s.source is not None:
            s.go_to(dice.randrange(s.source.media.frames))

    doings = [
        *[edit] * 4, *[look] * 12, *[s.undo] * 2, s.redo, lambda: s.step_film(1),
        lambda: w.open_view(dice.choice(VIEWS)), w.player.toggle,
    ]  # fmt: skip
    for n in range(1, actions + 1):
        dice.choice(doings)()
        hand.turn(0.05)
        if n % max(1, actions // 4) == 0:
            w.player.stop()
            hand.turn(3)
            held(f"{n:,} doings")


def films(_actions: int) -> None:
    """Two hundred films brought in, searched, and shown."""
    folder = Path(tempfile.mkdtemp(prefix="offcut-holding-"))
    few = folder / "few.mp4"
    with av.open(str(FILM)) as whole, av.open(str(few), "w") as out:
        stream = whole.streams.video[0]
        to = out.add_stream_from_template(stream)
        for packet in whole.demux(stream):
            if packet.pts is None or packet.pts * stream.time_base > 20:
                break
            packet.stream = to
            out.mux(packet)
    data = few.read_bytes()
    few.unlink()
    for n in range(FILMS):
        end = struct.pack(">I4sQ", 16, b"free", n)  # a box that says nothing: another film
        (folder / f"reel-{n:03d}.mp4").write_bytes(data + end)
    hand = Hand()
    hand.window.open_view("intake")
    hand.window.files.open_films([folder])
    hand.until(lambda: len(hand.window.session.project.sources) == FILMS, "all there", 300)
    held(f"{FILMS} films brought in")
    hand.found()
    hand.quiet()
    held("all of them searched")
    visit(hand, wait=False)  # the Board looks at the shots of all of them for minutes
    for _ in range(FILMS):
        hand.window.session.step_film(1)
        hand.turn(0.05)
    hand.turn(6)
    held("each view and each film visited")


PARTS = {"demo": demo, "day": day, "films": films}


def main() -> None:
    """Run each part in a process of its own."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", metavar="PART")
    parser.add_argument("--actions", type=int, default=3000)
    call = parser.parse_args()
    if os.environ.get("OFFCUT_HOLDING"):
        try:
            PARTS[call.parts[0]](call.actions)
        except BaseException:
            traceback.print_exc()  # the window has a hook of its own
            os._exit(1)
        sys.stdout.flush()
        os._exit(0)
    for part in call.parts or PARTS:
        print(f"{part}:", flush=True)
        with tempfile.TemporaryDirectory() as home:
            own = {f"XDG_{n}_HOME": f"{home}/{n}" for n in ("CACHE", "CONFIG", "DATA", "STATE")}
            own |= {"QT_QPA_PLATFORM": "offscreen", "OFFCUT_HOLDING": "1"}
            words = [sys.executable, __file__, part, "--actions", str(call.actions)]
            subprocess.run(words, env={**os.environ, **own}, check=True)


if __name__ == "__main__":
    main()
