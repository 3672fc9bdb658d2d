"""The Turnover view: what goes, what it becomes, what a check found and what will be written."""

from offcut.app.views.description import View
from offcut.app.views.turnover.commands import commands
from offcut.app.views.turnover.view import TurnoverView

VIEW = View("turnover", "Turnover", 6, TurnoverView, commands)
