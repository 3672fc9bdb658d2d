"""Keeping a study: the page, charts, figures and lengths as files, or on the clipboard."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QMimeData, QObject, QSettings
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QWidget

from offcut.app.session.session import Session
from offcut.app.shared.asking import ask_folder, ask_place
from offcut.app.views.rhythm.study import Study
from offcut.core.files import safe_name
from offcut.core.model.papers import PAPERS
from offcut.core.reports.shot_prints import prints_of
from offcut.core.rhythm.charts import chart_bytes, write_charts
from offcut.core.rhythm.figures_out import study_text, write_csv, write_workbook
from offcut.core.rhythm.length_files import SUFFIX, write_reference
from offcut.core.rhythm.lengths import some_of
from offcut.core.rhythm.noted import notes_of
from offcut.core.rhythm.page import MOST_PICTURES, write_page

PAPER = "rhythm-paper"


class Keeping(QObject):
    """Writes what Rhythm shows. ``picked`` tells the places of the shots that are chosen."""

    def __init__(
        self,
        session: Session,
        study: Study,
        settings: QSettings,
        owner: QWidget,
        picked: Callable[[], Sequence[int]],
    ) -> None:
        super().__init__(owner)
        self._s = session
        self._study = study
        self._settings = settings
        self._owner = owner
        self._picked = picked

    @property
    def paper(self) -> str:
        """The paper of the study page."""
        named = str(self._settings.value(PAPER, "A4"))
        return named if named in PAPERS else "A4"

    def turn_paper(self) -> None:
        """Take the other paper from now on."""
        names = list(PAPERS)
        now = names[(names.index(self.paper) + 1) % len(names)]
        self._settings.setValue(PAPER, now)
        self._s.said.emit(f"The study page is {now} from now on")

    # asking where

    def _name(self, suffix: str) -> str:
        whole = self._study.whole
        name, _ = safe_name(f"{whole.title} {whole.lengths.name}".strip() or "rhythm")
        return f"{name[:80]}{suffix}"

    def _ask(self, words: str, kinds: str, suffix: str) -> str:
        path, _ = ask_place(self._owner, self._s, "study", words, self._name(suffix), kinds)
        if path and not path.lower().endswith(suffix.rsplit(".", 1)[-1].lower()):
            path += suffix
        return path

    def _anything(self) -> bool:
        if self._study.whole.figures.shots:
            return True
        self._s.said.emit("There are no shots to tell anything of")
        return False

    def ask_page(self) -> None:
        """Ask where the study page goes, and write it."""
        if self._anything():
            path = self._ask("Keep the page", "PDF (*.pdf)", ".pdf")
            if path:
                self.keep_page(path)

    def ask_figures(self) -> None:
        """Ask where figures and lengths go, and write them: as CSV, or as a spreadsheet."""
        if self._anything():
            kinds = "CSV, and the figures beside it (*.csv);;Spreadsheet (*.xlsx)"
            words = "Keep figures and lengths"
            name = self._name(".csv")
            path, kind = ask_place(self._owner, self._s, "study", words, name, kinds)
            if path:
                suffix = ".xlsx" if "xlsx" in kind and not path.endswith(".csv") else ".csv"
                good = path.lower().endswith((".csv", ".xlsx"))
                self.keep_figures(path if good else path + suffix)

    def ask_charts(self, form: str) -> None:
        """Ask for a folder, and write every chart into it."""
        if self._anything():
            words = f"Keep every chart as {form.upper()} in"
            folder = ask_folder(self._owner, self._s, "study", words)
            if folder:
                self.keep_charts(folder, form)

    def ask_reference(self) -> None:
        """Ask where the lengths go as a reference set, and write it."""
        if self._anything():
            kinds = f"Reference set (*{SUFFIX})"
            words = "Keep as a reference set"
            path, _ = ask_place(self._owner, self._s, "study", words, self._name(SUFFIX), kinds)
            if path:
                self.keep_reference(path if path.endswith(".json") else path + SUFFIX)

    # writing

    def keep_page(self, path: str) -> None:
        """Write the study page with the pictures of the chosen shots, in a job."""
        study, paper, project = self._study.whole, self.paper, self._s.project
        films = self._s.films
        places = list(self._picked())[:MOST_PICTURES] or some_of(study.lengths)

        def work(_job: object) -> list[Path]:
            pictures = prints_of(study.lengths, places, project, films)
            noted = replace(study, notes=notes_of(study.lengths, project))
            return [write_page(noted, path, paper, pictures)]

        self._write("Drawing the page", work)

    def keep_figures(self, path: str) -> None:
        """Write figures and lengths as CSV, or as a spreadsheet where the name ends so."""
        study = self._study.whole
        if path.lower().endswith(".xlsx"):
            self._write("Writing figures", lambda _job: [write_workbook(study, path)])
        else:
            self._write("Writing figures", lambda _job: list(write_csv(study, path)))

    def keep_charts(self, folder: str, form: str, names: Sequence[str] = ()) -> None:
        """Write charts into a folder."""
        study = self._study.whole
        self._write("Drawing charts", lambda _job: write_charts(study, folder, form, names))

    def keep_reference(self, path: str) -> None:
        """Write the lengths, and those of all that is beside, as a reference set."""
        study = self._study.whole
        sets = [study.lengths, *(b.lengths for b in study.beside)]
        self._write("Writing lengths", lambda _job: [write_reference(sets, path)])

    def _write(self, words: str, work: Callable[[object], list[Path]]) -> None:
        def done(written: list[Path]) -> None:
            if len(written) == 1:
                self._s.said.emit(f"Written to {written[0]}")
            elif written:
                self._s.said.emit(f"{len(written)} files written to {written[0].parent}")

        self._s.work(words, work, done, whatever=True)

    # the clipboard

    def copy_figures(self) -> None:
        """Put all figures on the clipboard, in columns that a spreadsheet takes."""
        if self._anything():
            QGuiApplication.clipboard().setText(study_text(self._study.whole, "\t"))
            self._s.said.emit("Figures copied")

    def copy_lengths(self) -> None:
        """Put all lengths on the clipboard, a line each, in seconds."""
        if self._anything():
            lengths = self._study.whole.lengths.held.tolist()
            QGuiApplication.clipboard().setText("\n".join(map(repr, lengths)))
            self._s.said.emit(f"{len(lengths)} lengths copied")

    def copy_chart(self, name: str) -> None:
        """Put a chart on the clipboard at print size: as a picture, and as SVG."""
        if not self._anything():
            return
        study = self._study.whole

        def work(_job: object) -> tuple[bytes, bytes]:
            return chart_bytes(study, name, "png"), chart_bytes(study, name, "svg")

        def done(drawn: tuple[bytes, bytes]) -> None:
            held = QMimeData()
            held.setImageData(QImage.fromData(drawn[0]))
            held.setData("image/svg+xml", drawn[1])
            QGuiApplication.clipboard().setMimeData(held)
            self._s.said.emit("Chart copied")

        self._s.work("Drawing the chart", work, done, whatever=True, quick=True)
