"""What the keys of the Seams view do: walking from seam to seam, judging, mending."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from offcut.app.session import Session
from offcut.core.model.project import Project, Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.verbs import (
    fold_shot,
    keep_seams,
    place_seam,
    reopen_seams,
    roll_seam,
    set_shot_aside,
    strike_seams,
)


class Hands:
    """Actions on the seam that is parked on or selected."""

    def __init__(self, session: Session) -> None:
        self._s = session

    def _target(self) -> Seam | None:
        seam = self._s.seam_here()
        if seam is not None:
            return seam
        if self._s.source is None or len(self._s.selected) != 1:
            return None
        chosen = self._s.selected[0]
        return next((s for s in self._s.source.seams if s.id == chosen), None)

    def _listed(self) -> list[Seam]:
        """The seams that walking stops at: all counted ones, in the film's order."""
        return list(counted_seams(self._s.source)) if self._s.source else []

    # walking

    def next_seam(self, way: int) -> None:
        """Go to the seam after or before the playhead."""
        here = self._s.playhead
        seams = self._listed()
        if way > 0:
            found = next((s for s in seams if s.frame > here), None)
        else:
            found = next((s for s in reversed(seams) if s.frame < here), None)
        if found is None:
            self._s.said.emit("No seam " + ("after" if way > 0 else "before") + " this one")
        else:
            self._s.select(found.id)

    def next_doubtful(self, but: int | None = None) -> None:
        """Go to the most doubtful seam not judged yet."""
        doubts = [s for s in self._s.doubts if not s.judged and s.id != but]
        selected = self._s.selected[0] if self._s.selected else None
        if selected is not None and but is None:
            at = next((i for i, s in enumerate(doubts) if s.id == selected), -1)
            doubts = doubts[at + 1 :] or doubts
        if not doubts:
            self._s.said.emit("Every seam is judged")
            return
        self._s.select(doubts[0].id)

    # judging

    def keep(self) -> None:
        """Keep the seam and go on to the next doubtful one."""
        self._judge(keep_seams, "Keep")

    def strike(self) -> None:
        """Strike the seam and go on to the next doubtful one."""
        self._judge(strike_seams, "Strike")

    def _judge(self, verb: Callable[[Project, Iterable[int]], Project], word: str) -> None:
        seam = self._target()
        if seam is None:
            self._s.said.emit("Park on a seam first: up and down go from seam to seam")
            return
        followed = self._following(seam)
        words = f"{word} the seam at {self._s.words_of(seam.frame)}"
        self._s.edit(lambda p: verb(p, [seam.id]), words, seam.frame)
        if followed is not None:
            self._s.select(followed.id)
        else:
            self._s.select(seam.id)

    def _following(self, seam: Seam) -> Seam | None:
        """The open seam after this one in the list of doubts, or the first open one."""
        doubts = [s for s in self._s.doubts if not s.judged]
        at = next((i for i, s in enumerate(doubts) if s.id == seam.id), None)
        rest = doubts if at is None else doubts[at + 1 :] + doubts[:at]
        return next((s for s in rest if s.id != seam.id), None)

    def reopen(self) -> None:
        """Take a decision back."""
        seam = self._target()
        if seam is not None and seam.standing is not Standing.OPEN:
            words = f"Re-open the seam at {self._s.words_of(seam.frame)}"
            self._s.edit(lambda p: reopen_seams(p, [seam.id]), words, seam.frame)

    # mending

    def roll(self, frames: int) -> None:
        """Roll the seam and go along with it."""
        seam = self._target()
        if seam is None:
            self._s.said.emit("Park on a seam to roll it")
            return
        way = "later" if frames > 0 else "earlier"
        words = f"Roll the seam at {self._s.words_of(seam.frame)} a frame {way}"
        if self._s.edit(lambda p: roll_seam(p, seam.id, frames), words, seam.frame):
            self._s.select(seam.id)
        else:
            self._s.said.emit("It cannot be rolled past its neighbour")

    def place(self) -> None:
        """Place a cut at the playhead and park on it."""
        frame = self._s.playhead
        words = f"Place a cut at {self._s.words_of(frame)}"
        if self._s.edit(lambda p: place_seam(p, frame), words, frame):
            seam = self._s.seam_here()
            self._s.select(seam.id if seam else None)

    def fold(self) -> None:
        """Fold the shot under the playhead into the one before it."""
        shot = self._s.shot_here()
        if shot is None:
            return
        frame = self._s.playhead
        self._s.edit(lambda p: fold_shot(p, frame), f"Fold {shot.title.lower()}", frame)

    def set_aside(self) -> None:
        """Set the shot under the playhead aside, or take it back."""
        shot = self._s.shot_here()
        if shot is None:
            return
        frame, aside = self._s.playhead, not shot.words.set_aside
        words = f"Set {shot.title.lower()} aside" if aside else f"Take {shot.title.lower()} back"
        self._s.edit(lambda p: set_shot_aside(p, frame, aside), words, frame)

    def step(self, frames: int) -> None:
        """Step the playhead."""
        self._s.go_to(self._s.playhead + frames)
