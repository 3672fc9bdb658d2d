"""The Intake view: bring films in, say what is true of them, put them to work."""

from offcut.app.views.description import View
from offcut.app.views.intake.commands import commands
from offcut.app.views.intake.view import IntakeView

VIEW = View("intake", "Intake", 1, IntakeView, commands, slim=True)
