"""Numbers and writes confirmations, and finds those already written."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.formats.confirmation import FORM, read_confirmation
from gremba.store.database import as_array, fetch_records, send_sql
from gremba.store.registration.writing.decided import Writing

# Text travels in binary arrays (%b), since every quote of a confirmation would have to be escaped;
# numbers as one text (%s, see `as_array`).
_CONFIRMATIONS = """
INSERT INTO confirmations
    (id, student_term_id, idempotency_key, request_digest, sent_at, form, sent_by, body)
SELECT t.id, t.row, t.key, t.digest, %s, %s, t.by, t.body::json
FROM unnest(%s::bigint[], %s::int[], %b::text[], %b::bytea[], %s::int[], %b::text[])
     AS t (id, row, key, digest, by, body)
"""


def ask_confirmation_ids(database: PooledPostgresqlDatabase, many: int) -> Callable[[], list[int]]:
    """Send a query for confirmation numbers; the function returned reads them."""
    asked = send_sql(
        database,
        "SELECT nextval(name) "
        "FROM pg_get_serial_sequence('confirmations', 'id') AS name, generate_series(1, %s)",
        (many,),
    )
    return lambda: [row[0] for row in asked.fetchall()]


@dataclass(frozen=True, slots=True)
class _ConfirmationRow:
    student_term_id: int
    key: str
    id: int
    digest: bytes
    form: int
    body: dict[str, Any]
    sent_at: datetime


_CONFIRMATION_ROWS = TypeAdapter(list[_ConfirmationRow])


@dataclass(frozen=True, slots=True)
class EarlierConfirmation:
    """The confirmation stored under an idempotency key.

    Attributes:
        digest: of the request that it answers.
    """

    id: int
    digest: bytes
    body: Any
    sent_at: datetime


def ask_earlier_confirmations(
    database: PooledPostgresqlDatabase, keys: Sequence[tuple[int, str]]
) -> Callable[[], dict[tuple[int, str], EarlierConfirmation]]:
    """Send a query for the confirmations of (student term, idempotency key) pairs; the function returned
    reads them."""
    asked = send_sql(
        database,
        # One look into the index for each: a join may be planned as a reading of all confirmations.
        "SELECT t.student_term_id, t.key, r.id, r.request_digest AS digest, r.form, r.body, r.sent_at "
        "FROM unnest(%s::int[], %b::text[]) AS t (student_term_id, key) "
        "CROSS JOIN LATERAL (SELECT * FROM confirmations r WHERE r.student_term_id = t.student_term_id "
        "AND r.idempotency_key = t.key LIMIT 1) r",
        (as_array(k[0] for k in keys), [k[1] for k in keys]),
    )
    return lambda: {
        (row.student_term_id, row.key): EarlierConfirmation(
            row.id, row.digest, read_confirmation(row.form, row.body), row.sent_at
        )
        for row in fetch_records(asked, _CONFIRMATION_ROWS)
    }


def write_confirmations(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write the confirmations of a batch. One statement."""
    send_sql(
        database,
        _CONFIRMATIONS,
        (
            at,
            FORM,
            as_array(w.confirmation for w in batch),
            as_array(w.student_term_id for w in batch),
            [w.key for w in batch],
            [w.digest for w in batch],
            as_array(w.by for w in batch),
            [w.body.decode() for w in batch],
        ),
    )
