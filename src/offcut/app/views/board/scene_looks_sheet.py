"""The look of a scene's band: a pattern and a tint, seen at once."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from offcut.app.shared.scene_bands import swatch_of
from offcut.app.theme.parts import label, plain
from offcut.app.views.board.shot_actions import ShotActions
from offcut.core.model.project import Scene
from offcut.core.model.scene_look import Pattern, Tint


class SceneLooksSheet(QDialog):
    """Choosing is live; each choice is one step to undo."""

    def __init__(self, scene: Scene, actions: ShotActions, owner: QWidget) -> None:
        super().__init__(owner)
        self._scene = scene
        self._actions = actions
        self.pattern, self.tint = scene.pattern, scene.tint
        self.setWindowTitle("Look of a scene")
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.addWidget(label(scene.name, "large"))
        self.patterns: dict[Pattern, QToolButton] = {}
        self.tints: dict[Tint, QToolButton] = {}
        self._patterns, self._tints = QButtonGroup(self), QButtonGroup(self)
        box.addWidget(label("Pattern", "faint"))
        box.addLayout(self._row(list(Pattern), self.patterns, self._patterns))
        box.addWidget(label("Tint", "faint"))
        box.addLayout(self._row(list(Tint), self.tints, self._tints))
        done = QPushButton("Done")
        done.clicked.connect(self.accept)
        line = QHBoxLayout()
        line.addStretch()
        line.addWidget(done)
        box.addLayout(line)
        self._show()

    def _row(self, looks: list, held: dict, group: QButtonGroup) -> QGridLayout:
        grid = QGridLayout()
        for n, look in enumerate(looks):
            button = held[look] = QToolButton()
            button.setCheckable(True)
            button.setIconSize(QSize(34, 22))
            button.setToolTip(plain(look.value))
            button.setAccessibleName(look.value)
            button.clicked.connect(lambda _on=False, x=look: self.choose(x))
            group.addButton(button)
            grid.addWidget(button, 0, n, Qt.AlignmentFlag.AlignLeft)
        return grid

    def choose(self, look: Pattern | Tint) -> None:
        """Take another pattern or tint."""
        if isinstance(look, Pattern):
            self.pattern = look
        else:
            self.tint = look
        self._actions.look_of_scene(self._scene.id, self.pattern, self.tint)
        self._show()

    def _show(self) -> None:
        for pattern, button in self.patterns.items():
            button.setIcon(QIcon(swatch_of(pattern, self.tint, 34, 22)))
            button.setChecked(pattern is self.pattern)
        for tint, button in self.tints.items():
            button.setIcon(QIcon(swatch_of(self.pattern, tint, 34, 22)))
            button.setChecked(tint is self.tint)
