"""The left of the Board: every shot, the scenes in their order, no scene yet, set aside."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QPainter,
    QPen,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.shared.scene_bands import paint_band
from offcut.app.theme import BODY, SMALL, WAX, font, theme
from offcut.app.views.board.board_shots import ASIDE, EVERY, UNSORTED, BoardShots, Group
from offcut.app.views.board.dragged import unpacked
from offcut.app.views.board.shot_actions import ShotActions
from offcut.core.board.rows import BoardRow
from offcut.core.shelf import running_time

HIGH = 29
_GROUP = Qt.ItemDataRole.UserRole
_FIGURES = Qt.ItemDataRole.UserRole + 1
_WORDS = {EVERY: "Every shot", UNSORTED: "No scene yet", ASIDE: "Set aside"}


def time_of(rows: list[BoardRow]) -> str:
    """Return how long rows play, as it is said beside a list: minutes and seconds."""
    return running_time(round(sum(r.seconds for r in rows)), Fraction(1))


class _GroupRow(QStyledItemDelegate):
    """Draws one line: the scene's band, its name, how many shots, how long."""

    def __init__(self, owner: GroupList, session: Session) -> None:
        super().__init__(owner)
        self._owner = owner
        self._s = session

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(180, HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        look = theme()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect).adjusted(6, 1, -6, -1)
        group = index.data(_GROUP)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if self._owner.dropping == index.row():
            painter.setPen(QPen(WAX, 2.5))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        elif chosen:
            painter.setBrush(look.colour("raised"))
            painter.setPen(QPen(WAX if self._owner.hasFocus() else look.colour("ink"), 1.5))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        scene = self._s.project.scene(group) if isinstance(group, int) else None
        if scene is not None:
            band = QRectF(area.left() + 9, area.center().y() - 7, 13, 14)
            paint_band(painter, band, scene.pattern, scene.tint)
            painter.setPen(QPen(look.colour("faint"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(band)
        count, length = index.data(_FIGURES)
        painter.setFont(font(SMALL, mono=True))
        painter.setPen(look.colour("faint"))
        right = area.adjusted(0, 0, -10, 0)
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(right, side, length)
        painter.drawText(right.adjusted(0, 0, -48, 0), side, str(count))
        painter.setFont(font(BODY, strong=group == EVERY))
        painter.setPen(look.colour("text" if count or scene is not None else "faint"))
        room = QRectF(area.left() + 30, area.top(), area.width() - 122, area.height())
        shown = painter.fontMetrics().elidedText(
            str(index.data() or ""), Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.restore()

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index) -> QWidget:  # type: ignore[no-untyped-def]
        return QLineEdit(parent)

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        editor.setGeometry(option.rect.adjusted(30, 1, -8, -1))


class GroupList(QListWidget):
    """What can be shown. Scenes are renamed in place, dragged into another order, and take shots
    that are dropped on them.

    ``menu_wanted`` tells of what kind of thing a menu is asked for.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, shots: BoardShots, actions: ShotActions) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._quiet = False
        self._told: tuple[object, object, object] = (None, None, None)
        self.dropping = -1
        self.setObjectName("plainlist")
        self.setFrameShape(QListWidget.Shape.NoFrame)
        self.setAccessibleName("Scenes")
        self.setMouseTracking(True)
        self.setItemDelegate(_GroupRow(self, session))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked
                             | QAbstractItemView.EditTrigger.EditKeyPressed)  # fmt: skip
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask_menu)
        self.currentItemChanged.connect(self._turned)
        self.itemChanged.connect(self._renamed)
        shots.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the scenes as they are now."""
        told = (self._b.all_rows, self._s.project.scenes, self._b.group)
        if not self.isVisible() or all(a is b for a, b in zip(told, self._told, strict=True)):
            return
        self._told = told
        by_scene: dict[int, list[BoardRow]] = {}
        aside: list[BoardRow] = []
        for row in self._b.all_rows:
            if row.shot is not None and row.shot.card.set_aside:
                aside.append(row)
            else:
                by_scene.setdefault(row.scene, []).append(row)
        every = [r for rows in by_scene.values() for r in rows]
        lines: list[tuple[Group, str, list[BoardRow]]] = [(EVERY, _WORDS[EVERY], every)]
        lines += [(s.id, s.name, by_scene.get(s.id, [])) for s in self._s.project.scenes]
        lines.append((UNSORTED, _WORDS[UNSORTED], by_scene.get(0, [])))
        lines.append((ASIDE, _WORDS[ASIDE], aside))
        self._quiet = True
        while self.count() > len(lines):
            self.takeItem(self.count() - 1)
        for n, (group, words, rows) in enumerate(lines):
            if n >= self.count():
                self.addItem(QListWidgetItem())
            item = self.item(n)
            item.setText(words)
            item.setData(_GROUP, group)
            item.setData(_FIGURES, (len(rows), time_of(rows)))
            item.setToolTip(words)
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            if isinstance(group, int):
                flags |= Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsDragEnabled
            item.setFlags(flags)
        now = next((n for n, (g, _w, _r) in enumerate(lines) if g == self._b.group), -1)
        if now >= 0:
            self.setCurrentRow(now)
        else:
            self.setCurrentRow(-1)
            self.clearSelection()
        self._quiet = False
        self.viewport().update()

    @property
    def scene_id(self) -> int:
        """The scene that is shown, 0 for anything else."""
        return self._b.group if isinstance(self._b.group, int) else 0

    def rename_here(self) -> None:
        """Begin to type another name for the scene that is shown."""
        item = self.currentItem()
        if item is not None and self.scene_id and self.state() != self.State.EditingState:
            self.editItem(item)

    def _turned(self, item: QListWidgetItem | None) -> None:
        if item is not None and not self._quiet:
            self._b.show_group(item.data(_GROUP))

    def _renamed(self, item: QListWidgetItem) -> None:
        group = item.data(_GROUP)
        if self._quiet or not isinstance(group, int):
            return
        same = item.text().strip() == self._s.project.scene_name(group)
        if not same and not self._actions.rename_scene(group, item.text()):
            self._told = (None, None, None)
            self.refresh()

    def _ask_menu(self, place: QPoint) -> None:
        item = self.itemAt(place)
        if item is not None and isinstance(item.data(_GROUP), int):
            self.setCurrentItem(item)
            self.menu_wanted.emit("board-scene", self.viewport().mapToGlobal(place))

    def step_scene(self, way: int) -> None:
        """Move the scene that is shown up or down among the scenes."""
        ids = [s.id for s in self._s.project.scenes]
        if self.scene_id in ids:
            at = ids.index(self.scene_id)
            to = max(0, min(len(ids) - 1, at + way))
            ids.insert(to, ids.pop(at))
            self._actions.arrange_scenes(ids)

    # dropping

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if unpacked(event.mimeData()) is not None or event.source() is self:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self.dropping = self.indexAt(event.position().toPoint()).row()
        self.viewport().update()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.dropping = -1
        self.viewport().update()

    def dropEvent(self, event: QDropEvent) -> None:
        n, self.dropping = self.indexAt(event.position().toPoint()).row(), -1
        held = unpacked(event.mimeData())
        item = self.item(n) if n >= 0 else None
        if held is not None and item is not None:
            self.dropped(held.refs, item.data(_GROUP))
        elif held is None and item is not None:
            self._scene_dropped(item.data(_GROUP))
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        self.viewport().update()

    def dropped(self, refs, group: Group) -> None:  # type: ignore[no-untyped-def]
        """Put shots that were dropped on a line where it says."""
        if group == ASIDE:
            self._actions.put_aside(refs)
        elif group == UNSORTED:
            self._actions.put_in_scene("", refs)
        elif isinstance(group, int):
            self._actions.put_in_scene(self._s.project.scene_name(group), refs)

    def _scene_dropped(self, onto: Group) -> None:
        ids = [s.id for s in self._s.project.scenes]
        if self.scene_id not in ids:
            return
        ids.remove(self.scene_id)
        ids.insert(ids.index(onto) if onto in ids else len(ids), self.scene_id)
        self._actions.arrange_scenes(ids)
