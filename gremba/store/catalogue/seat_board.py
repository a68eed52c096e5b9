"""Keeps seat figures for display in memory, updated by what the database announces.

They never decide anything; a decision reads and locks its own.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Mapping

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.seats import SeatFigures
from gremba.store.database import connected
from gremba.store.long_lived_thread import LongLivedThread
from gremba.store.models import SeatPool
from gremba.store.queries import fetch_values
from gremba.store.registration.situations import read_seats

OFTEN = 0.8
"""Seconds: so often at most are pools read again, however fast they change."""

Watcher = Callable[[Mapping[int, SeatFigures]], None]


class SeatBoard(LongLivedThread):
    """Caches the seat figures of every pool. Announced pools are read together in one statement, so that
    the cost does not grow with the rate of changes."""

    def __init__(self, database: PooledPostgresqlDatabase, watcher: Watcher) -> None:
        """``watcher`` is called on this thread with the figures that have changed."""
        super().__init__("seat board", often=None)
        self._database = database
        self._watcher = watcher
        self._announced: set[int] = set()
        self._lock = threading.Lock()
        self._all = True
        self.figures: Mapping[int, SeatFigures] = {}
        """By pool. Never changed in place: there is a new one when anything in it is new."""

    def announced(self, payload: str) -> None:
        """Note that these pools have changed, separated by spaces."""
        with self._lock:
            self._announced.update(int(pool) for pool in payload.split())
        self.wake()

    def missed(self) -> None:
        """Note that announcements may have been missed: everything is read again."""
        with self._lock:
            self._all = True
        self.wake()

    def read(self) -> None:
        """Read the announced pools, and tell the watcher what is different."""
        with self._lock:
            everything, self._all = self._all, False
            pools, self._announced = self._announced, set()
        try:
            with connected(self._database) as database:
                wanted: Iterable[int] = pools
                if everything:
                    wanted = fetch_values(database, SeatPool.select(SeatPool.id))
                found = read_seats(database, wanted)
        except BaseException:
            with self._lock:
                self._all |= everything
                self._announced |= pools
            raise
        known = self.figures
        changed = {pool: f for pool, f in found.items() if known.get(pool) != f}
        if changed:
            self.figures = {**known, **changed}
            self._watcher(changed)

    def turn(self) -> None:
        """Read once, then pause."""
        self.read()
        self.ending.wait(OFTEN)
