"""The Seams view put together: list, picture, strip, buttons, reasons, side panel."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.theme.parts import stacked
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.seams.drawers import Drawers
from offcut.app.views.seams.edge_notes import EdgeNotes
from offcut.app.views.seams.pair_view import PairView
from offcut.app.views.seams.reasons_panel import Reasons
from offcut.app.views.seams.seam_list import SeamList
from offcut.app.views.seams.strip import Strip

EDGE_NOTES = "edge-notes"


class SeamsView(ViewPage):
    """Find, judge, mend."""

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        session = context.session
        self.list = SeamList(session, context.small, context.seam_actions)
        self.list.setFixedWidth(290)
        self.pair = PairView(session, context.large, context.player)
        # the strip's frames are decoded on the way to the large one
        self.strip = Strip(session, context.large, context.seam_actions)
        self.reasons = Reasons(session)
        self.drawers = Drawers(session, context.ranges, table.by_id)
        self.drawers.setFixedWidth(262)
        for part in (self.list, self.pair, self.drawers.ranges):
            part.menu_wanted.connect(self.menu_wanted)
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
        row = QHBoxLayout()
        row.setSpacing(6)
        for button, share in zip(self.buttons, (4, 3, 2, 2, 4, 4), strict=True):
            row.addWidget(button, share)
        middle.addLayout(row)
        middle.addWidget(self.reasons)
        self.facts = FactsInHand(session)
        self.notes = EdgeNotes(session, self.facts)
        self._settings = context.settings
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.notes)
        box = QHBoxLayout()
        box.setSpacing(0)
        whole.addLayout(box, 1)
        box.addWidget(self.list)
        box.addWidget(bench, 1)
        box.addWidget(self.drawers)
        self.show_notes(self._settings.value(EDGE_NOTES, False, bool) is True)

    def show_notes(self, shown: bool) -> None:
        """Show what is in the film under the rolls, and look for it; or neither."""
        self.notes.setVisible(shown)
        self.facts.want(shown)

    def turn_notes(self) -> None:
        """Show the edge notes where they are not, and the other way round."""
        shown = not self.notes.isVisibleTo(self)
        self._settings.setValue(EDGE_NOTES, shown)
        self.show_notes(shown)

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in self.buttons:
            button.restyle()

    def keys_released(self) -> None:
        """A key that was held is let go."""
        self.pair.release_swap()

    def show_only_picture(self, only: bool) -> None:
        """Leave only the picture, or show everything."""
        self.notes.setVisible(not only and self._settings.value(EDGE_NOTES, False, bool) is True)
        for part in (self.list, self.strip, self.reasons, self.drawers, *self.buttons):
            part.setVisible(not only)
