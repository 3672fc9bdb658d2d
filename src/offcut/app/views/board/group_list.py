"""The left of the Board: every shot, the scenes in their order, no scene yet, set aside."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QDropEvent, QPainter, QPen
from PySide6.QtWidgets import QAbstractItemView, QListWidgetItem, QStyleOptionViewItem

from offcut.app.session.session import Session
from offcut.app.shared.scene_bands import paint_band
from offcut.app.theme import BODY, SMALL, font, theme
from offcut.app.theme.parts import plain
from offcut.app.views.board.board_shots import ASIDE, EVERY, UNSORTED, BoardShots, Group
from offcut.app.views.board.dragged import unpacked
from offcut.app.views.board.names_list import RIGHT, Index, NameRow, NamesList, index_of
from offcut.app.views.board.shot_actions import ShotActions
from offcut.core.media.labels import running_time
from offcut.core.model.project import ShotRef

_GROUP = Qt.ItemDataRole.UserRole
_FIGURES = Qt.ItemDataRole.UserRole + 1
_WORDS = {EVERY: "Every shot", UNSORTED: "No scene yet", ASIDE: "Set aside"}


def time_of(seconds: Iterable[float]) -> str:
    """Return how long shots play, as it is said beside a list: minutes and seconds."""
    return running_time(round(sum(seconds)), Fraction(1))


class _GroupRow(NameRow):
    """Draws one line: the scene's band, its name, how many shots, how long."""

    def __init__(self, owner: GroupList, session: Session) -> None:
        super().__init__(owner)
        self._s = session

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        area = self.paint_frame(painter, option, index)
        look, group = theme(), index.data(_GROUP)
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
        painter.drawText(right, RIGHT, length)
        painter.drawText(right.adjusted(0, 0, -48, 0), RIGHT, str(count))
        painter.setFont(font(BODY, strong=group == EVERY))
        painter.setPen(look.colour("text" if count or scene is not None else "faint"))
        room = QRectF(area.left() + 30, area.top(), area.width() - 122, area.height())
        self.elided(painter, room, str(index.data() or ""))
        painter.restore()


class GroupList(NamesList):
    """What can be shown. Scenes are renamed in place, dragged into another order, and take shots
    that are dropped on them.
    """

    def __init__(self, session: Session, shots: BoardShots, actions: ShotActions) -> None:
        super().__init__("Scenes")
        self._s = session
        self._b = shots
        self._actions = actions
        self.setItemDelegate(_GroupRow(self, session))
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.customContextMenuRequested.connect(self._ask_menu)
        self.currentItemChanged.connect(self._turned)
        self.itemChanged.connect(self._renamed)
        shots.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the scenes as they are now."""
        if not self.isVisible():
            return
        by_scene: dict[int, list[float]] = {}
        aside: list[float] = []
        for _key, _source, shot, *_rest, seconds in self._b.all_rows:
            if shot is not None and shot.card.set_aside:
                aside.append(seconds)
            else:
                by_scene.setdefault(shot.card.scene if shot is not None else 0, []).append(seconds)
        every = [s for lengths in by_scene.values() for s in lengths]
        lines: list[tuple[Group, str, list[float]]] = [(EVERY, _WORDS[EVERY], every)]
        lines += [(s.id, s.name, by_scene.get(s.id, [])) for s in self._s.project.scenes]
        lines.append((UNSORTED, _WORDS[UNSORTED], by_scene.get(0, [])))
        lines.append((ASIDE, _WORDS[ASIDE], aside))
        told = [(group, words, len(lengths), sum(lengths)) for group, words, lengths in lines]
        now = (*told, self._b.group)
        if now == self._told:
            return
        self._told = now

        def fill(item: QListWidgetItem, n: int) -> None:
            group, words, lengths = lines[n]
            item.setText(words)
            item.setData(_GROUP, group)
            item.setData(_FIGURES, (len(lengths), time_of(lengths)))
            item.setToolTip(plain(words))
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            if isinstance(group, int):
                flags |= Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsDragEnabled
            item.setFlags(flags)

        self.show_lines(len(lines), fill, index_of([line[0] for line in lines], self._b.group))

    @property
    def scene_id(self) -> int:
        """The scene that is shown, 0 for anything else."""
        return self._b.group if isinstance(self._b.group, int) else 0

    def rename_here(self) -> None:
        """Begin to type another name for the scene that is shown."""
        if self.scene_id:
            self.rename_current()

    def _turned(self, item: QListWidgetItem | None) -> None:
        if item is not None and not self._quiet:
            self._b.show_group(item.data(_GROUP))

    def _renamed(self, item: QListWidgetItem) -> None:
        group = item.data(_GROUP)
        if self._quiet or not isinstance(group, int):
            return
        same = item.text().strip() == self._s.project.scene_name(group)
        if not same and not self._actions.rename_scene(group, item.text()):
            self._told = ()
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

    def dropEvent(self, event: QDropEvent) -> None:
        n = self.row_at(event.position().toPoint())
        self._drop_over(-1)
        held = unpacked(event.mimeData())
        item = self.item(n) if n >= 0 else None
        if held is not None and item is not None:
            self.dropped(held.refs, item.data(_GROUP))
        elif held is None and item is not None:
            self._scene_dropped(item.data(_GROUP))
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()

    def dropped(self, refs: Sequence[ShotRef], group: Group) -> None:
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
