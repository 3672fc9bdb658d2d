"""Rhythm: how a film is paced; a skyline, lanes, charts and figures, beside any other."""

from offcut.app.commands.actions import Actions
from offcut.app.views.description import View, ViewContext, ViewPage
from offcut.app.views.rhythm.commands import commands


def _make(context: ViewContext, table: Actions) -> ViewPage:
    from offcut.app.views.rhythm.view import RhythmView  # charts take a second to load

    return RhythmView(context, table)


VIEW = View("rhythm", "Rhythm", 4, _make, commands, slim=True)
