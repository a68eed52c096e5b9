"""How soon a freed seat reaches the head of a waitlist while a rush runs, and how long a sweep
over thousands of places takes."""

from __future__ import annotations

import statistics
import threading
import time
from datetime import UTC, datetime

from playhouse.pool import PooledPostgresqlDatabase

from benchmarks.college import TERM
from gremba.actions.context import ActionContext
from gremba.actions.sweep import sweep
from gremba.standins.clock import RealClock
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql, run_sql

POOLS = 60
"""Sections set apart for it, full and waited for."""

PAUSE = 0.15


def set_apart(database: PooledPostgresqlDatabase) -> None:
    """Let the last sections be full, with two who wait for each."""
    with connected(database):
        run_sql(database, "UPDATE sections SET waitlist_limit = 8")
        make_full(database, f"p.id > (SELECT max(id) FROM seat_pools) - {POOLS}", 2)
        run_sql(database, "UPDATE terms SET catalogue_version = catalogue_version + 1")


def make_full(database: PooledPostgresqlDatabase, which: str, each: int) -> None:
    """Let so many wait for each of these pools, which are to have no seat left.

    Args:
        which: a condition on ``p``, a row of ``seat_pools``.
    """
    run_sql(database, f"UPDATE seat_pools p SET seat_limit = taken + offered WHERE {which}")
    _join(database, which, each)


def _join(database: PooledPostgresqlDatabase, which: str, each: int) -> None:
    run_sql(
        database,
        "INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, joined_at) "
        "SELECT 1 + mod(p.id * 7 + n * 131, (SELECT count(*) FROM student_terms)), 1, s.id, p.id, "
        f"'waiting', now() - n * interval '1 minute' FROM seat_pools p JOIN sections s "
        f"ON s.pool_id = p.id CROSS JOIN generate_series(1, %s) n WHERE {which} "
        "ON CONFLICT DO NOTHING",
        (each,),
    )


class Freeing(threading.Thread):
    """Frees a seat now and then and notes how long it was until it was offered.

    Args:
        skip: so many of the last pools are left alone.
    """

    def __init__(self, url: str, skip: int = 0) -> None:
        super().__init__(daemon=True)
        self._skip = skip
        self._database = connect(url)
        self._ending = threading.Event()
        self.took: list[float] = []

    def run(self) -> None:
        """Free one seat after another, until told to stop."""
        with connected(self._database) as database:
            pools = [
                row[0]
                for row in fetch_sql(
                    database,
                    "SELECT id FROM seat_pools ORDER BY id DESC LIMIT %s OFFSET %s",
                    (POOLS, self._skip),
                )
            ]
            for pool in pools:
                if self._ending.is_set():
                    return
                run_sql(database, "UPDATE seat_pools SET seat_limit = seat_limit + 1 WHERE id = %s", (pool,))
                self.took.append(self._until_offered(pool, datetime.now(UTC)))
                self._ending.wait(PAUSE)

    def _until_offered(self, pool: int, freed: datetime) -> float:
        for _ in range(2_000):
            found = fetch_sql(
                self._database, "SELECT max(offered_at) FROM waitlist_entries WHERE pool_id = %s", (pool,)
            )
            if found[0][0] is not None:
                return float(max(0.0, (found[0][0] - freed).total_seconds() * 1000))
            time.sleep(0.01)
        raise RuntimeError("a freed seat was not offered")

    def stop(self) -> None:
        """End it."""
        self._ending.set()
        self.join(timeout=30)
        self._database.close_all()


def time_sweeps(url: str) -> tuple[int, float]:
    """How many places wait, and the median seconds of a sweep that finds nothing to move."""
    database = connect(url)
    with connected(database):
        run_sql(database, "UPDATE seat_pools SET seat_limit = taken + offered")
        _join(database, "p.id <= 2500", 2)
        run_sql(database, "ANALYZE waitlist_entries")
        waiting = fetch_sql(database, "SELECT count(*) FROM waitlist_entries WHERE state = 'waiting'")[0][0]
    context = ActionContext(database, CatalogueCache(database), RealClock())
    term = context.term(TERM)
    while sweep(context, [term]):
        pass
    took = []
    for _ in range(5):
        begun = time.perf_counter()
        sweep(context, [term])
        took.append(time.perf_counter() - begun)
    database.close_all()
    return waiting, statistics.median(took)
