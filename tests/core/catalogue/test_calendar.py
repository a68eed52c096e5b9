"""Class days and clashes, judged against independent libraries."""

from __future__ import annotations

import unittest
from datetime import date, datetime, time, timedelta

import portion
from dateutil.rrule import WEEKLY, rrule
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.calendar import WEEKDAY_LETTERS, Meeting, find_clash, parse_weekdays, week_mask
from tests.support.examples import examples
from tests.support.world import CALENDAR, FIRST, FIRST_HALF, LAST, SECOND_HALF, ZONE, hours


def dates_by_rule(weekdays: tuple[int, ...], first: date, last: date) -> list[date]:
    """The class days of a weekly pattern as dateutil's rrule has them (RFC 5545 recurrence)."""
    closed = {b.first + timedelta(n) for b in CALENDAR.breaks for n in range((b.last - b.first).days + 1)}
    start = datetime.combine(max(first, FIRST), time())
    rule = rrule(WEEKLY, byweekday=weekdays, dtstart=start, until=datetime.combine(last, time()))
    return [d.date() for d in rule if d.date() not in closed and d.date() <= LAST]


weekday_sets = st.sets(st.sampled_from(WEEKDAY_LETTERS), min_size=1, max_size=4).map(
    lambda letters: "".join(sorted(letters, key=WEEKDAY_LETTERS.index))
)
days = st.dates(FIRST - timedelta(10), LAST + timedelta(10))


@st.composite
def meetings(draw: st.DrawFn) -> Meeting:
    first, last = sorted((draw(days), draw(days)))
    start = draw(st.integers(7 * 60, 20 * 60))
    length = draw(st.integers(1, 200))
    end = min(start + length, 24 * 60 - 1)
    return Meeting.in_term(
        CALENDAR,
        draw(weekday_sets),
        time(start // 60, start % 60),
        time(end // 60, end % 60),
        first,
        last,
    )


def hours_by_date(meeting: Meeting) -> dict[date, portion.Interval]:
    """The half-open hours of a meeting on each date, as intervals of the portion library."""
    span = portion.closedopen(meeting.start, meeting.end)
    return {d: span for d in dates_by_rule(meeting.weekdays, meeting.first, meeting.last)}


class WeekdayLetters(unittest.TestCase):
    def test_r_is_thursday(self) -> None:
        # Common practice: M T W R F, so TR is Tuesday and Thursday.
        self.assertEqual(parse_weekdays("TR"), (1, 3))
        self.assertEqual(parse_weekdays("MWF"), (0, 2, 4))

    def test_numbers_are_those_of_iso_8601(self) -> None:
        for letter, day in zip(WEEKDAY_LETTERS, range(7), strict=True):
            self.assertEqual(parse_weekdays(letter), (date(2027, 8, 23 + day).isoweekday() - 1,))

    def test_unknown_and_doubled_letters_are_refused(self) -> None:
        for text in ("X", "MM", "Th"):
            with self.subTest(text), self.assertRaises(ValueError):
                parse_weekdays(text)


class ClassDays(unittest.TestCase):
    @given(weekday_sets, days, days)
    def test_agree_with_rrule(self, letters: str, one: date, other: date) -> None:
        first, last = sorted((one, other))
        weekdays = parse_weekdays(letters)
        ours = list(CALENDAR.dates(CALENDAR.class_days(weekdays, first, last)))
        self.assertEqual(ours, dates_by_rule(weekdays, first, last))

    @given(weekday_sets, days, days)
    def test_span_and_weekdays_are_those_of_the_dates(self, letters: str, one: date, other: date) -> None:
        first, last = sorted((one, other))
        mask = CALENDAR.class_days(parse_weekdays(letters), first, last)
        found = list(CALENDAR.dates(mask))
        self.assertEqual(CALENDAR.weekdays_of(mask), sorted({d.weekday() for d in found}))
        if found:
            self.assertEqual(CALENDAR.span(mask), (found[0], found[-1]))

    def test_breaks_and_holiday_are_no_class_days(self) -> None:
        mondays = list(CALENDAR.dates(hours("M 10:00-10:50").days))
        self.assertNotIn(date(2027, 9, 6), mondays)
        self.assertNotIn(date(2027, 11, 22), mondays)
        # 16 weeks, of which the holiday and the break take a Monday each.
        self.assertEqual(len(mondays), 14)

    def test_contact_time_over_the_term_is_what_three_credits_take(self) -> None:
        # 34 CFR 600.2 (from memory): a credit is about an hour of class, of 50 minutes, a week for
        # about fifteen weeks; so three are 2,250 minutes, whatever the pattern, breaks left out.
        for pattern in ("MWF 08:00-08:50", "TR 08:00-09:15", "W 18:00-20:30"):
            meeting = hours(pattern)
            minutes = len(list(CALENDAR.dates(meeting.days))) * (meeting.end - meeting.start)
            self.assertAlmostEqual(minutes, 3 * 15 * 50, delta=0.03 * 2250, msg=pattern)

    def test_daylight_saving_change_moves_no_class(self) -> None:
        # The zone leaves summer time on 7 November 2027 (zoneinfo).
        before, after = datetime(2027, 11, 5, 8, tzinfo=ZONE), datetime(2027, 11, 8, 8, tzinfo=ZONE)
        self.assertNotEqual(before.utcoffset(), after.utcoffset())
        fridays = hours("F 08:00-08:50")
        mondays = hours("M 08:00-08:50")
        self.assertEqual((fridays.start, fridays.end), (mondays.start, mondays.end))
        self.assertIn(date(2027, 11, 8), CALENDAR.dates(mondays.days))


class Clashes(unittest.TestCase):
    @examples(300)
    @given(st.lists(meetings(), min_size=1, max_size=3), st.lists(meetings(), min_size=1, max_size=3))
    def test_agree_with_intervals_date_by_date(self, one: list[Meeting], other: list[Meeting]) -> None:
        theirs = [hours_by_date(m) for m in other]
        expected = any(
            not (span & their[d]).empty
            for mine in one
            for d, span in hours_by_date(mine).items()
            for their in theirs
            if d in their
        )
        self.assertEqual(find_clash(one, other) is not None, expected)
        self.assertEqual(find_clash(other, one) is not None, expected)

    @given(st.lists(meetings(), max_size=3), st.lists(meetings(), max_size=3))
    def test_masks_without_a_shared_minute_never_hide_a_clash(
        self, one: list[Meeting], other: list[Meeting]
    ) -> None:
        if not week_mask(one) & week_mask(other):
            self.assertIsNone(find_clash(one, other))

    def test_touching_hours_do_not_clash(self) -> None:
        # Common practice: 10:50 and 10:50 touch; lecture 18:00-19:50 and lab 19:51-21:50.
        self.assertIsNone(find_clash([hours("MW 10:00-10:50")], [hours("W 10:50-11:40")]))
        self.assertIsNone(find_clash([hours("W 18:00-19:50")], [hours("W 19:51-21:50")]))
        self.assertIsNotNone(find_clash([hours("MW 10:00-10:51")], [hours("W 10:50-11:40")]))

    def test_halves_of_the_term_do_not_clash(self) -> None:
        one, other = hours("TR 08:00-09:50", FIRST_HALF), hours("TR 08:00-09:50", SECOND_HALF)
        self.assertIsNone(find_clash([one], [other]))
        self.assertIsNotNone(find_clash([one], [hours("R 09:00-10:00")]))

    def test_four_credit_pattern_does_not_clash_with_itself(self) -> None:
        # Common practice: MWF 8:00-8:50 and W 9:00-9:50.
        self.assertIsNone(find_clash([hours("MWF 08:00-08:50")], [hours("W 09:00-09:50")]))

    def test_clash_names_the_days(self) -> None:
        clash = find_clash([hours("TR 14:00-16:50")], [hours("T 15:30-17:10", SECOND_HALF)])
        assert clash is not None
        found = list(CALENDAR.dates(clash.days))
        self.assertEqual(found[0], date(2027, 10, 19))
        self.assertTrue(all(d.weekday() == 1 for d in found))

    def test_meeting_without_length_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            hours("M 10:00-10:00")
