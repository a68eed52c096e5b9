"""Reads room capacities and the seats promised beyond the limit."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from peewee import fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import Waiver
from gremba.store.models import Meeting, PermissionCode, PermissionCodeUse, Room, Section
from gremba.store.queries import fetch_tuples, one_of


def capacities(database: PooledPostgresqlDatabase, pools: Collection[int]) -> dict[int, int]:
    """The capacity of the smallest room of each pool's sections; pools without a known room are left out.
    One statement."""
    query = (
        Meeting.select(Section.pool_id, fn.MIN(Room.capacity))
        .join(Section)
        .switch(Meeting)
        .join(Room, on=(Room.campus == Meeting.campus) & (Room.name == Meeting.room))
        .where(one_of(Section.pool_id, pools), ~Section.cancelled)
        .group_by(Section.pool_id)
    )
    return dict(fetch_tuples(database, query))


def seats_promised(
    database: PooledPostgresqlDatabase, pools: Collection[int], now: datetime
) -> dict[int, int]:
    """The unused codes and approvals beyond the limit, by pool. One statement."""
    own = PermissionCode
    used = PermissionCodeUse.select(PermissionCodeUse.permission_code).where(
        PermissionCodeUse.permission_code == own.id
    )
    query = (
        own.select(Section.pool_id, fn.COUNT(own.id))
        .join(Section)
        .where(
            one_of(Section.pool_id, pools),
            own.withdrawn_at.is_null(),
            own.expires_at.is_null() | (own.expires_at > now),
            own.waives.contains(Waiver.SEATS.value),
            ~fn.EXISTS(used),
        )
        .group_by(Section.pool_id)
    )
    return dict(fetch_tuples(database, query))
