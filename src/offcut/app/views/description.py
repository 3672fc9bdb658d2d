"""How a view describes itself to the shell, and what it is given."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QPoint, QSettings, Signal
from PySide6.QtWidgets import QWidget

from offcut.app.commands.actions import Actions, Command
from offcut.app.commands.fact_actions import FactActions
from offcut.app.commands.range_and_markers import RangeAndMarkers
from offcut.app.commands.seam_actions import SeamActions
from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.app.shared.pictures_in_hand import PicturesInHand
from offcut.app.shared.player import Player


@dataclass(frozen=True)
class ViewContext:
    """What every view may use: the session and what acts on it, pictures, settings.

    ``bring_beside`` brings films in while the one in hand stays in hand.
    """

    session: Session
    settings: QSettings
    search: SeamSearch
    player: Player
    large: PicturesInHand
    small: PicturesInHand
    seam_actions: SeamActions
    ranges: RangeAndMarkers
    facts: FactsInHand
    fact_actions: FactActions
    bring_beside: Callable[[list[str]], None]


class ViewPage(QWidget):
    """The widget of a view. What it does not redefine does nothing.

    ``menu_wanted`` tells of what kind of thing a menu is asked for (a row of `MENUS`), and where on
    the screen. Attributes: ``takes_keys`` True where `take_keys` gives the keys to its pictures;
    else the ribbon has them.
    """

    menu_wanted = Signal(str, QPoint)
    takes_keys = False

    def take_keys(self) -> None:
        """Give the keys to its pictures."""

    def restyle(self) -> None:
        """Follow another theme."""

    def keys_released(self) -> None:
        """Hear that a key was let go."""

    def stop_playing(self) -> None:
        """Stop what moves in it."""

    def close_pictures(self) -> None:
        """End the threads that make its pictures: the window closes."""


@dataclass(frozen=True)
class View:
    """One view: its id, its title, and its place in the order of the work (Ctrl+``place``).

    ``make`` makes its page when it is first opened. ``commands`` are its own; they are given
    what opens the view and returns that page. ``slim`` True folds the ribbon, so that the view
    has the room; ``bare`` True leaves it out, where the view draws the film itself.
    """

    id: str
    title: str
    place: int
    make: Callable[[ViewContext, Actions], ViewPage]
    commands: Callable[[ViewContext, Callable[[], Any]], list[Command]]
    slim: bool = False
    bare: bool = False
