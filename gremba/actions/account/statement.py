"""A student's account of a term: the statement, joining an installment plan, and re-registering after a drop
for nonpayment."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import orjson

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.process_submissions import Confirmation
from gremba.core.account.due import Account, Due, dues, keeps_from, missing_for, next_due, parts_of
from gremba.core.account.policy import InstallmentPlan
from gremba.core.account.statement import Statement, statement
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.wording import amount, moment
from gremba.store.account.ledger import join_plan, read_account
from gremba.store.account.nonpayment import LostSeats, lost_seats, sections_dropped_by
from gremba.store.account.payments import AccountPayment, payments_to_account
from gremba.store.database import connected, reading
from gremba.store.registration.situations import lock_student_terms
from gremba.store.registration.writing.confirmations import ask_earlier_confirmations


@dataclass(frozen=True, slots=True)
class PlanOffer:
    """An installment plan that can be joined, with its installments as of now."""

    plan: InstallmentPlan
    parts: tuple[tuple[datetime, int], ...]


@dataclass(frozen=True, slots=True)
class AskingBack:
    """Sections dropped for nonpayment that can be asked for.

    Attributes:
        pay_first_cents: what is to be paid before; 0 where they can be asked back now.
        until: until when; None where it is too late, or the college has it never.
    """

    lost: LostSeats
    sections: tuple[Section, ...]
    pay_first_cents: int
    until: datetime | None


@dataclass(frozen=True, slots=True)
class AccountOverview:
    """Everything the account page shows."""

    term: TermCatalogue
    row: int
    now: datetime
    account: Account
    statement: Statement
    dues: tuple[Due, ...]
    next: Due | None
    keeps_from_cents: int | None
    """What is to be paid or promised in all to keep the seats on the next date on which they are lost."""
    payments: tuple[AccountPayment, ...]
    offers: tuple[PlanOffer, ...]
    asking_back: AskingBack | None


def look_at_account(context: ActionContext, student_id: int, term_code: str) -> AccountOverview:
    """Read an account and compute its statement. About ten statements.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    with reading(context.database) as database:
        account = read_account(database, term, row)
        payments = payments_to_account(database, row)
        back = _asking_back(context, term, row, account, now)
    return AccountOverview(
        term,
        row,
        now,
        account,
        statement(account),
        tuple(dues(account)),
        next_due(account, now),
        keeps_from(account, now),
        tuple(payments),
        tuple(_offers(account, now)),
        back,
    )


def _offers(account: Account, now: datetime) -> list[PlanOffer]:
    open_cents = account.charges.total_cents - account.covered_cents
    if account.joined is not None or open_cents <= 0:
        return []
    return [
        PlanOffer(plan, tuple(parts_of(plan, open_cents, now)))
        for plan in account.policy.installments
        if now < plan.join_by
    ]


def join_installments(context: ActionContext, student_id: int, term_code: str, code: str) -> None:
    """Join an installment plan of the term.

    Raises:
        Problem: there is none, it is too late, one was joined before, or nothing is open.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    plan = term.policy.account.plan(code)
    if plan is None:
        raise Problem(ProblemKind.PLAN_JOINED, "There is no such plan in this term.")
    if now >= plan.join_by:
        until = moment(plan.join_by.astimezone(term.calendar.zone))
        raise Problem(ProblemKind.PLAN_JOINED, f"It could be joined until {until}. Speak to the cashier.")
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [row])
        account = read_account(database, term, row)
        if account.joined is not None:
            raise Problem(ProblemKind.PLAN_JOINED, "You have joined one already; your account shows it.")
        if account.charges.total_cents - account.covered_cents <= 0:
            raise Problem(ProblemKind.PLAN_JOINED, "Nothing is open that could be paid in parts.")
        join_plan(database, row, plan.code, now, account.covered_cents)


@dataclass(frozen=True, slots=True)
class RequestBack:
    """The submission that asks for sections dropped for nonpayment.

    Attributes:
        row: of the student's term.
        key: under which its confirmation is kept; no other submission has it.
        before: its confirmation, where it was asked by this key already.
    """

    row: int
    key: str
    request: Request
    before: Confirmation | None = None


def request_back(context: ActionContext, student_id: int, term_code: str, key: str) -> RequestBack:
    """The submission that asks for sections dropped for nonpayment, once for a key.

    Raises:
        Problem: none were lost, it is too late, or something is to be paid before.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    now = context.clock.now()
    own_key = f"asking back {key}"
    with reading(context.database) as database:
        for earlier in ask_earlier_confirmations(database, [(row, own_key)])().values():
            before = Confirmation(earlier.id, earlier.sent_at, orjson.dumps(earlier.body), repeated=True)
            return RequestBack(row, own_key, Request(()), before)
        account = read_account(database, term, row)
        back = _asking_back(context, term, row, account, now)
    if back is None or not back.sections:
        raise Problem(
            ProblemKind.ASKING_BACK, "No seats of yours were taken back that you do not have again."
        )
    if back.until is None:
        raise Problem(ProblemKind.ASKING_BACK, "It is too late; add what you want like anything else.")
    if back.pay_first_cents:
        raise Problem(ProblemKind.ASKING_BACK, f"Pay {amount(back.pay_first_cents)} first.")
    changes = tuple(Change(Kind.ADD, section.reference_number) for section in back.sections)
    return RequestBack(row, own_key, Request(changes, Mode.EACH))


def _asking_back(
    context: ActionContext, term: TermCatalogue, row: int, account: Account, now: datetime
) -> AskingBack | None:
    lost = lost_seats(context.database, row)
    if lost is None:
        return None
    held = account.charges.held
    sections = tuple(
        term.by_id[section]
        for section in sections_dropped_by(context.database, lost.confirmation)
        if section not in held and not term.by_id[section].cancelled
    )
    if not sections:
        return None
    due = next((d for d in term.policy.account.due_dates if d.at == lost.due_at), None)
    until = term.policy.account.ask_back_until
    is_open = due is not None and until is not None and now < until
    first = 0 if due is None else missing_for(account, due, sections, term.calendar.local_date(now))
    return AskingBack(lost, sections, first, until if is_open else None)
