"""Keeping on record what was done, without holding up whoever does it."""

from __future__ import annotations

import threading
import time
from collections import deque
from datetime import UTC, datetime

import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.audit import Entry, purge, write_entries
from gremba.store.database import Unavailable, connected

log = structlog.get_logger()

MOST = 20_000
"""Entries that may wait to be written. A flood is told by its beginning and by how many are missing."""

PAUSE = 0.2
"""Seconds in which entries gather."""

PURGE_EVERY = 3600.0


class AuditWriter(threading.Thread):
    """Writes entries many at a time, each in the log as well, and takes old ones away."""

    def __init__(self, database: PooledPostgresqlDatabase) -> None:
        super().__init__(name="record", daemon=True)
        self._database = database
        self._waiting: deque[Entry] = deque()
        self._missing = 0
        self._wake = threading.Event()
        self._ending = threading.Event()

    def note(self, entry: Entry) -> None:
        """Have an entry written soon."""
        if len(self._waiting) >= MOST:
            self._missing += 1
            return
        self._waiting.append(entry)
        self._wake.set()

    def run(self) -> None:
        """Write until :meth:`stop`."""
        purge_at = 0.0
        while not self._ending.is_set():
            if time.monotonic() >= purge_at:
                self._purge()
                purge_at = time.monotonic() + PURGE_EVERY
            self._wake.wait(timeout=60.0)
            self._wake.clear()
            self.write()
            self._ending.wait(PAUSE)
        self.write()

    def write(self) -> None:
        """Write what waits; where the database is away it goes on waiting."""
        while self._waiting:
            entries = [self._waiting[n] for n in range(min(500, len(self._waiting)))]
            try:
                with connected(self._database) as database:
                    write_entries(database, entries)
            except Unavailable as problem:
                log.warning("the record could not be written", problem=str(problem).strip())
                return
            except Exception:
                # Rather lost than tried for ever: each stands in the log.
                log.exception("entries could not be recorded", many=len(entries))
            for entry in entries:
                _log(entry)
                self._waiting.popleft()
        if self._missing:
            missing, self._missing = self._missing, 0
            log.error("too much at once to be recorded", missing=missing)

    def _purge(self) -> None:
        try:
            with connected(self._database) as database:
                gone = purge(database, datetime.now(UTC))
        except Unavailable as problem:
            log.warning("nothing could be purged", problem=str(problem).strip())
            return
        except Exception:
            # What is to be put on record goes on being.
            log.exception("nothing could be purged")
            return
        if gone:
            log.info("purged by age", **gone)

    def stop(self) -> None:
        """Write what waits and end the thread."""
        self._ending.set()
        self._wake.set()
        self.join(timeout=5)


def _log(entry: Entry) -> None:
    known = {
        name: value
        for name in ("person_id", "account", "student_id", "address", "request_id", "detail")
        if (value := getattr(entry, name)) not in (None, "")
    }
    log.info(entry.act.value, at=entry.at.isoformat(), **known)
