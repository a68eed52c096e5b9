"""Charges, and what a drop or a reduction leaves to pay: worked by hand, and against plain code."""

from __future__ import annotations

import random
import unittest
from datetime import date, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.account.charges import ChargeEvent, ChargeKind, Charges, tuition_cents
from gremba.core.account.tariff import (
    FeeRefund,
    FeeScope,
    RateClass,
    Tariff,
    TariffFee,
)
from gremba.core.catalogue.calendar import RefundStep
from gremba.core.catalogue.term import Fee, Section
from gremba.core.registration.situation import Registration
from gremba.core.states import Delivery
from tests.core.account.plainly import total_cents
from tests.support.examples import examples
from tests.support.tariffs import plain_tariff
from tests.support.world import LATE, SECOND_HALF, World, on

FULL_REFUND, HALF, NOTHING = date(2027, 8, 27), date(2027, 9, 3), date(2027, 9, 4)
TARIFF = plain_tariff(per_credit=245_01, per_term=120_00)
REGISTERED, DROPPED, ADJUSTED = ChargeKind.REGISTERED, ChargeKind.DROPPED, ChargeKind.ADJUSTED
BAND = Tariff({"": RateClass(300_00, band_cents=3_900_00, audit_per_credit=100_00)})


class Examples(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        self.world.policy.__dict__["tariff"] = TARIFF
        self.world.course(
            "PROJ 300",
            credits_least=1.0,
            credits_most=4.0,
            gradings=("standard", "audit"),
            fees=(Fee("clay", 30_00),),
        )
        self.project = self.world.section("30001", "PROJ 300", "M 08:00-09:00", fees=(Fee("kiln", 5_01),))
        self.lab = self.world.section(
            "30002",
            "PROJ 300",
            "T 08:00-09:00",
            component="lab",
            carries_credit=False,
            fees=(Fee("bench", 7_00),),
        )
        self.other = self.world.section("30003", "HIST 110", "W 08:00-09:00")
        self.online = self.world.section("30004", "LAWS 205", delivery=Delivery.ONLINE_ANY_TIME)
        self.late = self.world.section("30005", "WRIT 310", "F 08:00-09:00", session=SECOND_HALF)
        self.world.windows = (LATE,)

    def costs(self, tariff: Tariff, *events: tuple[Any, ...], rate_class: str = "") -> int:
        """The sum of a history: each event a kind, a section, and for all but drops its credits."""
        made = [_event(*event) for event in events]
        sums = Charges(tariff, rate_class, made).total_cents
        self.assertEqual(sums, total_cents(tariff, rate_class, made), "plain code says otherwise")
        return sums

    def test_a_section_costs_tuition_and_its_fees_and_the_term_once(self) -> None:
        a, b = (REGISTERED, self.project, 3.0), (REGISTERED, self.lab, 0.0)
        self.assertEqual(self.costs(TARIFF), 0)
        self.assertEqual(self.costs(TARIFF, a), 3 * 245_01 + 35_01 + 120_00)
        self.assertEqual(self.costs(TARIFF, a, b), 3 * 245_01 + 35_01 + 7_00 + 120_00)
        # 1.5 credits at 245.01 are 367.515, rounded half up.
        self.assertEqual(self.costs(TARIFF, (REGISTERED, self.project, 1.5)), 367_52 + 35_01 + 120_00)

    def test_what_a_drop_leaves_to_pay_by_the_steps_of_the_session(self) -> None:
        cost = 3 * 245_01 + 35_01
        # Half of 770.04 is 385.02; the fee of the term stays as soon as anything does.
        for day, left in ((FULL_REFUND, 0), (HALF, 385_02 + 120_00), (NOTHING, cost + 120_00)):
            events = (REGISTERED, self.project, 3.0), (DROPPED, self.project, day)
            self.assertEqual(self.costs(TARIFF, *events), left, day)

    def test_half_a_cent_is_rounded_up_once(self) -> None:
        # Half of 245.02 and 35.01 together, 280.03, not half of each.
        events = (REGISTERED, self.project, 1.0), (DROPPED, self.project, HALF)
        self.assertEqual(self.costs(plain_tariff(245_02), *events), 140_02)

    def test_fewer_credits_are_a_drop_of_the_difference(self) -> None:
        begin = (REGISTERED, self.project, 4.0)
        for day, left in ((FULL_REFUND, 0), (HALF, 245_01), (NOTHING, 490_02)):
            events = begin, (ADJUSTED, self.project, 2.0, "standard", day)
            self.assertEqual(self.costs(TARIFF, *events), 2 * 245_01 + 35_01 + 120_00 + left, day)
        # An audit instead: tuition counts as dropped, the fees stay as they are.
        audit = (REGISTERED, self.project, 3.0), (ADJUSTED, self.project, 0.0, "audit", HALF)
        self.assertEqual(self.costs(TARIFF, *audit), 367_52 + 35_01 + 120_00)
        # Reduced and dropped on one day it comes to the same as dropped at once.
        drop = (DROPPED, self.project, HALF)
        reduced = begin, (ADJUSTED, self.project, 2.0, "standard", HALF), drop
        self.assertEqual(self.costs(TARIFF, *reduced), self.costs(TARIFF, begin, drop))

    def test_registered_again_it_costs_again_beside_what_was_left(self) -> None:
        begin, drop = (REGISTERED, self.other, 3.0), (DROPPED, self.other, HALF)
        self.assertEqual(self.costs(TARIFF, begin, drop, begin), 3 * 245_01 + (3 * 245_01 + 1) // 2 + 120_00)

    def test_one_price_for_the_band(self) -> None:
        for credits, price in (
            ((3.0, 3.0, 3.0, 2.9), 11.9 * 300_00),
            ((3.0, 3.0, 3.0, 3.0), 3_900_00),
            ((6.0, 6.0, 6.0), 3_900_00),
            # As floats these fall short of twelve.
            ((5.6, 3.3, 3.1), 3_900_00),
            ((6.0, 6.0, 6.0, 1.5), 3_900_00 + 450_00),
        ):
            self.assertEqual(tuition_cents(BAND.classes[""], credits), price, credits)
        # From 15 to 12 credits nothing changes, so nothing comes back and nothing is left.
        full = [(REGISTERED, s, 5.0) for s in (self.project, self.other, self.late)]
        self.assertEqual(self.costs(BAND, *full), 3_900_00 + 35_01)
        less = *full, (ADJUSTED, self.other, 2.0, "standard", HALF)
        self.assertEqual(self.costs(BAND, *less), 3_900_00 + 35_01)
        # A session without steps gives nothing back: what the band cost before stays.
        self.assertEqual(self.costs(BAND, *less, (DROPPED, self.late, HALF)), 3_900_00 + 35_01)
        # From 12 to 8 credits it is 1,500.00 less, half of which stays.
        self.assertEqual(
            self.costs(BAND, *less, (ADJUSTED, self.project, 1.0, "standard", HALF)),
            8 * 300_00 + 35_01 + 750_00,
        )

    def test_classes_pay_their_own_rates_and_strangers_the_usual_one(self) -> None:
        tariff = Tariff({"": RateClass(100_00), "county": RateClass(80_00)})
        taken = (REGISTERED, self.other, 3.0)
        self.assertEqual(self.costs(tariff, taken, rate_class="county"), 240_00)
        self.assertEqual(self.costs(tariff, taken, rate_class="elsewhere"), 300_00)

    def test_audits_cost_their_own_rate(self) -> None:
        self.assertEqual(self.costs(BAND, (REGISTERED, self.project, 0.0, "audit")), 100_00 + 35_01)
        dropped = (REGISTERED, self.project, 0.0, "audit"), (DROPPED, self.project, HALF)
        self.assertEqual(self.costs(BAND, *dropped), 67_51)

    def test_fees_of_campus_and_delivery_and_what_is_given_back_of_each(self) -> None:
        fees = (
            TariffFee("Hill", 40_00, FeeScope.CAMPUS, "hill", refund=FeeRefund.BY_STEPS),
            TariffFee("Online", 60_00, FeeScope.DELIVERY, "online any time", each=True),
            TariffFee("Card", 9_00, refund=FeeRefund.NEVER),
        )
        tariff = Tariff(fees=fees)
        hill, online = (REGISTERED, self.other, 3.0), (REGISTERED, self.online, 3.0)
        self.assertEqual(self.costs(tariff, hill, (REGISTERED, self.lab, 0.0)), 40_00 + 7_00 + 9_00)
        self.assertEqual(self.costs(tariff, hill, online), 40_00 + 60_00 + 9_00)
        for day, left in ((FULL_REFUND, 9_00), (HALF, 20_00 + 60_00 + 9_00), (NOTHING, 109_00)):
            events = hill, online, (DROPPED, self.other, day), (DROPPED, self.online, day)
            self.assertEqual(self.costs(tariff, *events), left, day)

    def test_a_late_fee_for_whoever_first_registers_late(self) -> None:
        tariff = Tariff(late_from=date(2027, 8, 20), late_cents=50_00)
        early = (REGISTERED, self.other, 3.0, "standard", date(2027, 8, 19))
        late = (REGISTERED, self.late, 3.0, "standard", date(2027, 8, 20))
        self.assertEqual(self.costs(tariff, early), 0)
        self.assertEqual(self.costs(tariff, early, late), 0)
        self.assertEqual(self.costs(tariff, late), 50_00)
        self.assertEqual(self.costs(tariff, late, (DROPPED, self.late, date(2027, 8, 21))), 50_00)

    def test_the_decision_and_the_history_say_the_same(self) -> None:
        w = self.world
        w.held, w.credits, w.now = ["30001", "30003"], {"30001": 4.0}, on(9, 3)
        decision = w.decide("~30001 2cr", "-30003", "+30005")
        self.assertEqual([o.result.value for o in decision.outcomes], ["accepted"] * 3)
        held = (REGISTERED, self.project, 4.0), (REGISTERED, self.other, 3.0)
        day = date(2027, 9, 3)
        after = (
            (DROPPED, self.other, day),
            (ADJUSTED, self.project, 2.0, "standard", day),
            (REGISTERED, self.late, 3.0, "standard", day),
        )
        self.assertEqual(decision.before.charge_cents, self.costs(TARIFF, *held))
        self.assertEqual(decision.after.charge_cents, self.costs(TARIFF, *held, *after))
        self.assertEqual(decision.outcomes[0].refund_cents, 245_01)
        (seat,) = decision.outcomes[1].drops
        self.assertEqual((seat.refund_cents, seat.retained_cents), (367_51, 367_52))

    def test_an_adjustment_keeps_what_it_does_not_name(self) -> None:
        w = self.world
        w.held, w.credits = ["30003"], {}
        w.registrations = (Registration(w.sections["30001"], 0.0, "audit"),)
        back = w.decide("~30001 standard").outcomes[0].adjusted
        assert back is not None
        self.assertEqual((back.held.grading, back.held.credits), ("standard", 1.0), "the least of the range")
        w.registrations = (Registration(w.sections["30001"], 3.0, "audit"),)
        same = w.decide("~30001").outcomes[0].adjusted
        assert same is not None
        self.assertEqual((same.held.grading, same.held.credits), ("audit", 3.0))

    def test_refund_steps_are_in_order_and_end(self) -> None:
        session = self.project.session
        self.assertEqual(session.refund_steps[1], RefundStep(HALF, 50))
        self.assertEqual(
            [session.refund_percent(d) for d in (FULL_REFUND, date(2027, 8, 28), HALF, NOTHING)],
            [100, 50, 50, 0],
        )


def _event(kind: ChargeKind, section: Section, *more: Any) -> ChargeEvent:
    if kind is DROPPED:
        return ChargeEvent(kind, section, on=more[0])
    usual: tuple[Any, ...] = (0.0, "standard", FULL_REFUND)
    return ChargeEvent(kind, section, *more, *usual[len(more) :])


class Laws(unittest.TestCase):
    """Of any history: plain code agrees, and each event changes the sum by what it says it does."""

    @examples(400)
    @given(st.integers(0, 2**32))
    def test_any_history(self, seed: int) -> None:
        rng = random.Random(seed)
        tariff = some_tariff(rng)
        events = some_history(rng, tariff.late_from or date(2027, 8, 20))
        charges = Charges(tariff, "")
        before = 0
        for many, event in enumerate(events, 1):
            given_back = charges.apply(event)
            after = charges.total_cents
            self.assertEqual(after, total_cents(tariff, "", events[:many]))
            self.assertEqual(after, Charges(tariff, "", events[:many]).total_cents)
            self.assertGreaterEqual(after, 0)
            if event.kind is ChargeKind.ADJUSTED and before > after:
                self.assertEqual(before - after, given_back.back_cents)
            before = after


def some_tariff(rng: random.Random) -> Tariff:
    fees = tuple(
        TariffFee(
            f"fee {n}",
            rng.randrange(1, 90_00),
            scope,
            {"campus": "hill", "delivery": "online any time"}.get(scope.value, ""),
            rng.random() < 0.4,
            rng.choice(list(FeeRefund)),
        )
        for n, scope in enumerate(rng.choices(list(FeeScope), k=rng.randrange(4)))
    )
    rates = RateClass(
        rng.randrange(0, 400_00),
        band_cents=rng.choice([None, rng.randrange(2_000_00, 6_000_00)]),
        band_from=rng.choice([6.0, 9.5, 12.0]),
        band_to=rng.choice([12.0, 15.0]),
        audit_per_credit=rng.choice([0, 33_33]),
    )
    late = rng.choice([None, date(2027, 8, 25)])
    return Tariff({"": rates}, fees, late, 45_00)


def some_history(rng: random.Random, begin: date) -> list[ChargeEvent]:
    world = World()
    world.course("PROJ 300", credits_least=1.5, credits_most=4.0, fees=(Fee("clay", 30_01),))
    sections = [
        world.section("30001", "PROJ 300", "M 08:00-09:00", fees=(Fee("kiln", 5_01),)),
        world.section("30002", "PROJ 300", "T 08:00-09:00", component="lab", carries_credit=False),
        world.section("30003", "HIST 110", "W 08:00-09:00"),
        world.section("30004", "LAWS 205", delivery=Delivery.ONLINE_ANY_TIME),
        world.section("30005", "WRIT 310", "F 08:00-09:00", session=SECOND_HALF),
    ]
    day = begin - timedelta(rng.randrange(12))
    has: set[str] = set()
    events: list[ChargeEvent] = []
    for _ in range(rng.randrange(1, 14)):
        day += timedelta(rng.choice([0, 0, 1, 3, 9]))
        section = rng.choice(sections)
        audits = rng.random() < 0.2
        credits = 0.0 if audits or not section.carries_credit else rng.choice([1.5, 2.3, 3.0, 4.0, 6.0])
        grading = "audit" if audits else "standard"
        if section.reference_number not in has:
            has.add(section.reference_number)
            events.append(ChargeEvent(REGISTERED, section, credits, grading, day))
        elif rng.random() < 0.5:
            events.append(ChargeEvent(ADJUSTED, section, credits, grading, day))
        else:
            has.discard(section.reference_number)
            events.append(ChargeEvent(DROPPED, section, on=day))
    return events
