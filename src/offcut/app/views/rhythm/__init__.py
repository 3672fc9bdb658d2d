"""Rhythm: how a film is paced; a skyline, lanes, charts and figures, beside any other."""

from offcut.app.views.description import View
from offcut.app.views.rhythm.commands import commands
from offcut.app.views.rhythm.view import RhythmView

VIEW = View("rhythm", "Rhythm", 4, RhythmView, commands, slim=True)
