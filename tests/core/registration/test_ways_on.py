"""What a refusal says: why, and ways on that can help there."""

from __future__ import annotations

import unittest
from dataclasses import replace

from gremba.core.catalogue.requisites import CourseNeed
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.changes import Kind, Mode
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, ProposedChange, PutInCart, SeeChange, Severity, TakeOut
from gremba.core.registration.outcome import Result
from gremba.core.states import ClearanceKind
from gremba.core.students.student import Hold
from gremba.core.waitlists.entry import WaitlistEntry
from tests.core.registration import plain_term
from tests.core.registration.cases import week
from tests.support.world import LATE, World, codes, on, request


class WaysOn(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        week(self.world)

    def findings(self, *changes: str, of: int = 0, mode: Mode = Mode.EACH) -> tuple[Finding, ...]:
        return self.world.decide(*changes, mode=mode).outcomes[of].findings

    def ways(self, *changes: str, of: int = 0, mode: Mode = Mode.EACH) -> list[str]:
        return [r.text for f in self.findings(*changes, of=of, mode=mode) for r in f.remedies]

    def test_moving_up_is_offered_only_against_what_stands_above(self) -> None:
        self.assertIn("Move this one up", self.ways("+30001", "+30002", of=1)[0])
        # The drop stands below, and is held up: the add clashes with what goes through later.
        self.world.section("31001", "XRAY 110", "M 10:00-11:00", needs=CourseNeed("LAWS 110"))
        self.assertNotIn("Move", " ".join(self.ways("+31001", "+30001")))

    def test_a_way_that_stands_in_the_cart_and_was_refused_is_not_offered_again(self) -> None:
        self.world.held = ["30001", "30004"]
        self.world.holds = (Hold("Talk.", "advising", "room 1", frozenset({"drop"})),)
        ways = self.ways("-30001", "+30002", of=1)
        self.assertEqual(ways, ["See what stops the drop of SOIL 110 30001 in your cart first."])

    def test_dropping_is_not_offered_where_it_is_over_or_held_up(self) -> None:
        self.world.held = ["30001"]
        self.world.holds = (Hold("Talk.", "advising", "room 1", frozenset({"drop", "swap"})),)
        self.assertIn("A hold keeps you", self.ways("+30002")[0])
        self.world.holds = (Hold("Talk.", "advising", "room 1", frozenset({"drop"})),)
        self.assertEqual(self.ways("+30002"), ["Swap SOIL 110 30001 for it."])
        self.world.holds, self.world.windows, self.world.now = (), (LATE,), on(11, 8)
        self.assertIn("can no longer be dropped", " ".join(self.ways("+30002")))

    def test_a_course_that_is_in_the_cart_is_not_to_be_put_there(self) -> None:
        need = CourseNeed("HIST 110", None, "together")
        self.world.section("31001", "XRAY 110", "F 16:00-17:00", needs=need)
        (alone,) = self.findings("+31001")
        self.assertEqual(alone.remedies[0].action, PutInCart((ProposedChange(Kind.ADD, "30002"),)))
        self.assertIn("would not be in your week.", alone.text)
        self.assertEqual(alone.ask, "the instructor")
        self.world.seats[self.world.sections["30002"].pool] = SeatFigures(5, 5)
        found = self.findings("+31001", "+30002")[0]
        self.assertIn("HIST 110 30002 in your cart cannot be had as it stands", found.text)
        self.assertEqual(found.remedies[0].text, "See what stops HIST 110 30002 in your cart first.")

    def test_of_several_sections_one_that_fits_is_named(self) -> None:
        need = CourseNeed("SOIL 110", None, "together")
        self.world.section("31001", "XRAY 110", "MWF 10:00-10:50", needs=need)
        self.assertIn("for example 30006", self.ways("+31001")[0])

    def test_of_too_many_credits_the_last_that_suffices_is_to_be_taken_out(self) -> None:
        w = self.world
        for at, number in enumerate(("31001", "31002", "31003"), 10):
            w.section(number, f"XRAY 11{at}", f"S {at}:00-{at}:50", credits=3)
        w.section("31004", "XRAY 120", "S 14:00-14:50", credits=1)
        w.section("31005", "XRAY 130", "S 15:00-15:50", credits=2)
        w.student = replace(w.student, credit_limit=10.0)
        (found,) = self.findings("+31001", "+31002", "+31003", "+31004", "+31005", of=4)
        self.assertEqual(found.remedies[0].text, "Take XRAY 1112 31003 out of the cart.")
        self.assertEqual(found.remedies[0].action, TakeOut(("31003",)))
        after = w.decide("+31001", "+31002", "+31004", "+31005").outcomes
        self.assertEqual([o.result for o in after], [Result.ACCEPTED] * 4)

    def test_what_a_change_needs_beside_it_is_not_to_be_taken_out(self) -> None:
        w = self.world
        w.section("31001", "XRAY 110", "S 08:00-08:50", credits=3)
        w.section(
            "31002", "XRAY 120", "S 09:00-09:50", credits=3, needs=CourseNeed("XRAY 110", None, "together")
        )
        w.student = replace(w.student, credit_limit=3.0)
        self.assertIn("credits.over", [f.code for f in self.findings("+31001", "+31002", of=1)])
        self.assertNotIn("out of the cart", " ".join(self.ways("+31001", "+31002", of=1)))

    def test_waiting_is_offered_only_where_one_may_wait(self) -> None:
        w = self.world
        w.section("31001", "XRAY 110", "F 16:00-17:00", seats=SeatFigures(1, 1, 0, 0, 1), waitlist_limit=2)
        self.assertIn("Wait for a seat: you would be number 2.", self.ways("+31001"))
        w.holds = (Hold("Talk.", "advising", "room 1", frozenset({"wait"})),)
        self.assertNotIn("Wait for a seat", " ".join(self.ways("+31001")))
        w.holds = ()
        w.waitlist_entries = (WaitlistEntry(1, w.sections["31001"]),)
        self.assertNotIn("Wait for a seat", " ".join(self.ways("+31001")))
        w.waitlist_entries, w.windows, w.now = (), (LATE,), on(8, 22, 23)
        self.assertNotIn("Wait for a seat", " ".join(self.ways("+31001")))

    def test_what_falls_with_another_says_why_they_belong_together_and_whom_to_ask(self) -> None:
        w = self.world
        w.section(
            "31001",
            "KILN 110",
            "M 08:00-08:50",
            linked_sections=frozenset({"31002"}),
            consent_needed=True,
            instructors=("Petra Lunn",),
        )
        w.section(
            "31002",
            "KILN 110",
            "T 08:00-08:50",
            component="lab",
            carries_credit=False,
            linked_sections=frozenset({"31001"}),
        )
        (fell,) = self.findings("+31001", "+31002", of=1)
        self.assertEqual(
            fell.text,
            "Left as it is, because KILN 110 31001 cannot be had: the components of "
            "a course are taken together.",
        )
        self.assertEqual(fell.ask, "Petra Lunn")
        self.assertEqual(
            [(r.text, r.action) for r in fell.remedies],
            [
                ("See what stops KILN 110 31001.", SeeChange("31001")),
                ("Take another section in the place of KILN 110 31001.", None),
            ],
        )
        (fell,) = self.findings("+30003", "+31001", mode=Mode.ALL)
        self.assertIn("you chose all or nothing", fell.text)
        self.assertIn("each change by itself", fell.remedies[1].text)
        w.section("31003", "SOIL 110", "S 08:00-09:00", seats=0)
        w.held = ["30001", "30004"]
        (fell,) = self.findings("-30001", "+31003")
        self.assertIn("one is given up only for the other", fell.text)
        self.assertIn("take the add out", fell.remedies[1].text)

    def test_what_would_undo_another_names_it_and_why(self) -> None:
        w = self.world
        need = CourseNeed("SOIL 110", None, "together")
        w.section("31001", "XRAY 110", "F 16:00-17:00", needs=need)
        w.held = ["30001", "30003"]
        (found,) = self.findings("+31001", "-30001", of=1)
        self.assertTrue(
            found.text.startswith("It would undo XRAY 110 31001, which goes through: "), found.text
        )
        self.assertIn("SOIL 110", found.text)
        self.assertIn("Move this one up", found.remedies[0].text)
        self.assertEqual(found.ask, "the instructor")

    def test_all_full_labs_are_said_to_be_full(self) -> None:
        w = self.world
        w.section("31001", "KILN 110", "M 08:00-08:50", linked_sections=frozenset({"31002", "31003"}))
        for number, day in (("31002", "T"), ("31003", "W")):
            w.section(
                number,
                "KILN 110",
                f"{day} 08:00-08:50",
                component="lab",
                carries_credit=False,
                seats=0,
                linked_sections=frozenset({"31001"}),
            )
        (found,) = self.findings("+31001")
        self.assertIn("(all 2 are full)", found.text)
        self.assertEqual(
            [r.text for r in found.remedies], ["Look again when a lab has a seat, or wait for one."]
        )

    def test_nothing_is_said_of_what_would_follow_if_it_were_not_refused(self) -> None:
        self.world.held = ["30001"]
        (found,) = self.findings("-30001")
        self.assertEqual(found.code, "drop.last")
        # What stops everything alike is going to be cleared: then it will happen.
        self.world.clearance_open = (ClearanceKind.AGREEMENT,)
        self.world.passed(("HIST 110", "D"))
        self.world.held = []
        self.assertEqual(codes(self.world.decide("+30002")), ["clearance.open", "repeat.counts"])

    def test_no_way_on_is_offered_twice_or_for_what_is_done(self) -> None:
        """For random requests: what a way on would put into the cart is not there yet."""
        for seed in range(1_500):
            term, wanted = plain_term.make(seed)
            world = plain_term.as_world(term)
            asked = plain_term.as_request(wanted)
            decision = decide(world.situation(), asked, world.now)
            there = {(c.kind, c.number, c.in_exchange) for c in asked.changes}
            for outcome in decision.outcomes:
                for finding in outcome.findings:
                    if finding.severity is Severity.STOP:
                        self.assertIs(outcome.result, Result.REFUSED)
                    for way in finding.remedies:
                        if isinstance(way.action, PutInCart):
                            wishes = {(w.kind, w.number, w.in_exchange) for w in way.action.changes}
                            self.assertFalse(wishes <= there, (seed, way))

    def test_what_is_taken_out_makes_room(self) -> None:
        """For random requests: without what a way on takes out of the cart the credits are within the limit,
        and it takes out what goes through only."""
        offered = 0
        for seed in range(1_500):
            term, wanted = plain_term.make(seed)
            world = plain_term.as_world(term)
            world.student = replace(world.student, credit_limit=9.0)
            situation, asked = world.situation(), plain_term.as_request(wanted)
            if len({c.number for c in asked.changes}) < len(asked.changes):
                # A cart holds each section once.
                continue
            decision = decide(situation, asked, world.now)
            through = [o.change for o in decision.outcomes if o.result is Result.ACCEPTED]
            for outcome in decision.outcomes:
                too_many = [f for f in outcome.findings if f.code == "credits.over"]
                for action in (w.action for f in too_many for w in f.remedies):
                    if not isinstance(action, TakeOut):
                        continue
                    out = action.numbers
                    self.assertIn(out[0], [c.number for c in through if c.kind is Kind.ADD], seed)
                    self.assertNotIn(outcome.change.number, out, seed)
                    rest = [c for c in through if c.number not in out]
                    after = decide(situation, replace(asked, changes=(*rest, outcome.change)), world.now)
                    found = codes(after, -1)
                    self.assertNotIn("credits.over", found, (seed, action))
                    offered += 1
        self.assertGreater(offered, 20)


class CodeForATimeConflict(unittest.TestCase):
    def test_it_covers_the_pair_whichever_stands_first(self) -> None:
        world = World()
        week(world)
        world.permission_code("CLASHING", "30001", "conflict")
        for changes in (("+30001 #CLASHING", "+30002"), ("+30002", "+30001 #CLASHING")):
            decision = decide(world.situation(), request(changes), world.now)
            self.assertEqual({o.result for o in decision.outcomes}, {Result.ACCEPTED})
        world.permission_codes["CLASHING"] = replace(
            world.permission_codes["CLASHING"], waives=frozenset({"seats"})
        )
        decision = decide(world.situation(), request(("+30001 #CLASHING", "+30002")), world.now)
        self.assertIs(decision.outcomes[1].result, Result.REFUSED)
