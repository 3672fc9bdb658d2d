"""Figures and lengths out: as JSON, CSV, a spreadsheet, and plain text for a terminal."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from offcut import __version__
from offcut.core.errors import ListError
from offcut.core.files import write_whole
from offcut.core.lists.csv import harmless
from offcut.core.rhythm.figures import FEW_ECHO, Figures
from offcut.core.rhythm.lengths import ShotLengths
from offcut.core.rhythm.rows import ROWS, Value
from offcut.core.rhythm.whole_study import WholeStudy
from offcut.core.words import printable

HEADS = ("number", "name", "scene", "begins", "seconds", "frames", "joined by", "mixed seconds")


def figures_document(lengths: ShotLengths, figures: Figures) -> dict[str, Any]:
    """Return figures and lengths as `offcut rhythm --json` prints them, see docs/formats.md."""
    f, echo, line = figures, figures.echo, figures.line
    return {
        "name": lengths.name,
        "shots": f.shots,
        "seconds": f.seconds,
        "lengths": lengths.held.tolist(),
        "mean": f.mean,
        "median": f.median,
        "shortest": f.shortest,
        "longest": f.longest,
        "q1": f.q1,
        "q3": f.q3,
        "sd": f.sd,
        "cv": f.cv,
        "skewness": f.skewness,
        "cuts_per_minute": f.cuts_per_minute,
        "log_mean": f.log_mean,
        "log_sd": f.log_sd,
        "autocorrelation": echo.values.tolist() if echo is not None else None,
        "autocorrelation_bounds": echo.bounds.tolist() if echo is not None else None,
        "partial_autocorrelation": [_told(v) for v in echo.partial.tolist()]
        if echo is not None
        else None,
        "follows_over": echo.holds if echo is not None and f.shots >= FEW_ECHO else None,
        "limit": f.limit,
        "under_limit": f.under,
        "joins": {kind.value: share for kind, share in f.joins},
        "mixed": f.mixed,
        "first_third": f.first_third,
        "last_third": f.last_third,
        "slope": {"per_minute": line.slope, "low": line.low, "high": line.high, "p": line.p}
        if line is not None
        else None,
        "log_normal": {"test": f.fit.test, "statistic": f.fit.statistic, "p": f.fit.p}
        if f.fit is not None
        else None,
        "spectrum": {"slope": f.spectrum.slope, "low": f.spectrum.low, "high": f.spectrum.high}
        if f.spectrum is not None
        else None,
    }


def _told(value: float) -> float | None:
    return value if math.isfinite(value) else None


def study_document(study: WholeStudy) -> dict[str, Any]:
    """Return a whole study as `offcut rhythm --json` prints it."""
    return {
        "offcut": __version__,
        **figures_document(study.lengths, study.figures),
        **({"note": study.lengths.note} if study.lengths.note else {}),
        "beside": [
            {
                **figures_document(b.lengths, b.figures),
                **({"note": b.lengths.note} if b.lengths.note else {}),
                "longer": b.compared.longer,
                "p": b.compared.p,
                "words": b.compared.words,
            }
            for b in study.beside
        ],
    }


def length_rows(study: WholeStudy) -> Iterator[tuple[str | int | float, ...]]:
    """Yield a row for each shot that counts, under the heads of `HEADS`."""
    lengths = study.lengths
    for place in lengths.places.tolist():
        shot = lengths.shots[place]
        scene = study.scenes.get(shot.scene)
        yield (
            shot.number,
            harmless(shot.title),
            harmless(scene.name) if scene is not None else "",
            float(lengths.begins[place]),
            float(lengths.seconds[place]),
            shot.end - shot.start or "",
            shot.kind.value if shot.kind is not None else "",
            float(lengths.mixed[place]) or "",
        )


def figure_rows(study: WholeStudy) -> Iterator[tuple[str | int | float | None, ...]]:
    """Yield a row for each figure: its words, its unit, its value, and those of what is beside."""
    yield (
        "figure", "unit", harmless(study.lengths.name),
        *(harmless(b.lengths.name) for b in study.beside),
    )  # fmt: skip
    for row in ROWS:
        both = [study.figures, *(b.figures for b in study.beside)]
        yield (row.label(study.figures), row.unit, *(_value(row.value(f)) for f in both))
        if row.id == "q1":
            yield ("Upper quartile", "s", *(f.q3 for f in both))
    yield ("Rank test", "p", None, *(b.compared.p for b in study.beside))


def _value(value: Value) -> Value:
    return None if isinstance(value, float) and not math.isfinite(value) else value


def _csv(rows: Iterator[tuple[Any, ...]]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows:
        writer.writerow(["" if cell is None else cell for cell in row])
    return out.getvalue().encode("utf-8-sig")


def figures_path(path: str | Path) -> Path:
    """Return where figures go beside a file of lengths."""
    file = Path(path)
    return file.with_name(f"{file.stem}-figures{file.suffix or '.csv'}")


def write_csv(study: WholeStudy, path: str | Path) -> tuple[Path, Path]:
    """Write all lengths as CSV, and all figures in a file beside it. Raises ListError.

    The lengths can be read as a list again: one column is headed “seconds”.
    """
    file, other = Path(path), figures_path(path)
    _write(file, _csv(iter([HEADS, *length_rows(study)])))
    _write(other, _csv(figure_rows(study)))
    return file, other


def write_workbook(study: WholeStudy, path: str | Path) -> Path:
    """Write figures and lengths as a spreadsheet of two sheets. Raises ListError."""
    from openpyxl import Workbook  # slow to load, so only where it is used
    from openpyxl.styles import Font

    book = Workbook()
    for title, rows in (
        ("Figures", list(figure_rows(study))),
        ("Lengths", [HEADS, *length_rows(study)]),
    ):
        sheet = book.active if title == "Figures" else book.create_sheet()
        sheet.title = title
        for row in rows:
            sheet.append([printable(v) if isinstance(v, str) else v
                          for v in row])  # fmt: skip
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A2"
        sheet.column_dimensions["A" if title == "Figures" else "B"].width = 30
    out = io.BytesIO()
    book.save(out)
    return _write(Path(path), out.getvalue())


def _write(file: Path, data: bytes) -> Path:
    try:
        write_whole(file, data)
    except OSError as error:
        raise ListError(f"{file}: cannot be written ({error.strerror})") from error
    return file


def study_text(study: WholeStudy, between: str = "  ") -> str:
    """Return the figures as text in columns: for a terminal, or with tabs for the clipboard."""
    names = ["", study.lengths.name, *(b.lengths.name for b in study.beside)]
    both = [study.figures, *(b.figures for b in study.beside)]
    names = [printable(name) for name in names]
    table = [names, *([row.label(study.figures), *(row.shown(f) for f in both)] for row in ROWS)]
    if between == "\t":
        lines = ["\t".join(row) for row in table]
    else:
        wide = [max(len(row[n]) for row in table) for n in range(len(names))]
        lines = [
            between.join(
                [row[0].ljust(wide[0]), *(c.rjust(wide[n + 1]) for n, c in enumerate(row[1:]))]
            ).rstrip()
            for row in table
        ]
    return "\n".join([*lines, *(f"\n{printable(b.compared.words)}" for b in study.beside)])
