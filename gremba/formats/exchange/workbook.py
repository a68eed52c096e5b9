"""Tables as the sheets of a workbook (Office Open XML, ISO/IEC 29500), one of each name."""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from datetime import date, datetime, time
from typing import IO, Any
from xml.etree.ElementTree import ParseError

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from gremba.formats.exchange.sheets import MOST_COLUMNS, MOST_ROWS, Formula, Sheet, UnreadableFile

_PIECE = 1 << 20


def read_workbook(file: IO[bytes]) -> list[Sheet]:
    """The tables of a workbook, in the order of its sheets; each is read as its rows are.

    Raises:
        UnreadableFile: it is none, or has merged cells, of which nobody can tell where they belong.
    """
    merged = _has_merged_cells(file)
    if merged:
        raise UnreadableFile("has merged cells; undo the merging, so that every cell stands by itself")
    file.seek(0)
    try:
        book = load_workbook(file, read_only=True, data_only=False, keep_links=False)
        return [Sheet(sheet.title.strip(), _rows(sheet)) for sheet in book.worksheets]
    except _BROKEN:
        raise UnreadableFile("is no workbook that can be read; save it again as .xlsx") from None


_BROKEN = (
    InvalidFileException,
    zipfile.BadZipFile,
    ParseError,
    KeyError,
    ValueError,
    IndexError,
    TypeError,
    AttributeError,
    EOFError,
    OSError,
)
"""What is raised of a file that is not what it says it is; the library has no error of its own for it."""


def _has_merged_cells(file: IO[bytes]) -> bool:
    file.seek(0)
    try:
        with zipfile.ZipFile(file) as archive:
            for entry in archive.infolist():
                if entry.filename.startswith("xl/worksheets/") and entry.filename.endswith(".xml"):
                    with archive.open(entry) as stream:
                        if _holds(stream, b"<mergeCell "):
                            return True
    except (zipfile.BadZipFile, EOFError, OSError, NotImplementedError, RuntimeError):
        raise UnreadableFile("is no workbook that can be read; save it again as .xlsx") from None
    return False


def _holds(stream: IO[bytes], words: bytes) -> bool:
    tail = b""
    while piece := stream.read(_PIECE):
        if words in tail + piece:
            return True
        tail = piece[-len(words) :]
    return False


def _rows(sheet: Any) -> Iterator[tuple[int, list[str]]]:
    # What a file says of its own size need not be so, and would be made as large as it says.
    sheet.reset_dimensions()
    many = 0
    try:
        for line, row in enumerate(sheet.iter_rows(), 1):
            if len(row) > MOST_COLUMNS:
                raise UnreadableFile(f"has more than {MOST_COLUMNS} columns", line)
            cells = [_cell(cell) for cell in row]
            if any(cell.strip() for cell in cells):
                many += 1
                if many > MOST_ROWS:
                    raise UnreadableFile(f"has more than {MOST_ROWS:,} rows; send it in parts")
                yield line, cells
    except _BROKEN:
        raise UnreadableFile("cannot be read from here on; save it again as .xlsx", many + 1) from None


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
