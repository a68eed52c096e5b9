"""Reads how many more students a section's room can hold."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.permission.answering import RoomFigures
from gremba.store.catalogue.rooms import capacities, seats_promised
from gremba.store.registration.situations import read_seats


def rooms_of(
    database: PooledPostgresqlDatabase,
    pools: Collection[int],
    seats: Mapping[int, SeatFigures],
    now: datetime,
) -> dict[int, RoomFigures]:
    """The seats of each pool, and its rooms' capacities. Two statements; exact only while the pools are
    locked."""
    promised, rooms = seats_promised(database, pools, now), capacities(database, pools)
    return {
        pool: RoomFigures(
            seats[pool].limit,
            seats[pool].taken,
            seats[pool].offered,
            promised.get(pool, 0),
            rooms.get(pool),
        )
        for pool in pools
    }


def room_figures(database: PooledPostgresqlDatabase, pool: int, now: datetime) -> RoomFigures:
    """The same for one pool, with its seats. Three statements."""
    return rooms_of(database, [pool], read_seats(database, {pool}), now)[pool]
