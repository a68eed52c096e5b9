"""Writes the audit log in the background, without delaying the request that is logged."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Sequence
from datetime import UTC, datetime

import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.counted_acts import CountedActs
from gremba.store.access.audit_log import Entry, purge, write_entries
from gremba.store.database import Unavailable, connected
from gremba.store.long_lived_thread import LongLivedThread

log = structlog.get_logger()

MAX_WAITING_ENTRIES = 20_000
"""Entries that may wait to be written. A flood is told by its beginning and by how many are missing."""

PAUSE = 0.2
"""Seconds in which entries gather."""

PURGE_EVERY = 3600.0


class AuditWriter(LongLivedThread):
    """Writes audit entries in batches, logs each, and deletes expired entries about access."""

    def __init__(self, database: PooledPostgresqlDatabase) -> None:
        super().__init__("record", often=60.0)
        self._database = database
        self._waiting: deque[Entry] = deque()
        self._missing = 0
        self._counted = CountedActs()
        self._purge_at = 0.0

    def note(self, entry: Entry) -> None:
        """Queue an entry. For repeated acts of somebody not signed in, the first of each minute is written,
        and later the count of the others."""
        if not self._counted.is_first(entry):
            return
        self._put(entry)

    def _put(self, entry: Entry) -> None:
        if len(self._waiting) >= MAX_WAITING_ENTRIES:
            self._missing += 1
            return
        self._waiting.append(entry)
        self.wake()

    def turn(self) -> None:
        """Write what is queued; from time to time, delete what has expired."""
        if time.monotonic() >= self._purge_at:
            self._purge_at = time.monotonic() + PURGE_EVERY
            self._purge()
        self._put_counted(datetime.now(UTC))
        self.write()
        self.ending.wait(PAUSE)

    def _put_counted(self, now: datetime | None) -> None:
        for entry in self._counted.over(now):
            self._put(entry)

    def write(self) -> None:
        """Write everything queued.

        Raises:
            Unavailable: the database is away, and what waits goes on waiting.
        """
        while self._waiting:
            entries = [self._waiting[n] for n in range(min(500, len(self._waiting)))]
            try:
                self._write(entries)
            except Unavailable:
                raise
            except Exception:
                log.exception("entries could not be recorded together", many=len(entries))
                self._write_one_by_one(len(entries))
        if self._missing:
            missing, self._missing = self._missing, 0
            log.error("too much at once to be recorded", missing=missing)

    def _write(self, entries: Sequence[Entry]) -> None:
        """Write the oldest batch."""
        with connected(self._database) as database:
            write_entries(database, entries)
        for entry in entries:
            _log(entry)
            self._waiting.popleft()

    def _write_one_by_one(self, many: int) -> None:
        """Writes entries one at a time, so that one the table rejects does not lose the others; that one is
        only logged."""
        for _ in range(many):
            try:
                self._write([self._waiting[0]])
            except Unavailable:
                raise
            except Exception:
                log.exception("an entry could not be recorded")
                _log(self._waiting.popleft())

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

    def stop(self, patience: float = 5.0) -> None:
        """Write everything queued and end the thread."""
        super().stop(patience)
        if self.is_alive():
            # It is writing still.
            return
        self._put_counted(None)
        try:
            self.write()
        except Unavailable as problem:
            log.error(
                "the record could not be written", many=len(self._waiting), problem=str(problem).strip()
            )


def _log(entry: Entry) -> None:
    known = {
        name: value
        for name in ("person_id", "account", "student_id", "address", "request_id", "detail")
        if (value := getattr(entry, name)) not in (None, "")
    }
    log.info(entry.act.value, at=entry.at.isoformat(), **known)
