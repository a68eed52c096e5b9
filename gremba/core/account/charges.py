"""Charges: what a history of registrations costs by the rates of a term.

A pure function of the history: the same events in the same order always come to the same sums, and what an
event changes is the difference between the sums before and after it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum

from gremba.core.account.tariff import FeeRefund, FeeScope, RateClass, Tariff, TariffFee
from gremba.core.catalogue.term import AUDIT, Section


class ChargeKind(StrEnum):
    """What changes the charge of a registration."""

    DROPPED = "dropped"
    ADJUSTED = "adjusted"
    REGISTERED = "registered"


@dataclass(frozen=True, slots=True)
class ChargeEvent:
    """An event of a registration that affects charges.

    Attributes:
        credits, grading: as they are from then on; of no meaning for a drop.
        on: the college's own date of it; None where it is not known, which no late fee reaches.
        confirmation: that told of it; None where there is none.
    """

    kind: ChargeKind
    section: Section
    credits: float = 0.0
    grading: str = ""
    on: date | None = None
    at: datetime | None = None
    confirmation: int | None = None


@dataclass(slots=True)
class SectionCharge:
    """A section of the history, with its charge.

    Attributes:
        kept_cents: what drops and reductions have left to pay of it.
        charged_cents: what it had cost before it was dropped; 0 while it is held.
        last_confirmation: that told of the last thing that happened to it.
    """

    section: Section
    credits: float
    grading: str
    kept_cents: int = 0
    charged_cents: int = 0
    dropped: ChargeEvent | None = None
    last_confirmation: int | None = None


@dataclass(frozen=True, slots=True)
class GivenBack:
    """What a drop or a reduction changes, in cents.

    Attributes:
        back_cents: no longer due.
        kept_cents: stays due of the section, with what earlier reductions had left.
    """

    back_cents: int
    kept_cents: int


class Charges:
    """The charges of a history, updated event by event.

    Args:
        rate_class: of the student.
    """

    def __init__(self, tariff: Tariff, rate_class: str, events: Iterable[ChargeEvent] = ()) -> None:
        self.tariff = tariff
        self.rates = tariff.rates_for(rate_class)
        self.held: dict[int, SectionCharge] = {}
        """By the id of the section, in order of registering."""
        self.dropped: list[SectionCharge] = []
        self.kept_of_fees: dict[TariffFee, int] = {}
        """What drops have left to pay of fees that are charged once."""
        self.late_cents = 0
        for event in events:
            self.apply(event)

    def apply(self, event: ChargeEvent) -> GivenBack:
        """Apply one event.

        Raises:
            KeyError: it drops or adjusts a section that is not held.
        """
        if event.kind is ChargeKind.REGISTERED:
            return self._register(event)
        return self._drop(event) if event.kind is ChargeKind.DROPPED else self._adjust(event)

    def _register(self, event: ChargeEvent) -> GivenBack:
        late_from = self.tariff.late_from
        is_first = not self.held and not self.dropped
        if is_first and late_from is not None and event.on is not None and event.on >= late_from:
            self.late_cents = self.tariff.late_cents
        self.held[event.section.id] = SectionCharge(
            event.section, event.credits, event.grading, last_confirmation=event.confirmation
        )
        return GivenBack(0, 0)

    def _drop(self, event: ChargeEvent) -> GivenBack:
        before = self.tuition_cents
        line = self.held.pop(event.section.id)
        section, percent = line.section, _percent(event)
        by_steps = max(0, before - self.tuition_cents) + section.fee_cents
        by_steps += audit_cents(self.rates, line.section, line.grading)
        at_once = kept = 0
        for fee in self.tariff.fees:
            if not is_brought_by(fee, section):
                continue
            if not fee.each:
                self.kept_of_fees[fee] = max(self.kept_of_fees.get(fee, 0), _kept_of(fee, percent))
            elif fee.refund is FeeRefund.BY_STEPS:
                by_steps += fee.cents
            else:
                at_once += fee.cents
                kept += _kept_of(fee, percent)
        kept += keep(by_steps, percent)
        line.charged_cents = by_steps + at_once
        line.kept_cents += kept
        line.dropped = event
        line.last_confirmation = event.confirmation
        self.dropped.append(line)
        return GivenBack(line.charged_cents - kept, line.kept_cents)

    def _adjust(self, event: ChargeEvent) -> GivenBack:
        line = self.held[event.section.id]
        before = self.tuition_cents + self._audits_cents
        line.credits, line.grading = event.credits, event.grading
        line.last_confirmation = event.confirmation
        less = max(0, before - self.tuition_cents - self._audits_cents)
        kept = keep(less, _percent(event))
        line.kept_cents += kept
        return GivenBack(less - kept, line.kept_cents)

    @property
    def is_band(self) -> bool:
        """Whether a flat rate applies to all credits of the band."""
        return self.rates.band_cents is not None and reaches_band(self.rates, self.credits)

    @property
    def credits(self) -> float:
        """The credits held."""
        return in_tenths([line.credits for line in self.held.values()]) / 10

    @property
    def tuition_cents(self) -> int:
        """Tuition for the sections held, without audits."""
        return tuition_cents(self.rates, [line.credits for line in self.held.values()])

    @property
    def _audits_cents(self) -> int:
        if not self.rates.audit_per_credit:
            return 0
        return sum([audit_cents(self.rates, line.section, line.grading) for line in self.held.values()])

    def fees_once(self) -> list[tuple[TariffFee, int]]:
        """Fees charged once, each with what is due of it, in the order of the rates and fees."""
        found = []
        for fee in self.tariff.fees:
            if fee.each:
                continue
            if any([is_brought_by(fee, line.section) for line in self.held.values()]):
                found.append((fee, fee.cents))
            elif kept := self.kept_of_fees.get(fee, 0):
                found.append((fee, kept))
        return found

    @property
    def total_cents(self) -> int:
        """The total charges for the term."""
        total = self.tuition_cents + self._audits_cents + self.late_cents
        for line in self.held.values():
            total += line.section.fee_cents + line.kept_cents
        for line in self.dropped:
            total += line.kept_cents
        for fee in self.tariff.fees:
            if fee.each:
                total += fee.cents * len(
                    [line for line in self.held.values() if is_brought_by(fee, line.section)]
                )
        return total + sum([due for _, due in self.fees_once()])


def tuition_cents(rates: RateClass, credits: Iterable[float]) -> int:
    """Tuition in cents: each section's credits at the rate, each rounded half up; or a flat rate from the
    first credit of the band on, plus the rate for each credit above it."""
    many = list(credits)
    if rates.band_cents is not None and reaches_band(rates, total := in_tenths(many) / 10):
        return rates.band_cents + credits_cents(rates, max(0.0, total - rates.band_to))
    return sum([credits_cents(rates, one) for one in many])


def in_tenths(credits: Iterable[float]) -> int:
    """A sum of credits in tenths, the unit of storage: as floats, 5.6 + 3.3 + 3.1 falls short of 12."""
    return sum([round(one * 10) for one in credits])


def reaches_band(rates: RateClass, credits: float) -> bool:
    """Whether that many credits, to a tenth, reach the band."""
    return round(credits * 10) >= round(rates.band_from * 10)


def credits_cents(rates: RateClass, credits: float) -> int:
    """Credits at the rate, in cents, rounded half up."""
    # Credits are kept in tenths, so this is exact.
    return (round(credits * 10) * rates.per_credit + 5) // 10


def audit_cents(rates: RateClass, section: Section, grading: str) -> int:
    """The charge of an audit in cents: the audit rate for the course's least credits."""
    if grading != AUDIT or not section.carries_credit:
        return 0
    return (round(section.course.credits_least * 10) * rates.audit_per_credit + 5) // 10


def is_brought_by(fee: TariffFee, section: Section) -> bool:
    """Whether a section triggers a fee."""
    if fee.scope is FeeScope.TERM:
        return True
    if fee.scope is FeeScope.CAMPUS:
        return fee.value in section.campuses
    return fee.value == section.delivery


def keep(cents: int, refund_percent: int) -> int:
    """What stays due of an amount after a refund of that percentage, in cents, rounded half up."""
    return (cents * (100 - refund_percent) + 50) // 100


def _kept_of(fee: TariffFee, percent: int) -> int:
    if fee.refund is FeeRefund.BY_STEPS:
        return keep(fee.cents, percent)
    if fee.refund is FeeRefund.WHILE_ALL_IS:
        return 0 if percent == 100 else fee.cents
    return fee.cents


def _percent(event: ChargeEvent) -> int:
    return event.section.session.refund_percent(event.on) if event.on is not None else 100
