"""Stores card payments, for a hold or for a term's account."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import PaymentState
from gremba.store.models import Payment
from gremba.store.queries import columns, fetch, fetch_one, fetch_tuples, fetch_values, has_rows, write


@dataclass(frozen=True, slots=True)
class PaymentLine:
    """A payment, with or without a result.

    Attributes:
        hold_id: that it lifts; None where it goes to an account.
        student_term_id: whose account it goes to; None where it lifts a hold.
    """

    reference: str
    hold_id: int | None
    student_term_id: int | None
    student_id: int
    amount_cents: int
    state: PaymentState


_OF_PAYMENT = columns(
    PaymentLine,
    Payment,
    hold_id=Payment.hold,
    student_term_id=Payment.student_term,
    student_id=Payment.student,
)


def begin_payment(database: PooledPostgresqlDatabase, payment: PaymentLine, at: datetime) -> None:
    """Store a payment without a result."""
    new = Payment.insert(
        reference=payment.reference,
        hold=payment.hold_id,
        student_term=payment.student_term_id,
        student=payment.student_id,
        amount_cents=payment.amount_cents,
        state=PaymentState.WAITING,
        begun_at=at,
    )
    write(database, new)


def lock_payment(database: PooledPostgresqlDatabase, reference: str) -> PaymentLine | None:
    """A payment, locked until the transaction ends; None if it does not exist."""
    query = Payment.select(*_OF_PAYMENT).where(Payment.reference == reference)
    return fetch_one(database, query.for_update(), PaymentLine)


def is_paid(database: PooledPostgresqlDatabase, hold_id: int) -> bool:
    """Whether a payment for a hold was approved."""
    return has_rows(database, _in_state(Payment.hold == hold_id, PaymentState.APPROVED))


def answer_payment(
    database: PooledPostgresqlDatabase, reference: str, state: PaymentState, at: datetime
) -> None:
    """Store a payment's result."""
    answer = Payment.update(state=state, answered_at=at)
    write(database, answer.where(Payment.reference == reference))


def count_waiting_for_hold(database: PooledPostgresqlDatabase, hold_id: int) -> int:
    """Payments without a result for a hold, which is locked."""
    return len(fetch_values(database, _in_state(Payment.hold == hold_id, PaymentState.WAITING)))


def count_waiting_for_account(database: PooledPostgresqlDatabase, row: int) -> int:
    """Payments without a result to an account, whose student's row is locked."""
    return len(fetch_values(database, _in_state(Payment.student_term == row, PaymentState.WAITING)))


def _in_state(which: Any, state: PaymentState) -> Any:
    return Payment.select(Payment.id).where(which, Payment.state == state)


def waiting_payments(database: PooledPostgresqlDatabase, student_id: int) -> dict[int, str]:
    """The reference of the newest payment without a result, by hold."""
    query = Payment.select(Payment.hold, Payment.reference)
    query = query.where(
        Payment.student == student_id, Payment.state == PaymentState.WAITING, Payment.hold.is_null(False)
    )
    return dict(fetch_tuples(database, query.order_by(Payment.id)))


@dataclass(frozen=True, slots=True)
class AccountPayment:
    """A payment to an account, as its student sees it."""

    reference: str
    amount_cents: int
    state: PaymentState
    begun_at: datetime
    answered_at: datetime | None


def payments_to_account(database: PooledPostgresqlDatabase, row: int) -> list[AccountPayment]:
    """A student's payments for a term, newest first, fifty at most."""
    query = Payment.select(*columns(AccountPayment, Payment)).where(Payment.student_term == row)
    return fetch(database, query.order_by(Payment.id.desc()).limit(50), AccountPayment)


def find_waiting(database: PooledPostgresqlDatabase, like: PaymentLine) -> PaymentLine | None:
    """The same student's payment without a result for the same thing and amount."""
    query = Payment.select(*_OF_PAYMENT).where(
        Payment.student == like.student_id,
        Payment.state == PaymentState.WAITING,
        Payment.amount_cents == like.amount_cents,
        (Payment.hold == like.hold_id)
        if like.hold_id is not None
        else (Payment.student_term == like.student_term_id),
    )
    return fetch_one(database, query.order_by(Payment.id.desc()), PaymentLine)
