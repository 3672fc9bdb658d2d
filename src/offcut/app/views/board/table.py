"""The Board as a table: a row a shot, columns one chooses, sorts by, drags and types into."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QRectF,
    QSettings,
    Qt,
    Signal,
)
from PySide6.QtGui import (
    QColor,
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QPainter,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from offcut.app.session.session import Session
from offcut.app.shared.scene_bands import paint_band
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, WAX, font, theme
from offcut.app.theme.parts import plain
from offcut.app.views.board.board_shots import ORDER, BoardShots
from offcut.app.views.board.dragged import packed, unpacked
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import shape_of, wanted_at
from offcut.core.board.rows import BoardRow
from offcut.core.facts.findable import is_doubtful, reel_of
from offcut.core.timecode import length_words, timecode_from_frame

Index = QModelIndex | QPersistentModelIndex
HIGH, PICTURE = 46, (62, 38)
_LEFT = Qt.AlignmentFlag.AlignLeft
ROW = Qt.ItemDataRole.UserRole + 1


@dataclass(frozen=True)
class Column:
    """One column: its id, title and width, what it says of a row, and what it sorts by.

    ``mono`` figures stand at the right; ``sort`` is the Board's order by its name.
    """

    id: str
    title: str
    wide: int
    words: Callable[[BoardRow, BoardShots, Session], str]
    mono: bool = False
    sort: str = ""
    typed: bool = False
    at_first: bool = True


def _label(row: BoardRow, frame: int) -> str:
    if row.source is None or row.shot is None:
        return ""
    media = row.source.media
    return timecode_from_frame(media.start + frame, media.rate, media.drop)


def _number(row: BoardRow, b: BoardShots, _s: Session) -> str:
    if row.use is not None:
        return str(b.places.get(row.key, 0) + 1)
    return str(row.shot.number) if row.shot else ""


def _reel(row: BoardRow, _b: BoardShots, _s: Session) -> str:
    return reel_of(row.source, row.shot) if row.source and row.shot else ""


def _light(row: BoardRow, b: BoardShots, _s: Session) -> str:
    light = b.light_of(row)
    return "" if light < 0 else f"{light:.0f}"


def _state(row: BoardRow, _b: BoardShots, _s: Session) -> str:
    if row.shot is None:
        return "gone"
    said = ["set aside"] * row.shot.card.set_aside
    said += ["doubtful"] * is_doubtful(row.shot.opened_by)
    return ", ".join(said)


COLUMNS = (
    Column("picture", "", 74, lambda r, b, s: ""),
    Column("number", "No.", 48, _number, mono=True, sort="film"),
    Column("name", "Name", 190, lambda r, b, s: r.shot.card.name if r.shot else r.title,
           sort="name", typed=True),
    Column("scene", "Scene", 140, lambda r, b, s: s.project.scene_name(r.scene), sort="scene",
           typed=True),
    Column("length", "Length", 118,
           lambda r, b, s: length_words(r.shot.length, r.source.media.rate)
           if r.shot and r.source else "", mono=True, sort="length"),
    Column("in", "In", 96, lambda r, b, s: _label(r, r.shot.start) if r.shot else "", mono=True,
           sort="film"),
    Column("out", "Out", 96, lambda r, b, s: _label(r, r.shot.end) if r.shot else "", mono=True,
           sort="film", at_first=False),
    Column("frames", "Frames", 66, lambda r, b, s: str(r.shot.length) if r.shot else "",
           mono=True, sort="length", at_first=False),
    Column("note", "Note", 220, lambda r, b, s: r.shot.card.note if r.shot else "",
           sort="note", typed=True),
    Column("light", "Light", 62, _light, mono=True, sort="light"),
    Column("kind", "Joined by", 80, lambda r, b, s: r.shot.opened_by.kind.value
           if r.shot and r.shot.opened_by else "", sort="kind", at_first=False),
    Column("reel", "Reel", 90, _reel, sort="reel", at_first=False),
    Column("film", "Film", 150,
           lambda r, b, s: Path(r.source.media.path).name if r.source else "", sort="film",
           at_first=False),
    Column("state", "State", 90, _state, sort="state"),
    Column("shows", "Shows", 240, lambda r, b, s: b.inside(r).line, at_first=False),
)  # fmt: skip


class ShotTableModel(QAbstractTableModel):
    """The Board's rows as Qt wants them."""

    def __init__(self, session: Session, shots: BoardShots, actions: ShotActions) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._rows: tuple[BoardRow, ...] = ()
        self.longest = 1.0

    def frame_of(self, row: BoardRow) -> int:
        """Return the frame that stands for a shot."""
        return self._b.frame_of(row)

    def refresh(self) -> None:
        """Take the rows as they are now."""
        rows = self._b.rows
        self.longest = max((r.seconds for r in rows), default=1.0) or 1.0
        if [r.key for r in rows] == [r.key for r in self._rows]:
            self._rows = rows
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(COLUMNS) - 1)
            if rows:
                last = self.index(len(rows) - 1, len(COLUMNS) - 1)
                self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self._rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self._head_of(COLUMNS[section])
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if COLUMNS[section].mono else _LEFT
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def _head_of(self, column: Column) -> str:
        """Return a column's title, with an arrow where the shots are sorted by it."""
        first = next((c for c in COLUMNS if c.sort == self._b.sort), None)
        arrow = (
            f" {'↑' if self._b.back else '↓'}" if column is first and self._b.order is None else ""
        )
        return f"{column.title}{arrow}"

    def data(self, index: Index, role: int = 0) -> Any:
        if not index.isValid() or index.row() >= len(self._rows):
            return None
        row, column = self._rows[index.row()], COLUMNS[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return column.words(row, self._b, self._s)
        if role == ROW:
            return row
        if role == Qt.ItemDataRole.ToolTipRole and column.id in ("name", "note", "film"):
            return plain(column.words(row, self._b, self._s)) or None
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        flags |= Qt.ItemFlag.ItemIsDragEnabled
        row = self._rows[index.row()] if index.row() < len(self._rows) else None
        if COLUMNS[index.column()].typed and row is not None and row.ref and row.shot:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        row, column = self._rows[index.row()], COLUMNS[index.column()]
        text = str(value)
        if row.ref is None or text == column.words(row, self._b, self._s):
            return False
        if column.id == "name":
            self._actions.name_one(row.ref, text)
        elif column.id == "note":
            self._actions.note(text, [row.ref])
        else:
            self._actions.put_in_scene(text, [row.ref])
        return True

    def row(self, n: int) -> BoardRow | None:
        """Return a row by its place."""
        return self._rows[n] if 0 <= n < len(self._rows) else None


class _Cell(QStyledItemDelegate):
    """Draws a cell: figures of one width, a small bar of the length, the scene's band."""

    def __init__(self, model: ShotTableModel, session: Session, pictures: ShotPictures) -> None:
        super().__init__()
        self._model = model
        self._s = session
        self._pictures = pictures

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row, column = index.data(ROW), COLUMNS[index.column()]
        if row is None:
            return
        look = theme()
        area = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, QColor(look.tint))
            if index.column() == 0 or option.rect.left() <= 2:
                painter.fillRect(QRectF(area.left(), area.top(), 3, area.height()), WAX)
        painter.setPen(look.colour("line"))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())
        if column.id == "picture":
            self._paint_picture(painter, row, area)
            return
        words = str(index.data() or "").replace("\n", " ")
        room = area.adjusted(8, 0, -8, 0)
        gone = row.shot is None
        painter.setPen(look.colour("warn" if gone else "text"))
        if column.id == "length" and row.shot is not None:
            self._paint_bar(painter, row, room)
        if column.id == "scene":
            scene = self._s.project.scene(row.scene)
            if scene is not None:
                band = QRectF(room.left(), room.center().y() - 6, 12, 12)
                paint_band(painter, band, scene.pattern, scene.tint)
                room.setLeft(room.left() + 18)
            painter.setPen(look.colour("text"))
        painter.setFont(font(SMALL if column.mono else BODY, mono=column.mono))
        side = Qt.AlignmentFlag.AlignRight if column.mono else Qt.AlignmentFlag.AlignLeft
        shown = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, side | Qt.AlignmentFlag.AlignVCenter, shown)

    def _paint_bar(self, painter: QPainter, row: BoardRow, room: QRectF) -> None:
        wide = max(2.0, (room.width() - 52) * row.seconds / self._model.longest)
        bar = QRectF(room.left(), room.center().y() - 3, wide, 6)
        painter.fillRect(bar, theme().colour("bar"))

    def _paint_picture(self, painter: QPainter, row: BoardRow, area: QRectF) -> None:
        well = QRectF(area.left() + 7, area.top() + 4, *PICTURE)
        painter.fillRect(well, QColor("#1C1C1C"))
        if row.source is None or row.shot is None:
            return
        shape = shape_of(row)
        wide = min(well.width(), well.height() * shape)
        high = wide / shape
        at = QRectF(well.center().x() - wide / 2, well.center().y() - high / 2, wide, high)
        self._pictures.draw(painter, at, wanted_at(row, self._model.frame_of(row), at))


class ShotTable(QTableView):
    """``opened`` tells a row that is opened, ``menu_wanted`` that a menu is asked for."""

    opened = Signal()
    menu_wanted = Signal(str, QPoint)

    def __init__(
        self,
        session: Session,
        shots: BoardShots,
        actions: ShotActions,
        pictures: ShotPictures,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._pictures = pictures
        self._settings = settings
        self._following = False
        self.shots_model = ShotTableModel(session, shots, actions)
        self._cell = _Cell(self.shots_model, session, pictures)
        self.setModel(self.shots_model)
        self.setItemDelegate(self._cell)
        self.setShowGrid(False)
        self.setAccessibleName("Shots")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.DoubleClicked | triggers.EditKeyPressed)
        self.setDragEnabled(True)
        self.setAcceptDrops(True)
        self.setTabKeyNavigation(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(HIGH)
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        head = self.horizontalHeader()
        head.setSectionsMovable(True)
        head.setSectionsClickable(True)
        head.setHighlightSections(False)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        head.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        head.customContextMenuRequested.connect(self._column_menu)
        head.sectionClicked.connect(self._sort)
        for n, column in enumerate(COLUMNS):
            self.setColumnWidth(n, column.wide)
            self.setColumnHidden(n, not column.at_first)
        state = settings.value("board-columns")
        if state is not None:
            head.restoreState(state)
        head.sectionMoved.connect(self._keep)
        head.sectionResized.connect(self._keep)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask_menu)
        self.selectionModel().selectionChanged.connect(self._selection_changed)
        shots.chosen_changed.connect(self._show_chosen)
        shots.changed.connect(self._refresh)
        shots.renamed.connect(self._refresh)
        shots.current_changed.connect(self._show_chosen)
        pictures.arrived.connect(self.viewport().update)
        self.verticalScrollBar().valueChanged.connect(self._want)

    def _refresh(self) -> None:
        if self.isVisible():
            self.shots_model.refresh()
            self._show_chosen()

    def _keep(self, *_args: int) -> None:
        self._settings.setValue("board-columns", self.horizontalHeader().saveState())

    def _sort(self, section: int) -> None:
        sort = COLUMNS[section].sort
        if sort and self._b.group != ORDER:
            again = sort == self._b.sort  # a second click turns it round
            self._b.sort_by(sort, back=again and not self._b.back)

    def _column_menu(self, place: QPoint) -> None:
        menu = QMenu(self)
        for n, column in enumerate(COLUMNS):
            if column.title:
                shown = menu.addAction(column.title)
                shown.setCheckable(True)
                shown.setChecked(not self.isColumnHidden(n))
                shown.toggled.connect(lambda on, n=n: self.show_column(n, on))
        menu.exec(self.horizontalHeader().mapToGlobal(place))

    def show_column(self, n: int, on: bool) -> None:
        """Show a column, or hide it."""
        self.setColumnHidden(n, not on)
        self._keep()

    def _ask_menu(self, place: QPoint) -> None:
        kind = "board-use" if self._b.group == ORDER else "board-shot"
        if self.indexAt(place).isValid():
            self.menu_wanted.emit(kind, self.viewport().mapToGlobal(place))

    def mouseDoubleClickEvent(self, event: Any) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and not self.shots_model.flags(index) & Qt.ItemFlag.ItemIsEditable:
            self.opened.emit()
            return
        super().mouseDoubleClickEvent(event)

    def startDrag(self, actions: Qt.DropAction) -> None:
        uses = [r.use.id for r in self._b.chosen_rows if r.use is not None]
        drag = QDrag(self)
        drag.setMimeData(packed(self._b.chosen_refs, uses))
        drag.exec(Qt.DropAction.MoveAction | Qt.DropAction.CopyAction)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self._b.group == ORDER and unpacked(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        held = unpacked(event.mimeData())
        if held is not None and self._b.group == ORDER:
            y = event.position().toPoint().y()
            row = self.rowAt(y)
            below = row >= 0 and y > self.rowViewportPosition(row) + HIGH // 2
            self._actions.drop_into_order(
                held.refs, held.uses, row + below if row >= 0 else len(self._b.rows)
            )
            event.acceptProposedAction()

    def _selection_changed(self) -> None:
        if self._following:
            return
        rows = sorted({i.row() for i in self.selectionModel().selectedRows()})
        keys = [row.key for n in rows if (row := self.shots_model.row(n)) is not None]
        now = self.shots_model.row(self.currentIndex().row())
        self._following = True
        self._b.choose(keys, now.key if now is not None and now.key in keys else None)
        self._following = False

    def _show_chosen(self) -> None:
        if self._following or not self.isVisible():
            return
        self._following = True
        flags = QItemSelectionModel.SelectionFlag
        chosen = QItemSelection()
        last = len(COLUMNS) - 1
        for key in self._b.chosen:
            n = self._b.places.get(key, -1)
            if n >= 0:
                model = self.shots_model
                chosen.select(model.index(n, 0), model.index(n, last))
        self.selectionModel().select(chosen, flags.ClearAndSelect)
        if self._b.place >= 0:
            column = max(0, self.currentIndex().column())
            index = self.shots_model.index(self._b.place, column)
            self.selectionModel().setCurrentIndex(index, flags.NoUpdate)
            self.scrollTo(index)
        self._following = False
        self._want()

    def _want(self) -> None:
        if not self.isVisible():
            return
        first = max(0, self.rowAt(0))
        last = first + self.viewport().height() // HIGH + 2
        wanted: list[Wanted] = []
        for n in range(first, last):
            row = self.shots_model.row(n)
            if row is not None and row.source is not None and row.shot is not None:
                shape = shape_of(row)
                wide = min(PICTURE[0], PICTURE[1] * shape)
                place = QRectF(0, 0, wide, wide / shape)
                wanted.append(wanted_at(row, self._b.frame_of(row), place))
        self._pictures.want("table", wanted)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._refresh()
        self._want()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self._pictures.want("table", [])

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self._want()
