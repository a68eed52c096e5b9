"""How long one waits after wrong passwords."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta

from gremba.core.access.sign_in_delays import FREE, LONGEST, delay_after, seconds_left

NOW = datetime(2027, 4, 19, 9, tzinfo=UTC)


class Patience(unittest.TestCase):
    def test_delays_grow_and_have_an_end(self) -> None:
        delays = [delay_after(n, False).total_seconds() for n in range(17)]
        self.assertEqual(delays[:9], [0, 0, 0, 0, 0, 1, 2, 4, 8])
        self.assertEqual(delays, sorted(delays))
        self.assertEqual(delay_after(10_000, False), LONGEST)

    def test_where_something_is_unusual_it_begins_with_the_second(self) -> None:
        self.assertEqual(delay_after(0, True), timedelta(0))
        self.assertEqual(delay_after(1, True), timedelta(seconds=1))
        self.assertEqual(
            [delay_after(n + FREE - 1, False) for n in range(1, 9)],
            [delay_after(n, True) for n in range(1, 9)],
        )

    def test_the_first_attempt_is_never_put_off(self) -> None:
        for unusual in (False, True):
            self.assertEqual(seconds_left(0, None, unusual, NOW), 0)

    def test_time_that_passes_counts(self) -> None:
        failed_at = NOW - timedelta(seconds=3)
        self.assertEqual(seconds_left(FREE + 2, failed_at, False, NOW), 1)
        self.assertEqual(seconds_left(FREE + 1, failed_at, False, NOW), 0)
