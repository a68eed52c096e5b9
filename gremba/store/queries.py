"""Runs peewee queries and maps rows to records.

Queries are made without a database; whoever puts them says which one, as with SQL by hand.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import fields
from typing import Any, TypeVar

from peewee import Insert, Model, Query, Select, Value, fn
from playhouse.pool import PooledPostgresqlDatabase

T = TypeVar("T")


def columns(record: type[Any], table: type[Model] | None = None, /, **others: Any) -> list[Any]:
    """The columns to select for records of a class: for each field the table's column with its name.

    Args:
        record: a dataclass.
        table: a model, or an alias of one.
        others: by the field's name, where a column is another one, or not the table's.
    """
    return [
        (others[name] if name in others else getattr(table, name)).alias(name)
        for name in (field.name for field in fields(record))
    ]


def fetch(database: PooledPostgresqlDatabase, query: Query, record: Callable[..., T]) -> list[T]:
    """All rows of a query as records."""
    return list(query.bind(database).objects(record))


def fetch_one(database: PooledPostgresqlDatabase, query: Query, record: Callable[..., T]) -> T | None:
    """The first row of a query; None if there is none."""
    found = fetch(database, query, record)
    return found[0] if found else None


def fetch_tuples(database: PooledPostgresqlDatabase, query: Query) -> list[Any]:
    """All rows of a query as tuples, for two or three columns that are unpacked at once."""
    return list(query.bind(database).tuples())


def fetch_values(database: PooledPostgresqlDatabase, query: Query) -> list[Any]:
    """The only column of all rows of a query."""
    return [value for (value,) in query.bind(database).tuples()]


def fetch_value(database: PooledPostgresqlDatabase, query: Query) -> Any:
    """The only column of a query's first row; None if there is none."""
    found = fetch_values(database, query)
    return found[0] if found else None


def has_rows(database: PooledPostgresqlDatabase, query: Query) -> bool:
    """Whether a query returns any row."""
    return bool(list(query.bind(database).limit(1).tuples()))


def keeping_keys(query: Any) -> Any:
    """SELECT … FOR NO KEY UPDATE."""
    return query.for_update("FOR NO KEY UPDATE")


def keeping_shared(query: Any) -> Any:
    """SELECT … FOR SHARE."""
    return query.for_update("FOR SHARE")


def one_of(column: Any, values: Collection[Any]) -> Any:
    """Whether a column is one of these values, however many: they are one array parameter, so the
    statement stays the same."""
    # As they are: the column would convert the list as if it were one of them.
    return column == fn.ANY(Value(list(values), converter=lambda given: given, unpack=False))


def containing(text: str) -> str:
    """An escaped LIKE pattern for texts that contain this one."""
    escaped = text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{escaped}%"


def is_answered(database: PooledPostgresqlDatabase) -> bool:
    """Run a trivial query; whether the database answers."""
    return bool(fetch_value(database, Select(columns=[Value(1)])) == 1)


def take_lock(database: PooledPostgresqlDatabase, *key: int) -> None:
    """Take a session-level advisory lock; waits for it.

    Args:
        key: one number of 63 bits, or two of 31.
    """
    fetch_value(database, Select(columns=[fn.pg_advisory_lock(*key)]))


def give_lock_back(database: PooledPostgresqlDatabase, *key: int) -> None:
    """Release the lock."""
    fetch_value(database, Select(columns=[fn.pg_advisory_unlock(*key)]))


def lock_until_end(database: PooledPostgresqlDatabase, *key: int) -> None:
    """Take a transaction-level advisory lock; waits for it."""
    fetch_value(database, Select(columns=[fn.pg_advisory_xact_lock(*key)]))


def notify(database: PooledPostgresqlDatabase, channel: str, payload: str) -> None:
    """Notify every process when the transaction ends."""
    fetch_value(database, Select(columns=[fn.pg_notify(channel, payload)]))


def write(database: PooledPostgresqlDatabase, query: Query) -> int:
    """Run an insert, update, or delete; returns the number of rows affected."""
    if isinstance(query, Insert):
        query = query.as_rowcount()
    return int(query.bind(database).execute())
