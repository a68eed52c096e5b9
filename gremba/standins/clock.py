"""The clock: real time, or the demo's campus time, which can be moved.

Only what is about the term goes by this clock. Sessions and limits on attempts go by real time.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store import models
from gremba.store.database import connected
from gremba.store.queries import fetch_tuples, has_rows, write


class RealClock:
    """The machine's clock."""

    def now(self) -> datetime:
        """The real time."""
        return datetime.now(UTC)


class SettableClock:
    """Runs like the real clock, from a moment stored in the database for all processes."""

    def __init__(self, database: PooledPostgresqlDatabase) -> None:
        self._database = database
        self.reload()

    def now(self) -> datetime:
        """The campus time."""
        return datetime.now(UTC) + self._ahead

    def reload(self) -> None:
        """Read the clock after it was set. One statement."""
        with connected(self._database):
            query = models.CampusClock.select(models.CampusClock.campus_time, models.CampusClock.set_at)
            [(campus_time, set_at)] = fetch_tuples(self._database, query)
        self._ahead: timedelta = campus_time - set_at

    def move(self, to: datetime) -> None:
        """Set the clock for everybody. One statement; other processes are notified."""
        with connected(self._database):
            set_campus_time(self._database, to)
        self.reload()


def keep_campus_time(database: PooledPostgresqlDatabase) -> None:
    """Store the current campus time, so that the next start continues from there."""
    own = models.CampusClock
    reached = own.campus_time + (fn.now() - own.set_at)
    write(database, own.update(campus_time=reached, set_at=fn.now()))


def resume_campus_clock(database: PooledPostgresqlDatabase) -> None:
    """Continue from the stored time, however long nothing was running."""
    write(database, models.CampusClock.update(set_at=fn.now()))


def has_campus_clock(database: PooledPostgresqlDatabase) -> bool:
    """Whether the database has a campus clock, like the demo's."""
    return has_rows(database, models.CampusClock.select(models.CampusClock.set_at))


def set_campus_time(database: PooledPostgresqlDatabase, to: datetime) -> None:
    """Set the campus time."""
    own = models.CampusClock
    new = own.insert(campus_time=to, set_at=datetime.now(UTC))
    write(
        database,
        new.on_conflict(conflict_target=[own.only_one], preserve=[own.campus_time, own.set_at]),
    )
