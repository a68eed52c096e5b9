"""Paying a fee hold: a payment is begun, and its answer, however often it comes, counts once."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import time
from dataclasses import dataclass, replace
from datetime import datetime

import orjson
import structlog
from pydantic import BaseModel, ConfigDict, ValidationError

from gremba.actions.context import ActionContext
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

log = structlog.get_logger()

MOST_WAITING = 3
"""Payments for one hold that may wait for their answer."""

ANSWER_KEEPS = 600
"""Seconds for which a signed answer is taken; the payment service sends it again if need be."""


class PaymentAnswer(BaseModel):
    """What the payment service says of a payment."""

    model_config = ConfigDict(extra="forbid", strict=True)

    reference: str
    amount_cents: int
    result: str
    sent_at: int


@dataclass(frozen=True, slots=True)
class Begun:
    """A payment that the payment service can be asked to take."""

    reference: str
    amount_cents: int


def begin(context: ActionContext, student_id: int, hold_id: int) -> Begun:
    """Begin to pay a hold of one's own.

    Raises:
        Problem: there is no such hold, it was lifted, or it cannot be paid.
    """
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
        return Begun(reference, hold.amount_cents)


def sign(body: bytes, secret: str) -> str:
    """The signature of an answer: HMAC with SHA-256 (RFC 2104), in hexadecimal digits."""
    return hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


def take_answer(context: ActionContext, secret: str, body: bytes, signature: str) -> PaymentLine:
    """Take an answer of the payment service; gives the payment as it is afterwards.

    The same answer may come any number of times: the hold is lifted once. An approval for a
    hold that another payment has lifted already is noted as to be paid back.

    Raises:
        Problem: the signature is wrong, the answer is old or unreadable, or it does not fit.
    """
    if not secret or not hmac.compare_digest(sign(body, secret).encode(), signature.encode(errors="replace")):
        log.warning("a payment answer with a wrong signature")
        raise Problem(ProblemKind.PAYMENT_FORGED, "Nothing was changed.")
    try:
        answer = PaymentAnswer.model_validate(orjson.loads(body))
    except (ValidationError, orjson.JSONDecodeError):
        raise Problem(
            ProblemKind.PAYMENT_UNREADABLE, "Send reference, amount_cents, result and sent_at."
        ) from None
    if abs(time.time() - answer.sent_at) > ANSWER_KEEPS:
        raise Problem(ProblemKind.PAYMENT_OLD, "Send it again with the present time.")
    if answer.result not in ("approved", "declined"):
        raise Problem(ProblemKind.PAYMENT_UNREADABLE, "The result is approved or declined.")
    with connected(context.database) as database, database.atomic():
        payment = lock_payment(database, answer.reference)
        if payment is None or payment.amount_cents != answer.amount_cents:
            raise Problem(ProblemKind.PAYMENT_UNKNOWN, "There is no payment of that reference and amount.")
        if payment.state != PaymentState.WAITING:
            return payment
        return _settle(context, payment, answer.result, context.clock.now())


def _settle(context: ActionContext, payment: PaymentLine, result: str, now: datetime) -> PaymentLine:
    database = context.database
    state = PaymentState(result)
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
