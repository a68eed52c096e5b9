"""Exports a college as an exchange folder, from one snapshot."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import IO, Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.exchange.definition import ExchangeTable
from gremba.core.exchange.tables import TABLES, is_by_term
from gremba.formats.exchange.writing import write_archive, write_folder, write_workbook
from gremba.store.database import connected, run_sql
from gremba.store.exchange.staging import stream
from gremba.store.exchange.zone import college_zone, speak_in


def write_out(
    database: PooledPostgresqlDatabase,
    target: Path | IO[bytes],
    form: str,
    title: str,
    names: Iterable[str] = (),
    term: str = "",
) -> None:
    """Export tables.

    Args:
        target: a folder for the form "folder"; a file that is written to for "zip" and "xlsx".
        form: "folder", "zip" or "xlsx".
        title: what the package is called.
        names: of the tables; all if none is named.
        term: code of the only term that is wanted, without what is the college's whatever the term.

    Raises:
        FileExistsError: the folder holds something.
    """
    wanted = set(names)
    tables = [
        table
        for table in TABLES
        if (not wanted or table.name in wanted) and (not term or is_by_term(table) or table.name == "terms")
    ]
    with connected(database), database.atomic():
        run_sql(database, "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        speak_in(database, college_zone(database))

        def rows(table: ExchangeTable) -> Iterable[tuple[Any, ...]]:
            return stream(database, table.name, term)

        if form == "folder":
            assert isinstance(target, Path)
            write_folder(target, title, tables, rows)
        elif isinstance(target, Path):
            with target.open("xb") as file:
                _write_packed(file, form, title, tables, rows)
        else:
            _write_packed(target, form, title, tables, rows)


def _write_packed(file: IO[bytes], form: str, title: str, tables: list[ExchangeTable], rows: Any) -> None:
    if form == "zip":
        write_archive(file, title, tables, rows)
    else:
        write_workbook(file, tables, rows)
