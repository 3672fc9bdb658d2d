"""Tally: a film held against another version of it, what changed told shot by shot."""

from offcut.app.commands.actions import Actions
from offcut.app.views.description import View, ViewContext, ViewPage
from offcut.app.views.tally.commands import commands


def _make(context: ViewContext, table: Actions) -> ViewPage:
    from offcut.app.views.tally.view import TallyView  # the change list takes a moment to load

    return TallyView(context, table)


VIEW = View("tally", "Tally", 5, _make, commands, slim=True, bare=True)
