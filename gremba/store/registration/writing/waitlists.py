"""Writes waitlist entries that decisions make or end."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import as_array, send_sql
from gremba.store.registration.writing.decided import Writing

_JOINS = """
WITH joined AS (
    INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, joined_at,
                        in_exchange_id, grading, credits, permission_code, chosen_linked_sections)
    SELECT row, term, section, pool, 'waiting', %s, in_exchange, grading, credits, permission_code,
           string_to_array(linked_sections, ' ')::int[]
    FROM unnest(%s::int[], %s::int[], %s::int[], %s::int[], %s::int[], %b::text[], %s::numeric[],
                %b::text[], %b::text[])
         AS t (row, term, section, pool, in_exchange, grading, credits, permission_code, linked_sections)
    RETURNING id, joined_at
)
INSERT INTO waitlist_events (entry_id, what, at) SELECT id, 'joined', joined_at FROM joined
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


def write_entries(database: PooledPostgresqlDatabase, batch: Sequence[Writing], at: datetime) -> None:
    """Write new waitlist entries, and changes of entries that registrations affect. One statement each, if
    there are any."""
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
            _JOINS,
            (
                at,
                as_array(w.student_term_id for w, _ in joins),
                as_array(w.term_id for w, _ in joins),
                as_array(j.section.id for _, j in joins),
                as_array(j.section.pool for _, j in joins),
                as_array(None if j.in_exchange is None else j.in_exchange.id for _, j in joins),
                [j.grading for _, j in joins],
                as_array(j.credits for _, j in joins),
                [j.permission_code for _, j in joins],
                [" ".join(str(s.id) for s in j.chosen_linked_sections) for _, j in joins],
            ),
        )
