"""Reading receipts."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import Receipt, StudentTerm, Term
from gremba.store.queries import fetch_tuples


def list_receipts(
    database: PooledPostgresqlDatabase, student_term_id: int, before: int | None, most: int
) -> list[tuple[int, datetime, dict[str, Any]]]:
    """The latest receipts of a student in a term, newest first: id, time, body."""
    query = Receipt.select(Receipt.id, Receipt.sent_at, Receipt.body)
    query = query.where(Receipt.student_term == student_term_id)
    if before is not None:
        query = query.where(Receipt.id < before)
    return fetch_tuples(database, query.order_by(Receipt.id.desc()).limit(most))


def find_receipt(
    database: PooledPostgresqlDatabase, receipt_id: int, student_id: int
) -> tuple[int, datetime, dict[str, Any], str] | None:
    """A receipt of this student, with the name of its term; None for anybody else's."""
    query = Receipt.select(Receipt.id, Receipt.sent_at, Receipt.body, Term.name)
    query = query.join(StudentTerm).join(Term)
    found = fetch_tuples(
        database, query.where(Receipt.id == receipt_id, StudentTerm.student == student_id)
    )
    return found[0] if found else None
