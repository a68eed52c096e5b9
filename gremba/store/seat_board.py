"""Seat figures for display: kept in memory, following what the database announces.

They never decide anything; a decision reads and locks its own.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Mapping

import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.situation import SeatFigures
from gremba.store.database import Unavailable, connected
from gremba.store.models import SeatPool
from gremba.store.queries import fetch_values
from gremba.store.situations import read_seats

log = structlog.get_logger()

OFTEN = 0.8
"""Seconds: so often at most are pools read again, however fast they change."""

Watcher = Callable[[Mapping[int, SeatFigures]], None]


class SeatBoard(threading.Thread):
    """The figures of every pool. A rush changes them many times a second; what has been announced
    is gathered and read in one statement, so that its cost does not grow with the rush."""

    def __init__(self, database: PooledPostgresqlDatabase, watcher: Watcher) -> None:
        """``watcher`` is told the figures that have changed, from this thread."""
        super().__init__(name="seat board", daemon=True)
        self._database = database
        self._watcher = watcher
        self._announced: set[int] = set()
        self._lock = threading.Lock()
        self._wake = threading.Event()
        self._ending = threading.Event()
        self._all = True
        self.figures: Mapping[int, SeatFigures] = {}
        """By pool. Never changed in place: there is a new one when anything in it is new."""

    def announced(self, payload: str) -> None:
        """These pools, with spaces between them, have changed."""
        with self._lock:
            self._announced.update(int(pool) for pool in payload.split())
        self._wake.set()

    def missed(self) -> None:
        """Announcements may have been missed: everything is read again."""
        with self._lock:
            self._all = True
        self._wake.set()

    def read(self) -> None:
        """Read what was announced, and tell the watcher what is different now."""
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

    def run(self) -> None:
        """Follow until :meth:`stop`."""
        while not self._ending.is_set():
            self._wake.wait()
            self._wake.clear()
            if self._ending.is_set():
                return
            try:
                self.read()
            except Unavailable as problem:
                log.warning("seat figures could not be read", problem=str(problem).strip())
                self._wake.set()
            self._ending.wait(OFTEN)

    def stop(self) -> None:
        """End the thread."""
        self._ending.set()
        self._wake.set()
        self.join(timeout=3)
