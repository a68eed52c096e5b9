"""Stores idempotency keys."""

from __future__ import annotations

from datetime import datetime

from peewee import PostgresqlDatabase

from gremba.store.models import DoneOnce
from gremba.store.queries import fetch_value


def claim_key(database: PostgresqlDatabase, person_id: int, key: str, what: str, at: datetime) -> str | None:
    """Claim a key for the transaction's work; another transaction with the same key waits for its end.

    Args:
        what: tells what is done, the same for a repetition.

    Returns:
        None if the key is new; else what was done by it before.
    """
    new = DoneOnce.insert(person=person_id, key=key, what=what, at=at).on_conflict_ignore()
    if fetch_value(database, new.returning(DoneOnce.key)) is not None:
        return None
    own = DoneOnce.select(DoneOnce.what).where(DoneOnce.person == person_id, DoneOnce.key == key)
    return str(fetch_value(database, own))
