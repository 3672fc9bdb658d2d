"""Found in the film: each thing that was found with its number and time, to choose and act on."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.app.theme import BODY, SMALL, font, theme
from offcut.app.theme.parts import label
from offcut.core.facts.found import Found, found_in
from offcut.core.timecode import minutes_words
from offcut.core.words import many

ROW, HEAD_ROW = 26, 30
_FOUND = Qt.ItemDataRole.UserRole
_FIGURES = 104


class _Rows(QStyledItemDelegate):
    """Draws heads, and rows with their number and time in columns."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._s = session

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        found = index.data(_FOUND)  # type: ignore[attr-defined]
        return QSize(200, ROW if found is not None else HEAD_ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: object) -> None:
        look = theme()
        found: Found | None = index.data(_FOUND)  # type: ignore[attr-defined]
        words = str(index.data(Qt.ItemDataRole.DisplayRole) or "")  # type: ignore[attr-defined]
        rect = QRectF(option.rect).adjusted(8, 1, -8, -1)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = Qt.AlignmentFlag.AlignVCenter
        if found is None:
            painter.setFont(font(SMALL))
            painter.setPen(look.colour("faint"))
            painter.drawText(rect.adjusted(8, 6, 0, 0), middle, words)
            painter.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(look.colour("text"), 1.5))
            painter.setBrush(look.colour("raised"))
            painter.drawRoundedRect(rect, 5, 5)
        painter.setPen(look.colour("text"))
        painter.setFont(font(BODY))
        room = rect.adjusted(14, 0, -_FIGURES, 0)
        told = painter.fontMetrics().elidedText(
            found.words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, middle, told)
        painter.setFont(font(SMALL, mono=True))
        right = middle | Qt.AlignmentFlag.AlignRight
        painter.setPen(look.colour("text"))
        count = rect.adjusted(rect.width() - _FIGURES, 0, -58, 0)
        painter.drawText(count, right, str(len(found.facts)))
        painter.setPen(look.colour("faint"))
        source = self._s.source
        if source is not None:
            time = minutes_words(found.frames, source.media.rate)
            painter.drawText(rect.adjusted(0, 0, -8, 0), right, time)
        painter.restore()


class FoundList(QWidget):
    """The list. What is selected in it is chosen; ``menu_wanted`` as `ViewPage` has it."""

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, facts: FactsInHand) -> None:
        super().__init__()
        self._s = session
        self._facts = facts
        self._following = False
        self._stale = True
        self.count = label("", "faint")
        self.list = QListWidget()
        self.list.setObjectName("plainlist")
        self._delegate = _Rows(session)
        self.list.setItemDelegate(self._delegate)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.list.setAccessibleName("Found in the film")
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(self._ask_menu)
        self.list.itemSelectionChanged.connect(self._choose)
        self.list.itemDoubleClicked.connect(self._go)
        self.empty = label("", "faint")
        self.empty.setWordWrap(True)
        self.empty.setContentsMargins(16, 12, 16, 0)
        head = QHBoxLayout()
        head.setContentsMargins(16, 12, 16, 0)
        head.addWidget(label("Found in the film", "head"))
        head.addStretch()
        head.addWidget(self.count)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        box.addLayout(head)
        box.addWidget(self.empty)
        box.addWidget(self.list, 1)
        facts.came.connect(self._forget)
        facts.chosen_changed.connect(self._follow)
        for told in (session.film_changed, session.project_changed, session.changed):
            told.connect(self._say_empty)

    @property
    def found(self) -> list[Found]:
        """Everything that is listed, in order."""
        items = (self.list.item(i) for i in range(self.list.count()))
        return [f for item in items if (f := item.data(_FOUND)) is not None]

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if self._stale:
            self._fill()

    def _forget(self) -> None:
        self._stale = True
        if self.isVisible():
            self._fill()

    def _fill(self) -> None:
        """List what was found; what was selected stays selected by its name."""
        self._stale = False
        kept = {item.data(_FOUND).key for item in self.list.selectedItems()}
        source = self._s.source
        rate = float(source.media.rate) if source is not None else 25.0
        cuts = [shot.start for shot in self._s.shots[1:]]
        self._following = True
        self.list.clear()
        head = ""
        for found in found_in(self._facts.facts, cuts, rate):
            if found.head != head:
                head = found.head
                item = QListWidgetItem(head, self.list)
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            item = QListWidgetItem(found.words, self.list)
            item.setData(_FOUND, found)
            spoken = f"{found.head}: {found.words}, {many(len(found.facts), 'time')}"
            item.setData(Qt.ItemDataRole.AccessibleTextRole, spoken)
            item.setSelected(found.key in kept)
        self._following = False
        self._say_empty()
        if kept:
            self._choose()

    def _say_empty(self) -> None:
        facts, source = self._facts.facts, self._s.source
        self.count.setText(many(len(self._s.shots), "shot") if facts else "")
        self.empty.setVisible(not facts)
        self.list.setVisible(bool(facts))
        if source is None or not source.searched:
            words = "What is in the film is looked for once its seams are found."
        else:
            words = "Looking what is in the film; this takes about as long as finding its seams."
        self.empty.setText(words)
        if not facts and self.list.count():
            self._forget()

    def _choose(self) -> None:
        if self._following:
            return
        self._following = True
        chosen = [f for item in self.list.selectedItems() for f in item.data(_FOUND).facts]
        self._facts.choose(chosen)
        self._following = False
        if chosen and not any(f.start <= self._s.playhead < f.end for f in chosen):
            self._s.go_to(min(chosen, key=lambda f: f.start).start)

    def _follow(self) -> None:
        """Leave the selection where something else was chosen elsewhere."""
        if self._following:
            return
        self._following = True
        chosen = set(self._facts.chosen)
        for i in range(self.list.count()):
            found = self.list.item(i).data(_FOUND)
            if found is not None:
                self.list.item(i).setSelected(bool(chosen) and chosen.issuperset(found.facts))
        self._following = False

    def _go(self, item: QListWidgetItem) -> None:
        found = item.data(_FOUND)
        if found is not None:
            first = found.facts[0]
            self._s.mark(first.start, first.end)
            self._s.go_to(first.start)

    def _ask_menu(self, place: QPoint) -> None:
        if self.list.itemAt(place) is not None and self.list.selectedItems():
            self.menu_wanted.emit("note", self.list.viewport().mapToGlobal(place))
