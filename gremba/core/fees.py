"""What a student owes for a term: tuition, fees, and what a drop leaves to pay.

The rates are the college's own; the refund of a drop follows the steps of its block.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gremba.core.catalogue import Section


@dataclass(frozen=True, slots=True)
class Tariff:
    """Rates in cents."""

    per_credit: int = 0
    per_term: int = 0
    """Charged once to whoever holds at least one section."""


def section_charge(section: Section, credits: float, tariff: Tariff) -> int:
    """Tuition and fees of one section in cents."""
    return round(credits * tariff.per_credit) + section.fee_cents


def kept_after_drop(section: Section, credits: float, tariff: Tariff, on: date) -> int:
    """The part of a section's charge, in cents, that stays due when it is dropped that day."""
    charge = section_charge(section, credits, tariff)
    return charge - charge * section.block.refund_percent(on) // 100


def term_charge(held: Iterable[tuple[Section, float]], kept: int, tariff: Tariff) -> int:
    """Everything due for a term in cents: sections held, and what earlier drops left to pay."""
    sections = [section_charge(section, credits, tariff) for section, credits in held]
    once = tariff.per_term if sections or kept else 0
    return sum(sections) + kept + once
