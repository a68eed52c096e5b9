"""Writing what a decision says: registrations, their history, receipts, and the cart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.changes import Kind
from gremba.core.decision import Decision, Result
from gremba.store.database import ask

# Arrays travel in binary (%b): as text every quote of a receipt would have to be escaped.
_RECEIPTS = """
INSERT INTO receipts
    (id, student_term_id, idempotency_key, request_digest, sent_at, sent_by, body)
SELECT t.id, t.row, t.key, t.digest, t.at, t.by, t.body::json
FROM unnest(%b::bigint[], %b::int[], %b::text[], %b::bytea[], %b::timestamptz[], %b::int[], %b::text[])
     AS t (id, row, key, digest, at, by, body)
"""

_ADDS = """
INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading,
                           credits, registered_at, registered_by)
SELECT student_term_id, term_id, section_id, pool_id, 'registered', grading, credits, at, receipt
FROM unnest(%b::int[], %b::int[], %b::int[], %b::int[], %b::text[], %b::numeric[],
            %b::timestamptz[], %b::bigint[])
     AS t (student_term_id, term_id, section_id, pool_id, grading, credits, at, receipt)
"""

_DROPS = """
WITH ended AS (
    UPDATE registrations r SET state = t.state, ended_at = t.at, kept_cents = t.kept
    FROM unnest(%b::int[], %b::int[], %b::text[], %b::int[], %b::timestamptz[], %b::bigint[])
         AS t (student_term_id, section_id, state, kept, at, receipt)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, r.state, r.ended_at, t.receipt
)
INSERT INTO registration_events (registration_id, what, at, receipt_id)
SELECT id, state, ended_at, receipt FROM ended
"""

_CART = """
DELETE FROM cart_changes c
USING unnest(%b::int[], %b::int[]) AS t (student_term_id, section_id)
WHERE c.student_term_id = t.student_term_id AND c.section_id = t.section_id
"""


@dataclass(frozen=True, slots=True)
class Writing:
    """A decision on its way to the tables.

    Attributes:
        receipt: the receipt's number.
        body: the receipt as it will be read later, as JSON.
    """

    receipt: int
    student_term_id: int
    term_id: int
    key: str
    digest: bytes
    at: datetime
    by: int
    decision: Decision
    body: bytes


def ask_receipt_ids(database: PooledPostgresqlDatabase, many: int) -> Callable[[], list[int]]:
    """Ask for so many numbers for receipts; what this gives reads them."""
    asked = ask(
        database,
        "SELECT nextval(pg_get_serial_sequence('receipts', 'id')) FROM generate_series(1, %s)",
        (many,),
    )
    return lambda: [row[0] for row in asked.fetchall()]


def ask_earlier_receipts(
    database: PooledPostgresqlDatabase, keys: Sequence[tuple[int, str]]
) -> Callable[[], dict[tuple[int, str], tuple[int, bytes, Any, datetime]]]:
    """Ask for receipts of these (student term, idempotency key) pairs: id, digest, body, time.

    What this gives reads the answer.
    """
    asked = ask(
        database,
        "SELECT r.student_term_id, r.idempotency_key, r.id, r.request_digest, r.body, r.sent_at "
        "FROM receipts r JOIN unnest(%b::int[], %b::text[]) AS t (student_term_id, key) "
        "ON r.student_term_id = t.student_term_id AND r.idempotency_key = t.key",
        ([k[0] for k in keys], [k[1] for k in keys]),
    )
    return lambda: {
        (row[0], row[1]): (row[2], bytes(row[3]), row[4], row[5]) for row in asked.fetchall()
    }


def write(database: PooledPostgresqlDatabase, batch: Sequence[Writing]) -> None:
    """Write a batch with at most one decision a student, in up to four statements.

    Raises:
        Refused: the tables refuse it; nothing may be committed then.
    """
    ask(
        database,
        _RECEIPTS,
        (
            [w.receipt for w in batch],
            [w.student_term_id for w in batch],
            [w.key for w in batch],
            [w.digest for w in batch],
            [w.at for w in batch],
            [w.by for w in batch],
            [w.body.decode() for w in batch],
        ),
    )
    accepted = [
        (w, o, o.section)
        for w in batch
        for o in w.decision.outcomes
        if o.result is Result.ACCEPTED and o.section is not None
    ]
    adds = [(w, o, s) for w, o, s in accepted if o.change.kind is Kind.ADD]
    if adds:
        ask(
            database,
            _ADDS,
            (
                [w.student_term_id for w, _, _ in adds],
                [w.term_id for w, _, _ in adds],
                [s.id for _, _, s in adds],
                [s.pool for _, _, s in adds],
                [o.change.grading or s.course.gradings[0] for _, o, s in adds],
                [o.credits for _, o, _ in adds],
                [w.at for w, _, _ in adds],
                [w.receipt for w, _, _ in adds],
            ),
        )
    drops = [(w, o, s) for w, o, s in accepted if o.change.kind is Kind.DROP]
    if drops:
        ask(
            database,
            _DROPS,
            (
                [w.student_term_id for w, _, _ in drops],
                [s.id for _, _, s in drops],
                ["withdrawn" if o.withdrawn else "dropped" for _, o, _ in drops],
                [o.kept_cents for _, o, _ in drops],
                [w.at for w, _, _ in drops],
                [w.receipt for w, _, _ in drops],
            ),
        )
    if accepted:
        ask(
            database,
            _CART,
            ([w.student_term_id for w, _, _ in accepted], [s.id for _, _, s in accepted]),
        )
