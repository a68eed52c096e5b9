"""Plans A, B, C; what drafts remember; plans agreed with an advisor."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Result
from gremba.core.registration.plans import MOST_PLANS, PlanFallback, Plans, decide_plans, judge_plans
from gremba.core.students.academic_plan import (
    MOST_ALTERNATIVES,
    MOST_LINES,
    LineState,
    PlanLine,
    check_lines,
    state_of,
)
from gremba.core.timetables.drafts import changed_since, seen_of
from gremba.formats.academic_plan_file import read_json, read_table, write_json, write_table
from tests.support.world import World, hours

NUMBERS = ("30001", "30002", "30003", "30004")


def world_with(seats: Sequence[int], overlapping: bool = False) -> World:
    """Four courses of a section each, on days of their own or all at the same hours."""
    world = World()
    for n, (number, left) in enumerate(zip(NUMBERS, seats, strict=True)):
        day = "M" if overlapping else "MTWR"[n]
        world.section(number, f"CRAF 10{n}", f"{day} 09:00-09:50", seats=left)
    return world


def plans_of(*plans: Sequence[str], fallback: PlanFallback = PlanFallback.NOTHING) -> Plans:
    """Plans that add sections."""
    return Plans(tuple(Request(tuple(Change(Kind.ADD, n) for n in plan)) for plan in plans), fallback)


class InOrder(unittest.TestCase):
    """Which plan is taken."""

    @given(
        st.lists(st.integers(0, 1), min_size=4, max_size=4),
        st.lists(
            st.lists(st.sampled_from(NUMBERS), min_size=1, max_size=3, unique=True),
            min_size=1,
            max_size=MOST_PLANS,
        ),
        st.booleans(),
        st.sampled_from(PlanFallback),
    )
    def test_the_first_of_which_all_goes_through(
        self, seats: list[int], plans: list[list[str]], overlapping: bool, fallback: PlanFallback
    ) -> None:
        """The law, by deciding each plan by itself: the first that is whole; else nothing, or what each
        change of the first by itself would come to."""
        world = world_with(seats, overlapping)
        decided = decide_plans(world.situation(), plans_of(*plans, fallback=fallback), world.now)

        def results(numbers: Sequence[str], mode: Mode) -> list[Result]:
            request = Request(tuple(Change(Kind.ADD, n) for n in numbers), mode)
            return [o.result for o in decide(world.situation(), request, world.now).outcomes]

        whole = [Result.REFUSED not in results(plan, Mode.ALL) for plan in plans]
        if any(whole):
            self.assertEqual(decided.taken, whole.index(True))
            self.assertEqual([o.change.number for o in decided.decision.outcomes], plans[whole.index(True)])
            self.assertEqual(len(decided.verdicts), whole.index(True) + 1)
        else:
            self.assertIsNone(decided.taken)
            mode = Mode.EACH if fallback is PlanFallback.BEST_PART else Mode.ALL
            got = [o.result for o in decided.decision.outcomes]
            self.assertEqual(got, results(plans[0], mode))
            if fallback is PlanFallback.NOTHING:
                self.assertEqual(set(got), {Result.REFUSED})
        told = [v.is_whole for v in judge_plans(world.situation(), plans_of(*plans), world.now)]
        self.assertEqual(told, whole)
        for verdict in decided.verdicts:
            self.assertEqual(bool(verdict.stops), not verdict.is_whole)

    def test_it_says_what_stops_a_plan_and_of_which_section(self) -> None:
        world = world_with((0, 5, 5, 5))
        decided = decide_plans(world.situation(), plans_of(NUMBERS[:2], NUMBERS[2:]), world.now)
        ((section, stop),) = decided.verdicts[0].stops
        self.assertEqual((section, stop.text), ("CRAF 100", "Full: 0 of 0 seats taken."))
        self.assertEqual((decided.taken, decided.verdicts[1].name), (1, "B"))

    def test_no_plans_and_too_many(self) -> None:
        world = world_with((1, 1, 1, 1))
        for plans in (plans_of(), plans_of(*[["30001"]] * (MOST_PLANS + 1))):
            with self.assertRaises(ValueError):
                decide_plans(world.situation(), plans, world.now)


class Since(unittest.TestCase):
    """What has changed of a draft."""

    def test_full_moved_cancelled_gone_and_fewer(self) -> None:
        world = world_with((8, 8, 8, 0))
        seen = seen_of(world.catalogue(), [*NUMBERS, "39999"], world.seats)
        self.assertEqual(changed_since(world.catalogue(), seen, world.seats), [])
        world.seats[1] = SeatFigures(8, 8)
        world.sections["30002"] = replace(world.sections["30002"], meetings=(hours("F 10:00-10:50"),))
        world.seats[3] = SeatFigures(8, 6)
        world.seats[4] = SeatFigures(3, 0)
        self.assertEqual(
            changed_since(world.catalogue(), seen, world.seats),
            [
                "CRAF 100 30001 is full now; it had 8 seats left.",
                "CRAF 101 30002 has moved from T 09:00–09:50 to F 10:00–10:50.",
                "CRAF 102 30003 has 2 seats left of the 8 it had.",
                "CRAF 103 30004 has 3 seats again; it was full.",
            ],
        )
        world.sections["30001"] = replace(world.sections["30001"], cancelled=True)
        del world.sections["30002"]
        told = changed_since(world.catalogue(), seen, world.seats)[:2]
        self.assertEqual(told, ["CRAF 100 30001 is cancelled.", "CRAF 101 30002 is not offered any more."])


class Agreed(unittest.TestCase):
    """Plans agreed with an advisor."""

    def test_what_has_become_of_a_line(self) -> None:
        world = world_with((5, 5, 5, 5))
        world.held = ["30001"]
        world.passed(("CRAF 101", "B"))
        world.wait_for("30003")
        in_cart = [Change(Kind.ADD, "30004")]

        def state(*courses: str, count: int = 1) -> LineState:
            return state_of(PlanLine("harvest-2027", courses, count), world.situation(), in_cart)

        self.assertEqual(
            [state(f"CRAF 10{n}") for n in range(4)],
            [LineState.REGISTERED, LineState.PASSED, LineState.WAITING, LineState.IN_CART],
        )
        self.assertEqual(state("CRAF 103", "CRAF 100"), LineState.REGISTERED)
        self.assertEqual(state("CRAF 103", "CRAF 100", count=2), LineState.IN_CART)
        self.assertEqual(state("CRAF 999"), LineState.NOT_YET)

    def test_every_mistake_by_line(self) -> None:
        world = world_with((5, 5, 5, 5))
        term = world.catalogue()
        lines = [
            PlanLine("harvest-2027", ("CRAF 100",), section="30001"),
            PlanLine("never", ("CRAF 100",)),
            PlanLine("harvest-2027", (), 0),
            PlanLine("harvest-2027", ("CRAF 100",), 2, "30002", "n" * 301),
            PlanLine("harvest-2027", ("CRAF 100",), section="39999"),
        ]
        told = check_lines(lines, term.courses, {term.code: term})
        self.assertEqual([m.line for m in told], [2, 3, 3, 4, 4, 4, 5])
        many = [PlanLine("harvest-2027", ("CRAF 100",))] * (MOST_LINES + 1)
        self.assertEqual(len(check_lines(many, term.courses, {term.code: term})), 1)
        long = [PlanLine("harvest-2027", tuple(f"NONE {n}" for n in range(5_000)))]
        self.assertEqual(len(check_lines(long, term.courses, {term.code: term})), MOST_ALTERNATIVES + 1)

    @given(
        st.lists(
            st.builds(
                PlanLine,
                st.sampled_from(("harvest-2027", "thaw-2028")),
                st.lists(st.sampled_from(("SOIL 110", "CRAF 100", "BAKE 120A")), min_size=1, unique=True).map(
                    tuple
                ),
                st.integers(1, 3),
                st.sampled_from(("", "30001")),
                st.text(
                    st.characters(exclude_categories=("C", "Z"), include_characters=" \n,\";'=+-@|"),
                    max_size=30,
                ).map(str.strip),
            ),
            min_size=1,
            max_size=8,
        )
    )
    def test_files_out_and_in_come_to_the_same(self, lines: list[PlanLine]) -> None:
        """The law for both forms; a table is read by another parser in tests/web/timetables/test_timetables.py."""
        table = read_table(write_table(lines).decode("utf-8-sig"))
        self.assertEqual((list(table.lines), table.mistakes), (lines, ()))
        plain = read_json(write_json(lines).decode())
        self.assertEqual((list(plain.lines), plain.mistakes), (lines, ()))


if __name__ == "__main__":
    unittest.main()
