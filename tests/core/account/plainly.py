"""What a history costs, reckoned once more in the plainest way: with fractions, all of it anew after every
event, and nothing of the code under test."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from gremba.core.account.charges import ChargeEvent
from gremba.core.account.tariff import Tariff, TariffFee


def cents(amount: Fraction) -> int:
    """To whole cents, half up."""
    return int((amount + Fraction(1, 2)) // 1)


def total_cents(tariff: Tariff, rate_class: str, events: Sequence[ChargeEvent]) -> int:
    """All that is charged."""
    rates = tariff.classes[rate_class if rate_class in tariff.classes else ""]
    has: dict[str, tuple[ChargeEvent, Fraction, str]] = {}
    left = 0
    left_of_fee = [0] * len(tariff.fees)
    late = 0

    def tuition() -> int:
        many = sum((credits for _, credits, _ in has.values()), Fraction(0))
        audits = sum(
            cents(Fraction(str(e.section.course.credits_least)) * rates.audit_per_credit)
            for e, _, grading in has.values()
            if grading == "audit" and e.section.carries_credit
        )
        if rates.band_cents is not None and many >= Fraction(str(rates.band_from)):
            beyond = max(Fraction(0), many - Fraction(str(rates.band_to)))
            return rates.band_cents + cents(beyond * rates.per_credit) + audits
        return sum(cents(credits * rates.per_credit) for _, credits, _ in has.values()) + audits

    def brings(fee: TariffFee, event: ChargeEvent) -> bool:
        scope, value = str(fee.scope), fee.value
        section = event.section
        if scope == "term":
            return True
        if scope == "campus":
            return any(m.campus == value for m in section.meetings)
        return str(section.delivery) == value

    def of_fee(fee: TariffFee, back: int) -> int:
        how, whole = str(fee.refund), fee.cents
        if how == "never":
            return whole
        if how == "while all is":
            return 0 if back == 100 else whole
        return cents(Fraction(whole * (100 - back), 100))

    for count, event in enumerate(events):
        number = event.section.reference_number
        if event.kind == "registered":
            if count == 0 and tariff.late_from and event.on and event.on >= tariff.late_from:
                late = tariff.late_cents
            has[number] = (event, Fraction(str(event.credits)), event.grading)
            continue
        back = 0
        for step in event.section.session.refund_steps:
            if event.on is None or event.on <= step.through:
                back = step.percent
                break
        if event.on is None:
            back = 100
        before = tuition()
        if event.kind == "adjusted":
            has[number] = (has[number][0], Fraction(str(event.credits)), event.grading)
            left += cents(Fraction(max(0, before - tuition()) * (100 - back), 100))
            continue
        gone, _, grading = has[number]
        audit = 0
        if grading == "audit" and gone.section.carries_credit:
            audit = cents(Fraction(str(gone.section.course.credits_least)) * rates.audit_per_credit)
        del has[number]
        own_fees = [f.cents for f in gone.section.fees]
        if gone.section.carries_credit:
            own_fees += [f.cents for f in gone.section.course.fees]
        # The audit stands in the difference of tuition; where that is negative it stands alone.
        less = max(0, before - audit - tuition()) + audit + sum(own_fees)
        for place, fee in enumerate(tariff.fees):
            if not brings(fee, gone):
                continue
            if not fee.each:
                left_of_fee[place] = max(left_of_fee[place], of_fee(fee, back))
            elif str(fee.refund) == "by steps":
                less += fee.cents
            else:
                left += of_fee(fee, back)
        left += cents(Fraction(less * (100 - back), 100))
    total = tuition() + left + late
    for event, _, _ in has.values():
        total += sum(f.cents for f in event.section.fees)
        if event.section.carries_credit:
            total += sum(f.cents for f in event.section.course.fees)
    for place, fee in enumerate(tariff.fees):
        bringing = [event for event, _, _ in has.values() if brings(fee, event)]
        if fee.each:
            total += fee.cents * len(bringing)
        else:
            total += fee.cents if bringing else left_of_fee[place]
    return total
