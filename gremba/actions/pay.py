"""Paying a fee hold: a payment is begun, and its answer, however often it comes, counts once."""

from __future__ import annotations

import secrets
import time
from dataclasses import replace
from datetime import datetime

from gremba.actions.context import ActionContext
from gremba.actions.payment_service import BegunPayment, PaymentService, SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import ClearedBy, PaymentState
from gremba.store.database import connected
from gremba.store.holds import (
    PaymentLine,
    answer_payment,
    begin_payment,
    count_waiting,
    is_paid,
    lift_hold,
    lock_hold,
    lock_payment,
)

MOST_WAITING = 3
"""Payments for one hold that may wait for their answer."""

ANSWER_KEEPS = 600
"""Seconds for which a signed answer is taken; the payment service sends it again if need be."""


def pay(
    context: ActionContext, service: PaymentService, student_id: int, hold_id: int, card_number: str
) -> PaymentLine:
    """Pay a hold of one's own; gives the payment as it is afterwards, waiting where there was no answer.

    Raises:
        Problem: there is no such hold, it was lifted, it cannot be paid, or not with that card.
    """
    service.check(card_number)
    payment, begun = _begin(context, student_id, hold_id)
    for answer in service.charge(begun, card_number):
        payment = take_answer(context, service, answer)
    return payment


def ask(context: ActionContext, service: PaymentService, student_id: int, reference: str) -> PaymentLine:
    """Ask what became of a payment of one's own that has had no answer; gives it as it is afterwards.

    Raises:
        Problem: there is no such payment, or nobody who could be asked.
    """
    payment = own_payment(context, student_id, reference)
    if payment.state != PaymentState.WAITING:
        return payment
    asked = BegunPayment(payment.reference, payment.amount_cents)
    return take_answer(context, service, service.inquire(asked))


def _begin(context: ActionContext, student_id: int, hold_id: int) -> tuple[PaymentLine, BegunPayment]:
    reference = secrets.token_hex(12)
    with connected(context.database) as database, database.atomic():
        hold = lock_hold(database, hold_id)
        if hold is None or hold.student_id != student_id:
            raise _unknown()
        if hold.lifted_at is not None:
            raise Problem(ProblemKind.HOLD_LIFTED, "There is nothing left to pay; your cart knows it.")
        if hold.amount_cents is None or hold.cleared_by != ClearedBy.STUDENT:
            raise Problem(ProblemKind.HOLD_UNPAYABLE, f"Settle it with {hold.office}: {hold.contact}.")
        if count_waiting(database, hold.id) >= MOST_WAITING:
            raise Problem(
                ProblemKind.PAYMENTS_WAITING,
                "Ask what became of the last one before you try again; nothing is charged twice.",
            )
        begin_payment(database, reference, hold, context.clock.now())
        payment = PaymentLine(reference, hold.id, student_id, hold.amount_cents, PaymentState.WAITING)
        return payment, BegunPayment(reference, hold.amount_cents)


def take_answer(context: ActionContext, service: PaymentService, signed: SignedAnswer) -> PaymentLine:
    """Take an answer of the payment service; gives the payment as it is afterwards.

    The same answer may come any number of times: the hold is lifted once. An approval for a
    hold that another payment has lifted already is noted as to be paid back.

    Raises:
        Problem: it is not the service's own, it is old or unreadable, or it does not fit.
    """
    answer = service.read(signed)
    if abs(time.time() - answer.sent_at) > ANSWER_KEEPS:
        raise Problem(ProblemKind.PAYMENT_OLD, "Send it again with the present time.")
    with connected(context.database) as database, database.atomic():
        payment = lock_payment(database, answer.reference)
        if payment is None or payment.amount_cents != answer.amount_cents:
            raise Problem(ProblemKind.PAYMENT_UNKNOWN, "There is no payment of that reference and amount.")
        if payment.state != PaymentState.WAITING:
            return payment
        return _settle(context, payment, answer.result, context.clock.now())


def _settle(context: ActionContext, payment: PaymentLine, state: PaymentState, now: datetime) -> PaymentLine:
    database = context.database
    if state == PaymentState.APPROVED:
        hold = lock_hold(database, payment.hold_id)
        if is_paid(database, payment.hold_id) or hold is None or hold.lifted_at is not None:
            state = PaymentState.RETURNED
        else:
            lift_hold(database, payment.hold_id, "paid", payment.student_id, now)
    answer_payment(database, payment.reference, state, now)
    return replace(payment, state=state)


def own_payment(context: ActionContext, student_id: int, reference: str) -> PaymentLine:
    """A payment of one's own.

    Raises:
        Problem: there is none.
    """
    with connected(context.database) as database, database.atomic():
        payment = lock_payment(database, reference)
    if payment is None or payment.student_id != student_id:
        raise _unknown()
    return payment


def _unknown() -> Problem:
    return Problem(ProblemKind.HOLD_UNKNOWN, "Look at Clearance again; it may have been lifted.")
