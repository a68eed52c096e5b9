"""Holds and the payments that lift them, as they are kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows, run


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
    cleared_by: str
    amount_cents: int | None
    placed_at: datetime
    lifted_at: datetime | None
    lifted_why: str


@dataclass(frozen=True, slots=True)
class PaymentLine:
    """A payment on its way, or answered."""

    reference: str
    hold_id: int
    student_id: int
    amount_cents: int
    state: str


_HOLD = (
    "id, student_id, kind, reason, office, contact, stops, cleared_by, amount_cents, placed_at, "
    "lifted_at, lifted_why"
)


def _hold(row: tuple[Any, ...]) -> HoldLine:
    return HoldLine(*(*row[:6], tuple(row[6]), *row[7:]))


def holds_of(database: PooledPostgresqlDatabase, student_id: int) -> list[HoldLine]:
    """Every hold of a student, lifted ones too, newest first."""
    return [
        _hold(row)
        for row in rows(
            database,
            f"SELECT {_HOLD} FROM holds WHERE student_id = %s ORDER BY id DESC",
            (student_id,),
        )
    ]


def lock_hold(database: PooledPostgresqlDatabase, hold_id: int) -> HoldLine | None:
    """A hold, locked until the transaction ends; None if there is none."""
    found = rows(
        database, f"SELECT {_HOLD} FROM holds WHERE id = %s FOR NO KEY UPDATE", (hold_id,)
    )
    return _hold(found[0]) if found else None


def place_hold(
    database: PooledPostgresqlDatabase,
    student_id: int,
    reason: str,
    amount_cents: int,
    placed_by: int,
    at: datetime,
) -> int:
    """Place a fee hold of the cashier; gives its id."""
    found = rows(
        database,
        "INSERT INTO holds (student_id, kind, reason, office, contact, stops, cleared_by, "
        "amount_cents, placed_at, placed_by) VALUES (%s, 'fee', %s, 'the cashier', "
        "'Hillfoot, room 3, or the payment page', ARRAY['add', 'swap', 'wait'], 'student', %s, "
        "%s, %s) RETURNING id",
        (student_id, reason, amount_cents, at, placed_by),
    )
    return int(found[0][0])


def lift_hold(
    database: PooledPostgresqlDatabase,
    hold_id: int,
    why: str,
    lifted_by: int | None,
    at: datetime,
) -> int:
    """Lift a hold; gives 0 if it was lifted before."""
    return run(
        database,
        "UPDATE holds SET lifted_at = %s, lifted_why = %s, lifted_by = %s "
        "WHERE id = %s AND lifted_at IS NULL",
        (at, why, lifted_by, hold_id),
    )


def begin_payment(
    database: PooledPostgresqlDatabase, reference: str, hold: HoldLine, at: datetime
) -> None:
    """Write a payment that waits for its answer."""
    run(
        database,
        "INSERT INTO payments (reference, hold_id, student_id, amount_cents, state, begun_at) "
        "VALUES (%s, %s, %s, %s, 'waiting', %s)",
        (reference, hold.id, hold.student_id, hold.amount_cents, at),
    )


def lock_payment(
    database: PooledPostgresqlDatabase, reference: str
) -> PaymentLine | None:
    """A payment, locked until the transaction ends; None if there is none."""
    found = rows(
        database,
        "SELECT reference, hold_id, student_id, amount_cents, state FROM payments "
        "WHERE reference = %s FOR UPDATE",
        (reference,),
    )
    return PaymentLine(*found[0]) if found else None


def is_paid(database: PooledPostgresqlDatabase, hold_id: int) -> bool:
    """Whether a payment for a hold has been approved."""
    return bool(
        rows(
            database,
            "SELECT 1 FROM payments WHERE hold_id = %s AND state = 'approved'",
            (hold_id,),
        )
    )


def answer_payment(
    database: PooledPostgresqlDatabase, reference: str, state: str, at: datetime
) -> None:
    """Write the answer to a payment."""
    run(
        database,
        "UPDATE payments SET state = %s, answered_at = %s WHERE reference = %s",
        (state, at, reference),
    )


def count_waiting(database: PooledPostgresqlDatabase, hold_id: int) -> int:
    """Payments for a hold, which is locked, that wait for their answer."""
    found = rows(
        database,
        "SELECT count(*) FROM payments WHERE hold_id = %s AND state = 'waiting'",
        (hold_id,),
    )
    return int(found[0][0])


def waiting_payments(
    database: PooledPostgresqlDatabase, student_id: int
) -> dict[int, str]:
    """By hold, the reference of the newest payment that waits for its answer."""
    found = rows(
        database,
        "SELECT hold_id, reference FROM payments WHERE student_id = %s AND state = 'waiting' "
        "ORDER BY id",
        (student_id,),
    )
    return {row[0]: row[1] for row in found}
