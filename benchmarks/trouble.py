"""How soon a freed seat is offered while much else is in trouble: thousands of waiting swaps of whom
each is stopped, waitlists with blocked heads, and a mail server that says nothing."""

from __future__ import annotations

import os
import socket
import statistics
from collections.abc import Callable
from contextlib import closing

from playhouse.pool import PooledPostgresqlDatabase

from benchmarks.waiting import POOLS, Freeing, make_full
from gremba.store.database import connect, connected, run_sql

SWAPS, BLOCKED, HEADS, MAILS = 5_000, 150, 20, 2_000

_HOLDS = """
INSERT INTO holds (student_id, kind, reason, office, contact, stops, cleared_by, placed_at)
SELECT DISTINCT st.student_id, 'fee', 'A fee is unpaid.', 'the cashier', 'room 3', ARRAY['add', 'swap'],
       'office', now()
FROM waitlist_entries w JOIN student_terms st ON st.id = w.student_term_id
WHERE w.state = 'waiting' AND (w.in_exchange_id IS NOT NULL OR w.pool_id <= %s)
"""
_SWAPS = """
INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, joined_at, in_exchange_id)
SELECT r.student_term_id, 1, s.id, s.pool_id, 'waiting', now(), r.section_id
FROM (SELECT DISTINCT ON (student_term_id) student_term_id, section_id FROM registrations
      WHERE state = 'registered' ORDER BY student_term_id, id) r
JOIN sections s ON s.id = 200 + mod(r.student_term_id * 37, 400)
WHERE s.id <> r.section_id
ORDER BY r.student_term_id LIMIT %s ON CONFLICT DO NOTHING
"""


def make_trouble(database: PooledPostgresqlDatabase) -> None:
    """Fill the tables with it."""
    with connected(database):
        run_sql(
            database,
            "UPDATE sections SET waitlist_limit = 60, "
            "waitlist_way = CASE WHEN pool_id <= %s THEN 'automatic' ELSE 'offer' END",
            (BLOCKED,),
        )
        run_sql(database, "UPDATE terms SET catalogue_version = catalogue_version + 1")
        run_sql(database, "UPDATE seat_pools SET seat_limit = taken + offered WHERE id <= 700")
        make_full(database, f"p.id <= {BLOCKED}", HEADS)
        run_sql(database, _SWAPS, (SWAPS,))
        run_sql(database, _HOLDS, (BLOCKED,))
        make_full(
            database,
            f"p.id > (SELECT max(id) FROM seat_pools) - {2 * POOLS} "
            f"AND p.id <= (SELECT max(id) FROM seat_pools) - {POOLS}",
            2,
        )
        run_sql(
            database,
            "INSERT INTO messages (student_term_id, kind, facts, made_at) "
            'SELECT id, \'closed\', \'{"section": "LAND 101", "number": "40001"}\', now() '
            "FROM student_terms ORDER BY id LIMIT %s",
            (MAILS,),
        )
        run_sql(database, "UPDATE seat_pools SET seat_limit = taken + offered + 1 WHERE id <= %s", (BLOCKED,))
        run_sql(database, "ANALYZE waitlist_entries")


def offered_beside_trouble(url: str, serve: Callable[[], Callable[[], None]]) -> list[float]:
    """Milliseconds until a freed seat of another pool was offered, for each of some.

    Args:
        serve: starts the servers, with the mail server of ``GREMBA_MAIL_SERVER``, and gives what stops
            them.
    """
    database = connect(url)
    make_trouble(database)
    database.close_all()
    with closing(socket.socket()) as silent:
        silent.bind(("127.0.0.1", 0))
        silent.listen(64)
        os.environ["GREMBA_MAIL_SERVER"] = f"127.0.0.1:{silent.getsockname()[1]}"
        stop = serve()
        try:
            freeing = Freeing(url, skip=POOLS)
            freeing.start()
            freeing.join(timeout=300)
        finally:
            stop()
            del os.environ["GREMBA_MAIL_SERVER"]
    if len(freeing.took) < POOLS or statistics.median(freeing.took) < 0:
        raise RuntimeError(f"only {len(freeing.took)} freed seats were offered")
    return freeing.took
