"""What students are told whose windows are others."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime

from gremba.core.messages import MessageKind
from gremba.core.windows.window_messages import Span, changed_windows
from tests.support.world import World


def _from(day: int) -> Span:
    """A window of a day, from 13 o'clock in Greenwich: 9 o'clock on the campus."""
    return datetime(2027, 4, day, 13, tzinfo=UTC), datetime(2027, 4, day + 1, 13, tzinfo=UTC)


class Changed(unittest.TestCase):
    def test_each_window_that_is_another_or_new_is_told_and_no_other(self) -> None:
        before = {1: [_from(19)], 2: [_from(19)], 3: [_from(19), _from(23)], 4: [_from(20)]}
        after = {1: [_from(19)], 2: [_from(20)], 3: [_from(19), _from(24), _from(26)], 5: [_from(21)]}
        told = list(changed_windows(World().catalogue(), before, after))
        moved, new = MessageKind.WINDOW_MOVED, MessageKind.WINDOW_SET
        self.assertEqual([(row, m.kind) for row, m in told], [(2, moved), (3, moved), (3, new), (5, new)])
        first = told[0][1]
        self.assertEqual(first.facts["before"], "Monday 19 April at 09:00")
        self.assertEqual(first.facts["opens"], "Tuesday 20 April at 09:00")
        self.assertEqual(told[1][1].facts["before"], "Friday 23 April at 09:00")

    def test_one_that_only_closes_at_another_time_is_told_too(self) -> None:
        opens, closes = _from(19)
        told = changed_windows(World().catalogue(), {1: [(opens, closes)]}, {1: [(opens, _from(24)[1])]})
        self.assertEqual([message.kind for _, message in told], [MessageKind.WINDOW_MOVED])


if __name__ == "__main__":
    unittest.main()
