"""Removes from carts what was submitted."""

from __future__ import annotations

from collections.abc import Sequence

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.registration.outcome import Result
from gremba.store.database import as_array, send_sql
from gremba.store.registration.cart_plans import remove_plans
from gremba.store.registration.writing.decided import Writing

_CART = """
DELETE FROM cart_changes c
USING unnest(%s::int[], %s::int[]) AS t (student_term_id, section_id)
WHERE c.student_term_id = t.student_term_id AND c.section_id = t.section_id
"""


def empty_carts(database: PooledPostgresqlDatabase, batch: Sequence[Writing]) -> None:
    """Remove what was registered from the carts; what was refused stays. One statement, if there is any;
    one more if a plan was registered, which removes the other plans."""
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
    taken = [
        w.student_term_id
        for w in batch
        if w.of_plans and any(o.result is not Result.REFUSED for o in w.decision.outcomes)
    ]
    if taken:
        remove_plans(database, taken)
