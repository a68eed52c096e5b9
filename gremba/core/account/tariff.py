"""The rates and fees of a term."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum


class FeeScope(StrEnum):
    """What triggers a fee."""

    TERM = "term"
    CAMPUS = "campus"
    DELIVERY = "delivery"


class FeeRefund(StrEnum):
    """How a fee is refunded when what triggered it is dropped: like tuition, by the session's refund
    steps; fully while tuition is refunded fully, and then not at all; or never."""

    BY_STEPS = "by steps"
    WHILE_ALL_IS = "while all is"
    NEVER = "never"


@dataclass(frozen=True, slots=True)
class RateClass:
    """Tuition for the students of one rate class, in cents.

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
    """A fee in addition to tuition and to fees of courses and sections.

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
    """The rates and fees of a term.

    Attributes:
        classes: by the class that a student is in; "" for whoever is in none of them.
        late_from: whoever first registers on this day or later pays `late_cents` once; None for nobody.
    """

    classes: dict[str, RateClass] = field(default_factory=lambda: {"": RateClass()})
    fees: tuple[TariffFee, ...] = ()
    late_from: date | None = None
    late_cents: int = 0

    def rates_for(self, rate_class: str) -> RateClass:
        """The rates of a class; the default ones for an unknown class."""
        found = self.classes.get(rate_class)
        return self.classes[""] if found is None else found
