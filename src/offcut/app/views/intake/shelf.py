"""The shelf: a label for each film of the project, a run of stills as a stack."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.app.shared.film_pictures import FilmPictures
from offcut.app.theme import HEAD, SMALL, WAX, font, theme
from offcut.app.theme.parts import plain
from offcut.core.media.labels import State, UnderWay, facts_words, in_order, state_of
from offcut.core.media.pictures import fit
from offcut.core.model.source import Source

HIGH = 84
PICTURE = (108, 62)
SOURCE = Qt.ItemDataRole.UserRole + 1
Index = QModelIndex | QPersistentModelIndex
_MONO = SMALL


class ShelfModel(QAbstractListModel):
    """The films of the project in the order that was chosen, with their states.

    Attributes: ``sources`` in that order; ``order`` by its name in `ORDERS`.
    """

    def __init__(self, session: Session, search: SeamSearch, pictures: FilmPictures) -> None:
        super().__init__()
        self._s = session
        self._search = search
        self._pictures = pictures
        self.order = "came"
        self.sources: tuple[Source, ...] = ()
        self.states: dict[int, State] = {}
        self._told: dict[int, tuple[Source, UnderWay | None, bool, str]] = {}

    def refresh(self) -> None:
        """Take the project and the queue as they are now."""
        project = self._s.project
        self.states = {s.id: self._state(s) for s in project.sources}
        sources = in_order(project.sources, self.order, self.states)
        if [s.id for s in sources] != [s.id for s in self.sources]:
            self.beginResetModel()
            self.sources = sources
            self.endResetModel()
            return
        self.sources = sources
        if sources:
            self.dataChanged.emit(self.index(0), self.index(len(sources) - 1))

    def refresh_one(self, source_id: int) -> Index | None:
        """Take how far a film’s search is; return where it lies, None where nothing is new."""
        row = self.row_of(source_id)
        if row < 0:
            return None
        before = self.states.get(source_id)
        self.states[source_id] = now = self._state(self.sources[row])
        return self.index(row) if now != before else None

    def _state(self, source: Source) -> State:
        search = self._search
        under_way = None
        if search.finding_id == source.id and not search.held:
            under_way = UnderWay(search.share, search.seconds_left()[0])
        elif source.id in search.waiting_ids:
            under_way = UnderWay(words="held" if search.held else "waiting")
        bench = self._s.bench_of(source.id)
        telling = self._pictures.telling(source.media, source.ticket.display)
        missing = bench.missing is not None or (
            bench.film is None and telling is not None and telling.missing
        )
        trouble = search.troubles.get(source.id, "")
        now, before = (source, under_way, missing, trouble), self._told.get(source.id)
        known = source.id in self.states and before is not None
        if known and before is not None and before[0] is source and before[1:] == now[1:]:
            return self.states[source.id]  # counting seams takes a moment, and little changes
        self._told[source.id] = now
        return state_of(source, under_way, missing=missing, trouble=trouble)

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.sources)

    def data(self, index: Index, role: int = 0) -> Any:
        if not index.isValid() or not 0 <= index.row() < len(self.sources):
            return None
        source = self.sources[index.row()]
        name = source.media.path.rsplit("/", 1)[-1]
        if role == SOURCE:
            return source
        if role == Qt.ItemDataRole.AccessibleTextRole:
            state = self.states.get(source.id)
            return f"{name}, {facts_words(source.media)}, {state.words if state else ''}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain(source.media.path)
        return name if role == Qt.ItemDataRole.DisplayRole else None

    def row_of(self, source_id: int) -> int:
        """Return where a film lies, -1 where it does not."""
        return next((r for r, s in enumerate(self.sources) if s.id == source_id), -1)


class _Label(QStyledItemDelegate):
    """Draws a label: picture, name, facts, state, and how far its search is."""

    def __init__(self, model: ShelfModel, pictures: FilmPictures) -> None:
        super().__init__()
        self._model = model
        self._pictures = pictures

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(300, HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        source = index.data(SOURCE)
        if source is None:
            return
        look = theme()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area = QRectF(option.rect).adjusted(8, 3, -8, -3)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        focused = bool(option.state & QStyle.StateFlag.State_HasFocus)
        if chosen:
            painter.setBrush(look.colour("raised"))
            painter.setPen(QPen(WAX if focused else look.colour("ink"), 2))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 5, 5)
        self._paint_picture(painter, source, area)
        self._paint_words(painter, source, area)
        painter.restore()

    def _paint_picture(self, painter: QPainter, source: Source, area: QRectF) -> None:
        wide, high = PICTURE
        well = QRectF(area.left() + 9, area.top() + (area.height() - high) / 2, wide, high)
        if source.media.run is not None:
            for step in (6, 3):
                sheet = well.translated(step, step).adjusted(0, 0, 0, 0)
                painter.setPen(QPen(QColor("#6A6A6A"), 1))
                painter.setBrush(QColor("#B4B4B4") if theme().name == "day" else QColor("#5A5A5A"))
                painter.drawRoundedRect(sheet, 2, 2)
        path = QPainterPath()
        path.addRoundedRect(well, 2, 2)
        painter.fillPath(path, QColor("#1C1C1C"))
        telling = self._pictures.telling(source.media, source.ticket.display)
        if telling is not None and telling.image is not None:
            shape = source.media.pixel_shape * source.media.width
            across, down = fit(max(1, round(shape)), source.media.height, wide - 4, high - 4)
            place = QRectF(
                well.center().x() - across / 2, well.center().y() - down / 2, across, down
            )
            painter.drawImage(place, telling.image)
        painter.setPen(QPen(QColor("#1C1C1C"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(well, 2, 2)

    def _paint_words(self, painter: QPainter, source: Source, area: QRectF) -> None:
        look = theme()
        left = area.left() + PICTURE[0] + 26
        room = area.right() - left - 10
        state = self._model.states.get(source.id)
        painter.setPen(look.colour("text"))
        painter.setFont(font(HEAD, strong=True))
        name = source.media.path.rsplit("/", 1)[-1]
        self._line(painter, QRectF(left, area.top() + 8, room, 18), name)
        painter.setFont(font(_MONO, mono=True))
        painter.setPen(look.colour("faint"))
        self._line(painter, QRectF(left, area.top() + 29, room, 16), facts_words(source.media),
                   Qt.TextElideMode.ElideRight)  # fmt: skip
        if state is None:
            return
        painter.setFont(font())
        painter.setPen(look.colour("warn" if state.bad else "text"))
        bar = 92 if 0 < state.share < 1 else 0
        words_room = room - bar - (10 if bar else 0)
        self._line(painter, QRectF(left, area.top() + 49, words_room, 18), state.words,
                   Qt.TextElideMode.ElideRight)  # fmt: skip
        if bar:
            track = QRectF(area.right() - bar - 10, area.top() + 56, bar, 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("bar"))
            painter.drawRoundedRect(track, 2, 2)
            painter.setBrush(WAX)
            track.setWidth(max(4.0, bar * state.share))
            painter.drawRoundedRect(track, 2, 2)

    @staticmethod
    def _line(
        painter: QPainter,
        room: QRectF,
        words: str,
        mode: Qt.TextElideMode = Qt.TextElideMode.ElideMiddle,
    ) -> None:
        shown = painter.fontMetrics().elidedText(words, mode, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)


class Shelf(QListView):
    """The labels; several are chosen by Shift, Ctrl and Ctrl+A.

    ``menu_wanted`` tells of what kind of thing a menu is asked for, and where on the screen.
    """

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, search: SeamSearch, pictures: FilmPictures) -> None:
        super().__init__()
        self._s = session
        self.films = ShelfModel(session, search, pictures)
        self._following = False
        self._label = _Label(self.films, pictures)
        self.setModel(self.films)
        self.setItemDelegate(self._label)
        self.setUniformItemSizes(True)
        self.setMouseTracking(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Films of the project")
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask_menu)
        self.selectionModel().selectionChanged.connect(self._selection_changed)
        self.doubleClicked.connect(lambda _index: session.view_wanted.emit("seams"))
        pictures.arrived.connect(self.refresh)
        session.changed.connect(self.refresh)
        session.chosen_changed.connect(self._show_chosen)
        session.film_changed.connect(self.refresh)
        search.changed.connect(self.refresh)
        search.progressed.connect(self._show_progress)
        self.refresh()

    def refresh(self) -> None:
        """Show the films as they are now, once they are looked at."""
        if not self.isVisible():
            return
        self.films.refresh()
        self._show_chosen()
        self.viewport().update()

    def _show_progress(self, source_id: int) -> None:
        """Paint the label of the film that is searched, and nothing else."""
        if not self.isVisible():
            return
        place = self.films.refresh_one(source_id)
        if place is not None:
            self.update(place)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def set_order(self, order: str) -> None:
        """Lay the labels in another order."""
        self.films.order = order
        self.refresh()

    def _ask_menu(self, place: QPoint) -> None:
        if self.indexAt(place).isValid():
            self.menu_wanted.emit("film", self.viewport().mapToGlobal(place))

    def _selection_changed(self) -> None:
        if self._following:
            return
        rows = sorted(i.row() for i in self.selectionModel().selectedIndexes())
        ids = [self.films.sources[r].id for r in rows if r < len(self.films.sources)]
        if not ids:
            return
        self._following = True
        current = self.currentIndex().row()
        here = self.films.sources[current].id if 0 <= current < len(self.films.sources) else 0
        if here in ids:
            self._s.take_in_hand(here)
        self._s.choose(ids)
        self._following = False

    def _show_chosen(self) -> None:
        if self._following:
            return
        wanted = {s.id for s in self._s.chosen_sources}
        now = {
            self.films.sources[i.row()].id
            for i in self.selectionModel().selectedIndexes()
            if i.row() < len(self.films.sources)
        }
        if wanted == now:
            return
        self._following = True
        chosen = QItemSelection()
        for row, source in enumerate(self.films.sources):
            if source.id in wanted:
                index = self.films.index(row)
                chosen.select(index, index)
        flags = QItemSelectionModel.SelectionFlag
        self.selectionModel().select(chosen, flags.ClearAndSelect)
        row = self.films.row_of(self._s.in_hand)
        if row >= 0:
            self.selectionModel().setCurrentIndex(self.films.index(row), flags.NoUpdate)
            self.scrollTo(self.films.index(row))
        self._following = False
