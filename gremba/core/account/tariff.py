"""The rates and fees of a term."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum


class FeeScope(StrEnum):
    """What brings a fee of the tariff with it."""

    TERM = "term"
    CAMPUS = "campus"
    DELIVERY = "delivery"


class FeeRefund(StrEnum):
    """What is given back of a fee when what brought it is dropped: as much as of tuition, by the steps of
    the section's session; all of it while all of tuition is, and then nothing; never anything."""

    BY_STEPS = "by steps"
    WHILE_ALL_IS = "while all is"
    NEVER = "never"


@dataclass(frozen=True, slots=True)
class RateClass:
    """What students of one class pay for tuition, in cents.

    Attributes:
        name: behind "rates", such as "for the county"; "" where the college has but one class.
        band_cents: one price for any credits of the band; None where every credit is charged.
        band_from, band_to: the credits of the band; each credit above it costs `per_credit`.
        audit_per_credit: for each credit of a course that is audited.
    """

    per_credit: int = 0
    name: str = ""
    band_cents: int | None = None
    band_from: float = 12.0
    band_to: float = 18.0
    audit_per_credit: int = 0


@dataclass(frozen=True, slots=True)
class TariffFee:
    """A fee beside tuition and beside the fees of courses and sections.

    Attributes:
        value: the campus or the way of teaching that brings it; "" for any section of the term.
        each: charged with every section that brings it, not once.
    """

    label: str
    cents: int
    scope: FeeScope = FeeScope.TERM
    value: str = ""
    each: bool = False
    refund: FeeRefund = FeeRefund.WHILE_ALL_IS


@dataclass(frozen=True, slots=True)
class Tariff:
    """The rates of a term.

    Attributes:
        classes: by the class that a student is in; "" for whoever is in none of them.
        late_from: whoever first registers on this day or later pays `late_cents` once; None for nobody.
    """

    classes: dict[str, RateClass] = field(default_factory=lambda: {"": RateClass()})
    fees: tuple[TariffFee, ...] = ()
    late_from: date | None = None
    late_cents: int = 0

    def rates_for(self, rate_class: str) -> RateClass:
        """The rates of a class; of a class that the tariff does not name, the usual ones."""
        found = self.classes.get(rate_class)
        return self.classes[""] if found is None else found
