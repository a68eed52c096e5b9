"""Reads confirmations."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.formats.confirmation import read_confirmation
from gremba.store.models import Confirmation, StudentTerm, Term
from gremba.store.queries import fetch, fetch_one


@dataclass(frozen=True, slots=True)
class StoredConfirmation:
    """A stored confirmation, in the current form.

    Attributes:
        term: the name of its term.
    """

    id: int
    sent_at: datetime
    body: dict[str, Any]
    term: str


def _kept(form: int, body: Any, **rest: Any) -> StoredConfirmation:
    return StoredConfirmation(body=read_confirmation(form, body), **rest)


_CONFIRMATIONS = (
    Confirmation.select(
        Confirmation.id, Confirmation.sent_at, Confirmation.form, Confirmation.body, Term.name.alias("term")
    )
    .join(StudentTerm)
    .join(Term)
)


def list_confirmations(
    database: PooledPostgresqlDatabase, student_term_id: int, before: int | None, most: int
) -> list[StoredConfirmation]:
    """A student's latest confirmations for a term, newest first. One statement.

    Args:
        before: only those with a smaller number.
    """
    query = _CONFIRMATIONS.where(Confirmation.student_term == student_term_id)
    if before is not None:
        query = query.where(Confirmation.id < before)
    return fetch(database, query.order_by(Confirmation.id.desc()).limit(most), _kept)


def find_confirmation(
    database: PooledPostgresqlDatabase, confirmation_id: int, student_id: int
) -> StoredConfirmation | None:
    """A confirmation of this student; None for anybody else's. One statement."""
    own = (Confirmation.id == confirmation_id) & (StudentTerm.student == student_id)
    return fetch_one(database, _CONFIRMATIONS.where(own), _kept)
