"""Each rule in cases that stop and cases that pass: situation, request, findings expected."""

from __future__ import annotations

import unittest

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Policy
from gremba.core.registration.rules import RULES
from tests.core.registration.cases import SOIL, week
from tests.core.registration.sentences import ALL_CASES, KEPT, sentences
from tests.support.world import World, codes, on, results


class Table(unittest.TestCase):
    def test_cases(self) -> None:
        for name, setups, changes, expected, findings in ALL_CASES:
            with self.subTest(name):
                world = World()
                week(world)
                for setup in setups:
                    setup(world)
                decision = world.decide(*changes)
                found = [codes(decision, n) for n in range(len(changes))]
                self.assertEqual(results(decision), expected, found)
                self.assertEqual(found, [list(f) for f in findings])

    def test_each_has_a_name_of_its_own(self) -> None:
        self.assertEqual(len({case[0] for case in ALL_CASES}), len(ALL_CASES))

    def test_what_students_read_is_as_it_was_read_last(self) -> None:
        self.maxDiff = 4_000
        self.assertEqual(
            sentences(),
            KEPT.read_text(),
            "read what has changed: python -m tests.core.registration.sentences",
        )

    def test_every_rule_is_in_some_case(self) -> None:
        shown = {code for case in ALL_CASES for change in case[4] for code in change}
        known = {rule.code for family in RULES.values() for rule in family}
        # A next choice is taken by test_candidates, a search cut short is in test_selection; a case
        # here is one plain decision.
        self.assertEqual(known - shown, {"together.next_choice", "together.unfinished"})


class Sentences(unittest.TestCase):
    """What a student reads: a colleague's words, with the facts and a way on."""

    def setUp(self) -> None:
        self.world = World()
        week(self.world)

    def text(self, *changes: str) -> str:
        return " ".join(f.text for o in self.world.decide(*changes).outcomes for f in o.findings)

    def test_requisite_names_need_and_record(self) -> None:
        self.world.section("30020", "SOIL 240", "F 15:00-17:00", needs=SOIL)
        self.world.passed(("SOIL 110", "D+"))
        self.assertEqual(
            self.text("+30020"),
            "SOIL 240 needs SOIL 110 with C or better; your record shows a D+ in SOIL 110 (Harvest 2026).",
        )

    def test_clash_names_both_meetings_and_the_dates(self) -> None:
        self.world.held = ["30002"]
        self.assertEqual(
            self.text("+30001"),
            "Clashes with HIST 110 30002: MWF 10:00–10:50 and MWF 10:00–10:50 meet on Mondays, "
            "Wednesdays and Fridays from 23 August to 10 December.",
        )

    def test_window_says_when_and_nothing_that_is_untrue_a_minute_later(self) -> None:
        self.world.now = on(4, 19, 7, 45)
        self.assertEqual(self.text("+30001"), "Your window opens on Monday 19 April at 08:00.")

    def test_full_counts_offers_and_those_waiting(self) -> None:
        self.world.section("30020", "BAKE 101", "F 15:00-17:00", seats=SeatFigures(12, 11, 1, 0, 3))
        self.assertEqual(self.text("+30020"), "Full: 11 of 12 seats taken, 1 offered, 3 waiting.")

    def test_every_stop_has_a_way_on_or_says_it_is_had_already(self) -> None:
        for name, setups, changes, _, _ in ALL_CASES:
            world = World()
            week(world)
            for setup in setups:
                setup(world)
            for outcome in world.decide(*changes).outcomes:
                for finding in outcome.findings:
                    if finding.severity == "stop" and finding.code not in (
                        "course.held_already",
                        "together.stopped",
                        "section.cancelled",
                    ):
                        self.assertTrue(finding.remedies, (name, finding.code))
                    self.assertRegex(finding.text, r"^[A-Z0-9].*\.$", (name, finding.code))


class Money(unittest.TestCase):
    """Charges by the tariff, refunds by the session's steps; amounts in cents."""

    def drop(self, *when: int) -> tuple[int, int, int]:
        world = World()
        week(world)
        world.held = ["30001", "30003"]
        world.now = on(*when)
        decision = world.decide("-30001")
        outcome = decision.outcomes[0]
        kept = sum(g.retained_cents for g in outcome.drops)
        return outcome.refund_cents, kept, decision.after.charge_cents

    def test_adding(self) -> None:
        world = World()
        week(world)
        decision = world.decide("+30001", "+30005")
        # 7 credits at 100.00 and 50.00 once a term; nothing before.
        self.assertEqual((decision.before.charge_cents, decision.after.charge_cents), (0, 7 * 100_00 + 50_00))

    def test_refund_steps(self) -> None:
        self.assertEqual(self.drop(8, 27), (300_00, 0, 350_00))
        self.assertEqual(self.drop(8, 28), (150_00, 150_00, 500_00))
        self.assertEqual(self.drop(9, 3), (150_00, 150_00, 500_00))
        self.assertEqual(self.drop(9, 4), (0, 300_00, 650_00))

    def test_load_names(self) -> None:
        # 34 CFR 668.2: full time is 12 semester hours, half time half of that.
        policy = Policy()
        names = [policy.load_name(c) for c in (12.0, 11.5, 6.0, 5.5)]
        self.assertEqual(names, ["full time", "half time", "half time", "less than half time"])
