"""What was done, by whom and from where: kept apart from receipts, only added to, for so long."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import AuditKind
from gremba.store.database import run_sql


@dataclass(frozen=True, slots=True)
class Entry:
    """One of them.

    Attributes:
        account: the user name that was given, where nobody is signed in.
        student_id: whom it is about, where that is another.
        request_id: the one that the answer carried.
    """

    at: datetime
    act: AuditKind
    person_id: int | None = None
    account: str = ""
    student_id: int | None = None
    address: str = ""
    request_id: str = ""
    detail: str = ""


def write_entries(database: PooledPostgresqlDatabase, entries: Sequence[Entry]) -> None:
    """Write entries, in one statement. A student who is nobody is left out."""
    run_sql(
        database,
        "INSERT INTO audit_entries (at, kind, person_id, account, student_id, address, request_id, "
        "detail) SELECT at, kind, person_id, account, s.id, address, request_id, detail "
        "FROM unnest(%s::timestamptz[], %s::text[], %s::int[], %s::text[], %s::bigint[], %s::text[], "
        "%s::text[], %s::text[]) "
        "AS e (at, kind, person_id, account, student_id, address, request_id, detail) "
        "LEFT JOIN students s ON s.id = e.student_id",
        (
            [e.at for e in entries],
            [e.act.value for e in entries],
            [e.person_id for e in entries],
            [e.account for e in entries],
            [e.student_id for e in entries],
            [e.address for e in entries],
            [e.request_id for e in entries],
            [e.detail for e in entries],
        ),
    )


RETENTION = {
    "audit_entries": ("at", timedelta(days=400)),
    "sign_ins": ("at", timedelta(days=30)),
    "consent_guesses": ("at", timedelta(days=30)),
    "known_browsers": ("seen_at", timedelta(days=180)),
    "sessions": ("expires_at", timedelta(days=30)),
}
"""How long what is about access is kept, by the moment in a column; nothing else ever goes."""

AT_ONCE = 5_000
"""Rows that one statement takes away, so that none holds locks for long."""

MOST_PURGED = 1_000_000
"""Rows of a table at the most in one go: more than a flood of attempts leaves in an hour."""


def purge(database: PooledPostgresqlDatabase, now: datetime) -> dict[str, int]:
    """Take away what is older than it is kept, a few thousand rows at a time; gives how many of each
    went."""
    gone = {}
    for table, (column, retention) in RETENTION.items():
        many = 0
        while many < MOST_PURGED:
            last = run_sql(
                database,
                f"DELETE FROM {table} WHERE ctid IN (SELECT ctid FROM {table} "
                f"WHERE {column} < %s LIMIT {AT_ONCE})",
                (now - retention,),
            )
            many += last
            if last < AT_ONCE:
                break
        if many:
            gone[table] = many
    return gone
