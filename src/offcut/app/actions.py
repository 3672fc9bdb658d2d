"""The one table of actions: menus, buttons, tooltips, the finder and the sheet all read it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget


@dataclass(frozen=True)
class Command:
    """One thing a person can do: a stable id, its words, its keys, its group, what it does."""

    id: str
    words: str
    keys: tuple[str, ...]
    group: str
    run: Callable[[], object]
    needs_film: bool = True


def actions_from(commands: list[Command], owner: QWidget) -> dict[str, QAction]:
    """Make a Qt action of every command and give it to the window."""
    made: dict[str, QAction] = {}
    for command in commands:
        action = QAction(command.words, owner)
        action.setShortcuts([QKeySequence(k) for k in command.keys])
        keys = shown_keys(command)
        action.setToolTip(f"{command.words}  ({keys})" if keys else command.words)
        action.triggered.connect(lambda _on=False, run=command.run: run())
        owner.addAction(action)
        made[command.id] = action
    return made


def shown_keys(command: Command) -> str:
    """Return a command's keys as a person reads them, each once."""
    return "  ".join(dict.fromkeys(k.replace("Return", "Enter") for k in command.keys))
