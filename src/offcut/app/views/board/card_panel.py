"""The card of what is chosen: its picture, name, note and scene, and what is known of it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRectF, QStringListModel, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import (
    QCompleter,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.shared.shot_pictures import ShotPictures, Wanted
from offcut.app.theme.parts import label
from offcut.app.views.board.board_shots import BoardShots
from offcut.app.views.board.looking import Looking
from offcut.app.views.board.shot_actions import ShotActions
from offcut.app.views.board.shot_painting import shape_of
from offcut.core.board.rows import BoardRow
from offcut.core.facts.findable import is_doubtful
from offcut.core.model.project import ShotRef
from offcut.core.timecode import length_words, timecode_from_frame
from offcut.core.words import many

DIFFER = "differ"


class ChosenPicture(QWidget):
    """The picture of what is chosen; of a trimmed use its first and its last frame."""

    def __init__(self, shots: BoardShots, pictures: ShotPictures) -> None:
        super().__init__()
        self._b = shots
        self._pictures = pictures
        self.setMinimumHeight(64)
        self.setMaximumHeight(134)
        pictures.arrived.connect(self.update)

    def _frames(self, row: BoardRow) -> list[int]:
        if row.shot is None:
            return []
        return (
            [row.shot.start, row.shot.end - 1] if row.use is not None else [self._b.frame_of(row)]
        )

    def refresh(self) -> None:
        """Show what is chosen now."""
        row = self._b.row_of(self._b.current)
        source = row.source if row is not None else None
        frames = self._frames(row) if row is not None else []
        sizes = (False, True)
        wanted = [Wanted(source, f, size) for size in sizes for f in frames if source is not None]
        self._pictures.want("card", wanted)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        path = QPainterPath()
        path.addRoundedRect(QRectF(self.rect()), 5, 5)
        painter.fillPath(path, QColor("#1C1C1C"))
        painter.setClipPath(path)
        row = self._b.row_of(self._b.current)
        if row is None or row.source is None:
            return
        frames = self._frames(row)
        each = self.width() / max(1, len(frames))
        for n, frame in enumerate(frames):
            well = QRectF(n * each + (n > 0), 0, each - (n > 0), self.height())
            shape = shape_of(row)
            wide = min(well.width(), well.height() * shape)
            image = self._pictures.picture(row.source, frame, large=True)
            if isinstance(image, QImage):
                at = QRectF(0, 0, wide, wide / shape)
                at.moveCenter(well.center())
                painter.drawImage(at, image)


class CardPanel(QWidget):
    """What is said of the chosen shots; what differs among them says so.

    ``named`` tells that a name was given with Enter, to go on to the next.
    """

    named = Signal()

    def __init__(
        self,
        session: Session,
        shots: BoardShots,
        actions: ShotActions,
        looking: Looking,
        pictures: ShotPictures,
    ) -> None:
        super().__init__()
        self._s = session
        self._b = shots
        self._actions = actions
        self._looking = looking
        self._for: tuple[ShotRef, ...] = ()
        self._note_was = ""
        self._shown: dict[QLineEdit, str] = {}
        self.picture = ChosenPicture(shots, pictures)
        self.title = label("", "head")
        self.length = label("", "monofaint")
        self.name, self.scene = QLineEdit(), QLineEdit()
        self.name.setAccessibleName("Name")
        self.scene.setAccessibleName("Scene")
        self.name.setMaxLength(200)
        self.scene.setMaxLength(200)
        self.note = QPlainTextEdit()
        self.note.setAccessibleName("Note")
        self.note.setTabChangesFocus(True)
        self.note.setMinimumHeight(28)
        self.note.setMaximumHeight(50)
        self.note.installEventFilter(self)
        self.name.installEventFilter(self)
        self._known = QStringListModel(self)
        completer = QCompleter(self._known, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.scene.setCompleter(completer)
        self.name.editingFinished.connect(self._name_given)
        self.scene.editingFinished.connect(self._scene_given)
        self._facts = QGridLayout()
        self._lay_out()
        for signal in (
            shots.chosen_changed, shots.changed, shots.renamed, shots.current_changed,
            looking.changed,
        ):  # fmt: skip
            signal.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 14, 16, 4)
        box.setSpacing(3)
        box.addWidget(self.picture, 3)
        row = QHBoxLayout()
        row.setContentsMargins(0, 6, 0, 2)
        row.addWidget(self.title, 1)
        row.addWidget(self.length)
        box.addLayout(row)
        for words, field in (("Name", self.name), ("Note", self.note), ("Scene", self.scene)):
            said = label(words, "faint")
            said.setBuddy(field)
            box.addWidget(said)
            box.addWidget(field)
        self._head = label("In them", "head")
        self._head.setContentsMargins(0, 8, 0, 2)
        box.addWidget(self._head)
        inside = QWidget()
        self._facts.setContentsMargins(0, 0, 4, 0)
        self._facts.setHorizontalSpacing(8)
        self._facts.setVerticalSpacing(3)
        self._facts.setColumnStretch(1, 1)
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self._facts)
        column.addStretch()
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setMinimumHeight(16)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        box.addWidget(area, 1)

    # showing

    def refresh(self) -> None:
        """Show what is chosen now."""
        if not self.isVisible():
            return
        rows = [r for r in self._b.chosen_rows if r.shot is not None]
        gone = [r for r in self._b.chosen_rows if r.shot is None]
        refs = self._b.chosen_refs
        if refs != self._for:
            self._give()
        self._for = refs
        self.picture.refresh()
        self._known.setStringList([s.name for s in self._s.project.scenes])
        pieces = [r for r in rows if r.use is not None and r.use.shot is None]
        self._show_title(rows, gone)
        names = {r.shot.card.name for r in rows if r.shot}
        notes = {r.shot.card.note for r in rows if r.shot}
        scenes = {self._s.project.scene_name(r.scene) for r in rows}
        one_piece = len(pieces) == 1 and len(rows) == 1
        self._put(self.name, names, bool(refs) or one_piece)
        self._put(self.scene, scenes, bool(refs))
        if not self.note.hasFocus():
            self._note_was = notes.pop() if len(notes) == 1 else ""
            self.note.setPlaceholderText(DIFFER if len(notes) > 1 else "")
            self.note.setPlainText(self._note_was)
            self.note.setEnabled(bool(refs))
        self._show_facts(rows)

    def _show_title(self, rows: list[BoardRow], gone: list[BoardRow]) -> None:
        if len(rows) == 1 and rows[0].shot is not None:
            row = rows[0]
            assert row.shot is not None
            self.title.setText(row.title if row.use else f"Shot {row.shot.number}")
        elif rows:
            self.title.setText(f"{many(len(rows), 'shot')} chosen")
        else:
            self.title.setText("Gone" if gone else "Nothing chosen")
        seconds = sum(r.seconds for r in rows)
        self.length.setText(f"{seconds:.1f} s" if rows else "")
        self._head.setText("In it" if len(rows) == 1 else "In them")

    def _put(self, field: QLineEdit, values: set[str], on: bool) -> None:
        field.setEnabled(on)
        if field.hasFocus() and field.isModified():
            return
        field.setPlaceholderText(DIFFER if len(values) > 1 else "")
        self._shown[field] = next(iter(values)) if len(values) == 1 else ""
        field.setText(self._shown[field])
        field.setModified(False)

    def _show_facts(self, rows: list[BoardRow]) -> None:
        while self._facts.count():
            old = self._facts.takeAt(0)
            widget = old.widget() if old is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for n, (head, words) in enumerate(self._facts_of(rows)):
            said = label(words)
            said.setAlignment(Qt.AlignmentFlag.AlignRight)
            said.setWordWrap(True)
            self._facts.addWidget(label(head, "faint"), n, 0, Qt.AlignmentFlag.AlignTop)
            self._facts.addWidget(said, n, 1)
        self._head.setVisible(self._facts.count() > 0)

    def _facts_of(self, rows: list[BoardRow]) -> list[tuple[str, str]]:
        facts: list[tuple[str, str]] = []
        if not rows:
            return facts
        lights = [light for r in rows if (light := self._b.light_of(r)) >= 0]
        if len(rows) == 1:
            facts += self._facts_of_one(rows[0])
        if lights:
            facts.append(("Light", _light_words(sum(lights) / len(lights))))
        if len(rows) == 1 and rows[0].ref is not None:
            like = self._alike(rows[0].ref)
            if like:
                facts.append(("Looks like", like))
        return facts

    def _facts_of_one(self, row: BoardRow) -> list[tuple[str, str]]:
        source, shot = row.source, row.shot
        assert source is not None
        assert shot is not None
        media = source.media

        def words(frame: int) -> str:
            return timecode_from_frame(media.start + frame, media.rate, media.drop)

        facts = [
            ("In", words(shot.start)),
            ("Out", words(shot.end)),
            ("Length", f"{length_words(shot.length, media.rate)}, {many(shot.length, 'frame')}"),
        ]
        use = row.use
        if use is not None and use.shot is not None and (use.start, use.end) != (None, None):
            facts.append(("Here", "an in and out of its own"))
        if len(self._s.project.sources) > 1:
            facts.append(("Film", media.path.rsplit("/", 1)[-1]))
        if shot.opened_by is not None:
            doubt = ", doubtful" if is_doubtful(shot.opened_by) else ""
            facts.append(("Joined by", f"{shot.opened_by.kind.value}{doubt}"))
        original = shot.card.original
        if original is not None:
            first, last = original.span(shot.start, shot.end)
            label_ = timecode_from_frame(first, media.rate, original.drop)
            facts.append(("Reel", original.reel))
            facts.append(("From", label_ if last > first else ""))
            if original.clip:
                facts.append(("Clip", original.clip))
            if original.speed != 1:
                facts.append(("Speed", f"{float(original.speed) * 100:.0f} %"))
            facts += [("", comment) for comment in original.comments[:3]]
        shows = self._b.inside(row).line
        if shows:
            facts.append(("Shows", shows))
        inside = [m for m in source.markers if shot.start <= m.start < shot.end]
        if inside:
            facts.append(("Markers", ", ".join(m.name or "unnamed" for m in inside[:4])))
        return facts

    def _alike(self, ref: ShotRef) -> str:
        alike = {r for s in self._looking.suggestions if ref in s.refs for r in s.refs} - {ref}
        if not alike:
            return ""
        found = [r.shot.number for r in self._b.all_rows if r.shot and r.ref in alike]
        shown = ", ".join(map(str, sorted(set(found))[:6]))
        more = " …" if len(set(found)) > 6 else ""
        return f"shot{'s' * (len(set(found)) > 1)} {shown}{more}" if found else ""

    # writing

    def type_name(self) -> None:
        """Put the pointer into the name, all of it chosen."""
        self.name.setFocus()
        self.name.selectAll()

    def type_scene(self) -> None:
        """Put the pointer into the scene, all of it chosen."""
        self.scene.setFocus()
        self.scene.selectAll()

    def _give(self) -> None:
        """Take what was typed for the shots that were chosen until now."""
        text = self.note.toPlainText()
        if self._for and text.strip() != self._note_was.strip() and self.note.hasFocus():
            refs, self._note_was = self._for, text
            self._actions.note(text, refs)

    def _name_given(self) -> None:
        if self._was_typed(self.name):
            self._actions.name(self.name.text())

    def _scene_given(self) -> None:
        if self._was_typed(self.scene):
            self._actions.put_in_scene(self.scene.text(), self._for)

    def _was_typed(self, field: QLineEdit) -> bool:
        """Tell whether a field says something new, typed or completed; asked once."""
        typed = field.isModified() or field.text() != self._shown.get(field, "")
        field.setModified(False)
        self._shown[field] = field.text()
        return typed

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.note and event.type() == QEvent.Type.FocusOut:
            text = self.note.toPlainText()
            if text.strip() != self._note_was.strip() and self._for:
                self._note_was = text
                self._actions.note(text, self._for)
        if watched is self.name and isinstance(event, QKeyEvent):
            enter = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if event.type() == QEvent.Type.KeyPress and event.key() in enter:
                self._name_given()
                self.named.emit()
                return True
        return super().eventFilter(watched, event)


def _light_words(light: float) -> str:
    """Say how light a shot is."""
    words = ("dark", "low", "middling", "light", "bright")
    return f"{words[min(4, int(light / 20))]}, {light:.0f}"
