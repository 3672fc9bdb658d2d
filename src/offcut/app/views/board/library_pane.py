"""Everywhere: shots of all projects of this machine, found as one types."""

from __future__ import annotations

import threading
from pathlib import Path

from PySide6.QtCore import QObject, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.session.standing import StandingThread
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme import BODY, SMALL, WAX, WELL_FAINT, WELL_TEXT, font
from offcut.app.theme.parts import label, plain
from offcut.app.views.board.shot_actions import ShotActions
from offcut.core.board.from_library import with_shot_of
from offcut.core.errors import OffcutError
from offcut.core.facts.query import Query, query_of
from offcut.core.media.pictures import fit
from offcut.core.media.probe import shown_size
from offcut.core.model.project import Project
from offcut.core.model.source import Source
from offcut.core.store.library import FoundShot, FoundShots, Library
from offcut.core.store.project_file import open_project
from offcut.core.timecode import length_words
from offcut.core.words import many

HIGH = 60
PICTURE = (86, 50)
_FOUND = Qt.ItemDataRole.UserRole
WARN = QColor("#E08A7C")


class LibrarySearch(QObject):
    """Searches the library on a thread of its own; only what was asked for last is told.

    ``found`` tells what was found, ``failed`` a sentence on why nothing can be.
    """

    found = Signal(object)
    failed = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._lock = threading.Condition()
        self._wanted: Query | None = None
        self._closed = False
        self._thread: _Searcher | None = None

    def ask(self, query: Query) -> None:
        """Look for something else."""
        with self._lock:
            self._wanted = query
            self._lock.notify_all()
        if self._thread is None and not self._closed:
            self._thread = _Searcher(self)
            self._thread.start()

    def take(self, leaving: threading.Event) -> Query | None:
        """Wait for what is asked for; None when leaving. For the thread."""
        with self._lock:
            while not leaving.is_set():
                if self._wanted is not None:
                    wanted, self._wanted = self._wanted, None
                    return wanted
                self._lock.wait(0.5)
        return None

    @property
    def waiting(self) -> bool:
        """True while something newer is asked for."""
        with self._lock:
            return self._wanted is not None

    def close(self) -> None:
        """Stop the thread for good."""
        self._closed = True
        if self._thread is not None:
            self._thread.leave()
            self._thread = None

    def wake(self) -> None:
        """End the thread's waiting."""
        with self._lock:
            self._lock.notify_all()


class _Searcher(StandingThread):
    def __init__(self, search: LibrarySearch) -> None:
        super().__init__()
        self._search = search

    def wake(self) -> None:
        self._search.wake()

    def serve(self) -> None:
        while (query := self._search.take(self.leaving)) is not None:
            try:
                with Library() as library:
                    found = library.find(query)
            except OffcutError as error:
                self._search.failed.emit(str(error))
                continue
            if not self._search.waiting:
                self._search.found.emit(found)


class _FoundRow(QStyledItemDelegate):
    """Draws what was found: its picture, name, film, timecode and project."""

    def __init__(self, pictures: ShotPictures) -> None:
        super().__init__()
        self._pictures = pictures

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(400, HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        shot: FoundShot = index.data(_FOUND)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(option.rect).adjusted(10, 2, -10, -2)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(WAX, 2))
            painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)
        well = QRectF(area.left() + 5, area.top() + 3, *PICTURE)
        painter.fillRect(well, QColor("#151515"))
        source, frame = picture_of(shot)
        wide, high = fit(*shown_size(shot.media), *PICTURE)
        at = QRectF(0, 0, wide, high)
        at.moveCenter(well.center())
        self._pictures.draw(painter, at, Wanted(source, frame, False, wide, high))
        left = well.right() + 12
        room = QRectF(left, area.top() + 5, area.width() * 0.46, 18)
        painter.setFont(font(BODY, strong=True))
        painter.setPen(WELL_TEXT)
        self._line(painter, room, shot.name or f"Shot {shot.number}")
        painter.setFont(font(SMALL))
        painter.setPen(WELL_FAINT)
        said = ", ".join(p for p in (shot.scene, shot.note.replace("\n", " ")) if p)
        self._line(painter, room.translated(0, 17), said)
        painter.setFont(font(SMALL, mono=True))
        first, _last = shot.timecodes
        length = length_words(shot.end - shot.start, shot.media.rate)
        painter.drawText(room.translated(0, 33), _LEFT, f"{first}  {length}")
        right = QRectF(room.right() + 12, area.top() + 5, area.right() - room.right() - 20, 18)
        painter.setFont(font(SMALL))
        painter.setPen(WELL_TEXT)
        self._line(painter, right, Path(shot.media.path).name)
        painter.setPen(WELL_FAINT if shot.there else WARN)
        gone = "" if shot.there else ": its file moved or went"
        self._line(painter, right.translated(0, 17), f"{shot.project_name}{gone}")
        self._line(painter, right.translated(0, 33), str(shot.project))
        painter.restore()

    @staticmethod
    def _line(painter: QPainter, room: QRectF, words: str) -> None:
        shown = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideMiddle, int(room.width())
        )
        painter.drawText(room, _LEFT, shown)


_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


def picture_of(shot: FoundShot) -> tuple[Source, int]:
    """Return a source that its pictures can be asked of, and the frame that stands for it."""
    source = Source(0, shot.media, 0, shot.media.frames)
    return source, (shot.start + shot.end) // 2


class LibraryPane(QWidget):
    """What was found everywhere. Enter opens a shot in its project, R takes it into this one."""

    def __init__(self, session: Session, actions: ShotActions, pictures: ShotPictures) -> None:
        super().__init__()
        self._s = session
        self._actions = actions
        self._pictures = pictures
        self.setObjectName("well")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.search = LibrarySearch(self)
        self.search.found.connect(self._show)
        self.search.failed.connect(session.failed)
        self._words = label("", "wellfaint")
        self.list = QListWidget()
        self.list.setObjectName("plainlist")
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        self.list.setAccessibleName("Shots found in all projects")
        self._row = _FoundRow(pictures)
        self.list.setItemDelegate(self._row)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.itemActivated.connect(lambda _item: self.open_there())
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(self._menu)
        self.list.verticalScrollBar().valueChanged.connect(self._want)
        pictures.arrived.connect(self.list.viewport().update)
        self.open_button, self.take_button = QPushButton("Open it there"), QPushButton()
        self.take_button.setText("Take it into this project")
        self.open_button.clicked.connect(self.open_there)
        self.take_button.clicked.connect(lambda: self.take_here())
        self.again_button = QPushButton("Read all projects again")
        self.again_button.clicked.connect(self.rebuild)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 8, 0, 10)
        head = QHBoxLayout()
        head.setContentsMargins(16, 0, 16, 0)
        head.addWidget(self._words, 1)
        for button in (self.open_button, self.take_button, self.again_button):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            head.addWidget(button)
        box.addLayout(head)
        box.addWidget(self.list, 1)
        self._text = ""

    def look_for(self, text: str) -> None:
        """Look for what is typed."""
        self._text = text
        query = query_of(text)
        if query:
            self.search.ask(query)
        else:
            self._show(FoundShots((), False))

    def _show(self, found: FoundShots) -> None:
        self.list.clear()
        for shot in found.shots:
            item = QListWidgetItem()
            item.setData(_FOUND, shot)
            item.setToolTip(plain(str(shot.project)))
            self.list.addItem(item)
        if self.list.count():
            self.list.setCurrentRow(0)
        count = len(found.shots)
        films = len({s.project for s in found.shots})
        more = "more than " if found.more else ""
        words = f"{more}{many(count, 'shot')} in {many(films, 'project')}"
        if not self._text.strip():
            words = "Type what you look for: it is searched in every project saved on this machine"
        elif not count:
            words = "No shot of any project is like that"
        self._words.setText(words[0].upper() + words[1:])
        for button in (self.open_button, self.take_button):
            button.setEnabled(bool(count))
        self._want()

    def _want(self) -> None:
        first = max(0, self.list.verticalScrollBar().value() // HIGH)
        wanted: list[Wanted] = []
        for n in range(first, min(self.list.count(), first + self.list.height() // HIGH + 2)):
            shot: FoundShot = self.list.item(n).data(_FOUND)
            source, frame = picture_of(shot)
            wanted.append(Wanted(source, frame, False, *fit(*shown_size(shot.media), *PICTURE)))
        self._pictures.want("library", wanted if self.isVisible() else [])

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.look_for(self._text)

    @property
    def current(self) -> FoundShot | None:
        """The shot that is chosen."""
        item = self.list.currentItem()
        return item.data(_FOUND) if item is not None else None

    def _menu(self, place: QPoint) -> None:
        if self.current is None:
            return
        menu = QMenu(self)
        menu.addAction("Open it there").triggered.connect(self.open_there)
        menu.addAction("Take it into this project").triggered.connect(lambda: self.take_here())
        menu.addAction("Take it into the running order").triggered.connect(
            lambda: self.take_here(into_order=True)
        )
        menu.exec(self.list.viewport().mapToGlobal(place))

    def open_there(self) -> None:
        """Open the project of the chosen shot, at the shot."""
        shot = self.current
        if shot is None:
            return
        if not shot.there:
            self._s.failed.emit(f"{shot.project}: the project moved or went; look for it with"
                                " “offcut find --index” and its folder")  # fmt: skip
            return
        self._s.shot_wanted.emit(str(shot.project), shot.source, shot.seam)

    def take_here(self, *, into_order: bool = False) -> None:
        """Take the chosen shot into this project; its film comes with it."""
        shot = self.current
        if shot is None:
            return
        if not shot.there:
            self.open_there()
            return
        self._s.work(
            "Reading the project", lambda _job: open_project(shot.project),
            lambda other: self._taken(shot, other, into_order), quick=True,
        )  # fmt: skip

    def _taken(self, shot: FoundShot, other: Project, into_order: bool) -> None:
        try:
            taken = with_shot_of(self._s.project, other, shot.source, shot.seam)
        except OffcutError as error:
            self._s.failed.emit(str(error))
            return
        name = shot.name or f"shot {shot.number}"
        if into_order:
            words = f"Put {name} of {shot.project_name} into a running order"
            self._actions.put_in_taken(taken, words)
            return
        before = len(self._s.project.sources)
        words = f"Take {Path(shot.media.path).name} in, for {name}"
        self._s.edit_project(lambda _p: taken.project, words)
        here = "is in this project already" if len(self._s.project.sources) == before else "came in"
        self._s.take_in_hand(taken.use.source)
        self._s.go_to(shot.start)
        self._s.said.emit(f"{Path(shot.media.path).name} {here}")

    def rebuild(self) -> None:
        """Read all projects that are known again."""

        def work(job):  # type: ignore[no-untyped-def]
            with Library() as library:
                return library.rebuild(job.tell, job.stop)

        def done(got: tuple[int, tuple[str, ...]]) -> None:
            read, problems = got
            for problem in problems[:3]:
                self._s.failed.emit(problem)
            self._s.said.emit(f"{many(read, 'project')} read again")
            self.look_for(self._text)

        self._s.work("Reading projects", work, done, whatever=True)
