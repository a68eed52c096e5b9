"""Reading receipts."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.formats.receipt import read_receipt
from gremba.store.models import Receipt, StudentTerm, Term
from gremba.store.queries import fetch, fetch_one


@dataclass(frozen=True, slots=True)
class StoredReceipt:
    """A receipt as it was written, in the present form.

    Attributes:
        term: the name of its term.
    """

    id: int
    sent_at: datetime
    body: dict[str, Any]
    term: str


def _kept(form: int, body: Any, **rest: Any) -> StoredReceipt:
    return StoredReceipt(body=read_receipt(form, body), **rest)


_RECEIPTS = (
    Receipt.select(Receipt.id, Receipt.sent_at, Receipt.form, Receipt.body, Term.name.alias("term"))
    .join(StudentTerm)
    .join(Term)
)


def list_receipts(
    database: PooledPostgresqlDatabase, student_term_id: int, before: int | None, most: int
) -> list[StoredReceipt]:
    """The latest receipts of a student in a term, newest first. One statement.

    Args:
        before: only those with a smaller number.
    """
    query = _RECEIPTS.where(Receipt.student_term == student_term_id)
    if before is not None:
        query = query.where(Receipt.id < before)
    return fetch(database, query.order_by(Receipt.id.desc()).limit(most), _kept)


def find_receipt(
    database: PooledPostgresqlDatabase, receipt_id: int, student_id: int
) -> StoredReceipt | None:
    """A receipt of this student; None for anybody else's. One statement."""
    own = (Receipt.id == receipt_id) & (StudentTerm.student == student_id)
    return fetch_one(database, _RECEIPTS.where(own), _kept)
