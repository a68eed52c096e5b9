"""What a student owes for a term: tuition, fees, and what a drop leaves to pay.

The rates are the college's own; the refund of a drop follows the steps of its block.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from gremba.core.catalogue import Section
from gremba.core.tariff import Tariff


def section_charge(section: Section, credits: float, tariff: Tariff) -> int:
    """Tuition and fees of one section in cents; tuition is rounded half up."""
    # Credits are kept in tenths, so this is exact.
    return (round(credits * 10) * tariff.per_credit + 5) // 10 + section.fee_cents


def kept_after_drop(section: Section, credits: float, tariff: Tariff, on: date) -> int:
    """The part of a section's charge, in cents, that stays due when it is dropped that day.

    Args:
        credits: those held, not those of the catalogue.
        on: the college's own date of the drop.

    Returns:
        Cents, rounded half up.

    Source: the refund steps of the section's block (college policy).
    """
    return _kept(section_charge(section, credits, tariff), section, on)


def kept_after_reduction(section: Section, before: float, after: float, tariff: Tariff, on: date) -> int:
    """What stays due when fewer credits are taken, or none for an audit: as after a drop of the
    difference. Nothing where they do not become fewer."""
    less = section_charge(section, before, tariff) - section_charge(section, after, tariff)
    return _kept(max(0, less), section, on)


def _kept(charge: int, section: Section, on: date) -> int:
    return (charge * (100 - section.block.refund_percent(on)) + 50) // 100


def term_charge(held: Iterable[tuple[Section, float]], retained: int, tariff: Tariff) -> int:
    """Everything due for a term in cents: sections held, and what earlier drops left to pay."""
    sections = [section_charge(section, credits, tariff) for section, credits in held]
    once = tariff.per_term if sections or retained else 0
    return sum(sections) + retained + once
