"""Sheets: a heading and rows of cells, whichever file they come from."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

MOST_COLUMNS = 200
MOST_ROWS = 5_000_000
"""Lines of one table, empty ones too: twice the records of 50,000 students in eight terms."""

MOST_SIGNS_OF_ROW = 1_000_000


def too_many_columns(line: int) -> UnreadableFile:
    """A row has more cells than any table has columns."""
    return UnreadableFile(f"has more than {MOST_COLUMNS} columns", line)


def too_many_rows() -> UnreadableFile:
    """A file has more lines than any table may have."""
    return UnreadableFile(f"has more than {MOST_ROWS:,} rows; send it in parts")


class UnreadableFile(Exception):
    """A file cannot be read; the text says why, and what to do.

    Attributes:
        line: as a spreadsheet counts; 0 where it is about the whole file.
    """

    def __init__(self, problem: str, line: int = 0) -> None:
        super().__init__(problem)
        self.line = line


class Formula(str):
    """A cell with a formula and no value."""

    __slots__ = ()


@dataclass(slots=True)
class Sheet:
    """A table in a file.

    Attributes:
        name: of the table.
        rows: the line, as a spreadsheet counts, with the cells of each row, the heading first. Rows of
            empty cells are passed over. Reading on may raise UnreadableFile.
    """

    name: str
    rows: Iterator[tuple[int, list[str]]]
