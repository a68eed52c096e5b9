"""What past terms say of a place: the interval against scipy and by simulation."""

from __future__ import annotations

import unittest
from random import Random

from scipy.stats import binomtest

from gremba.core.waitlists.chances import MIN_PAST_ENTRIES, Chances, PastEntry, wilson
from tests.support.world import World


class Chance(unittest.TestCase):
    def test_the_interval_covers_the_truth_about_nine_times_in_ten(self) -> None:
        # What a 90 % interval means; checked by drawing from known shares.
        rng = Random(7)
        for share in (0.05, 0.2, 0.5, 0.9):
            for many in (15, 40, 150):
                hits = 0
                for _ in range(800):
                    came_up = sum(rng.random() < share for _ in range(many))
                    low, high = wilson(came_up, many)
                    hits += low <= share <= high
                self.assertGreater(hits / 800, 0.83, (share, many))
                self.assertLess(hits / 800, 0.985, (share, many))

    def test_it_is_the_one_that_scipy_reckons(self) -> None:
        # scipy.stats, the score interval without continuity correction; its own z for 90 %.
        for of in (12, 13, 40, 151, 4000):
            for came_up in {0, 1, of // 3, of // 2, of - 1, of}:
                theirs = binomtest(came_up, of).proportion_ci(0.9, method="wilson")
                low, high = wilson(came_up, of)
                self.assertAlmostEqual(low, theirs.low, places=4)
                self.assertAlmostEqual(high, theirs.high, places=4)

    def test_at_none_and_at_all(self) -> None:
        # For 0 of n the upper end is z² / (n + z²) (from the formula, solved by hand).
        low, high = wilson(0, 20)
        self.assertEqual(low, 0.0)
        self.assertAlmostEqual(high, 1.6449**2 / (20 + 1.6449**2))
        self.assertEqual(wilson(20, 20)[1], 1.0)

    def test_nothing_is_told_where_there_is_too_little(self) -> None:
        section = World().section("30001", "SOIL 110", "M 10:00-10:50")
        few = Chances(PastEntry("lecture", 1, True) for _ in range(MIN_PAST_ENTRIES - 1))
        self.assertIsNone(few.of(section, 1))
        enough = Chances(PastEntry("lecture", 1, n % 2 == 0) for n in range(MIN_PAST_ENTRIES))
        found = enough.of(section, 1)
        assert found is not None
        self.assertEqual((found.came_up, found.of), (6, 12))
        self.assertIn("6 of 12 places at number 1 for a lecture", found.sentence)
        self.assertIsNone(enough.of(section, 2), "the second is another matter")
        lab = World().section("30001", "SOIL 110", "M 10:00-10:50", component="lab")
        self.assertIsNone(enough.of(lab, 1))
