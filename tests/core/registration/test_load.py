"""What a load is called, by the figures of the regulation and not by our own."""

from __future__ import annotations

import unittest

from gremba.core.catalogue.term import Policy
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.decision import decide
from tests.support.world import World


class Load(unittest.TestCase):
    def test_full_time_is_twelve_hours_and_half_time_half_of_that(self) -> None:
        # 34 CFR 668.2 (from memory): a full-time undergraduate carries 12 semester hours, a half-time
        # student half of that.
        for halves in range(41):
            credits = halves / 2
            name = "full time" if credits >= 12 else "half time" if credits >= 6 else "less than half time"
            self.assertEqual(Policy().load_name(credits), name, credits)

    def test_who_falls_below_is_told_at_the_hour_where_it_counts(self) -> None:
        # Of one course with so many credits and a second of three: dropping that leaves the first.
        for credits, codes in (
            (12.0, []),
            (11.5, ["load.below_full_time"]),
            (9.0, ["load.below_full_time"]),
            (6.0, []),
            (5.5, ["load.below_half_time"]),
        ):
            world = World(Policy(credit_limits={"good": 99.0}))
            world.course("KILN 410", credits_least=credits, credits_most=credits)
            world.section("30090", "KILN 410")
            world.section("30091", "LOOM 110")
            world.held = ["30090", "30091"]
            situation = world.situation()
            outcome = decide(situation, Request((Change(Kind.DROP, "30091"),)), world.now).outcomes[0]
            found = [f.code for f in outcome.findings if f.code.startswith("load.")]
            with self.subTest(credits):
                self.assertEqual(found, codes)
