"""Holds and the payments that lift them, as they are kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import ClearedBy, PaymentState, Stopped
from gremba.store.models import Hold, Payment
from gremba.store.queries import (
    columns,
    fetch,
    fetch_one,
    fetch_tuples,
    fetch_value,
    fetch_values,
    has_rows,
    keeping_keys,
    write,
)


@dataclass(frozen=True, slots=True)
class HoldLine:
    """A hold with what became of it."""

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


@dataclass(frozen=True, slots=True)
class PaymentLine:
    """A payment on its way, or answered."""

    reference: str
    hold_id: int
    student_id: int
    amount_cents: int
    state: PaymentState


def holds_of(database: PooledPostgresqlDatabase, student_id: int) -> list[HoldLine]:
    """Every hold of a student, lifted ones too, newest first."""
    query = Hold.select(*_OF_HOLD).where(Hold.student == student_id)
    return fetch(database, query.order_by(Hold.id.desc()), HoldLine)


def lock_hold(database: PooledPostgresqlDatabase, hold_id: int) -> HoldLine | None:
    """A hold, locked until the transaction ends; None if there is none."""
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
    """Place a fee hold of the cashier; gives its id."""
    new = Hold.insert(
        student=student_id,
        kind="fee",
        reason=reason,
        office="the cashier",
        contact="Hillfoot, room 3, or the payment page",
        stops=[Stopped.ADD, Stopped.SWAP, Stopped.WAIT],
        cleared_by=ClearedBy.STUDENT,
        amount_cents=amount_cents,
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
    """Lift a hold; gives 0 if it was lifted before."""
    lifted = Hold.update(lifted_at=at, lifted_why=why, lifted_by=lifted_by)
    return write(database, lifted.where(Hold.id == hold_id, Hold.lifted_at.is_null()))


def begin_payment(database: PooledPostgresqlDatabase, reference: str, hold: HoldLine, at: datetime) -> None:
    """Write a payment that waits for its answer."""
    new = Payment.insert(
        reference=reference,
        hold=hold.id,
        student=hold.student_id,
        amount_cents=hold.amount_cents,
        state=PaymentState.WAITING,
        begun_at=at,
    )
    write(database, new)


def lock_payment(database: PooledPostgresqlDatabase, reference: str) -> PaymentLine | None:
    """A payment, locked until the transaction ends; None if there is none."""
    selected = columns(PaymentLine, Payment, hold_id=Payment.hold, student_id=Payment.student)
    query = Payment.select(*selected).where(Payment.reference == reference)
    return fetch_one(database, query.for_update(), PaymentLine)


def is_paid(database: PooledPostgresqlDatabase, hold_id: int) -> bool:
    """Whether a payment for a hold has been approved."""
    return has_rows(database, _payments_for(hold_id, PaymentState.APPROVED))


def answer_payment(
    database: PooledPostgresqlDatabase, reference: str, state: PaymentState, at: datetime
) -> None:
    """Write the answer to a payment."""
    answer = Payment.update(state=state, answered_at=at)
    write(database, answer.where(Payment.reference == reference))


def count_waiting(database: PooledPostgresqlDatabase, hold_id: int) -> int:
    """Payments for a hold, which is locked, that wait for their answer."""
    return len(fetch_values(database, _payments_for(hold_id, PaymentState.WAITING)))


def _payments_for(hold_id: int, state: PaymentState) -> Any:
    return Payment.select(Payment.id).where(Payment.hold == hold_id, Payment.state == state)


def waiting_payments(database: PooledPostgresqlDatabase, student_id: int) -> dict[int, str]:
    """By hold, the reference of the newest payment that waits for its answer."""
    query = Payment.select(Payment.hold, Payment.reference)
    query = query.where(Payment.student == student_id, Payment.state == PaymentState.WAITING)
    return dict(fetch_tuples(database, query.order_by(Payment.id)))
