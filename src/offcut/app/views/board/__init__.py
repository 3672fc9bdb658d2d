"""The Board: name, sort, set aside, pick and order; a trim bin, a sheet and a table."""

from offcut.app.views.board.commands import commands
from offcut.app.views.board.view import BoardView
from offcut.app.views.description import View

VIEW = View("board", "Board", 3, BoardView, commands, slim=True)
