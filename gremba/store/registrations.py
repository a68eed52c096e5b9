"""Writing what a decision says: registrations, their history, receipts, and the cart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.decision import Decision, Result
from gremba.store.database import ask
from gremba.store.places import JOIN

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
                           credits, registered_at, registered_by, part_id, beyond)
SELECT student_term_id, term_id, section_id, pool_id, 'registered', grading, credits, at, receipt,
       part, beyond
FROM unnest(%b::int[], %b::int[], %b::int[], %b::int[], %b::text[], %b::numeric[],
            %b::timestamptz[], %b::bigint[], %b::int[], %b::bool[])
     AS t (student_term_id, term_id, section_id, pool_id, grading, credits, at, receipt, part,
           beyond)
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

_ADJUSTS = """
WITH adjusted AS (
    UPDATE registrations r SET grading = t.grading, credits = t.credits
    FROM unnest(%b::int[], %b::int[], %b::text[], %b::numeric[], %b::timestamptz[], %b::bigint[])
         AS t (student_term_id, section_id, grading, credits, at, receipt)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, t.at, t.receipt, r.grading, r.credits
)
INSERT INTO registration_events (registration_id, what, at, receipt_id, grading, credits)
SELECT id, 'adjusted', at, receipt, grading, credits FROM adjusted
"""

_CONSENTS = """
INSERT INTO consent_uses (consent_id, student_term_id, receipt_id, used_at)
SELECT * FROM unnest(%b::int[], %b::int[], %b::bigint[], %b::timestamptz[])
"""

_LEAVES = """
WITH gone AS (
    UPDATE places w SET state = 'left', ended_at = t.at
    FROM unnest(%b::bigint[], %b::timestamptz[]) AS t (id, at)
    WHERE w.id = t.id AND w.state IN ('waiting', 'offered')
    RETURNING w.id, w.student_term_id, w.section_id, t.at
), told AS (
    INSERT INTO place_events (place_id, what, at, cause)
    SELECT id, 'left', at, 'registered elsewhere in the same course' FROM gone
)
INSERT INTO messages (student_term_id, place_id, title, body, made_at)
SELECT g.student_term_id, g.id, 'You no longer wait for ' || c.subject || ' ' || c.number,
       'You are registered for the course now, so your place for section ' || s.reference_number
       || ' was given up.', g.at
FROM gone g JOIN sections s ON s.id = g.section_id JOIN courses c ON c.id = s.course_id
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
        # One look into the index for each: a join may be planned as a reading of all receipts.
        "SELECT t.student_term_id, t.key, r.id, r.request_digest, r.body, r.sent_at "
        "FROM unnest(%b::int[], %b::text[]) AS t (student_term_id, key) "
        "CROSS JOIN LATERAL (SELECT * FROM receipts r WHERE r.student_term_id = t.student_term_id "
        "AND r.idempotency_key = t.key LIMIT 1) r",
        ([k[0] for k in keys], [k[1] for k in keys]),
    )
    return lambda: {
        (row[0], row[1]): (row[2], bytes(row[3]), row[4], row[5]) for row in asked.fetchall()
    }


def write(database: PooledPostgresqlDatabase, batch: Sequence[Writing]) -> None:
    """Write a batch with at most one decision a student, in up to nine statements.

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
        (w, o) for w in batch for o in w.decision.outcomes if o.result is Result.ACCEPTED
    ]
    # What is given up goes first: its seats may be those that others in the batch take.
    drops = [(w, g) for w, o in accepted for g in o.gives_up]
    if drops:
        ask(
            database,
            _DROPS,
            (
                [w.student_term_id for w, _ in drops],
                [g.held.section.id for _, g in drops],
                ["withdrawn" if g.withdrawn else "dropped" for _, g in drops],
                [g.kept_cents for _, g in drops],
                [w.at for w, _ in drops],
                [w.receipt for w, _ in drops],
            ),
        )
    adds = [(w, o.takes) for w, o in accepted if o.takes is not None]
    if adds:
        ask(
            database,
            _ADDS,
            (
                [w.student_term_id for w, _ in adds],
                [w.term_id for w, _ in adds],
                [s.section.id for _, s in adds],
                [s.section.pool for _, s in adds],
                [s.grading for _, s in adds],
                [s.credits for _, s in adds],
                [w.at for w, _ in adds],
                [w.receipt for w, _ in adds],
                [s.part for _, s in adds],
                [s.beyond for _, s in adds],
            ),
        )
    used = [(w, s.consent) for w, s in adds if s.consent is not None]
    if used:
        ask(
            database,
            _CONSENTS,
            (
                [consent for _, consent in used],
                [w.student_term_id for w, _ in used],
                [w.receipt for w, _ in used],
                [w.at for w, _ in used],
            ),
        )
    adjusts = [(w, o.adjusted) for w, o in accepted if o.adjusted is not None]
    if adjusts:
        ask(
            database,
            _ADJUSTS,
            (
                [w.student_term_id for w, _ in adjusts],
                [h.section.id for _, h in adjusts],
                [h.grading for _, h in adjusts],
                [h.credits for _, h in adjusts],
                [w.at for w, _ in adjusts],
                [w.receipt for w, _ in adjusts],
            ),
        )
    _write_places(database, batch)
    done = [
        (w, s)
        for w in batch for o in w.decision.outcomes if o.result is not Result.REFUSED
        for s in (o.section, o.wished) if s is not None
    ]  # fmt: skip
    if done:
        ask(database, _CART, ([w.student_term_id for w, _ in done], [s.id for _, s in done]))


def _write_places(database: PooledPostgresqlDatabase, batch: Sequence[Writing]) -> None:
    """Places taken on waitlists, and places given up because the course was had elsewhere."""
    left = [(w, p) for w in batch for p in w.decision.leaves]
    if left:
        ask(database, _LEAVES, ([p.id for _, p in left], [w.at for w, _ in left]))
    joins = [(w, o.waits) for w in batch for o in w.decision.outcomes if o.waits is not None]
    if joins:
        ask(
            database,
            JOIN,
            (
                [w.student_term_id for w, _ in joins],
                [w.term_id for w, _ in joins],
                [j.section.id for _, j in joins],
                [j.section.pool for _, j in joins],
                [w.at for w, _ in joins],
                [j.gives_up and j.gives_up.id for _, j in joins],
                [j.grading for _, j in joins],
                [j.credits for _, j in joins],
                [j.consent for _, j in joins],
                [" ".join(str(s.id) for s in j.names) for _, j in joins],
            ),
        )
