"""Sections offered in the place of one that is stopped: they would go through, and cost nothing."""

from __future__ import annotations

import unittest
from dataclasses import replace

from hypothesis import given

from gremba.core.registration.alternatives.substitutes import find_substitutes
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding.effort import MAX_SUBSTITUTES
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import ProposedChange, PutInCart, TakeInstead
from gremba.core.registration.outcome import Result
from tests.core.registration.more_cases import lecture_with_labs
from tests.core.registration.test_decision import worlds
from tests.support.examples import examples
from tests.support.world import World, request


def offered(world: World, *changes: str, mode: Mode = Mode.EACH) -> dict[int, list[tuple[str, ...]]]:
    wanted = request(changes, mode)
    situation = world.situation()
    found = find_substitutes(situation, wanted, decide(situation, wanted, world.now), world.now)
    return {
        index: [w.action.numbers for w in ways if isinstance(w.action, TakeInstead)]
        for index, ways in found.items()
    }


class Alternatives(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        for n, hour in enumerate(range(8, 14)):
            self.world.section(
                f"3000{n}", "SOIL 110", f"M {hour:02d}:00-{hour:02d}:50", seats=0 if n == 0 else 5
            )
        self.world.section("30010", "HIST 110", "M 09:00-09:50")

    def test_up_to_three_that_fit_in_order_of_their_numbers(self) -> None:
        self.assertEqual(offered(self.world, "+30000"), {0: [("30001",), ("30002",), ("30003",)]})

    def test_those_that_clash_or_are_full_or_cancelled_are_left_out(self) -> None:
        self.world.held = ["30010"]
        self.world.section("30006", "SOIL 110", "T 08:00-08:50", cancelled=True)
        self.world.section("30007", "SOIL 110", "T 08:00-08:50", seats=0)
        self.assertEqual(offered(self.world, "+30000"), {0: [("30002",), ("30003",), ("30004",)]})

    def test_none_that_would_cost_another_change_its_place(self) -> None:
        # 30001 would go before HIST 110 and take its hour.
        self.assertNotIn(("30001",), offered(self.world, "+30000", "+30010")[0])

    def test_none_where_something_else_stops_it_too(self) -> None:
        self.world.windows = ()
        self.assertEqual(offered(self.world, "+30000"), {})

    def test_a_lecture_comes_with_the_labs_it_needs(self) -> None:
        lecture_with_labs(self.world)
        self.world.section("30020", "LAND 110", "M 13:00-14:15")
        self.world.held = ["30020"]
        # The first lecture clashes with what is held; the other is offered with its own lab.
        found = offered(self.world, "+30040", "+30041")
        self.assertEqual(found[0], [("30044", "30043")])

    def test_a_swap_may_take_another_one_instead(self) -> None:
        self.world.held = ["30010"]
        self.assertEqual(offered(self.world, "30010>30000")[0][0], ("30001",))

    def test_what_is_registered_may_be_moved_out_of_the_way(self) -> None:
        # The hour of HIST 110, which has another section on Tuesday, is wanted for ECON 110.
        self.world.section("30011", "HIST 110", "T 15:30-16:20")
        self.world.section("30012", "HIST 110", "W 08:00-08:50", seats=0)
        self.world.section("30030", "ECON 110", "M 09:00-09:50")
        self.world.held = ["30010"]
        wanted = request(["+30030"])
        situation = self.world.situation()
        found = find_substitutes(situation, wanted, decide(situation, wanted, self.world.now), self.world.now)
        (way,) = found[0]
        self.assertEqual(
            way.text,
            "Move your HIST 110 from M 09:00–09:50 to T 15:30–16:20 (30011) and this fits.",
        )
        assert isinstance(way.action, PutInCart)
        self.assertEqual(way.action.changes, (ProposedChange(Kind.SWAP, "30011", "30010"),))

    def test_a_lecture_is_moved_with_its_lab(self) -> None:
        lecture_with_labs(self.world)
        self.world.held = ["30040", "30041"]
        self.world.section("30030", "ECON 110", "M 13:00-14:15")
        wanted = request(["+30030"])
        situation = self.world.situation()
        found = find_substitutes(situation, wanted, decide(situation, wanted, self.world.now), self.world.now)
        moves = [w.action.changes for w in found.get(0, ()) if isinstance(w.action, PutInCart)]
        self.assertEqual(
            moves,
            [(ProposedChange(Kind.SWAP, "30044", "30040"), ProposedChange(Kind.SWAP, "30043", "30041"))],
        )

    @examples(200)
    @given(worlds())
    def test_whatever_is_offered_goes_through_and_costs_nothing(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        situation = world.situation()
        before = decide(situation, wanted, world.now)
        for index, ways in find_substitutes(situation, wanted, before, world.now).items():
            self.assertIs(before.outcomes[index].result, Result.REFUSED)
            self.assertLessEqual(len(ways), MAX_SUBSTITUTES)
            for way in ways:
                changes = list(wanted.changes)
                if isinstance(way.action, TakeInstead):
                    changes[index] = replace(changes[index], number=way.action.numbers[0])
                else:
                    assert isinstance(way.action, PutInCart)
                    changes += [
                        Change(w.kind, w.number, in_exchange=w.in_exchange) for w in way.action.changes
                    ]
                after = decide(situation, Request(tuple(changes), wanted.mode), world.now)
                self.assertIs(after.outcomes[index].result, Result.ACCEPTED)
                self.assertIn(after.outcomes[index].change.kind, (Kind.ADD, Kind.SWAP))
                for one, other in zip(before.outcomes, after.outcomes, strict=False):
                    if one.result is Result.ACCEPTED:
                        self.assertIs(other.result, Result.ACCEPTED)
