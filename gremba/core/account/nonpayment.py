"""Decides whom a drop for nonpayment affects, whom it exempts, and why."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from gremba.core.account.due import Account, needed_for_seats, sections_of
from gremba.core.account.policy import DueDate
from gremba.core.catalogue.term import Section
from gremba.core.wording import amount


class NonpaymentResult(StrEnum):
    """What the drop for nonpayment does to a student: nothing, because enough is paid; nothing, although
    it is not; or the sections are dropped."""

    SETTLED = "settled"
    SPARED = "spared"
    LOST = "seats lost"


@dataclass(frozen=True, slots=True)
class NonpaymentJudgement:
    """What the drop for nonpayment does to a student, and why.

    Attributes:
        owed_cents: what is missing of what was due.
        sections: those that are lost.
    """

    result: NonpaymentResult
    owed_cents: int
    why: str
    sections: tuple[Section, ...] = ()


def judge_nonpayment(account: Account, due: DueDate) -> NonpaymentJudgement:
    """Decide what the drop for nonpayment of a due date does to a student."""
    policy = account.policy
    sections = tuple(sections_of(account, due))
    needed = needed_for_seats(account, due)
    owed = max(0, needed - account.covered_cents)
    if not sections:
        return NonpaymentJudgement(NonpaymentResult.SETTLED, 0, "no section of that date")
    if owed == 0:
        return NonpaymentJudgement(NonpaymentResult.SETTLED, 0, _how_settled(account, needed))
    if account.spared:
        return NonpaymentJudgement(NonpaymentResult.SPARED, owed, f"a note by the cashier: {account.spared}")
    for payment in account.anticipated_payments:
        if payment.kind in policy.spared_kinds and payment.open_cents:
            return NonpaymentJudgement(NonpaymentResult.SPARED, owed, f"{payment.label} has promised to pay")
    if owed < policy.spare_below_cents:
        return NonpaymentJudgement(
            NonpaymentResult.SPARED, owed, f"less than {amount(policy.spare_below_cents)} is open"
        )
    return NonpaymentJudgement(NonpaymentResult.LOST, owed, _how_lost(account, needed), sections)


def _how_settled(account: Account, needed: int) -> str:
    if account.joined is not None:
        return "the installments due by then are paid"
    if account.paid_cents >= needed:
        return "paid"
    return f"{amount(account.anticipated_cents)} promised covers the rest"


def _how_lost(account: Account, needed: int) -> str:
    told = f"{amount(needed)} was due, {amount(account.paid_cents)} paid"
    promised = account.covered_cents - account.paid_cents
    return f"{told}, {amount(promised)} promised" if promised else told
