"""Carrying a term forward: weekdays stay, ends stay at the ends, deadlines come before breaks."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.account.policy import AccountPolicy, DueDate, InstallmentPart, InstallmentPlan
from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.calendar import Break, RefundStep, TermSession
from gremba.core.catalogue.term_copy import Forward, free_numbers
from tests.support.examples import examples
from tests.support.world import CALENDAR, FIRST, FIRST_HALF, FULL, LAST, SECOND_HALF, ZONE

NEXT = Forward(
    CALENDAR,
    date(2028, 8, 21),
    date(2028, 12, 8),
    (
        Break(date(2028, 9, 4), date(2028, 9, 4), "holiday"),
        Break(date(2028, 11, 20), date(2028, 11, 24), "autumn break"),
    ),
)


class Examples(unittest.TestCase):
    def test_a_year_on_is_52_weeks(self) -> None:
        # 23 August 2027 and 21 August 2028 are Mondays (ISO 8601).
        self.assertEqual(NEXT.weeks, 52)
        full = NEXT.session(FULL)
        self.assertEqual((full.first, full.last), (date(2028, 8, 21), date(2028, 12, 8)))
        self.assertEqual(
            (full.add_by, full.drop_by, full.withdraw_by),
            (date(2028, 8, 25), date(2028, 9, 1), date(2028, 11, 3)),
        )
        self.assertEqual(
            full.refund_steps, (RefundStep(date(2028, 8, 25), 100), RefundStep(date(2028, 9, 1), 50))
        )
        self.assertEqual(NEXT.session(FIRST_HALF).last, date(2028, 10, 13))
        self.assertEqual(NEXT.session(SECOND_HALF).first, date(2028, 10, 16))

    def test_a_longer_term_takes_what_ends_with_it_along(self) -> None:
        longer = replace(NEXT, last=date(2028, 12, 22))
        self.assertEqual(longer.session(FULL).last, date(2028, 12, 22))
        self.assertEqual(longer.session(FIRST_HALF).last, date(2028, 10, 13))
        shorter = replace(NEXT, last=date(2028, 10, 27))
        half = shorter.session(SECOND_HALF)
        self.assertEqual((half.first, half.last), (date(2028, 10, 16), date(2028, 10, 27)))
        self.assertLessEqual(half.withdraw_by, half.last)

    def test_a_deadline_in_a_break_comes_before_it(self) -> None:
        pause = Break(date(2028, 8, 25), date(2028, 8, 28), "flood days")
        self.assertEqual(replace(NEXT, breaks=(pause,)).session(FULL).add_by, date(2028, 8, 24))
        first_days = Break(date(2028, 8, 21), date(2028, 8, 28), "late begin")
        self.assertEqual(replace(NEXT, breaks=(first_days,)).session(FULL).add_by, date(2028, 8, 21))
        follow = (
            Break(date(2028, 8, 21), date(2028, 8, 22), "one"),
            Break(date(2028, 8, 23), date(2028, 8, 26), "two"),
        )
        self.assertEqual(replace(NEXT, breaks=follow).session(FULL).add_by, date(2028, 8, 21))

    def test_meetings_go_with_their_session_and_keep_days_of_their_own(self) -> None:
        half = NEXT.session(FIRST_HALF)
        self.assertEqual(NEXT.days_of(FIRST, date(2027, 10, 15), FIRST_HALF, half), (half.first, half.last))
        own = NEXT.days_of(date(2027, 9, 8), date(2027, 9, 22), FIRST_HALF, half)
        self.assertEqual(own, (date(2028, 9, 6), date(2028, 9, 20)))

    def test_money_comes_along_at_the_same_hour(self) -> None:
        due = datetime(2027, 8, 13, 17, tzinfo=ZONE)
        plan = InstallmentPlan("two", "Two parts", due, (InstallmentPart(50), InstallmentPart(50, due)))
        policy = AccountPolicy(
            (DueDate(due, 100, date(2027, 8, 6)),), installments=(plan,), ask_back_until=due
        )
        moved = NEXT.account(policy)
        expected = datetime(2028, 8, 11, 17, tzinfo=ZONE)
        self.assertEqual(moved.due_dates[0].at, expected)
        self.assertEqual(moved.due_dates[0].registered_through, date(2028, 8, 4))
        self.assertEqual(moved.installments[0].join_by, expected)
        self.assertEqual([part.at for part in moved.installments[0].parts], [None, expected])
        self.assertEqual(moved.ask_back_until, expected)
        late = replace(Tariff(), late_from=date(2027, 8, 16))
        self.assertEqual(NEXT.tariff(late).late_from, date(2028, 8, 14))
        self.assertEqual(NEXT.tariff(Tariff()), Tariff())

    def test_an_hour_stays_across_the_change_of_clocks(self) -> None:
        spring = replace(NEXT, first=date(2028, 3, 20), last=date(2028, 6, 30))
        moved = spring.moment(datetime(2027, 8, 20, 17, tzinfo=ZONE))
        self.assertEqual((moved.hour, moved.weekday()), (17, 4))

    def test_numbers_that_mean_nothing_else(self) -> None:
        self.assertEqual(free_numbers([], 500), 10_000)
        self.assertEqual(free_numbers(["10000", "11499"], 500), 12_000)
        self.assertEqual(free_numbers([f"{n}" for n in range(10_000, 99_000, 1_000)], 500), 99_000)
        self.assertIsNone(free_numbers([f"{n}" for n in range(10_000, 100_000, 500)], 501))
        self.assertIsNone(free_numbers([], 90_001))


starts = st.dates(date(2028, 1, 1), date(2029, 12, 1))


class Laws(unittest.TestCase):
    @examples(150)
    @given(
        starts, st.integers(21, 200), st.lists(st.tuples(st.integers(0, 150), st.integers(0, 9)), max_size=3)
    )
    def test_for_any_days(self, first: date, length: int, pauses: list[tuple[int, int]]) -> None:
        last = first + timedelta(length)
        breaks: list[Break] = []
        for after, days in sorted(pauses):
            start = first + timedelta(after)
            end = min(last, start + timedelta(days))
            if start <= last and (not breaks or start > breaks[-1].last):
                breaks.append(Break(start, end, "break"))
        forward = Forward(CALENDAR, first, last, tuple(breaks))
        for session in CALENDAR.sessions.values():
            moved = forward.session(session)
            self.in_order(moved, first, last)
            begins, ends = forward.days_of(session.first, session.last, session, moved)
            self.assertEqual((begins, ends), (moved.first, moved.last))
        day = FIRST + timedelta(30)
        if first < forward.day(day) < last:
            self.assertEqual(forward.day(day).weekday(), day.weekday())
        self.assertEqual((forward.day(FIRST), forward.day(LAST)), (first, last))

    def in_order(self, session: TermSession, first: date, last: date) -> None:
        self.assertLessEqual(first, session.first)
        self.assertLessEqual(session.last, last)
        self.assertLessEqual(session.add_by, session.drop_by)
        self.assertLessEqual(session.drop_by, session.withdraw_by)
        self.assertLessEqual(session.withdraw_by, session.last)
        through = [step.through for step in session.refund_steps]
        self.assertEqual(through, sorted(set(through)))
