"""How much of a term is completed, as 34 CFR 668.22(f) reckons it (from memory)."""

from __future__ import annotations

import unittest
from datetime import date

from gremba.core.account.aid import share_completed
from tests.support.world import CALENDAR


class ShareCompleted(unittest.TestCase):
    """The term runs from 23 August to 10 December 2027: 110 calendar days. The autumn break,
    Monday to Friday with the weekends around it, is nine days in a row and left out; the
    one-day holiday is not. That leaves 101."""

    def test_by_hand(self) -> None:
        for on, days in (
            (date(2027, 8, 22), 0),
            (date(2027, 8, 23), 1),
            (date(2027, 9, 6), 15),
            (date(2027, 11, 19), 89),
            (date(2027, 11, 24), 89),
            (date(2027, 11, 29), 90),
            (date(2027, 12, 10), 101),
            (date(2028, 1, 1), 101),
        ):
            with self.subTest(on):
                self.assertAlmostEqual(share_completed(CALENDAR, on), days / 101)

    def test_sixty_per_cent_is_passed_on_the_sixty_first_day(self) -> None:
        # 60.6 days are 60 per cent; day 61 is 22 October.
        self.assertLess(share_completed(CALENDAR, date(2027, 10, 21)), 0.6)
        self.assertGreater(share_completed(CALENDAR, date(2027, 10, 22)), 0.6)
