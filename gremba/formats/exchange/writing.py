"""Writes an exchange folder as text files, one archive or one workbook.

Text files begin with a byte order mark, by which spreadsheet programs know that they are UTF-8. A cell
that such a program would run as a formula gets an apostrophe in front, and so does one that begins with an
apostrophe: what is read is what was written.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import IO, Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.values import write_value
from gremba.core.plain_text import defused
from gremba.formats.exchange.package import DESCRIPTOR, descriptor

Rows = Callable[[ExchangeTable], Iterable[tuple[Any, ...]]]
"""The values of a table's rows, in the order of its columns."""

_DEFUSED = frozenset({ValueKind.TEXT, ValueKind.LIST, ValueKind.FEES, ValueKind.GROUPS, ValueKind.REQUISITE})


def cells_of(table: ExchangeTable, values: tuple[Any, ...]) -> list[str]:
    """A row as cells."""
    return [
        defused(write_value(column, value)) if column.kind in _DEFUSED else write_value(column, value)
        for column, value in zip(table.columns, values, strict=True)
    ]


def write_folder(folder: Path, title: str, tables: Iterable[ExchangeTable], rows: Rows) -> None:
    """Write the tables into a folder that is empty or does not exist.

    Raises:
        FileExistsError: something is in it.
    """
    folder.mkdir(parents=True, exist_ok=True)
    if any(folder.iterdir()):
        raise FileExistsError(f"{folder} is not empty; name a new one")
    there = list(tables)
    for table in there:
        with (folder / f"{table.name}.csv").open("w", encoding="utf-8-sig", newline="") as stream:
            _write_table(stream, table, rows(table))
    (folder / DESCRIPTOR).write_text(_described(title, there), encoding="utf-8")


def write_archive(file: IO[bytes], title: str, tables: Iterable[ExchangeTable], rows: Rows) -> None:
    """Write the tables as one .zip."""
    there = list(tables)
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for table in there:
            with (
                archive.open(f"{table.name}.csv", "w") as raw,
                io.TextIOWrapper(raw, encoding="utf-8-sig", newline="") as stream,
            ):
                _write_table(stream, table, rows(table))
        archive.writestr(DESCRIPTOR, _described(title, there))


def write_workbook(file: IO[bytes], tables: Iterable[ExchangeTable], rows: Rows) -> None:
    """Write the tables as one .xlsx, a sheet each. All cells are text, so that nothing is converted."""
    book = Workbook(write_only=True)
    for table in tables:
        sheet = book.create_sheet(table.name)
        sheet.freeze_panes = "A2"
        for number, column in enumerate(table.columns, 1):
            wide = max(len(column.name), min(len(column.example), 40)) + 3
            sheet.column_dimensions[get_column_letter(number)].width = wide
        heading = []
        for column in table.columns:
            cell = WriteOnlyCell(sheet, column.name)
            cell.font = Font(bold=True)
            heading.append(cell)
        sheet.append(heading)
        for values in rows(table):
            sheet.append([_text_cell(sheet, cell) for cell in cells_of(table, values)])
    book.save(file)


def _text_cell(sheet: Any, text: str) -> Any:
    cell = WriteOnlyCell(sheet, text)
    cell.data_type = "s"
    cell.number_format = "@"
    return cell


def _write_table(stream: IO[str], table: ExchangeTable, rows: Iterable[tuple[Any, ...]]) -> None:
    writer = csv.writer(stream, lineterminator="\r\n")
    writer.writerow([column.name for column in table.columns])
    writer.writerows(cells_of(table, values) for values in rows)


def _described(title: str, tables: list[ExchangeTable]) -> str:
    name = "-".join("".join(c if c.isascii() and c.isalnum() else " " for c in title.lower()).split())
    return json.dumps(descriptor(name or "college", title, tables), indent=1, ensure_ascii=False) + "\n"
