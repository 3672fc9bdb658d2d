"""The Seams view put together: list, picture, strip, buttons, reasons, side panel."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.shared.back_to_back import PlayedStretch
from offcut.app.shared.playing_pane import PlayingPane
from offcut.app.theme.parts import in_line, label, stacked
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.seams.contents_drawer import ContentsDrawer
from offcut.app.views.seams.drawers import Drawers
from offcut.app.views.seams.edge_notes import EdgeNotes
from offcut.app.views.seams.found_list import FoundList
from offcut.app.views.seams.left_side import LeftSide
from offcut.app.views.seams.pair_view import PairView
from offcut.app.views.seams.reasons_panel import Reasons
from offcut.app.views.seams.seam_list import SeamList
from offcut.app.views.seams.strip import Strip
from offcut.core.facts.fact_words import fact_words

EDGE_NOTES, FOUND = "edge-notes", "found-shown"
_FOUND_WORDS = (
    "A note stands on the film's edge where it is true, from frame to frame. One click goes there,"
    " two mark its range; with Ctrl several are chosen, with Shift a whole stretch of a lane."
    " What is not sure is dotted, or left out."
)


class SeamsView(ViewPage):
    """Find, judge, mend."""

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        session = context.session
        self.list = SeamList(session, context.small, context.seam_actions)
        self.found = FoundList(session, context.facts)
        self.left = LeftSide(self.list, self.found)
        self.left.setFixedWidth(290)
        self.pair = PairView(session, context.large, context.player)
        # the strip's frames are decoded on the way to the large one
        self.strip = Strip(session, context.large, context.seam_actions)
        self.reasons = Reasons(session)
        self.contents = ContentsDrawer(session, context.facts, context.small)
        self.drawers = Drawers(session, context.ranges, table.by_id, self.contents)
        self.drawers.setFixedWidth(262)
        self.facts = context.facts
        self.notes = EdgeNotes(session, self.facts, context.settings)
        for asks in (self.list, self.found, self.notes, self.pair, self.drawers.ranges):
            asks.menu_wanted.connect(self.menu_wanted)
        bench, middle = stacked((14, 14, 14, 10), 10, look="bench")
        middle.addWidget(self.pair, 1)
        middle.addWidget(self.strip)
        self.buttons = [
            ActionButton(table, "keep", "Keep", True),
            ActionButton(table, "strike", "Strike"),
            ActionButton(table, "roll-earlier", "Roll"),
            ActionButton(table, "roll-later", "Roll"),
            ActionButton(table, "place", "Place here"),
            ActionButton(table, "play", "Play"),
        ]
        self.seam_row, row = in_line(spacing=6)
        for button, share in zip(self.buttons, (4, 3, 2, 2, 4, 4), strict=True):
            row.addWidget(button, share)
        middle.addWidget(self.seam_row)
        middle.addWidget(self.reasons)
        self.found_buttons = [
            ActionButton(table, "found-play", "Play these", True),
            ActionButton(table, "found-shots", "Make shots"),
            ActionButton(table, "found-order", "Into an order"),
            ActionButton(table, "found-aside", "Set aside"),
            ActionButton(table, "found-markers", "Markers"),
        ]
        self.found_row, row = in_line(spacing=6)
        for button, share in zip(self.found_buttons, (5, 6, 4, 4, 3), strict=True):
            row.addWidget(button, share)
        middle.addWidget(self.found_row)
        self.found_words = label(_FOUND_WORDS, "faint")
        self.found_words.setWordWrap(True)
        self.found_words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.found_words.setMinimumHeight(38)
        middle.addWidget(self.found_words)
        self._settings = context.settings
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.notes)
        box = QHBoxLayout()
        box.setSpacing(0)
        whole.addLayout(box, 1)
        box.addWidget(self.left)
        box.addWidget(self.drawers)
        self.playing = PlayingPane(session)
        self._player, self._large, self._s = context.player, context.large, session
        self.over = QStackedWidget()
        self.over.addWidget(bench)
        self.over.addWidget(self.playing)
        self.playing.over.connect(lambda: self.over.setCurrentWidget(bench))
        box.insertWidget(1, self.over, 1)
        self.left.turned.connect(self._turned)
        self.facts.chosen_changed.connect(self._show_chosen)
        for part in self._only_found():
            part.hide()
        self._show_chosen()
        self.show_notes(self._settings.value(EDGE_NOTES, False, bool) is True)
        if self._settings.value(FOUND, False, bool) is True:
            self.left.turn(True)

    def _only_found(self) -> tuple[QWidget, ...]:
        return self.found_row, self.found_words

    def _only_seams(self) -> tuple[QWidget, ...]:
        return self.strip, self.seam_row, self.reasons

    def _turned(self, to_found: bool) -> None:
        """Show what is done with what was found, or with seams."""
        self._settings.setValue(FOUND, to_found)
        for part in self._only_found():
            part.setVisible(to_found)
        for part in self._only_seams():
            part.setVisible(not to_found)
        self.facts.want("list", to_found)

    def turn_found(self) -> None:
        """List what was found where the seams are listed, and the other way round."""
        self.left.turn(not self.left.shows_found)

    def _show_chosen(self) -> None:
        count = len(self.facts.chosen)
        self.found_buttons[0].say(f"Play these {count}" if count else "Play these")
        for button in self.found_buttons:
            button.setEnabled(bool(count))

    def play_chosen(self) -> None:
        """Play what is chosen one after another, or stop."""
        source = self._s.source
        if self.playing.player.playing:
            self.stop_playing()
            return
        if source is None or not self.facts.chosen:
            self._s.said.emit("Choose something that was found first")
            return
        stretches = [
            PlayedStretch(source, f.start, f.end, fact_words(f)[:1].upper() + fact_words(f)[1:],
                          self._s.film)
            for f in self.facts.chosen
        ]  # fmt: skip
        self._player.stop()
        self.playing.player.use_proxy = self._large.use_proxy
        self.playing.player.proxy_folder = self._s.room.proxy_folder
        self.over.setCurrentWidget(self.playing)
        self.playing.play(stretches)

    def stop_playing(self) -> None:
        """Stop what plays one after another."""
        self.playing.player.stop()

    def close_pictures(self) -> None:
        """End the threads of what plays."""
        self.playing.player.close()

    def show_notes(self, shown: bool) -> None:
        """Show what is in the film under the rolls, and look for it; or neither."""
        self.notes.setVisible(shown)
        self.facts.want("notes", shown)

    def turn_notes(self) -> None:
        """Show the edge notes where they are not, and the other way round."""
        shown = not self.notes.isVisibleTo(self)
        self._settings.setValue(EDGE_NOTES, shown)
        self.show_notes(shown)

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in (*self.buttons, *self.found_buttons):
            button.restyle()
        self.found.list.viewport().update()

    def keys_released(self) -> None:
        """A key that was held is let go."""
        self.pair.release_swap()

    def show_only_picture(self, only: bool) -> None:
        """Leave only the picture, or show everything."""
        self.notes.setVisible(not only and self._settings.value(EDGE_NOTES, False, bool) is True)
        found = self.left.shows_found
        for part in (
            self.left,
            self.drawers,
            *(self._only_found() if found else self._only_seams()),
        ):
            part.setVisible(not only)
