"""Reads sheets from a workbook (Office Open XML, ISO/IEC 29500)."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterator
from datetime import date, datetime, time
from typing import IO, Any

from openpyxl import load_workbook

from gremba.formats.exchange.sheets import (
    MOST_COLUMNS,
    MOST_ROWS,
    Formula,
    Sheet,
    UnreadableFile,
    too_many_columns,
    too_many_rows,
)

_PIECE = 1 << 20


def read_workbook(file: IO[bytes]) -> list[Sheet]:
    """Read the tables of a workbook in the order of its sheets, row by row.

    Raises:
        UnreadableFile: it is none, is beyond all bounds, or has merged cells, of which nobody can tell where
            they belong.
    """
    _look_through(file)
    file.seek(0)
    try:
        book = load_workbook(file, read_only=True, data_only=False, keep_links=False)
        return [Sheet(sheet.title.strip(), _rows(sheet)) for sheet in book.worksheets]
    except Exception:
        # The library has no error of its own for a file that is not what it says it is.
        raise UnreadableFile("is no workbook that can be read; save it again as .xlsx") from None


def _look_through(file: IO[bytes]) -> None:
    """Checks before reading that no sheet has merged cells or too many cells in a row.

    Raises:
        UnreadableFile: one has, or the file is damaged.
    """
    file.seek(0)
    try:
        with zipfile.ZipFile(file) as archive:
            for entry in archive.infolist():
                if entry.filename.startswith("xl/worksheets/") and entry.filename.endswith(".xml"):
                    with archive.open(entry) as stream:
                        _look_through_sheet(stream)
    except UnreadableFile as problem:
        where = f" in line {problem.line}" if problem.line else ""
        raise UnreadableFile(f"One of its sheets {problem}{where}", problem.line) from None
    except Exception:
        raise UnreadableFile("is damaged; save it again as .xlsx") from None


_TAG = re.compile(rb"<(?:[A-Za-z0-9_]{1,20}:)?(row|c|mergeCell)(?=[\s/>])")
_LONGEST_TAG = 40


def _look_through_sheet(stream: IO[bytes]) -> None:
    rows = cells = 0
    tail = b""
    while piece := stream.read(_PIECE):
        whole = tail + piece
        end = 0
        for tag in _TAG.finditer(whole):
            end = tag.end()
            match tag[1]:
                case b"row":
                    rows, cells = rows + 1, 0
                    if rows > MOST_ROWS:
                        raise too_many_rows()
                case b"c":
                    cells += 1
                    if cells > MOST_COLUMNS:
                        raise too_many_columns(rows)
                case _:
                    raise UnreadableFile(
                        "has merged cells; undo the merging, so that every cell stands by itself"
                    )
        # A tag that the end of the piece cuts in two is met again, whole.
        tail = whole[max(end, len(whole) - _LONGEST_TAG) :]


def _rows(sheet: Any) -> Iterator[tuple[int, list[str]]]:
    # What a file says of its own size need not be so, and would be made as large as it says.
    sheet.reset_dimensions()
    line = 0
    try:
        for line, row in enumerate(sheet.iter_rows(), 1):
            if line > MOST_ROWS:
                raise too_many_rows()
            if len(row) > MOST_COLUMNS:
                raise too_many_columns(line)
            cells = [_cell(cell) for cell in row]
            if any(cell.strip() for cell in cells):
                yield line, cells
    except UnreadableFile:
        raise
    except Exception:
        raise UnreadableFile("is damaged from here on; save it again as .xlsx", line + 1) from None


def _cell(cell: Any) -> str:
    value = cell.value
    if value is None:
        return ""
    if cell.data_type == "f":
        return Formula(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return repr(value).removesuffix(".0")
    if isinstance(value, datetime):
        is_day = value.time() == time(0)
        return value.date().isoformat() if is_day else value.isoformat(timespec="minutes")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, time):
        return f"{value:%H:%M}"
    return str(value)
