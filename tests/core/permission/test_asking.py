"""Requests to people: what can be asked, of whom, what a yes would do, and when it is over."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date, timedelta

from dateutil.rrule import DAILY, FR, MO, TH, TU, WE, rrule
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.calendar import Break
from gremba.core.catalogue.requisites import CourseNeed
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.permission.answering import RoomFigures, latest_until, why_over, working_days_between
from gremba.core.permission.asking import Asking, with_grant, work_out_asking
from gremba.core.permission.policy import (
    Decider,
    PermissionPolicy,
    permission_policy_data,
    permission_policy_from_data,
)
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import GoTo, Target
from gremba.core.registration.outcome import Result
from gremba.core.states import Waiver
from tests.support.examples import examples
from tests.support.world import CALENDAR, FULL, World, on, request


def _world() -> World:
    w = World()
    w.section("30001", "SHEP 210", "F 15:00-17:00", needs=CourseNeed("SHEP 110", "C"))
    w.section("30002", "HIST 110", "F 15:00-17:00", waitlist_limit=5)
    w.section("30003", "CERM 310", "M 10:00-11:00", instructors=("Petra Lunn", "Ada Birch"))
    return w


def _fill(w: World, number: str) -> None:
    w.seats[w.sections[number].pool] = SeatFigures(10, 10)


def _ask(w: World, *changes: str, index: int = 0) -> Asking:
    return work_out_asking(w.situation(), request(changes), index, w.now)


class WhatCanBeAsked(unittest.TestCase):
    def test_only_what_stops_it_is_asked_for(self) -> None:
        w = _world()
        found = _ask(w, "+30001")
        self.assertEqual(found.waives, (Waiver.REQUISITE,))
        self.assertEqual(found.route, (Decider.INSTRUCTOR,))
        self.assertEqual(found.otherwise, ())
        _fill(w, "30001")
        self.assertEqual(_ask(w, "+30001").waives, (Waiver.SEATS, Waiver.REQUISITE))

    def test_what_goes_through_needs_nobody(self) -> None:
        found = _ask(_world(), "+30003")
        self.assertIn("Nothing stops it", found.why_not)
        self.assertFalse(found.waives)

    def test_a_seat_is_not_asked_for_where_one_can_wait(self) -> None:
        w = _world()
        _fill(w, "30002")
        found = _ask(w, "+30002")
        self.assertTrue(found.may_wait)
        self.assertIn("join the waitlist", found.why_not)
        w.policy = replace(w.policy, permission=PermissionPolicy(seats_beside_waitlist=True))
        self.assertEqual(_ask(w, "+30002").waives, (Waiver.SEATS,))

    def test_once_the_waitlist_has_closed_a_seat_is_asked_for(self) -> None:
        w = _world()
        _fill(w, "30002")
        # Common practice: waitlists close at 22:00 on the day before the first class day, 23 August.
        w.now = on(8, 22, 21, 59)
        self.assertTrue(_ask(w, "+30002").may_wait)
        w.now = on(8, 22, 22, 0)
        self.assertIn(Waiver.SEATS, _ask(w, "+30002").waives)

    def test_what_a_yes_would_not_help_against_is_said_beforehand(self) -> None:
        w = _world()
        w.held.append("30002")
        found = _ask(w, "+30001")
        self.assertEqual(found.waives, (Waiver.REQUISITE,))
        self.assertEqual(len(found.otherwise), 1)
        self.assertIn("F 15:00–17:00", found.otherwise[0])

    def test_a_clash_can_be_asked_for_only_where_the_policy_says_so(self) -> None:
        w = _world()
        w.held.append("30002")
        w.passed(("SHEP 110", "B"))
        self.assertIn("Nobody can lift", _ask(w, "+30001").why_not)
        deciders = {Waiver.CONFLICT: (Decider.INSTRUCTOR, Decider.DEPARTMENT)}
        w.policy = replace(w.policy, permission=PermissionPolicy(deciders))
        self.assertEqual(_ask(w, "+30001").route, (Decider.INSTRUCTOR, Decider.DEPARTMENT))

    def test_nobody_can_lift_that_it_does_not_take_place(self) -> None:
        w = _world()
        w.section("30009", "SHEP 310", "M 08:00-09:00", cancelled=True, consent_needed=True)
        self.assertIn("Nobody can lift", _ask(w, "+30009").why_not)

    def test_nobody_is_asked_about_what_the_own_cart_contradicts(self) -> None:
        w = _world()
        w.held.append("30001")
        cart = ("30001>30003", "+30001")
        self.assertIn(
            "Nobody can lift what stops it: Another change in your cart", _ask(w, *cart, index=1).why_not
        )
        findings = w.decide(*cart).outcomes[1].findings
        self.assertIn("requisite.unmet", [f.code for f in findings])
        self.assertFalse([r for f in findings for r in f.remedies if r.action == GoTo(Target.ASK)])

    def test_several_have_to_say_yes_each_once_and_in_order(self) -> None:
        policy = PermissionPolicy()
        both = policy.route([Waiver.REPEAT, Waiver.SEATS, Waiver.CREDITS])
        self.assertEqual(both, (Decider.INSTRUCTOR, Decider.DEPARTMENT, Decider.ADVISOR))
        self.assertEqual(policy.route([Waiver.HOLD]), ())

    def test_the_first_finding_that_can_be_lifted_leads_to_asking(self) -> None:
        w = _world()
        _fill(w, "30003")
        (outcome,) = w.decide("+30003").outcomes
        ways = [r for f in outcome.findings for r in f.remedies if r.action == GoTo(Target.ASK)]
        self.assertEqual([r.text for r in ways], ["Ask Petra Lunn or Ada Birch to allow it."])
        # Not where one waits, and not for what nobody can lift.
        _fill(w, "30002")
        w.held.append("30003")
        for change in ("+30002", "+30003"):
            (outcome,) = w.decide(change).outcomes
            self.assertFalse(
                [r for f in outcome.findings for r in f.remedies if r.action == GoTo(Target.ASK)]
            )

    def test_a_policy_is_kept_as_it_is(self) -> None:
        policy = PermissionPolicy({Waiver.SEATS: (Decider.REGISTRAR,)}, 3, 5, True, 2)
        self.assertEqual(permission_policy_from_data(permission_policy_data(policy)), policy)
        with self.assertRaises(ValueError):
            permission_policy_from_data({"deciders": {"weather": ["instructor"]}})

    @given(
        st.lists(st.sampled_from(["+30001", "+30002", "+30003"]), min_size=1, max_size=3, unique=True),
        st.sets(st.sampled_from(["30001", "30002", "30003"])),
        st.sets(st.sampled_from(["30002", "30003"])),
        st.booleans(),
    )
    @examples(200)
    def test_with_a_yes_nothing_is_left_but_what_was_said(
        self, changes: list[str], full: set[str], held: set[str], has_passed: bool
    ) -> None:
        w = _world()
        for number in full:
            _fill(w, number)
        w.held += [n for n in held if f"+{n}" not in changes]
        if has_passed:
            w.passed(("SHEP 110", "B"))
        situation, wanted = w.situation(), request(changes)
        found = work_out_asking(situation, wanted, 0, w.now)
        self.assertEqual(bool(found.why_not), not found.waives)
        if found.waives:
            section = w.sections[changes[0][1:]]
            granted = decide(with_grant(situation, section, found.waives), wanted, w.now)
            goes = all(o.result is Result.ACCEPTED for o in granted.outcomes)
            self.assertEqual(goes, not found.otherwise)
            # Less than all of it would not do.
            for one in found.waives:
                fewer = [w for w in found.waives if w is not one]
                outcome = decide(with_grant(situation, section, fewer), wanted, w.now).outcomes[0]
                self.assertIs(outcome.result, Result.REFUSED)


class Rooms(unittest.TestCase):
    def test_more_than_the_limit_but_not_more_than_the_room_holds(self) -> None:
        # Common practice.
        room = RoomFigures(limit=20, taken=20, promised=2, capacity=24)
        self.assertEqual(room.left, 2)
        self.assertTrue(room.holds(2))
        self.assertFalse(room.holds(3))
        self.assertEqual(room.told, "Limit 20, room for 24; 20 taken, 2 promised.")

    def test_without_a_room_there_is_no_end(self) -> None:
        self.assertTrue(RoomFigures(20, 200).holds(1000))
        self.assertIn("no room", RoomFigures(20, 200).told)

    def test_a_room_that_is_overfull_already_holds_nobody(self) -> None:
        room = RoomFigures(20, 26, 1, 0, 24)
        self.assertEqual((room.left, room.holds()), (0, False))


class Time(unittest.TestCase):
    def test_a_yes_is_good_for_a_fortnight_at_the_most(self) -> None:
        self.assertEqual(latest_until(PermissionPolicy(), on(4, 19)), on(5, 3))

    @given(
        st.dates(date(2027, 8, 1), date(2027, 12, 20)),
        st.integers(-3, 30),
    )
    @examples(200)
    def test_working_days_are_those_of_another_counting(self, since: date, days: int) -> None:
        until = since + timedelta(days)
        weekdays = rrule(DAILY, dtstart=since + timedelta(1), until=until, byweekday=(MO, TU, WE, TH, FR))
        free = {d.date() for b in CALENDAR.breaks for d in rrule(DAILY, dtstart=b.first, until=b.last)}
        expected = sum(d.date() not in free for d in weekdays) if days > 0 else 0
        self.assertEqual(working_days_between(since, until, [CALENDAR]), expected)

    def test_the_breaks_of_every_term_count(self) -> None:
        other = replace(CALENDAR, breaks=(Break(date(2027, 4, 20), date(2027, 4, 20), "a day"),))
        between = working_days_between(date(2027, 4, 19), date(2027, 4, 22), [CALENDAR, other])
        self.assertEqual(between, 2)

    def test_when_a_request_is_over(self) -> None:
        w = _world()
        section, other = w.sections["30001"], w.sections["30002"]
        in_time, late = FULL.add_by, FULL.add_by + timedelta(1)
        self.assertEqual(why_over(section, [other], [Waiver.SEATS], in_time), "")
        self.assertIn("27 August", why_over(section, [other], [Waiver.SEATS], late))
        self.assertEqual(why_over(section, [], [Waiver.LATE_ADD], late), "")
        self.assertIn("10 December", why_over(section, [], [Waiver.LATE_ADD], FULL.last + timedelta(1)))
        self.assertIn("have the course", why_over(section, [section], [Waiver.SEATS], in_time))
        gone = replace(section, cancelled=True)
        self.assertIn("cancelled", why_over(gone, [], [Waiver.SEATS], in_time))


if __name__ == "__main__":
    unittest.main()
