"""The film drawer: sensitivity on its yield curve, the counts, the shot under the playhead."""

from __future__ import annotations

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtWidgets import (
    QCompleter,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from offcut.app.session.session import Session
from offcut.app.shared.when_seen import when_seen
from offcut.app.theme.parts import label, plain
from offcut.app.views.seams.yield_curve import YieldCurve
from offcut.core.model.shots import Shot, counts_of
from offcut.core.model.source import Media
from offcut.core.model.verbs.cards import name_shot, note_shot, put_in_scene
from offcut.core.model.verbs.searching import set_sensitivity
from offcut.core.timecode import length_words, timecode_from_frame
from offcut.core.words import many

_FACTS = ("In", "Out", "Opens by", "Reel", "Source in")


class FilmDrawer(QWidget):
    """What the whole film and the shot under the playhead come to."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._level = label("50", "mono")
        self.curve = YieldCurve(session)
        self.curve.chosen.connect(self._choose)
        self._shots = label("", "large")
        self._steady = label("", "faint")
        self._steady.setWordWrap(True)
        self._counts = {
            key: label("0", "mono")
            for key in ("Judged by you", "Doubtful, to judge", "Slivers", "Struck")
        }
        self._title = label("", "head")
        self._length = label("", "mono")
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name")
        self.name.setAccessibleName("Name of the shot")
        self.name.editingFinished.connect(self._name)
        self.note = QLineEdit()
        self.note.setPlaceholderText("Note")
        self.note.setAccessibleName("Note about the shot")
        self.note.editingFinished.connect(self._note)
        self.scene = QLineEdit()
        self.scene.setPlaceholderText("Scene")
        self.scene.setAccessibleName("Scene of the shot")
        self.scene.editingFinished.connect(self._put_in_scene)
        self._known = QStringListModel(self)
        completer = QCompleter(self._known, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.scene.setCompleter(completer)
        self._facts = {key: label("", "mono") for key in _FACTS}
        self._lay_out()
        when_seen(session.changed, self, self._show)
        session.moved.connect(self._show_shot)
        session.film_changed.connect(self._show)

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 10, 18, 12)
        box.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(label("Sensitivity", "head"))
        head.addStretch()
        head.addWidget(self._level)
        box.addLayout(head)
        box.addWidget(self.curve, 1)
        ends = QHBoxLayout()
        ends.addWidget(label("fewer shots", "faint"))
        ends.addStretch()
        ends.addWidget(label("more shots", "faint"))
        box.addLayout(ends)
        box.addWidget(self._shots)
        box.addWidget(self._steady)
        box.addSpacing(2)
        counts = QFormLayout()
        counts.setVerticalSpacing(4)
        counts.setFormAlignment(Qt.AlignmentFlag.AlignLeft)
        for words, figure in self._counts.items():
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            counts.addRow(label(words), figure)
        box.addLayout(counts)
        line = QFrame()
        line.setFrameShape(QFrame.Shape.HLine)
        line.setFrameShadow(QFrame.Shadow.Plain)
        line.setStyleSheet("color: palette(alternate-base); max-height: 1px;")
        box.addSpacing(4)
        box.addWidget(line)
        box.addSpacing(2)
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addStretch()
        head.addWidget(self._length)
        box.addLayout(head)
        box.addWidget(self.name)
        box.addWidget(self.note)
        box.addWidget(self.scene)
        facts = self._rows = QFormLayout()
        facts.setVerticalSpacing(2)
        for words, fact in self._facts.items():
            fact.setAlignment(Qt.AlignmentFlag.AlignRight)
            facts.addRow(label(words, "faint"), fact)
        box.addLayout(facts)
        box.addStretch()

    def _choose(self, level: int, final: bool) -> None:
        source = self._session.source
        if source is None:
            return
        shots = self.curve.curve.shots[level]
        if final:
            words = f"Set the sensitivity to {level}"
            self._session.edit(lambda p, s: set_sensitivity(p, s, level), words)
        else:
            self._level.setText(str(level))
            self._shots.setText(many(shots, "shot"))
            self._say_steady(level)

    def _say_steady(self, level: int) -> None:
        flat = self.curve.curve.steady_around(level)
        self._steady.setText(
            f"steady from {flat[0]} to {flat[1]}: a safe setting"
            if flat
            else "each step changes the shots here"
        )

    def _show(self) -> None:
        source = self._session.source
        self.setEnabled(source is not None)
        if source is None:
            self._shots.setText("")
            self._steady.setText("")
            return
        self._level.setText(str(source.sensitivity))
        counts = counts_of(source, self._session.sliver_frames)
        self._shots.setText(many(counts.shots, "shot"))
        self._say_steady(source.sensitivity)
        self._known.setStringList([s.name for s in self._session.project.scenes])
        figures = (counts.judged, counts.to_judge, counts.slivers, counts.struck)
        for shown, figure in zip(self._counts.values(), figures, strict=True):
            shown.setText(str(figure))
        self._show_shot()

    def _show_shot(self) -> None:
        shot = self._session.shot_here()
        source = self._session.source
        for field in (self.name, self.note, self.scene):
            field.setEnabled(shot is not None)
        if shot is None or source is None:
            self._title.setText("Outside the range")
            self._length.setText("")
            return
        aside = ", set aside" if shot.card.set_aside else ""
        self._title.setText(f"Shot {shot.number}{aside}")
        self._length.setText(length_words(shot.length, source.media.rate))
        for field, words in (
            (self.name, shot.card.name),
            (self.note, shot.card.note),
            (self.scene, self._session.project.scene_name(shot.card.scene)),
        ):
            if not field.hasFocus() and field.text() != words:
                field.setText(words)
        opener = shot.opened_by
        self._facts["In"].setText(self._session.words_of(shot.start))
        self._facts["Out"].setText(self._session.words_of(shot.end))
        how = "start" if opener is None else opener.kind.value
        if opener is not None and opener.gradual:
            how += f", {opener.end - opener.start} fr"
        self._facts["Opens by"].setText(how)
        self._show_original(shot, source.media)

    def _show_original(self, shot: Shot, media: Media) -> None:
        """Show what a list says the shot was made from, where one does."""
        original = shot.card.original
        for key in ("Reel", "Source in"):
            self._rows.setRowVisible(self._facts[key], original is not None)
        if original is None:
            return
        first, end = original.span(shot.start, shot.end)
        self._facts["Reel"].setText(original.reel or original.clip)
        self._facts["Source in"].setText(timecode_from_frame(first, media.rate, original.drop))
        said = [f"Source out {timecode_from_frame(end, media.rate, original.drop)}"]
        if original.speed != 1:
            said.append(f"runs at {float(100 * original.speed):.4g} %")
        tip = "\n".join([*said, *original.comments])
        for key in ("Reel", "Source in"):
            self._facts[key].setToolTip(plain(tip))

    def _name(self) -> None:
        shot = self._session.shot_here()
        if shot is None or shot.card.name == self.name.text().strip():
            return
        text, frame = self.name.text(), shot.start
        self._session.edit(
            lambda p, s: name_shot(p, s, frame, text), f"Name shot {shot.number}", frame
        )

    def _note(self) -> None:
        shot = self._session.shot_here()
        if shot is None or shot.card.note == self.note.text().strip():
            return
        text, frame = self.note.text(), shot.start
        self._session.edit(
            lambda p, s: note_shot(p, s, frame, text), f"Note on shot {shot.number}", frame
        )

    def _put_in_scene(self) -> None:
        shot = self._session.shot_here()
        named = self._session.project.scene_name
        if shot is None or named(shot.card.scene) == self.scene.text().strip():
            return
        text, frame = self.scene.text(), shot.start
        where = f"into “{text.strip()}”" if text.strip() else "into no scene"
        self._session.edit(
            lambda p, s: put_in_scene(p, s, frame, text), f"Put shot {shot.number} {where}", frame
        )
