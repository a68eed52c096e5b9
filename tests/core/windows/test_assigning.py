"""Assigning windows: capacity never exceeded, parts in order, the draw as ten lines reproduce it, and nobody
moved who has a window."""

from __future__ import annotations

import hashlib
import unittest
from dataclasses import replace
from datetime import date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.states import AssignedTo
from gremba.core.windows.assigning import (
    MOST_SLOTS,
    Assignment,
    AssignmentMistake,
    AssignmentRule,
    AssignmentSlot,
    Candidate,
    Group,
    Habit,
    assign,
    expected_a_minute,
)
from tests.support.examples import examples
from tests.support.world import ZONE

RULE = AssignmentRule(
    first_day=date(2027, 4, 19), closes_at=datetime(2027, 6, 1, 17, tzinfo=ZONE), seed="chestnut", capacity=3
)


def somebody(number: int, credits: float, **more: object) -> Candidate:
    return Candidate(number, f"student{number}", credits, **more)  # type: ignore[arg-type]


candidates = st.lists(
    st.tuples(
        st.integers(0, 120),
        st.sampled_from(["", "2027", "2028"]),
        st.sampled_from(["Soil", "Bees"]),
        st.one_of(st.none(), st.integers(0, 2000)),
    ),
    max_size=60,
).map(
    lambda rows: [
        somebody(
            number,
            float(credits),
            cohort=cohort,
            program=program,
            opens_at=None
            if kept is None
            else datetime(2027, 4, 19, 8, tzinfo=ZONE) + timedelta(minutes=kept),
        )
        for number, (credits, cohort, program, kept) in enumerate(rows)
    ]
)
rules = st.builds(
    lambda capacity, minutes, groups, bands, seed: replace(
        RULE, capacity=capacity, slot_minutes=minutes, groups=groups, bands=bands, seed=seed
    ),
    st.integers(1, 7),
    st.sampled_from([5, 20, 30, 60, 120]),
    st.sampled_from(
        [
            (),
            (Group(AssignedTo.COHORT, "2027"),),
            (Group(AssignedTo.PROGRAM, "Bees"), Group(AssignedTo.COHORT, "2028")),
        ]
    ),
    st.sampled_from([(), (54.0,), (81.0, 54.0, 27.0)]),
    st.text(min_size=1, max_size=8),
)


def in_order(assignment: Assignment) -> list[int]:
    return [student for slot in assignment.slots for student in slot.assigned]


class Examples(unittest.TestCase):
    def test_most_credits_first_and_each_band_begins_a_slot(self) -> None:
        students = [somebody(n, credits) for n, credits in enumerate((90, 10, 60, 85, 30, 100, 82))]
        assignment = assign(students, RULE, ZONE)
        self.assertEqual(
            [(f"{slot.opens_at:%d %H:%M}", slot.part, len(slot.assigned)) for slot in assignment.slots],
            [
                ("19 08:00", 0, 3),
                ("19 08:30", 0, 1),
                ("19 09:00", 1, 1),
                ("19 09:30", 2, 1),
                ("19 10:00", 3, 1),
            ],
        )
        self.assertEqual(set(in_order(assignment)[:4]), {0, 3, 5, 6})
        self.assertEqual(
            assignment.parts,
            (
                "81 credits and more",
                "54 to under 81 credits",
                "27 to under 54 credits",
                "under 27 credits",
            ),
        )

    def test_named_groups_come_before_all_credits(self) -> None:
        students = [somebody(1, 100), somebody(2, 3, cohort="2028"), somebody(3, 0, program="Bees")]
        groups = (Group(AssignedTo.PROGRAM, "Bees"), Group(AssignedTo.COHORT, "2028"))
        self.assertEqual(in_order(assign(students, replace(RULE, groups=groups), ZONE)), [3, 2, 1])
        alone = assign(students, replace(RULE, groups=groups[:1], bands=()), ZONE)
        self.assertEqual(alone.parts, ("program Bees", "everybody else"))
        self.assertEqual(assign(students, replace(RULE, bands=()), ZONE).parts, ("everybody",))

    def test_the_draw_in_ten_lines(self) -> None:
        # Whoever knows the seed and the user names works it out, without anything of ours.
        students = [somebody(n, 40) for n in range(40)]
        keys = {n: hashlib.sha256(f"chestnut:student{n}".encode()).hexdigest() for n in range(40)}
        by_hand = sorted(range(40), key=lambda n: keys[n])
        self.assertEqual(in_order(assign(students, RULE, ZONE)), by_hand)
        self.assertNotEqual(in_order(assign(students, replace(RULE, seed="walnut"), ZONE)), by_hand)

    def test_slots_are_on_the_days_and_between_the_hours(self) -> None:
        rule = replace(RULE, weekdays="TR", starts=9 * 60, ends=10 * 60 + 10, capacity=1)
        assignment = assign([somebody(n, 40) for n in range(5)], rule, ZONE)
        self.assertEqual(
            [f"{slot.opens_at:%a %d %H:%M}" for slot in assignment.slots],
            ["Tue 20 09:00", "Tue 20 09:30", "Thu 22 09:00", "Thu 22 09:30", "Tue 27 09:00"],
        )

    def test_hours_are_the_campus_own_across_the_change_of_clocks(self) -> None:
        # Clocks go forward on 14 March 2027 at 02:00 (zoneinfo).
        rule = replace(RULE, first_day=date(2027, 3, 12), weekdays="FM", capacity=18)
        assignment = assign([somebody(n, 40) for n in range(18 * 18 + 1)], rule, ZONE)
        first, last = assignment.slots[0].opens_at, assignment.slots[-1].opens_at
        self.assertEqual(
            (f"{first:%d %H:%M %z}", f"{last:%d %H:%M %z}"), ("12 08:00 -0500", "15 08:00 -0400")
        )

    def test_who_has_a_window_keeps_it_and_takes_a_place_in_its_slot(self) -> None:
        kept = datetime(2027, 4, 19, 8, 10, tzinfo=ZONE)
        students = [somebody(0, 90, opens_at=kept), *(somebody(n, 90) for n in range(1, 4))]
        assignment = assign(students, RULE, ZONE)
        self.assertEqual([(slot.kept, len(slot.assigned)) for slot in assignment.slots], [(1, 2), (0, 1)])
        self.assertNotIn(0, in_order(assignment))

    def test_a_slot_may_fill_the_hours_to_their_end(self) -> None:
        rule = replace(RULE, starts=9 * 60, ends=10 * 60, slot_minutes=60, capacity=1)
        assignment = assign([somebody(n, 40) for n in range(2)], rule, ZONE)
        self.assertEqual([f"{s.opens_at:%d %H:%M}" for s in assignment.slots], ["19 09:00", "20 09:00"])

    def test_those_for_whom_no_slot_is_left_are_counted(self) -> None:
        rule = replace(RULE, closes_at=datetime(2027, 4, 19, 9, tzinfo=ZONE))
        assignment = assign([somebody(n, 40) for n in range(8)], rule, ZONE)
        self.assertEqual((assignment.assigned, assignment.left), (6, 2))
        many = replace(RULE, capacity=1, slot_minutes=5, closes_at=datetime(2040, 1, 1, tzinfo=ZONE))
        endless = assign([somebody(n, 40) for n in range(MOST_SLOTS + 7)], many, ZONE)
        self.assertEqual((endless.assigned, endless.left), (MOST_SLOTS, 7))

    def test_rules_that_assign_nothing_say_what_to_change(self) -> None:
        for wrong, words in (
            (replace(RULE, ends=RULE.starts), "last hour"),
            (replace(RULE, slot_minutes=600), "between the hours"),
            (replace(RULE, capacity=0), "1 to 100,000"),
            (replace(RULE, weekdays=""), "weekday"),
            (replace(RULE, bands=(27.0, 54.0)), "most credits first"),
            (replace(RULE, bands=(54.0, 0.0)), "more than 0"),
        ):
            with self.subTest(words), self.assertRaisesRegex(AssignmentMistake, words):
                assign([somebody(1, 1)], wrong, ZONE)

    def test_sendings_to_expect(self) -> None:
        slot = AssignmentSlot(datetime(2027, 4, 19, 8, tzinfo=ZONE), 0, kept=10, assigned=[1] * 51)
        self.assertEqual(expected_a_minute(slot, Habit()), 61)
        self.assertEqual(expected_a_minute(slot, Habit(199, 2)), 61)
        self.assertEqual(expected_a_minute(slot, Habit(1000, 500)), 31)
        self.assertEqual(expected_a_minute(slot, Habit(1000, 0)), 0)


class Laws(unittest.TestCase):
    @examples(200)
    @given(candidates, rules)
    def test_for_any_students_and_any_rule(self, students: list[Candidate], rule: AssignmentRule) -> None:
        assignment = assign(students, rule, ZONE)
        # Nobody is assigned twice, who keeps theirs is not assigned, and everybody is somewhere.
        assigned = in_order(assignment)
        self.assertEqual(len(assigned), len(set(assigned)))
        self.assertEqual(set(assigned) & {one.id for one in students if one.opens_at is not None}, set())
        self.assertEqual(assignment.assigned + assignment.kept + assignment.left, len(students))
        # No slot takes more than it may, those before who open with it included.
        for slot in assignment.slots:
            ends = slot.opens_at + timedelta(minutes=rule.slot_minutes)
            before = [one for one in students if one.opens_at and slot.opens_at <= one.opens_at < ends]
            self.assertEqual(slot.kept, len(before))
            if slot.assigned:
                self.assertLessEqual(len(slot.assigned) + len(before), rule.capacity)
        # Slots and parts are in order, and no part begins within the slot of another.
        opens = [slot.opens_at for slot in assignment.slots]
        self.assertEqual(opens, sorted(set(opens)))
        self.assertEqual(
            [slot.part for slot in assignment.slots], sorted(slot.part for slot in assignment.slots)
        )
        # The order in which students come does not matter.
        again = assign(list(reversed(students)), rule, ZONE)
        self.assertEqual(again.opens_by_id(), assignment.opens_by_id())
        self.assertEqual(again.digest(), assignment.digest())

    @examples(100)
    @given(candidates, rules)
    def test_nobody_of_a_later_part_opens_before_one_of_an_earlier(
        self, students: list[Candidate], rule: AssignmentRule
    ) -> None:
        opens = assign(students, replace(rule, groups=()), ZONE).opens_by_id()
        by_id = {one.id: one.credits_earned for one in students}
        for band in rule.bands:
            above = [opens[i] for i in opens if by_id[i] >= band]
            below = [opens[i] for i in opens if by_id[i] < band]
            if above and below:
                self.assertLess(max(above), min(below))
