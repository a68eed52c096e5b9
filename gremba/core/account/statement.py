"""The statement of a term: each charge and payment, how it was computed, which confirmation it is from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from gremba.core.account.charges import Charges, SectionCharge, audit_cents, credits_cents, is_brought_by
from gremba.core.account.due import Account
from gremba.core.account.ledger import EntryKind
from gremba.core.account.tariff import FeeScope
from gremba.core.catalogue.term import AUDIT
from gremba.core.wording import amount, credits_text, day


class LineKind(StrEnum):
    """What a statement line is about."""

    SECTION = "section"
    DROPPED = "dropped"
    TUITION = "tuition"
    FEE = "fee"
    LATE = "late fee"
    ENTRY = "entry"
    ANTICIPATED_PAYMENT = "anticipated_payment"


@dataclass(frozen=True, slots=True)
class StatementLine:
    """A statement line.

    Attributes:
        what: the section, the fee, the payment.
        number: the reference number of a section; "" for anything else.
        how: how its sum comes about.
        charged_cents, paid_cents: 0 in one of the two.
        was_cents: of a dropped section, what it had cost.
        confirmation: that told of it; None where none did.
        entry: the id of the entry; None for what is charged.
        dropped_on: for a section that was dropped.
    """

    kind: LineKind
    what: str
    number: str = ""
    title: str = ""
    how: str = ""
    charged_cents: int = 0
    paid_cents: int = 0
    was_cents: int | None = None
    confirmation: int | None = None
    entry: int | None = None
    dropped_on: date | None = None


@dataclass(frozen=True, slots=True)
class Statement:
    """The lines of a statement and their sums, in cents.

    Attributes:
        balance_cents: what is charged and not paid; negative where too much was paid.
    """

    lines: tuple[StatementLine, ...]
    charged_cents: int
    paid_cents: int
    anticipated_cents: int

    @property
    def balance_cents(self) -> int:
        """The balance."""
        return self.charged_cents - self.paid_cents


def statement(account: Account) -> Statement:
    """The statement of an account; anticipated payments are listed, but only count in their own sum."""
    charges = account.charges
    lines = [
        *_sections(charges),
        *_tuition(charges),
        *_fees(charges),
        *_entries(account),
        *_anticipated_payments(account),
    ]
    return Statement(tuple(lines), charges.total_cents, account.paid_cents, account.anticipated_cents)


def _sections(charges: Charges) -> Iterable[StatementLine]:
    for line in charges.held.values():
        yield StatementLine(
            LineKind.SECTION,
            line.section.name,
            line.section.reference_number,
            line.section.course.title,
            _how_charged(charges, line),
            charged_cents=_cost(charges, line),
            confirmation=line.last_confirmation,
        )
    for line in charges.dropped:
        yield StatementLine(
            LineKind.DROPPED,
            line.section.name,
            line.section.reference_number,
            line.section.course.title,
            _how_kept(line),
            charged_cents=line.kept_cents,
            was_cents=line.charged_cents,
            confirmation=line.last_confirmation,
            dropped_on=line.dropped.on if line.dropped else None,
        )


def _cost(charges: Charges, line: SectionCharge) -> int:
    section = line.section
    each = [fee.cents for fee in charges.tariff.fees if fee.each and is_brought_by(fee, section)]
    tuition = 0 if charges.is_band else credits_cents(charges.rates, line.credits)
    audit = audit_cents(charges.rates, section, line.grading)
    return tuition + audit + section.fee_cents + sum(each) + line.kept_cents


def _how_charged(charges: Charges, line: SectionCharge) -> str:
    section = line.section
    told = []
    if line.grading == AUDIT:
        told.append("audit")
    elif line.credits and charges.is_band:
        told.append(f"{credits_text(line.credits)} in the price of the band")
    elif line.credits:
        told.append(f"{credits_text(line.credits)} at {amount(charges.rates.per_credit)}")
    course = section.course.fees if section.carries_credit else ()
    told += [f"{fee.label} {amount(fee.cents)}" for fee in (*course, *section.fees)]
    for fee in charges.tariff.fees:
        if fee.each and is_brought_by(fee, section):
            told.append(f"{fee.label} {amount(fee.cents)}")
    if line.kept_cents:
        told.append(f"{amount(line.kept_cents)} left by taking fewer credits")
    return ", ".join(told) or "goes with its lecture"


def _how_kept(line: SectionCharge) -> str:
    told = credits_text(line.credits) if line.credits else "no credits"
    if not line.kept_cents:
        return f"{told}, all of it given back"
    on = line.dropped.on if line.dropped else None
    percent = line.section.session.refund_percent(on) if on else 0
    if not percent:
        return f"{told}, nothing was given back that late"
    return f"{told}, {percent} per cent given back"


def _tuition(charges: Charges) -> Iterable[StatementLine]:
    rates = charges.rates
    if not charges.is_band or rates.band_cents is None:
        return
    how = f"one price for {rates.band_from:g} to {credits_text(rates.band_to)}"
    yield StatementLine(LineKind.TUITION, "Tuition", how=how, charged_cents=rates.band_cents)
    beyond = charges.credits - rates.band_to
    if beyond > 0:
        yield StatementLine(
            LineKind.TUITION,
            "Tuition above the band",
            how=f"{credits_text(beyond)} at {amount(rates.per_credit)}",
            charged_cents=credits_cents(rates, beyond),
        )


_WHERE = {FeeScope.TERM: "", FeeScope.CAMPUS: " on that campus", FeeScope.DELIVERY: " taught that way"}


def _fees(charges: Charges) -> Iterable[StatementLine]:
    for fee, cents in charges.fees_once():
        how = f"once, with any section{_WHERE[fee.scope]}"
        if not any(is_brought_by(fee, line.section) for line in charges.held.values()):
            how = "left by what was dropped"
        yield StatementLine(LineKind.FEE, fee.label, how=how, charged_cents=cents)
    if charges.late_cents and charges.tariff.late_from:
        yield StatementLine(
            LineKind.LATE,
            "Late registration",
            how=f"first registered on {day(charges.tariff.late_from)} or later",
            charged_cents=charges.late_cents,
        )


_KIND_NAMES = {
    EntryKind.PAYMENT: "Payment",
    EntryKind.REFUND: "Paid back",
    EntryKind.AID: "Aid",
    EntryKind.SPONSOR: "Sponsor",
    EntryKind.WAIVER: "Waived",
    EntryKind.CORRECTION: "Correction",
    EntryKind.COUNTER: "Undone",
}


def _entries(account: Account) -> Iterable[StatementLine]:
    for entry in account.entries:
        how = ": ".join(part for part in (entry.label, entry.reason) if part)
        yield StatementLine(
            LineKind.ENTRY, _KIND_NAMES[entry.kind], how=how, paid_cents=entry.amount_cents, entry=entry.id
        )


def _anticipated_payments(account: Account) -> Iterable[StatementLine]:
    for payment in account.anticipated_payments:
        if payment.open_cents:
            yield StatementLine(
                LineKind.ANTICIPATED_PAYMENT,
                f"Anticipated: {payment.label}",
                how=f"{amount(payment.open_cents)} to come",
            )
