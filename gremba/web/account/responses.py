"""Turns accounts into responses."""

from __future__ import annotations

import base64
import binascii
from typing import Any

from gremba.actions.account.cashier import Owing
from gremba.actions.account.statement import AccountOverview
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.account.due import Account, Due
from gremba.core.account.ledger import LedgerEntry, came_by_card, undone
from gremba.core.account.statement import LineKind, StatementLine
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.wording import day
from gremba.formats.decision_json import title_of
from gremba.store.account.ledger import AccountHolder
from gremba.web import schemas


def account_response(found: AccountOverview) -> schemas.AccountResponse:
    """An account with its statement."""
    account, told = found.account, found.statement
    zone = found.term.calendar.zone
    entries = {entry.id: entry for entry in account.entries}
    gone = undone(account.entries)
    back = found.asking_back
    return schemas.AccountResponse.model_validate(
        {
            "term": found.term.name,
            "rates": account.tariff.rates_for(account.rate_class).name,
            "now": found.now.astimezone(zone),
            "lines": [_line(found, line, entries, gone) for line in told.lines],
            "charged_cents": told.charged_cents,
            "paid_cents": told.paid_cents,
            "anticipated_cents": told.anticipated_cents,
            "anticipated_payments_count": account.policy.anticipated_payments_count,
            "balance_cents": told.balance_cents,
            "dues": [_due(found, due) for due in found.dues],
            "next": None if found.next is None else _due(found, found.next),
            "keeps_from_cents": found.keeps_from_cents,
            "sections": len(account.charges.held),
            "joined": _joined(account),
            "spared": bool(account.spared),
            "payments": [
                {
                    "reference": payment.reference,
                    "amount_cents": payment.amount_cents,
                    "state": payment.state.value,
                    "begun_at": payment.begun_at.astimezone(zone),
                    "answered_at": payment.answered_at and payment.answered_at.astimezone(zone),
                }
                for payment in found.payments
            ],
            "plans": [
                {
                    "code": offer.plan.code,
                    "name": offer.plan.name,
                    "join_by": offer.plan.join_by.astimezone(zone),
                    "parts": [
                        {"at": None if own.at is None else own.at.astimezone(zone), "amount_cents": cents}
                        for own, (_, cents) in zip(offer.plan.parts, offer.parts, strict=True)
                    ],
                }
                for offer in found.offers
            ],
            "asking_back": None
            if back is None
            else {
                "lost_at": back.lost.at.astimezone(zone),
                "why": back.lost.why,
                "confirmation": back.lost.confirmation,
                "sections": [
                    {"number": s.reference_number, "name": s.name, "title": title_of(s)}
                    for s in back.sections
                ],
                "pay_first_cents": back.pay_first_cents,
                "until": None if back.until is None else back.until.astimezone(zone),
            },
        }
    )


def _joined(account: Account) -> str:
    plan = account.policy.plan(account.joined.code) if account.joined else None
    return "" if plan is None else plan.name


def _due(found: AccountOverview, due: Due) -> dict[str, Any]:
    return {
        "at": due.at.astimezone(found.term.calendar.zone),
        "needed_cents": due.needed_cents,
        "open_cents": due.open_cents,
        "own_cents": due.own_cents,
        "loses_seats": due.loses_seats,
        "over": due.is_over(found.now),
        "why": due.why,
    }


def _line(
    found: AccountOverview,
    line: StatementLine,
    entries: dict[int, LedgerEntry],
    gone: frozenset[int],
) -> dict[str, Any]:
    entry = None if line.entry is None else entries[line.entry]
    is_undone = entry is not None and (entry.id in gone or entry.counters is not None)
    return {
        "kind": line.kind.value,
        "what": line.what,
        "number": line.number,
        "title": line.title,
        "how": line.how,
        "told_by": told_by(line),
        "charged_cents": line.charged_cents,
        "paid_cents": line.paid_cents,
        "was_cents": line.was_cents,
        "confirmation": line.confirmation,
        "entry": line.entry,
        "undone": is_undone,
        "undoable": entry is not None and not is_undone and not came_by_card(entry),
        "dropped_on": line.dropped_on,
        "gives_back": _gives_back(found, line),
    }


def told_by(line: StatementLine) -> str:
    """The source of a line, in words."""
    if line.entry is not None:
        return f"entry {line.entry}"
    if line.confirmation is not None:
        return f"confirmation {line.confirmation}"
    if line.kind in (LineKind.SECTION, LineKind.DROPPED):
        return "the registration"
    return "" if line.kind is LineKind.ANTICIPATED_PAYMENT else "the tariff"


def _gives_back(found: AccountOverview, line: StatementLine) -> str:
    section = found.term.by_number.get(line.number)
    if line.kind is not LineKind.SECTION or section is None:
        return ""
    step = section.session.refund_step(found.term.calendar.local_date(found.now))
    if step is None:
        return "nothing back if dropped now"
    share = "all of it" if step.percent == 100 else f"{step.percent} per cent"
    return f"{share} back if dropped by {day(step.through)}, 24:00"


def owing_response(owing: Owing, term: TermCatalogue) -> schemas.OwingResponse:
    """What a student owes."""
    due = owing.next
    return schemas.OwingResponse(
        student=owing.holder.student_id,
        username=owing.holder.username,
        full_name=owing.holder.full_name,
        charged_cents=owing.charged_cents,
        paid_cents=owing.paid_cents,
        anticipated_cents=owing.anticipated_cents,
        balance_cents=owing.balance_cents,
        due_cents=0 if due is None else due.open_cents,
        due_at=None if due is None else due.at.astimezone(term.calendar.zone),
        in_plan=owing.in_plan,
        spared=owing.spared,
    )


def place_after(holder: AccountHolder | None) -> str:
    """The cursor behind this student in a list by name."""
    if holder is None:
        return ""
    return base64.urlsafe_b64encode(f"{holder.row}:{holder.full_name}".encode()).decode()


def read_place(place: str) -> tuple[str, int]:
    """Decodes such a cursor into the name and the row id.

    Raises:
        Problem: it is not one that was given out.
    """
    if not place:
        return "", 0
    try:
        row, _, name = base64.urlsafe_b64decode(place.encode()).decode().partition(":")
        return name, int(row)
    except (binascii.Error, ValueError):
        raise Problem(ProblemKind.UNREADABLE, "Begin the list again.") from None
