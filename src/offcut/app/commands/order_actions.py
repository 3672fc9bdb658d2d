"""Picking by hand: what is marked is kept as a piece in the running order in hand."""

from __future__ import annotations

from offcut.app.session.session import Session
from offcut.core.board.order_from_list import order_from_list
from offcut.core.lists.incoming import ReadList
from offcut.core.model.orders import frames_of, uses_of
from offcut.core.model.project import Project
from offcut.core.model.verbs.orders import add_order, keep_piece, order_to_fill, put_uses
from offcut.core.timecode import length_words
from offcut.core.words import many


class OrderActions:
    """What fills running orders from any view."""

    def __init__(self, session: Session) -> None:
        self._s = session

    def keep_piece(self) -> None:
        """Keep the marked range as a piece, and clear the marks for the next one."""
        s, marked = self._s, self._s.marked
        if marked is None or s.source is None:
            s.said.emit("Mark a range first: I where it begins, O where it ends")
            return
        source_id, in_hand = s.in_hand, s.order_id

        def verb(project: Project) -> Project:
            project, order_id = order_to_fill(project, in_hand, "Picked by hand")
            return keep_piece(project, order_id, source_id, *marked)

        words = f"Keep {s.words_of(marked[0])} to {s.words_of(marked[1])} as a piece"
        if not s.edit_project(verb, words):
            return
        order_id = order_to_fill(s.project, in_hand)[1]
        s.take_order(order_id)
        s.mark(None, None)
        now = s.project.order(order_id)
        whole = frames_of(uses_of(s.project, now))
        length = length_words(whole, s.source.media.rate)
        s.said.emit(f"{words}: {many(len(now.uses), 'shot')}, {length} in {now.name}")

    def read_as_order(self, listed: ReadList) -> None:
        """Make a running order of a whole list, and take it in hand."""
        s = self._s
        got = order_from_list(s.project, listed)
        if not got.uses:
            s.failed.emit(f"{listed.name}: none of its events is of a film of this project")
            return
        made = s.project.next_id
        name = listed.title or listed.name.rsplit(".", 1)[0]

        def verb(project: Project) -> Project:
            return put_uses(add_order(project, name), made, got.uses)

        if s.edit_project(verb, f"Read {listed.name} as a running order"):
            s.take_order(made)
            words = f"{many(len(got.uses), 'event')} of {listed.name} are in {name}"
            left = f"; {many(len(got.left), 'event')} left out: {got.left[0]}" if got.left else ""
            s.said.emit(f"{words}{left}")
