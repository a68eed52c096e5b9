"""Writing what a decision says: registrations, their history, receipts, and the cart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.outcome import Decision, Result
from gremba.formats.receipt import FORM, read_receipt
from gremba.store.database import as_array, fetch_named, send_sql
from gremba.store.entries import JOIN

# Each statement that changes rows ends with the number of them beside the number that the decision
# speaks of; where they differ, the tables refuse the whole batch (see the function expect_rows).
# Text travels in binary arrays (%b), since every quote of a receipt would have to be escaped;
# numbers as one text (%s, see `as_array`).
_RECEIPTS = """
INSERT INTO receipts
    (id, student_term_id, idempotency_key, request_digest, sent_at, form, sent_by, body)
SELECT t.id, t.row, t.key, t.digest, %s, %s, t.by, t.body::json
FROM unnest(%s::bigint[], %s::int[], %b::text[], %b::bytea[], %s::int[], %b::text[])
     AS t (id, row, key, digest, by, body)
"""

_ADDS = """
INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading,
                           credits, registered_at, registered_by, reserved_block_id, beyond)
SELECT student_term_id, term_id, section_id, pool_id, 'registered', grading, credits, %s, receipt,
       reserved_block, beyond = 1
FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %b::text[], %s::numeric[], %s::bigint[],
            %s::int[], %s::int[])
     AS t (student_term_id, term_id, section_id, pool_id, grading, credits, receipt, reserved_block, beyond)
"""

_DROPS = """
WITH ended AS (
    UPDATE registrations r SET state = t.state, ended_at = %s, retained_cents = t.retained
    FROM unnest(%s::int[], %s::int[], %b::text[], %s::int[], %s::bigint[])
         AS t (student_term_id, section_id, state, retained, receipt)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, r.state, r.ended_at, t.receipt
), noted AS (
    INSERT INTO registration_events (registration_id, what, at, receipt_id)
    SELECT id, state, ended_at, receipt FROM ended
)
SELECT expect_rows((SELECT count(*) FROM ended), %s, 'drops')
"""

_ADJUSTS = """
WITH adjusted AS (
    UPDATE registrations r SET grading = t.grading, credits = t.credits, retained_cents = t.retained
    FROM unnest(%s::int[], %s::int[], %b::text[], %s::numeric[], %s::int[], %s::bigint[])
         AS t (student_term_id, section_id, grading, credits, retained, receipt)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, t.receipt, r.grading, r.credits
), noted AS (
    INSERT INTO registration_events (registration_id, what, at, receipt_id, grading, credits)
    SELECT id, 'adjusted', %s, receipt, grading, credits FROM adjusted
)
SELECT expect_rows((SELECT count(*) FROM adjusted), %s, 'adjustments')
"""

_CONSENTS = """
INSERT INTO consent_uses (consent_id, student_term_id, receipt_id, used_at)
SELECT t.*, %s FROM unnest(%s::int[], %s::int[], %s::bigint[]) AS t
"""

_LEAVES = """
WITH gone AS (
    UPDATE waitlist_entries SET state = 'left', ended_at = %s
    WHERE id = ANY(%s::bigint[]) AND state IN ('waiting', 'offered')
    RETURNING id, student_term_id, section_id, ended_at AS at
), told AS (
    INSERT INTO waitlist_events (entry_id, what, at, cause)
    SELECT id, 'left', at, 'registered in the course, or with the section it would give up' FROM gone
), written AS (
    INSERT INTO messages (student_term_id, entry_id, kind, facts, made_at)
    SELECT g.student_term_id, g.id, 'left',
           json_build_object('section', c.subject || ' ' || c.number, 'number', s.reference_number), g.at
    FROM gone g JOIN sections s ON s.id = g.section_id JOIN courses c ON c.id = s.course_id
)
SELECT expect_rows((SELECT count(*) FROM gone), %s, 'entries left')
"""

_LOOSENS = """
WITH loosened AS (
    UPDATE waitlist_entries SET in_exchange_id = NULL
    WHERE id = ANY(%s::bigint[]) AND state IN ('waiting', 'offered') AND in_exchange_id IS NOT NULL
    RETURNING id, student_term_id, section_id
), told AS (
    INSERT INTO waitlist_events (entry_id, what, at, cause)
    SELECT id, 'loosened', %s, 'the section that it would give up has been given up' FROM loosened
), written AS (
    INSERT INTO messages (student_term_id, entry_id, kind, facts, made_at)
    SELECT l.student_term_id, l.id, 'loosened',
           json_build_object('section', c.subject || ' ' || c.number, 'number', s.reference_number), %s
    FROM loosened l JOIN sections s ON s.id = l.section_id JOIN courses c ON c.id = s.course_id
)
SELECT expect_rows((SELECT count(*) FROM loosened), %s, 'entries loosened')
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
        receipt: the receipt's number.
        body: the receipt as it will be read later, as JSON.
    """

    receipt: int
    student_term_id: int
    term_id: int
    key: str
    digest: bytes
    by: int
    decision: Decision
    body: bytes


def ask_receipt_ids(database: PooledPostgresqlDatabase, many: int) -> Callable[[], list[int]]:
    """Ask for so many numbers for receipts; what this gives reads them."""
    asked = send_sql(
        database,
        "SELECT nextval(name) FROM pg_get_serial_sequence('receipts', 'id') AS name, generate_series(1, %s)",
        (many,),
    )
    return lambda: [row[0] for row in asked.fetchall()]


@dataclass(frozen=True, slots=True)
class EarlierReceipt:
    """A receipt that stands under an idempotency key already.

    Attributes:
        digest: of the request that it answers.
    """

    id: int
    digest: bytes
    body: Any
    sent_at: datetime


def ask_earlier_receipts(
    database: PooledPostgresqlDatabase, keys: Sequence[tuple[int, str]]
) -> Callable[[], dict[tuple[int, str], EarlierReceipt]]:
    """Ask for receipts of these (student term, idempotency key) pairs; what this gives reads the
    answer."""
    asked = send_sql(
        database,
        # One look into the index for each: a join may be planned as a reading of all receipts.
        "SELECT t.student_term_id, t.key, r.id, r.request_digest AS digest, r.form, r.body, r.sent_at "
        "FROM unnest(%s::int[], %b::text[]) AS t (student_term_id, key) "
        "CROSS JOIN LATERAL (SELECT * FROM receipts r WHERE r.student_term_id = t.student_term_id "
        "AND r.idempotency_key = t.key LIMIT 1) r",
        (as_array(k[0] for k in keys), [k[1] for k in keys]),
    )
    return lambda: {
        (row.student_term_id, row.key): EarlierReceipt(
            row.id, bytes(row.digest), read_receipt(row.form, row.body), row.sent_at
        )
        for row in fetch_named(asked)
    }


def write(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write a batch with at most one decision a student, all of one moment, in up to nine statements.

    Raises:
        Refused: the tables refuse it; nothing may be committed then.
    """
    send_sql(
        database,
        _RECEIPTS,
        (
            at,
            FORM,
            as_array(w.receipt for w in batch),
            as_array(w.student_term_id for w in batch),
            [w.key for w in batch],
            [w.digest for w in batch],
            as_array(w.by for w in batch),
            [w.body.decode() for w in batch],
        ),
    )
    accepted = [(w, o) for w in batch for o in w.decision.outcomes if o.result is Result.ACCEPTED]
    # What is given up goes first: its seats may be those that others in the batch take.
    drops = [(w, g) for w, o in accepted for g in o.drops]
    if drops:
        send_sql(
            database,
            _DROPS,
            (
                at,
                as_array(w.student_term_id for w, _ in drops),
                as_array(g.held.section.id for _, g in drops),
                ["withdrawn" if g.withdrawn else "dropped" for _, g in drops],
                as_array(g.retained_cents for _, g in drops),
                as_array(w.receipt for w, _ in drops),
                len(drops),
            ),
        )
    adds = [(w, o.takes) for w, o in accepted if o.takes is not None]
    if adds:
        send_sql(
            database,
            _ADDS,
            (
                at,
                as_array(w.student_term_id for w, _ in adds),
                as_array(w.term_id for w, _ in adds),
                as_array(s.section.id for _, s in adds),
                as_array(s.section.pool for _, s in adds),
                [s.grading for _, s in adds],
                as_array(s.credits for _, s in adds),
                as_array(w.receipt for w, _ in adds),
                as_array(s.reserved_block for _, s in adds),
                as_array(int(s.beyond) for _, s in adds),
            ),
        )
    used = [(w, s.consent) for w, s in adds if s.consent is not None]
    if used:
        send_sql(
            database,
            _CONSENTS,
            (
                at,
                as_array(consent for _, consent in used),
                as_array(w.student_term_id for w, _ in used),
                as_array(w.receipt for w, _ in used),
            ),
        )
    adjusts = [(w, o.adjusted.held) for w, o in accepted if o.adjusted is not None]
    if adjusts:
        send_sql(
            database,
            _ADJUSTS,
            (
                as_array(w.student_term_id for w, _ in adjusts),
                as_array(h.section.id for _, h in adjusts),
                [h.grading for _, h in adjusts],
                as_array(h.credits for _, h in adjusts),
                as_array(h.retained_cents for _, h in adjusts),
                as_array(w.receipt for w, _ in adjusts),
                at,
                len(adjusts),
            ),
        )
    _write_entries(database, batch, at)
    done = [
        (w, s)
        for w in batch
        for o in w.decision.outcomes
        if o.result is not Result.REFUSED
        for s in (o.section, o.original)
        if s is not None
    ]
    if done:
        send_sql(
            database,
            _CART,
            (as_array(w.student_term_id for w, _ in done), as_array(s.id for _, s in done)),
        )


def _write_entries(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Entries taken on waitlists, and what becomes of those that are touched by what goes through."""
    left = [p for w in batch for p in w.decision.leaves]
    if left:
        send_sql(database, _LEAVES, (at, as_array(p.id for p in left), len(left)))
    loosened = [p for w in batch for p in w.decision.loosened]
    if loosened:
        send_sql(database, _LOOSENS, (as_array(p.id for p in loosened), at, at, len(loosened)))
    joins = [(w, o.waits) for w in batch for o in w.decision.outcomes if o.waits is not None]
    if joins:
        send_sql(
            database,
            JOIN,
            (
                at,
                as_array(w.student_term_id for w, _ in joins),
                as_array(w.term_id for w, _ in joins),
                as_array(j.section.id for _, j in joins),
                as_array(j.section.pool for _, j in joins),
                as_array(None if j.in_exchange is None else j.in_exchange.id for _, j in joins),
                [j.grading for _, j in joins],
                as_array(j.credits for _, j in joins),
                [j.consent for _, j in joins],
                [" ".join(str(s.id) for s in j.chosen_companions) for _, j in joins],
            ),
        )
