"""Several candidates for one wish: the first that goes through."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.registration.alternatives import backup_sections as candidates
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.changes import Kind, Mode, Request
from gremba.core.registration.deciding.effort import for_backups
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.situation import Situation
from tests.core.registration.more_cases import lecture_with_labs
from tests.core.registration.test_decision import worlds
from tests.support.examples import examples
from tests.support.world import World, codes, request, results


def wishes(
    world: World, *changes: str, alternatives: dict[int, list[str]], mode: Mode = Mode.EACH
) -> tuple[list[str], Decision]:
    """The numbers taken, and the decision. ``alternatives`` names next choices by place."""
    wanted = request(changes, mode)
    named = [
        replace(c, alternatives=tuple(tuple(n.split()) for n in alternatives.get(index, ())))
        for index, c in enumerate(wanted.changes)
    ]
    taken, decision = decide_with_alternatives(world.situation(), Request(tuple(named), mode), world.now)
    return [c.number for c in taken.changes], decision


class Candidates(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        w = self.world
        w.section("30001", "SOIL 110", "M 08:00-08:50", seats=0)
        w.section("30002", "SOIL 110", "M 09:00-09:50")
        w.section("30003", "SOIL 110", "M 10:00-10:50")
        w.section("30010", "HIST 110", "M 09:00-09:50")
        w.section("30011", "HIST 110", "T 09:00-09:50")

    def test_the_first_that_goes_through_is_taken_and_says_why(self) -> None:
        taken, decision = wishes(self.world, "+30001", alternatives={0: ["30002", "30003"]})
        self.assertEqual(taken, ["30002"])
        self.assertEqual(codes(decision), ["together.next_choice"])
        self.assertIn("SOIL 110 30001 cannot be had: Full", decision.outcomes[0].findings[0].text)

    def test_a_first_choice_that_goes_through_needs_none(self) -> None:
        taken, decision = wishes(self.world, "+30003", alternatives={0: ["30002"]})
        self.assertEqual((taken, codes(decision)), (["30003"], []))

    def test_no_earlier_wish_is_lost_for_a_next_choice(self) -> None:
        taken, decision = wishes(self.world, "+30010", "+30001", alternatives={1: ["30002", "30003"]})
        self.assertEqual((taken, results(decision)), (["30010", "30003"], "aa"))

    def test_a_later_wish_gives_way_and_takes_its_own_next_choice(self) -> None:
        taken, decision = wishes(self.world, "+30001", "+30010", alternatives={0: ["30002"], 1: ["30011"]})
        self.assertEqual((taken, results(decision)), (["30002", "30011"], "aa"))

    def test_where_none_goes_through_the_first_stands_refused(self) -> None:
        self.world.held = ["30010"]
        taken, decision = wishes(self.world, "+30001", alternatives={0: ["30002", "99999"]})
        self.assertEqual((taken, results(decision)), (["30001"], "r"))

    def test_all_or_nothing_finds_what_goes_through_whole(self) -> None:
        self.world.section("30004", "ECON 110", "W 08:00-08:50", seats=0)
        self.world.section("30005", "ECON 110", "W 09:00-09:50")
        taken, decision = wishes(
            self.world, "+30001", "+30004", alternatives={0: ["30003"], 1: ["30005"]}, mode=Mode.ALL
        )
        self.assertEqual((taken, results(decision)), (["30003", "30005"], "aa"))

    def test_a_lecture_as_next_choice_takes_the_lab_that_goes_with_it(self) -> None:
        lecture_with_labs(self.world)
        self.world.section("30020", "LAND 110", "M 13:00-14:15")
        self.world.held = ["30020"]
        taken, decision = wishes(self.world, "+30040", "+30041", alternatives={0: ["30044"]})
        self.assertEqual((taken, results(decision)), (["30044", "30043"], "aa"))
        taken, decision = wishes(self.world, "+30040", alternatives={0: ["30044"]})
        self.assertEqual((taken, results(decision)), (["30044", "30043"], "aa"))

    def test_a_swap_may_have_next_choices(self) -> None:
        self.world.held = ["30003"]
        taken, decision = wishes(self.world, "30003>30001", alternatives={0: ["30002"]})
        self.assertEqual((taken, results(decision)), (["30002"], "a"))
        self.assertEqual(decision.outcomes[0].change.in_exchange, "30003")

    def test_what_is_tried_has_a_bound_and_where_it_is_cut_short_it_is_said(self) -> None:
        """Forty wishes at three hours, each with four next choices at the same: none helps, and all
        would be tried."""
        world = World()
        world.student.credit_limit = 1_000
        for n in range(40):
            for k in range(5):
                world.section(
                    f"{32_000 + 5 * n + k}", f"LAND {n}10", f"M {8 + n % 3:02d}:00-{8 + n % 3:02d}:50"
                )
        alternatives = {n: [f"{32_000 + 5 * n + k}" for k in range(1, 5)] for n in range(40)}
        judged = []
        real = candidates.decide

        def decide(situation: Situation, wanted: Request, *more: Any) -> Decision:
            judged.append(len(wanted.changes))
            return real(situation, wanted, *more)

        with mock.patch.object(candidates, "decide", decide):
            _, decision = wishes(world, *(f"+{32_000 + 5 * n}" for n in range(40)), alternatives=alternatives)
        # The first look and the last are not trials.
        self.assertLessEqual(sum(judged) - 2 * 40, for_backups().changes)
        self.assertEqual(results(decision)[:3], "aaa")
        told = [o for o in decision.outcomes if "together.unfinished" in {f.code for f in o.findings}]
        self.assertGreater(len(told), 30)
        self.assertIn("not all of this one's were tried", told[-1].findings[-1].text)

    def test_a_next_choice_without_a_seat_costs_no_trial(self) -> None:
        self.world.section("30004", "SOIL 110", "T 10:00-10:50", seats=0)
        with mock.patch.object(candidates, "decide", wraps=candidates.decide) as decide:
            taken, _ = wishes(self.world, "+30001", alternatives={0: ["30004", "30002"]})
        self.assertEqual((taken, decide.call_count), (["30002"], 3))

    @examples(150)
    @given(worlds(), st.data())
    def test_next_choices_only_ever_help_the_one_who_is_first(
        self, made: tuple[World, Request], data: st.DataObject
    ) -> None:
        world, wanted = made
        numbers = st.sampled_from(sorted(world.sections))
        named = tuple(
            replace(c, alternatives=tuple((n,) for n in data.draw(st.lists(numbers, max_size=2))))
            if c.kind in (Kind.ADD, Kind.SWAP)
            else c
            for c in wanted.changes
        )
        situation = world.situation()
        plain = decide(situation, wanted, world.now)
        asked = replace(wanted, changes=named)
        taken, decision = decide_with_alternatives(situation, asked, world.now)
        again = decide_with_alternatives(situation, asked, world.now)
        self.assertEqual((taken, decision.after), (again[0], again[1].after))
        # What was taken is what deciding it plainly says.
        self.assertEqual(
            [o.result for o in decide(situation, taken, world.now).outcomes],
            [o.result for o in decision.outcomes],
        )
        for before, after in zip(plain.outcomes, decision.outcomes[: len(named)], strict=True):
            if before.result is not after.result:
                # The first that differs is one that got in by its next choice.
                self.assertIs(after.result, Result.ACCEPTED)
                break
