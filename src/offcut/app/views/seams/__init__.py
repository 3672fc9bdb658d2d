"""The Seams view: find, judge, mend."""

from offcut.app.views.description import View
from offcut.app.views.seams.commands import commands
from offcut.app.views.seams.view import SeamsView

VIEW = View("seams", "Seams", 2, SeamsView, commands)
