"""Reading receipts."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows


def list_receipts(
    database: PooledPostgresqlDatabase, student_term_id: int, before: int | None, most: int
) -> list[tuple[int, datetime, dict[str, Any]]]:
    """The latest receipts of a student in a term, newest first: id, time, body."""
    found = rows(
        database,
        "SELECT id, sent_at, body FROM receipts WHERE student_term_id = %s "
        "AND (%s::bigint IS NULL OR id < %s) ORDER BY id DESC LIMIT %s",
        (student_term_id, before, before, most),
    )
    return [(row[0], row[1], row[2]) for row in found]


def find_receipt(
    database: PooledPostgresqlDatabase, receipt_id: int, student_id: int
) -> tuple[int, datetime, dict[str, Any], str] | None:
    """A receipt of this student, with the name of its term; None for anybody else's."""
    found = rows(
        database,
        "SELECT r.id, r.sent_at, r.body, t.name FROM receipts r "
        "JOIN student_terms st ON st.id = r.student_term_id JOIN terms t ON t.id = st.term_id "
        "WHERE r.id = %s AND st.student_id = %s",
        (receipt_id, student_id),
    )
    return found[0] if found else None
