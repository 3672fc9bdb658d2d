"""What is done to seams: walking from one to the next, judging, mending."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Sequence

from offcut.app.session.session import Session
from offcut.core.model.kinds import spans
from offcut.core.model.project import Project
from offcut.core.model.seam import Kind, Seam, Standing
from offcut.core.model.shots import counted_seams
from offcut.core.model.verbs.cards import set_shot_aside
from offcut.core.model.verbs.folding import fold_shot
from offcut.core.model.verbs.judging import keep_seams, reopen_seams, strike_seams
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.rolling import roll_seam, roll_seam_to
from offcut.core.model.verbs.spans import USUAL_SPAN, one_cut_or_back, set_kind, set_span
from offcut.core.words import many

Judging = Callable[[Project, int, Iterable[int]], Project]
"""A verb that gives seams of a source another standing."""


class SeamActions:
    """Actions on the seam that is parked on or selected."""

    def __init__(self, session: Session) -> None:
        self._s = session

    def _target(self) -> Seam | None:
        seam = self._s.seam_here()
        if seam is not None:
            return seam
        chosen = self._s.selected_seams
        return chosen[0] if len(chosen) == 1 else None

    def _targets(self) -> tuple[Seam, ...]:
        """The selected seams when they are several, else the one parked on."""
        chosen = self._s.selected_seams
        if len(chosen) > 1:
            return chosen
        seam = self._target()
        return (seam,) if seam is not None else ()

    def _listed(self) -> tuple[Seam, ...]:
        """The seams that walking stops at: all counted ones, in the film's order."""
        return counted_seams(self._s.source) if self._s.source else ()

    # walking

    def next_seam(self, way: int) -> None:
        """Go to the seam after or before the playhead."""
        here = self._s.playhead
        seams = self._listed()
        if way > 0:
            at = bisect_right(seams, here, key=lambda s: s.frame)
        else:
            at = bisect_left(seams, here, key=lambda s: s.frame) - 1
        found = seams[at] if 0 <= at < len(seams) else None
        if found is None:
            self._s.said.emit("No seam " + ("after" if way > 0 else "before") + " this one")
        else:
            self._s.select(found.id)

    def next_doubtful(self, but: int | None = None) -> None:
        """Go to the most doubtful seam not judged yet."""
        doubts = [s for s in self._s.open_doubts if s.id != but]
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

    def _judge(self, verb: Judging, word: str) -> None:
        seams = self._targets()
        if not seams:
            self._s.said.emit("Park on a seam first: up and down go from seam to seam")
            return
        if len(seams) > 1:
            self.judge_many(verb, word, seams)
            return
        seam = seams[0]
        followed = self._following(seam)
        words = f"{word} the seam at {self._s.words_of(seam.frame)}"
        self._s.edit(lambda p, s: verb(p, s, [seam.id]), words, seam.frame)
        self._s.select(followed.id if followed is not None else seam.id)

    def judge_many(
        self,
        verb: Judging,
        word: str,
        seams: Sequence[Seam],
    ) -> None:
        """Keep, strike or re-open several seams as one edit."""
        ids = [s.id for s in seams]
        words = f"{word} {many(len(ids), 'seam')}"
        if not ids or not self._s.edit(lambda p, s: verb(p, s, ids), words, seams[0].frame):
            self._s.said.emit("Nothing to change")

    def _following(self, seam: Seam) -> Seam | None:
        """The open seam after this one in the list of doubts, or the first open one."""
        doubts = self._s.open_doubts
        at = next((i for i, s in enumerate(doubts) if s.id == seam.id), None)
        rest = doubts if at is None else doubts[at + 1 :] + doubts[:at]
        return next((s for s in rest if s.id != seam.id), None)

    def reopen(self) -> None:
        """Take decisions back."""
        seams = [s for s in self._targets() if s.standing is not Standing.OPEN]
        if len(seams) == 1:
            words = f"Re-open the seam at {self._s.words_of(seams[0].frame)}"
            self._s.edit(lambda p, s: reopen_seams(p, s, [seams[0].id]), words, seams[0].frame)
        elif seams:
            self.judge_many(reopen_seams, "Re-open", seams)

    def select_all(self) -> None:
        """Select every seam in the list."""
        self._s.select_many(s.id for s in self._s.doubts)

    # mending

    def roll(self, frames: int) -> None:
        """Roll the seam and go along with it."""
        seam = self._target()
        if seam is None:
            self._s.said.emit("Park on a seam to roll it")
            return
        way = "later" if frames > 0 else "earlier"
        words = f"Roll the seam at {self._s.words_of(seam.frame)} a frame {way}"
        if self._s.edit(lambda p, s: roll_seam(p, s, seam.id, frames), words, seam.frame):
            self._s.select(seam.id)
        else:
            self._s.said.emit("It cannot be rolled past its neighbour")

    def roll_to(self, frame: int) -> None:
        """Roll the seam to a frame, or as near as its neighbours allow."""
        seam = self._target()
        if seam is None:
            self._s.said.emit("Park on a seam to roll it")
            return
        words = f"Roll the seam at {self._s.words_of(seam.frame)} to {self._s.words_of(frame)}"
        if self._s.edit(lambda p, s: roll_seam_to(p, s, seam.id, frame), words, seam.frame):
            self._s.select(seam.id)
        else:
            self._s.said.emit("It cannot be rolled past its neighbour")

    def move_edge(self, first: int, last: int) -> None:
        """Move the first mixed and the first clean frame of a gradual seam by so many frames."""
        seam = self._target()
        if seam is None or not spans(seam.kind):
            self._s.said.emit("Park on a dissolve, a fade, a wipe or a whip to change its span")
            return
        start, end = seam.start + first, seam.end + last
        self.set_span(seam, start, end)

    def set_span(self, seam: Seam, start: int, end: int) -> None:
        """Give a gradual seam another span, and go along with its middle."""
        words = f"Change the span of the {seam.kind.value} at {self._s.words_of(seam.frame)}"
        if self._s.edit(lambda p, s: set_span(p, s, seam.id, start, end), words, seam.frame):
            self._s.select(seam.id)

    def one_cut(self) -> None:
        """Make a gradual seam one cut at its middle, or such a cut what it was before."""
        seam = self._target()
        if seam is None:
            self._s.said.emit("Park on a seam first")
            return
        back = seam.former.kind if seam.former else Kind.DISSOLVE
        what = "one cut" if spans(seam.kind) else f"a {back.value}"
        words = f"Make the seam at {self._s.words_of(seam.frame)} {what}"
        if self._s.edit(lambda p, s: one_cut_or_back(p, s, seam.id), words, seam.frame):
            self._s.select(seam.id)

    def set_kind(self, kind: Kind) -> None:
        """Make the seams another kind."""
        seams = self._targets()
        ids = [s.id for s in seams]
        what = "the seam" if len(ids) == 1 else many(len(ids), "seam")
        words = f"Make {what} a {kind.value}"
        if ids and self._s.edit(lambda p, s: set_kind(p, s, ids, kind), words, seams[0].frame):
            self._s.selection_changed.emit()

    def place(self) -> None:
        """Place a cut at the playhead and park on it."""
        self._place(Kind.CUT, 0)

    def place_gradual(self) -> None:
        """Place a dissolve over the marked range, or half a second about the playhead."""
        marked = self._s.marked
        if marked is None:
            self._place(Kind.DISSOLVE, USUAL_SPAN)
            return
        self._s.go_to((marked[0] + marked[1]) // 2)
        self._place(Kind.DISSOLVE, marked[1] - marked[0])

    def _place(self, kind: Kind, span: int) -> None:
        frame = self._s.playhead
        words = f"Place a {kind.value} at {self._s.words_of(frame)}"
        if self._s.edit(lambda p, s: place_seam(p, s, frame, kind=kind, span=span), words, frame):
            seam = self._s.seam_here()
            self._s.select(seam.id if seam else None)

    def fold(self, way: int = -1) -> None:
        """Fold the shot under the playhead into the one before it, or after it."""
        shot = self._s.shot_here()
        if shot is None:
            return
        frame = self._s.playhead
        words = f"Fold {shot.title.lower()} into the shot {'after' if way > 0 else 'before'}"
        self._s.edit(lambda p, s: fold_shot(p, s, frame, way), words, frame)

    def set_aside(self) -> None:
        """Set the shot under the playhead aside, or take it back."""
        shot = self._s.shot_here()
        if shot is None:
            return
        frame, aside = self._s.playhead, not shot.card.set_aside
        words = f"Set {shot.title.lower()} aside" if aside else f"Take {shot.title.lower()} back"
        self._s.edit(lambda p, s: set_shot_aside(p, s, frame, aside), words, frame)

    def step(self, frames: int) -> None:
        """Step the playhead."""
        self._s.go_to(self._s.playhead + frames)
