"""What a section's room still holds."""

from __future__ import annotations

from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.permission.answering import RoomFigures
from gremba.store.rooms import capacities, seats_promised
from gremba.store.situations import read_seats


def room_figures(database: PooledPostgresqlDatabase, pool: int, now: datetime) -> RoomFigures:
    """A pool's seats beside its rooms. Three statements; to be sure of them the pool is locked."""
    seats = read_seats(database, {pool})[pool]
    return RoomFigures(
        seats.limit,
        seats.taken,
        seats.offered,
        seats_promised(database, {pool}, now).get(pool, 0),
        capacities(database, {pool}).get(pool),
    )
