"""The one list of commands as Qt actions: menus, buttons, tooltips, finder and sheet read it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget


@dataclass(frozen=True)
class Command:
    """One thing a person can do: a stable id, its words, its keys, its group, what it does.

    ``keys`` are the ones it comes with; a person may change them. ``when`` tells whether it
    makes sense now, and is asked only where there is a film if ``needs_film``. Keys of a command
    of one ``view`` are in force while that view is open, and go before those of all views.
    """

    id: str
    words: str
    keys: tuple[str, ...]
    group: str
    run: Callable[[], object]
    needs_film: bool = True
    when: Callable[[], bool] | None = None
    view: str = ""


Menu = Sequence[str | None]
"""Ids of commands in the order of a menu; None draws a line."""


class Actions(QObject):
    """The commands as Qt actions, with the keys a person chose.

    Attributes: ``commands`` in the order of the table; ``by_id`` their actions.
    """

    keys_changed = Signal()

    def __init__(self, commands: list[Command], owner: QWidget, settings: QSettings) -> None:
        super().__init__(owner)
        self.commands = commands
        self.by_id: dict[str, QAction] = {}
        self._settings = settings
        self._typing = self._pressing = False
        self._view = ""
        for command in commands:
            action = QAction(command.words, owner)
            action.triggered.connect(lambda _on=False, run=command.run: run())
            owner.addAction(action)
            self.by_id[command.id] = action
        self._give_keys()

    def command(self, command_id: str) -> Command:
        """Return a command by its id."""
        return next(c for c in self.commands if c.id == command_id)

    def fill(self, menu: QMenu, ids: Menu) -> QMenu:
        """Put actions into a menu; one that makes no sense now cannot be chosen."""
        for command_id in ids:
            if command_id is None:
                menu.addSeparator()
                continue
            command = self.command(command_id)
            action = self.by_id[command_id]
            if command.when is not None:
                # the menu has an action of its own: the key works whatever was shown last
                shown = menu.addAction(action.text())
                shown.setEnabled(command.when())
                shown.triggered.connect(action.trigger)
            else:
                menu.addAction(action)
        return menu

    def keys_of(self, command: Command) -> tuple[str, ...]:
        """Return the keys in force."""
        if not self._settings.contains(f"keys/{command.id}"):
            return command.keys
        kept = str(self._settings.value(f"keys/{command.id}") or "")
        return tuple(k for k in kept.split("\t") if k)

    def shown_keys(self, command: Command) -> str:
        """Return a command's keys as a person reads them, each once."""
        return shown(self.keys_of(command))

    def set_keys(self, command: Command, keys: Iterable[str]) -> None:
        """Give a command other keys and remember it; who had one of them loses it."""
        wanted = tuple(dict.fromkeys(keys))
        for other in self.commands:
            if other is command or other.view != command.view:
                continue
            if set(self.keys_of(other)) & set(wanted):
                self._keep(other, tuple(k for k in self.keys_of(other) if k not in wanted))
        self._keep(command, wanted)
        self._give_keys()
        self.keys_changed.emit()

    def reset_keys(self) -> None:
        """Give every command the keys it came with."""
        self._settings.remove("keys")
        self._give_keys()
        self.keys_changed.emit()

    def _keep(self, command: Command, keys: tuple[str, ...]) -> None:
        if keys == command.keys:
            self._settings.remove(f"keys/{command.id}")
        else:
            self._settings.setValue(f"keys/{command.id}", "\t".join(keys))

    def set_typing(self, typing: bool) -> None:
        """Leave bare keys to a text field while it has the focus."""
        if typing != self._typing:
            self._typing = typing
            self._give_keys()

    def set_pressing(self, pressing: bool) -> None:
        """Leave Space to a button that was gone to by keys while it has the focus."""
        if pressing != self._pressing:
            self._pressing = pressing
            self._give_keys()

    def set_view(self, view: str) -> None:
        """Put the keys of the view that is open in force."""
        if view != self._view:
            self._view = view
            self._give_keys()

    def _give_keys(self) -> None:
        own = {k for c in self.commands if c.view == self._view and c.view for k in self.keys_of(c)}
        for command in self.commands:
            keys = self.keys_of(command)
            told = shown(keys)
            if command.view and command.view != self._view:
                keys = ()
            elif not command.view and self._view:
                keys = tuple(k for k in keys if k not in own)
            if self._typing:
                keys = tuple(k for k in keys if "Ctrl" in k or "Alt" in k or k in _ALWAYS)
            if self._pressing:
                keys = tuple(k for k in keys if k != "Space")
            action = self.by_id[command.id]
            action.setShortcuts([QKeySequence(k) for k in keys])
            action.setToolTip(f"{command.words}  ({told})" if told else command.words)


_ALWAYS = ("F1", "F11", "Esc")


def shown(keys: Iterable[str]) -> str:
    """Return keys as a person reads them, each once."""
    return "  ".join(dict.fromkeys(k.replace("Return", "Enter") for k in keys))
