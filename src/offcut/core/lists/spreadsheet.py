"""The shots as a spreadsheet, written with openpyxl; no cell is ever a formula."""

from __future__ import annotations

import io
from pathlib import Path

from offcut.core.lists.csv import heads_of, rows_of
from offcut.core.lists.outgoing import EventList, write_list_bytes

_WIDE = {"name": 34, "note": 44, "reel": 18, "markers": 34, "scene": 18, "camera": 30, "faces": 18}


def spreadsheet_bytes(events: EventList) -> bytes:
    """Return an .xlsx workbook with one sheet, a row for each shot under a fixed head."""
    from openpyxl import Workbook  # slow to load, so only where it is used
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
    from openpyxl.styles import Font

    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Shots"
    heads = heads_of(events)
    sheet.append(heads)
    for row in rows_of(events):
        sheet.append([ILLEGAL_CHARACTERS_RE.sub("", c) if isinstance(c, str) else c for c in row])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for column, head in zip(sheet.columns, heads, strict=True):
        sheet.column_dimensions[column[0].column_letter].width = _WIDE.get(head, 13)
    for line in sheet.iter_rows(min_row=2):
        for cell in line:
            if isinstance(cell.value, str):
                cell.data_type = "s"
    sheet.freeze_panes = "C2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def write_spreadsheet(events: EventList, path: str | Path) -> Path:
    """Write the spreadsheet. Raises ListError."""
    return write_list_bytes(path, spreadsheet_bytes(events))
