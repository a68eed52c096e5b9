"""Writing what a decision says: registrations, their history, receipts, and the cart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.changes import Kind
from gremba.core.decision import Decision, Result
from gremba.store.database import rows, run

_RECEIPTS = """
INSERT INTO receipts
    (student_term_id, idempotency_key, request_digest, sent_at, sent_by, body)
SELECT * FROM unnest(%s::int[], %s::text[], %s::bytea[], %s::timestamptz[], %s::int[], %s::jsonb[])
RETURNING id, student_term_id
"""

_ADDS = """
WITH made AS (
    INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading,
                               credits, registered_at)
    SELECT student_term_id, term_id, section_id, pool_id, 'registered', grading, credits, at
    FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %s::text[], %s::numeric[],
                %s::timestamptz[])
         AS t (student_term_id, term_id, section_id, pool_id, grading, credits, at)
    RETURNING id, student_term_id, registered_at
)
INSERT INTO registration_events (registration_id, what, at, receipt_id)
SELECT made.id, 'registered', made.registered_at, receipt.id
FROM made JOIN unnest(%s::int[], %s::bigint[]) AS receipt (student_term_id, id)
    USING (student_term_id)
"""

_DROPS = """
WITH ended AS (
    UPDATE registrations r SET state = t.state, ended_at = t.at, kept_cents = t.kept
    FROM unnest(%s::int[], %s::int[], %s::text[], %s::int[], %s::timestamptz[])
         AS t (student_term_id, section_id, state, kept, at)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, r.student_term_id, r.state, r.ended_at
)
INSERT INTO registration_events (registration_id, what, at, receipt_id)
SELECT ended.id, ended.state, ended.ended_at, receipt.id
FROM ended JOIN unnest(%s::int[], %s::bigint[]) AS receipt (student_term_id, id)
    USING (student_term_id)
"""

_CART = """
DELETE FROM cart_changes c
USING unnest(%s::int[], %s::int[]) AS t (student_term_id, section_id)
WHERE c.student_term_id = t.student_term_id AND c.section_id = t.section_id
"""


@dataclass(frozen=True, slots=True)
class Writing:
    """A decision on its way to the tables.

    Attributes:
        body: the receipt as it will be read later, as JSON.
    """

    student_term_id: int
    term_id: int
    key: str
    digest: bytes
    at: datetime
    by: int
    decision: Decision
    body: bytes


def earlier_receipts(
    database: PooledPostgresqlDatabase, keys: Sequence[tuple[int, str]]
) -> dict[tuple[int, str], tuple[int, bytes, Any, datetime]]:
    """Receipts of these (student term, idempotency key) pairs: id, digest, body, time."""
    found = rows(
        database,
        "SELECT r.student_term_id, r.idempotency_key, r.id, r.request_digest, r.body, r.sent_at "
        "FROM receipts r JOIN unnest(%s::int[], %s::text[]) AS t (student_term_id, key) "
        "ON r.student_term_id = t.student_term_id AND r.idempotency_key = t.key",
        ([k[0] for k in keys], [k[1] for k in keys]),
    )
    return {(row[0], row[1]): (row[2], bytes(row[3]), row[4], row[5]) for row in found}


def write(database: PooledPostgresqlDatabase, batch: Sequence[Writing]) -> list[int]:
    """Write a batch with at most one decision a student, in up to four statements.

    Returns:
        The receipts' ids, in the order of the batch.

    Raises:
        peewee.IntegrityError: the tables refuse it; nothing may be committed then.
    """
    ids = dict(
        (student_term, receipt)
        for receipt, student_term in rows(
            database,
            _RECEIPTS,
            (
                [w.student_term_id for w in batch],
                [w.key for w in batch],
                [w.digest for w in batch],
                [w.at for w in batch],
                [w.by for w in batch],
                [w.body.decode() for w in batch],
            ),
        )
    )
    receipts = (list(ids), list(ids.values()))
    accepted = [
        (w, o, o.section)
        for w in batch
        for o in w.decision.outcomes
        if o.result is Result.ACCEPTED and o.section is not None
    ]
    adds = [(w, o, s) for w, o, s in accepted if o.change.kind is Kind.ADD]
    if adds:
        run(
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
                *receipts,
            ),
        )
    drops = [(w, o, s) for w, o, s in accepted if o.change.kind is Kind.DROP]
    if drops:
        run(
            database,
            _DROPS,
            (
                [w.student_term_id for w, _, _ in drops],
                [s.id for _, _, s in drops],
                ["withdrawn" if o.withdrawn else "dropped" for _, o, _ in drops],
                [o.kept_cents for _, o, _ in drops],
                [w.at for w, _, _ in drops],
                *receipts,
            ),
        )
    if accepted:
        run(
            database,
            _CART,
            ([w.student_term_id for w, _, _ in accepted], [s.id for _, _, s in accepted]),
        )
    return [ids[w.student_term_id] for w in batch]
