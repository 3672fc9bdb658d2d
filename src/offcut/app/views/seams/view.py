"""The Seams view put together: list, picture, strip, buttons, reasons, side panel."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout

from offcut.app.commands.action_button import ActionButton
from offcut.app.commands.actions import Actions
from offcut.app.theme.parts import stacked
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.seams.drawers import Drawers
from offcut.app.views.seams.pair_view import PairView
from offcut.app.views.seams.reasons_panel import Reasons
from offcut.app.views.seams.seam_list import SeamList
from offcut.app.views.seams.strip import Strip


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
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.list)
        box.addWidget(bench, 1)
        box.addWidget(self.drawers)

    def restyle(self) -> None:
        """Take the theme in force."""
        for button in self.buttons:
            button.restyle()

    def keys_released(self) -> None:
        """A key that was held is let go."""
        self.pair.release_swap()

    def show_only_picture(self, only: bool) -> None:
        """Leave only the picture, or show everything."""
        for part in (self.list, self.strip, self.reasons, self.drawers, *self.buttons):
            part.setVisible(not only)
