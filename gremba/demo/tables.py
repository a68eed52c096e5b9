"""Collects rows and writes them in bulk."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase
from psycopg import sql
from psycopg.types.json import Jsonb

from gremba.store.database import fetch_sql
from gremba.store.models import TABLES
from gremba.store.models.base import Json

_ORDER = [table._meta.table_name for table in TABLES]
"""Tables in an order in which every row finds those it refers to."""

_DOCUMENTS = {
    (table._meta.table_name, field.column_name)
    for table in TABLES
    for field in table._meta.sorted_fields
    if isinstance(field, Json)
}


class Tables:
    """Rows by table."""

    def __init__(self) -> None:
        self.rows: dict[str, list[dict[str, Any]]] = defaultdict(list)

    def add(self, table: str, **values: Any) -> int:
        """Add a row with the next id; returns the id."""
        number = len(self.rows[table]) + 1
        self.rows[table].append({"id": number, **values})
        return number

    def add_link(self, table: str, **values: Any) -> None:
        """Add a row to a table without an id."""
        self.rows[table].append(values)

    def write(self, database: PooledPostgresqlDatabase) -> None:
        """Copy all rows into the tables, and advance their sequences."""
        connection = database.connection()
        with connection.cursor() as cursor:
            for table in sorted(self.rows, key=_ORDER.index):
                found = self.rows[table]
                columns = list(found[0])
                command = sql.SQL("COPY {} ({}) FROM STDIN").format(
                    sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, columns))
                )
                with cursor.copy(command) as copy:
                    for row in found:
                        copy.write_row([_plain(table, c, row[c]) for c in columns])
        for table, found in self.rows.items():
            if "id" in found[0] and table != "students":
                fetch_sql(
                    database,
                    "SELECT setval(pg_get_serial_sequence(%s, 'id'), %s)",
                    (table, max(r["id"] for r in found)),
                )


def _plain(table: str, column: str, value: Any) -> Any:
    return Jsonb(value) if (table, column) in _DOCUMENTS and value is not None else value
