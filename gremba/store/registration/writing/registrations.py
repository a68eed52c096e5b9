"""Writes registrations: adds, drops and changes, and the permission codes used.

Each statement that changes rows ends with the number of them beside the number that the decision speaks
of; where they differ, the tables refuse the whole batch (see the function expect_rows).
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.registration.outcome import Outcome, Result
from gremba.store.database import as_array, send_sql
from gremba.store.registration.writing.decided import Writing

_DROPS = """
WITH ended AS (
    UPDATE registrations r SET state = t.state, ended_at = %s
    FROM unnest(%s::int[], %s::int[], %b::text[], %s::bigint[])
         AS t (student_term_id, section_id, state, confirmation)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, r.state, r.ended_at, t.confirmation
), noted AS (
    INSERT INTO registration_events (registration_id, what, at, confirmation_id)
    SELECT id, state, ended_at, confirmation FROM ended
)
SELECT expect_rows((SELECT count(*) FROM ended), %s, 'drops')
"""

_ADDS = """
INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading,
                           credits, registered_at, registered_by, reserved_seats_id, beyond)
SELECT student_term_id, term_id, section_id, pool_id, 'registered', grading, credits, %s, confirmation,
       reserved_seats, beyond = 1
FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %b::text[], %s::numeric[], %s::bigint[],
            %s::int[], %s::int[])
     AS t (student_term_id, term_id, section_id, pool_id, grading, credits, confirmation, reserved_seats,
           beyond)
"""

_PERMISSION_CODES = """
INSERT INTO permission_code_uses (permission_code_id, student_term_id, confirmation_id, used_at)
SELECT t.*, %s FROM unnest(%s::int[], %s::int[], %s::bigint[]) AS t
"""

_ADJUSTS = """
WITH adjusted AS (
    UPDATE registrations r SET grading = t.grading, credits = t.credits,
        first_grading = coalesce(r.first_grading, r.grading),
        first_credits = coalesce(r.first_credits, r.credits)
    FROM unnest(%s::int[], %s::int[], %b::text[], %s::numeric[], %s::bigint[])
         AS t (student_term_id, section_id, grading, credits, confirmation)
    WHERE r.student_term_id = t.student_term_id AND r.section_id = t.section_id
        AND r.state = 'registered'
    RETURNING r.id, t.confirmation, r.grading, r.credits
), noted AS (
    INSERT INTO registration_events (registration_id, what, at, confirmation_id, grading, credits)
    SELECT id, 'adjusted', %s, confirmation, grading, credits FROM adjusted
)
SELECT expect_rows((SELECT count(*) FROM adjusted), %s, 'adjustments')
"""


def write_drops(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write dropped registrations. One statement, if there are any."""
    drops = [(w, g) for w, o in _accepted(batch) for g in o.drops]
    if drops:
        send_sql(
            database,
            _DROPS,
            (
                at,
                as_array(w.student_term_id for w, _ in drops),
                as_array(g.held.section.id for _, g in drops),
                ["withdrawn" if g.withdrawn else "dropped" for _, g in drops],
                as_array(w.confirmation for w, _ in drops),
                len(drops),
            ),
        )


def write_adds(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write new registrations and use up permission codes. One statement each, if there are any."""
    adds = [(w, o.takes) for w, o in _accepted(batch) if o.takes is not None]
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
                as_array(w.confirmation for w, _ in adds),
                as_array(s.reserved_seats for _, s in adds),
                as_array(int(s.beyond) for _, s in adds),
            ),
        )
    used = [(w, permission_code) for w, s in adds for permission_code in s.permission_codes]
    if used:
        send_sql(
            database,
            _PERMISSION_CODES,
            (
                at,
                as_array(permission_code for _, permission_code in used),
                as_array(w.student_term_id for w, _ in used),
                as_array(w.confirmation for w, _ in used),
            ),
        )


def write_adjustments(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write adjusted registrations. One statement, if there are any."""
    adjusts = [(w, o.adjusted.held) for w, o in _accepted(batch) if o.adjusted is not None]
    if adjusts:
        send_sql(
            database,
            _ADJUSTS,
            (
                as_array(w.student_term_id for w, _ in adjusts),
                as_array(h.section.id for _, h in adjusts),
                [h.grading for _, h in adjusts],
                as_array(h.credits for _, h in adjusts),
                as_array(w.confirmation for w, _ in adjusts),
                at,
                len(adjusts),
            ),
        )


def _accepted(batch: Sequence[Writing]) -> list[tuple[Writing, Outcome]]:
    return [(w, o) for w in batch for o in w.decision.outcomes if o.result is Result.ACCEPTED]
