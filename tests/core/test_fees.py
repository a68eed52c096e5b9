"""Charges, and what a drop or a reduction leaves to pay: worked by hand."""

from __future__ import annotations

import unittest
from datetime import date

from gremba.core.calendar import RefundStep
from gremba.core.catalogue import Fee
from gremba.core.fees import (
    Tariff,
    kept_after_drop,
    kept_after_reduction,
    section_charge,
    term_charge,
)
from gremba.core.situation import Registration
from tests.support.world import LATE, World, on

FULL_REFUND, HALF, NOTHING = date(2027, 8, 27), date(2027, 9, 3), date(2027, 9, 4)
TARIFF = Tariff(per_credit=245_01, per_term=120_00)


class Fees(unittest.TestCase):
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
        self.world.section("30003", "HIST 110", "W 08:00-09:00")
        self.world.windows = (LATE,)

    def test_charge_of_a_section_is_tuition_and_its_fees(self) -> None:
        self.assertEqual(section_charge(self.project, 3.0, TARIFF), 3 * 245_01 + 35_01)
        # 1.5 credits at 245.01 are 367.515, rounded half up.
        self.assertEqual(section_charge(self.project, 1.5, TARIFF), 367_52 + 35_01)
        # An audit pays the fees alone; a lab its own, and not again those of the course.
        self.assertEqual(section_charge(self.project, 0.0, TARIFF), 35_01)
        self.assertEqual(section_charge(self.lab, 0.0, TARIFF), 7_00)

    def test_what_a_drop_leaves_to_pay_by_the_steps_of_the_block(self) -> None:
        charge = 3 * 245_01 + 35_01
        for on_day, kept in ((FULL_REFUND, 0), (HALF, 385_02), (NOTHING, charge)):
            # Half of 770.04 is 385.02.
            self.assertEqual(kept_after_drop(self.project, 3.0, TARIFF, on_day), kept, on_day)
        self.assertEqual(kept_after_drop(self.lab, 0.0, TARIFF, HALF), 3_50)

    def test_half_a_cent_is_rounded_up_once(self) -> None:
        # Half of 280.02 + 0.00 is even; of 245.01 + 35.01 + 0.01 it is not.
        self.assertEqual(kept_after_drop(self.project, 1.0, Tariff(245_02), HALF), 140_02)

    def test_fewer_credits_are_a_drop_of_the_difference(self) -> None:
        # From 4 to 2 credits: 490.02 less. Half of it stays, rounded half up.
        self.assertEqual(kept_after_reduction(self.project, 4.0, 2.0, TARIFF, HALF), 245_01)
        self.assertEqual(kept_after_reduction(self.project, 4.0, 2.0, TARIFF, FULL_REFUND), 0)
        self.assertEqual(kept_after_reduction(self.project, 4.0, 2.0, TARIFF, NOTHING), 490_02)
        # An audit instead: tuition counts as dropped, the fees stay as they are.
        self.assertEqual(kept_after_reduction(self.project, 3.0, 0.0, TARIFF, HALF), 367_52)
        self.assertEqual(kept_after_reduction(self.project, 2.0, 4.0, TARIFF, HALF), 0)

    def test_the_terms_own_fee_is_due_once_and_also_where_only_something_kept_is_left(self) -> None:
        sections = [(self.project, 3.0), (self.lab, 0.0)]
        self.assertEqual(term_charge(sections, 0, TARIFF), 3 * 245_01 + 35_01 + 7_00 + 120_00)
        self.assertEqual(term_charge(sections, 11_11, TARIFF), 3 * 245_01 + 35_01 + 7_00 + 120_00 + 11_11)
        self.assertEqual(term_charge([], 11_11, TARIFF), 131_11)
        self.assertEqual(term_charge([], 0, TARIFF), 0)

    def test_a_reduction_in_the_decision_and_dropped_later(self) -> None:
        w = self.world
        w.held, w.credits, w.now = ["30001", "30003"], {"30001": 4.0}, on(9, 3)
        decision = w.decide("~30001 2cr")
        adjusted = decision.outcomes[0].adjusted
        assert adjusted is not None
        self.assertEqual((adjusted.held.credits, adjusted.held.retained_cents), (2.0, 245_01))
        self.assertEqual(decision.outcomes[0].refund_cents, 245_01)
        self.assertEqual(decision.before.charge_cents - decision.after.charge_cents, 245_01)
        # Reduced and then dropped on that day it comes to the same as dropped at once.
        at_once = w.decide("-30001").outcomes[0]
        w.registrations, w.held = (adjusted.held,), ["30003"]
        later = w.decide("-30001").outcomes[0]
        self.assertEqual(later.drops[0].retained_cents, at_once.drops[0].retained_cents)

    def test_an_adjustment_keeps_what_it_does_not_name(self) -> None:
        w = self.world
        w.held, w.credits = ["30003"], {}
        w.registrations = (Registration(w.sections["30001"], 0.0, "audit"),)
        back = w.decide("~30001 standard").outcomes[0].adjusted
        assert back is not None
        self.assertEqual((back.held.grading, back.held.credits), ("standard", 1.0), "the least of the range")
        w.registrations = (Registration(w.sections["30001"], 3.0, "audit", retained_cents=7),)
        same = w.decide("~30001").outcomes[0].adjusted
        assert same is not None
        self.assertEqual((same.held.grading, same.held.credits, same.held.retained_cents), ("audit", 3.0, 7))

    def test_refund_steps_are_in_order_and_end(self) -> None:
        block = self.project.block
        self.assertEqual(block.refund_steps[1], RefundStep(HALF, 50))
        self.assertEqual(
            [block.refund_percent(d) for d in (FULL_REFUND, date(2027, 8, 28), HALF, NOTHING)],
            [100, 50, 50, 0],
        )
