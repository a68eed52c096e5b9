"""Stores holds."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import ClearedBy, Stopped
from gremba.store.models import Hold
from gremba.store.queries import (
    columns,
    fetch,
    fetch_one,
    fetch_value,
    fetch_values,
    keeping_keys,
    one_of,
    write,
)

OVERDUE = "overdue"
"""The kind of holds that are placed, and lifted, as something due is not paid, or is."""


@dataclass(frozen=True, slots=True)
class HoldLine:
    """A hold and its state."""

    id: int
    student_id: int
    kind: str
    reason: str
    office: str
    contact: str
    stops: tuple[str, ...]
    cleared_by: ClearedBy
    amount_cents: int | None
    placed_at: datetime
    lifted_at: datetime | None
    lifted_why: str


_OF_HOLD = columns(HoldLine, Hold, student_id=Hold.student)


def holds_of(database: PooledPostgresqlDatabase, student_id: int) -> list[HoldLine]:
    """All holds of a student, including lifted ones, newest first."""
    query = Hold.select(*_OF_HOLD).where(Hold.student == student_id)
    return fetch(database, query.order_by(Hold.id.desc()), HoldLine)


def lock_hold(database: PooledPostgresqlDatabase, hold_id: int) -> HoldLine | None:
    """A hold, locked until the transaction ends; None if it does not exist."""
    query = Hold.select(*_OF_HOLD).where(Hold.id == hold_id)
    return fetch_one(database, keeping_keys(query), HoldLine)


def place_hold(
    database: PooledPostgresqlDatabase,
    student_id: int,
    reason: str,
    amount_cents: int,
    placed_by: int,
    at: datetime,
) -> int:
    """Place a fee hold for the cashier; returns its id."""
    new = Hold.insert(
        student=student_id,
        kind="fee",
        reason=reason,
        office="the cashier",
        contact="the cashier’s desk, or the payment page",
        stops=[Stopped.ADD, Stopped.SWAP, Stopped.WAIT],
        cleared_by=ClearedBy.STUDENT,
        amount_cents=amount_cents,
        placed_at=at,
        placed_by=placed_by,
    )
    return int(fetch_value(database, new.returning(Hold.id)))


@dataclass(frozen=True, slots=True)
class NewHold:
    """A hold that only its office lifts.

    Attributes:
        kind: "office" for those of the registrar.
    """

    student_id: int
    kind: str
    reason: str
    office: str
    contact: str
    stops: tuple[Stopped, ...]


def place_office_hold(database: PooledPostgresqlDatabase, hold: NewHold, placed_by: int, at: datetime) -> int:
    """Place a hold; returns its id."""
    new = Hold.insert(
        student=hold.student_id,
        kind=hold.kind,
        reason=hold.reason,
        office=hold.office,
        contact=hold.contact,
        stops=list(hold.stops),
        cleared_by=ClearedBy.OFFICE,
        placed_at=at,
        placed_by=placed_by,
    )
    return int(fetch_value(database, new.returning(Hold.id)))


def lift_hold(
    database: PooledPostgresqlDatabase,
    hold_id: int,
    why: str,
    lifted_by: int | None,
    at: datetime,
) -> int:
    """Lift a hold; returns 0 if it was lifted before."""
    lifted = Hold.update(lifted_at=at, lifted_why=why, lifted_by=lifted_by)
    return write(database, lifted.where(Hold.id == hold_id, Hold.lifted_at.is_null()))


def place_overdue_hold(
    database: PooledPostgresqlDatabase, student_id: int, reason: str, at: datetime
) -> bool:
    """Place a hold for an overdue payment unless there is one; returns whether it was placed. The
    student's term row is locked."""
    if overdue_holds(database, student_id, reason):
        return False
    new = Hold.insert(
        student=student_id,
        kind=OVERDUE,
        reason=reason,
        office="the cashier",
        contact="pay under Account, or speak to the cashier",
        stops=[Stopped.ADD, Stopped.SWAP, Stopped.WAIT],
        cleared_by=ClearedBy.STUDENT,
        placed_at=at,
    )
    write(database, new)
    return True


def students_overdue(
    database: PooledPostgresqlDatabase, students: Collection[int], reason: str
) -> frozenset[int]:
    """Those of these students with a hold for an overdue payment."""
    query = Hold.select(Hold.student).where(
        one_of(Hold.student, students), Hold.kind == OVERDUE, Hold.reason == reason, Hold.lifted_at.is_null()
    )
    return frozenset(fetch_values(database, query))


def overdue_holds(database: PooledPostgresqlDatabase, student_id: int, reason: str) -> list[int]:
    """Ids of the active holds for overdue payments."""
    query = Hold.select(Hold.id).where(
        Hold.student == student_id, Hold.kind == OVERDUE, Hold.reason == reason, Hold.lifted_at.is_null()
    )
    return fetch_values(database, query)
