"""Takes card payments, for a hold or for a term's account. A payment begins here, is made on the payment
service's page, and counts once however often its answer arrives."""

from __future__ import annotations

import secrets
import time
from dataclasses import dataclass, replace
from datetime import datetime

import structlog

from gremba.actions.account.overdue_holds import lift_if_settled
from gremba.actions.account.payment_service import BegunPayment, PaymentService, SignedAnswer
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.account.ledger import MOST_CENTS, CounterAccount, EntryKind
from gremba.core.messages import MessageKind, message_of
from gremba.core.states import ClearedBy, PaymentState
from gremba.core.wording import amount
from gremba.store.account.ledger import NewEntry, add_entry, read_account
from gremba.store.account.payments import (
    PaymentLine,
    answer_payment,
    begin_payment,
    count_waiting_for_account,
    count_waiting_for_hold,
    find_waiting,
    is_paid,
    lock_payment,
)
from gremba.store.catalogue.terms import term_of_row
from gremba.store.database import connected
from gremba.store.messages.inbox import put_notice
from gremba.store.registration.situations import lock_student_terms
from gremba.store.students.holds import lift_hold, lock_hold

log = structlog.get_logger()

MOST_WAITING = 3
"""Payments of different sums, for one hold or to one account, that may wait for their answer."""

ANSWER_KEEPS = 600
"""Seconds for which a signed answer is taken; the payment service sends it again if need be."""


@dataclass(frozen=True, slots=True)
class Begun:
    """A payment that was started.

    Attributes:
        page: the address of the payment service's page, on which it is made.
    """

    reference: str
    page: str


def pay_hold(
    context: ActionContext, service: PaymentService, student_id: int, hold_id: int, back: str
) -> Begun:
    """Start paying one's own hold; a payment without a result is returned again.

    Args:
        back: the address to come back to.

    Raises:
        Problem: there is no such hold, it was lifted, or it cannot be paid.
    """
    with connected(context.database) as database, database.atomic():
        hold = lock_hold(database, hold_id)
        if hold is None or hold.student_id != student_id:
            raise _unknown_hold()
        if hold.lifted_at is not None:
            raise Problem(ProblemKind.HOLD_LIFTED, "There is nothing left to pay; your cart knows it.")
        if hold.amount_cents is None or hold.cleared_by != ClearedBy.STUDENT:
            raise Problem(ProblemKind.HOLD_UNPAYABLE, f"Settle it with {hold.office}: {hold.contact}.")
        new = PaymentLine("", hold.id, None, student_id, hold.amount_cents, PaymentState.WAITING)
        return _begin(context, service, new, count_waiting_for_hold(database, hold.id), hold.reason, back)


def pay_account(
    context: ActionContext,
    service: PaymentService,
    student_id: int,
    term_code: str,
    amount_cents: int,
    back: str,
    paid_seen_cents: int | None = None,
) -> Begun:
    """Start a payment to one's own account; a payment of the same amount without a result is returned again.

    Args:
        paid_seen_cents: what had been paid by the account that was looked at; None if nobody looked.

    Raises:
        Problem: the sum cannot be paid, something has been paid since, or the student is not expected in
            the term.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    if not 0 < amount_cents <= MOST_CENTS:
        raise Problem(ProblemKind.SUM_RANGE, f"Pay from 0.01 to {amount(MOST_CENTS)} at once.")
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [row])
        if paid_seen_cents is not None:
            account = read_account(database, term, row)
            if account.paid_cents != paid_seen_cents:
                raise Problem(
                    ProblemKind.PAID_SINCE,
                    f"{amount(account.paid_cents)} is paid by now, and the balance is "
                    f"{amount(account.balance_cents)}. Look at it, then pay what is left.",
                )
        new = PaymentLine("", None, row, student_id, amount_cents, PaymentState.WAITING)
        waiting = count_waiting_for_account(database, row)
        return _begin(context, service, new, waiting, f"Account of {term.name}", back)


def _begin(
    context: ActionContext, service: PaymentService, new: PaymentLine, waiting: int, what: str, back: str
) -> Begun:
    database = context.database
    known = find_waiting(database, new)
    if known is None and waiting >= MOST_WAITING:
        raise Problem(
            ProblemKind.PAYMENTS_WAITING,
            "Ask what became of the last one before you try again; nothing is charged twice.",
        )
    payment = known or replace(new, reference=secrets.token_hex(12))
    # Before anything is written: where nothing can be paid, nothing is begun.
    page = service.page_of(BegunPayment(payment.reference, payment.amount_cents, what, back))
    if known is None:
        begin_payment(database, payment, context.clock.now())
    return Begun(payment.reference, page)


def inquire_about(
    context: ActionContext, service: PaymentService, student_id: int, reference: str
) -> PaymentLine:
    """Ask the service about one's own payment without a result; returns its state afterwards.

    Raises:
        Problem: there is no such payment, or nobody who could be asked.
    """
    payment = own_payment(context, student_id, reference)
    if payment.state != PaymentState.WAITING:
        return payment
    asked = BegunPayment(payment.reference, payment.amount_cents)
    return take_answer(context, service, service.inquire(asked))


def take_answer(context: ActionContext, service: PaymentService, signed: SignedAnswer) -> PaymentLine:
    """Process a result from the payment service; returns the payment's state afterwards.

    The same answer may come any number of times, and in any order with others: what is approved once
    stays approved, also where a decline had come before, since then the money has come. An approval for a
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
        if answer.result == PaymentState.WAITING or payment.state == answer.result:
            return payment
        if payment.state not in (PaymentState.WAITING, PaymentState.DECLINED):
            return payment
        return _settle(context, payment, answer.result, context.clock.now())


def _settle(context: ActionContext, payment: PaymentLine, state: PaymentState, now: datetime) -> PaymentLine:
    database = context.database
    if state == PaymentState.APPROVED and payment.hold_id is not None:
        hold = lock_hold(database, payment.hold_id)
        if is_paid(database, payment.hold_id) or hold is None or hold.lifted_at is not None:
            state = PaymentState.RETURNED
        else:
            lift_hold(database, payment.hold_id, "paid", payment.student_id, now)
    if state == PaymentState.APPROVED and payment.student_term_id is not None:
        _credit(context, payment, payment.student_term_id, now)
    answer_payment(database, payment.reference, state, now)
    return replace(payment, state=state)


def _credit(context: ActionContext, payment: PaymentLine, row: int, now: datetime) -> None:
    database = context.database
    lock_student_terms(database, [row])
    new = NewEntry(
        row,
        EntryKind.PAYMENT,
        CounterAccount.CARDS,
        payment.amount_cents,
        f"payment:{payment.reference}",
        now,
        "by card",
    )
    if add_entry(database, new) is None:
        log.warning("a payment stood in the ledger already", reference=payment.reference)
        return
    term = context.term(term_of_row(database, row))
    told = message_of(MessageKind.PAID, amount=amount(payment.amount_cents), term=term.name)
    put_notice(database, row, told, now)
    lift_if_settled(context, term, row, payment.student_id, now)


def own_payment(context: ActionContext, student_id: int, reference: str) -> PaymentLine:
    """One's own payment.

    Raises:
        Problem: there is none.
    """
    with connected(context.database) as database, database.atomic():
        payment = lock_payment(database, reference)
    if payment is None or payment.student_id != student_id:
        raise Problem(ProblemKind.PAYMENT_UNKNOWN, "Look at your payments again.")
    return payment


def _unknown_hold() -> Problem:
    return Problem(ProblemKind.HOLD_UNKNOWN, "Look at Clearance again; it may have been lifted.")
