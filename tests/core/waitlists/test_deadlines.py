"""When offers lapse and waitlists close (common practice: 24 hours; within 24 hours of the start
until 22:00 on the day before)."""

from __future__ import annotations

import unittest
from datetime import UTC, date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.calendar import TermSession
from gremba.core.catalogue.term import Policy
from gremba.core.waitlists.deadlines import closes_at, offer_until
from tests.support.world import CALENDAR, FULL, ZONE

BEGINS = datetime(2027, 8, 23, tzinfo=ZONE)
CLOSES = datetime(2027, 8, 22, 22, tzinfo=ZONE)


def until(notice: datetime, session: TermSession = FULL) -> datetime | None:
    return offer_until(notice, session, CALENDAR, Policy())


class Times(unittest.TestCase):
    def test_25_24_and_23_hours_before_the_first_class_day(self) -> None:
        for hours, expected in (
            (25, BEGINS - timedelta(hours=1)),
            (24, BEGINS),
            (23, CLOSES),
            (3, CLOSES),
        ):
            notice = BEGINS - timedelta(hours=hours)
            self.assertEqual(until(notice), expected, hours)

    def test_at_the_cut_off_minute(self) -> None:
        self.assertEqual(closes_at(FULL, CALENDAR, Policy()), CLOSES)
        self.assertEqual(until(CLOSES - timedelta(minutes=1)), CLOSES)
        self.assertIsNone(until(CLOSES))
        self.assertIsNone(until(CLOSES + timedelta(minutes=1)))

    def test_hours_that_pass_across_the_change_of_clocks(self) -> None:
        # Clocks go back on 7 November 2027 at 02:00 and forward on 12 March 2028 (zoneinfo).
        for notice, expected in (
            (datetime(2027, 11, 6, 12, tzinfo=ZONE), datetime(2027, 11, 7, 11, tzinfo=ZONE)),
            (datetime(2028, 3, 11, 12, tzinfo=ZONE), datetime(2028, 3, 12, 13, tzinfo=ZONE)),
        ):
            late = TermSession(
                "x",
                "x",
                date(2028, 6, 1),
                date(2028, 7, 1),
                date(2028, 6, 1),
                date(2028, 6, 1),
                date(2028, 6, 1),
            )
            found = until(notice, late)
            assert found is not None
            self.assertEqual(found.astimezone(UTC), expected.astimezone(UTC))
            self.assertEqual(found.astimezone(UTC) - notice.astimezone(UTC), timedelta(hours=24))

    def test_the_day_before_may_be_the_day_of_the_change_of_clocks(self) -> None:
        late = TermSession(
            "x",
            "x",
            date(2027, 11, 8),
            date(2027, 12, 1),
            date(2027, 11, 8),
            date(2027, 11, 8),
            date(2027, 11, 8),
        )
        # 25 hours pass between midnight of Sunday and midnight of Monday.
        notice = datetime(2027, 11, 7, 0, 30, tzinfo=ZONE)
        self.assertEqual(until(notice, late), datetime(2027, 11, 7, 23, 30, tzinfo=ZONE))

    @given(st.integers(0, 60 * 24 * 40))
    def test_never_longer_than_24_hours_nor_past_the_first_class_day(self, minutes: int) -> None:
        notice = BEGINS - timedelta(minutes=minutes)
        found = until(notice)
        if found is None:
            self.assertGreaterEqual(notice, CLOSES)
        else:
            self.assertLessEqual(found - notice, timedelta(hours=24))
            self.assertLessEqual(found, BEGINS)
            self.assertGreater(found, notice)
