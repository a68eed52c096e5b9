"""Reads a sheet from text: CSV (RFC 4180), or with semicolons or tabs; UTF-8 with or without a byte order
mark, or UTF-16 with one."""

from __future__ import annotations

import codecs
import csv
import io
from collections.abc import Iterator
from typing import Any

from gremba.formats.exchange.sheets import (
    MOST_COLUMNS,
    MOST_ROWS,
    MOST_SIGNS_OF_ROW,
    Sheet,
    UnreadableFile,
    too_many_columns,
    too_many_rows,
)

_MARKS = {
    codecs.BOM_UTF8: "utf-8-sig",
    codecs.BOM_UTF16_LE: "utf-16",
    codecs.BOM_UTF16_BE: "utf-16",
}
_FIRST = 8_192
"""Bytes by which the code and the separator are told."""

# The bound of a row comes first, whatever else in the process sets for a cell.
csv.field_size_limit(MOST_SIGNS_OF_ROW)


def read_text_sheet(name: str, stream: io.BufferedReader) -> Sheet:
    """Read a table from a text file, row by row."""
    return Sheet(name, _rows(stream))


def _rows(stream: io.BufferedReader) -> Iterator[tuple[int, list[str]]]:
    head = stream.peek(_FIRST)[:_FIRST]
    code = next((name for mark, name in _MARKS.items() if head.startswith(mark)), "utf-8")
    if code == "utf-8" and b"\x00" in head:
        raise UnreadableFile("is no text; save it as CSV, UTF-8")
    first = head.decode(code, errors="ignore").partition("\n")[0]
    with io.TextIOWrapper(stream, encoding=code, newline="") as text:
        pieces = _Bounded(text)
        yield from _lines(csv.reader(pieces, delimiter=_separator(first), strict=True), pieces)


class _Bounded:
    """The lines of a text, of which no row may be longer than anybody's."""

    def __init__(self, text: io.TextIOWrapper) -> None:
        self._text = text
        self.begin_row(1)

    def begin_row(self, line: int) -> None:
        """Start a row, which begins on this line."""
        self._line, self._left = line, MOST_SIGNS_OF_ROW

    def __iter__(self) -> Iterator[str]:
        return self

    def __next__(self) -> str:
        line = self._text.readline(self._left + 1)
        self._left -= len(line)
        if self._left < 0:
            raise UnreadableFile(
                f"has a row of more than {MOST_SIGNS_OF_ROW:,} signs; look for a quote that does not end",
                self._line,
            )
        if not line:
            raise StopIteration
        return line


def _lines(reader: Any, pieces: _Bounded) -> Iterator[tuple[int, list[str]]]:
    try:
        for cells in reader:
            pieces.begin_row(reader.line_num + 1)
            if reader.line_num > MOST_ROWS:
                raise too_many_rows()
            if len(cells) > MOST_COLUMNS:
                raise too_many_columns(reader.line_num)
            if any(cell.strip() for cell in cells):
                yield reader.line_num - _breaks(cells), cells
    except UnicodeDecodeError as problem:
        raise UnreadableFile(_code_problem(problem), reader.line_num + 1) from None
    except csv.Error as problem:
        raise UnreadableFile(
            f"cannot be read from here on ({problem}); look for a quote that does not end",
            reader.line_num,
        ) from None


def _breaks(cells: list[str]) -> int:
    """The number of line breaks within a row, so that it is reported by its first line."""
    return sum(cell.count("\n") for cell in cells)


def _separator(first: str) -> str:
    return max(",;\t", key=lambda sign: (first.count(sign), sign == ","))


def _code_problem(problem: UnicodeDecodeError) -> str:
    if problem.encoding.startswith("utf-16"):
        return "breaks off in the middle of a sign; save it again as CSV, UTF-8"
    before = bytes(problem.object[max(0, problem.start - 12) : problem.start]).rpartition(b"\n")[2]
    after = bytes(problem.object[problem.start : problem.end + 12]).partition(b"\n")[0]
    meant = (before + after).decode("cp1252", errors="replace").strip()
    shown = "" if "\ufffd" in meant else f" (it looks like Windows-1252: “{meant}”)"
    return f"is not UTF-8{shown}; save it as CSV, UTF-8"
