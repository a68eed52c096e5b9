"""What time it is: the real time, or in the demo the campus clock, which can be moved.

Only what is about the term goes by this clock. Sessions and limits on attempts go by real time.
"""

from __future__ import annotations

from datetime import UTC, datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import connected, rows, run


class RealClock:
    """The machine's clock."""

    def now(self) -> datetime:
        """The real time."""
        return datetime.now(UTC)


class CampusClock:
    """Runs like the real one, from a moment that is kept in the database for all processes."""

    def __init__(self, database: PooledPostgresqlDatabase) -> None:
        self._database = database
        self.reload()

    def now(self) -> datetime:
        """The campus time."""
        return datetime.now(UTC) + self._ahead

    def reload(self) -> None:
        """Read the clock again after somebody has moved it. One statement."""
        with connected(self._database):
            found = rows(self._database, "SELECT campus_time, set_at FROM campus_clock")
        campus_time, set_at = found[0]
        self._ahead = campus_time - set_at

    def move(self, to: datetime) -> None:
        """Set the clock for everybody. One statement; the others hear of it by notification."""
        with connected(self._database):
            set_campus_time(self._database, to)
        self.reload()


def keep_campus_time(database: PooledPostgresqlDatabase) -> None:
    """Note the campus time reached, so that the next start goes on from there."""
    run(
        database,
        "UPDATE campus_clock SET campus_time = campus_time + (now() - set_at), set_at = now()",
    )


def resume_campus_clock(database: PooledPostgresqlDatabase) -> None:
    """Let the clock go on from the time last noted, however long nothing was running."""
    run(database, "UPDATE campus_clock SET set_at = now()")


def has_campus_clock(database: PooledPostgresqlDatabase) -> bool:
    """Whether the database holds a campus clock, as that of the demo does."""
    return bool(rows(database, "SELECT 1 FROM campus_clock"))


def set_campus_time(database: PooledPostgresqlDatabase, to: datetime) -> None:
    """Write the campus time that holds now."""
    run(
        database,
        "INSERT INTO campus_clock (campus_time, set_at) VALUES (%s, %s) "
        "ON CONFLICT (only_one) DO UPDATE SET campus_time = excluded.campus_time, "
        "set_at = excluded.set_at",
        (to, datetime.now(UTC)),
    )
