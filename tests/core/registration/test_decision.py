"""The decision as a whole: groups, its fixed point, and what holds for any request."""

from __future__ import annotations

import unittest
from dataclasses import replace
from random import Random
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.calendar import find_clash
from gremba.core.catalogue.requisites import CourseNeed
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding import applicable_rules
from gremba.core.registration.deciding.steps import expand_changes, group_changes
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Severity
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.situation import Situation
from gremba.core.students.student import Hold
from gremba.core.students.transcript import Attempt, Record
from gremba.core.windows.opening import Window
from tests.support.examples import examples
from tests.support.world import FIRST_HALF, FULL, SECOND_HALF, World, codes, numbers, on, request, results


class Groups(unittest.TestCase):
    def setUp(self) -> None:
        self.world = World()
        w = self.world
        w.section("30001", "SOIL 110", "MWF 10:00-10:50", linked_sections=frozenset({"30002", "30003"}))
        w.section(
            "30002",
            "SOIL 110",
            "T 14:00-16:50",
            component="lab",
            carries_credit=False,
            linked_sections=frozenset({"30001"}),
        )
        w.section(
            "30003",
            "SOIL 110",
            "R 14:00-16:50",
            component="lab",
            carries_credit=False,
            seats=0,
            linked_sections=frozenset({"30001"}),
        )
        w.section("30011", "SEMR 101", "M 08:00-09:00", bundle="one")
        w.section("30012", "WRIT 101", "T 08:00-09:00", bundle="one")
        w.section("30013", "MATH 100", "F 08:00-09:00", bundle="one", seats=0)
        w.section("30021", "CHEM 235", "W 18:00-19:50", needs=CourseNeed("CHEM 236", None, "together"))
        w.section(
            "30022", "CHEM 236", "F 11:00-12:50", seats=0, needs=CourseNeed("CHEM 235", None, "together")
        )
        w.section("30031", "HIST 110", "W 08:00-09:00")

    def groups(self, *changes: str, mode: Mode = Mode.EACH) -> list[tuple[int, ...]]:
        catalogue = self.world.catalogue()
        wanted = request(changes, mode)
        expanded = expand_changes(self.world.situation(), wanted, self.world.now)
        return group_changes(wanted, expanded, catalogue)

    def test_linked_sections_bundles_and_corequisites_of_each_other_are_tied(self) -> None:
        self.assertEqual(self.groups("+30001", "+30031", "+30002"), [(0, 2), (1,)])
        self.assertEqual(self.groups("+30011", "+30012", "+30013"), [(0, 1, 2)])
        self.assertEqual(self.groups("+30021", "+30022"), [(0, 1)])
        self.assertEqual(self.groups("+30031", "+30001", mode=Mode.ALL), [(0, 1)])

    def test_a_full_lab_stops_its_lecture(self) -> None:
        decision = self.world.decide("+30001", "+30003", "+30031")
        self.assertEqual(results(decision), "rra")
        self.assertEqual(codes(decision, 0), ["together.stopped"])
        self.assertIn("SOIL 110 lab 30003", decision.outcomes[0].findings[0].text)

    def test_a_bundle_with_one_full_is_refused_whole(self) -> None:
        decision = self.world.decide("+30011", "+30012", "+30013", "+30031")
        self.assertEqual(results(decision), "rrra")

    def test_corequisites_of_each_other_where_one_is_full(self) -> None:
        decision = self.world.decide("+30021", "+30022")
        self.assertEqual(results(decision), "rr")
        self.assertIn("seat.full", codes(decision, 1))

    def test_all_or_nothing(self) -> None:
        decision = self.world.decide("+30031", "+30011", "+30003", mode=Mode.ALL)
        self.assertEqual(results(decision), "rrr")
        self.assertEqual(decision.before, decision.after)
        self.world.section("30032", "ECON 110", "R 08:00-09:00")
        self.assertEqual(results(self.world.decide("+30031", "+30032", mode=Mode.ALL)), "aa")

    def test_all_with_a_clash_inside_is_refused_and_says_where(self) -> None:
        self.world.section("30040", "FARM 101", "W 08:30-09:30")
        decision = self.world.decide("+30031", "+30040", mode=Mode.ALL)
        self.assertEqual(results(decision), "rr")
        self.assertEqual(codes(decision, 1), ["time.conflict"])


class FixedPoint(unittest.TestCase):
    def test_a_stopped_change_does_not_cost_the_next_its_hour(self) -> None:
        w = World()
        w.section("30001", "SOIL 240", "M 10:00-11:00", needs=CourseNeed("SOIL 110"))
        w.section("30002", "HIST 110", "M 10:00-11:00")
        self.assertEqual(results(w.decide("+30001", "+30002")), "ra")

    def test_a_chain_of_clashes_leaves_every_other(self) -> None:
        w = World()
        for n in range(5):
            w.section(f"3000{n}", f"LAND {n}00", f"M {8 + n:02d}:00-{9 + n:02d}:30")
        self.assertEqual(results(w.decide(*(f"+3000{n}" for n in range(5)))), "arara")

    def test_a_refused_drop_gives_its_hour_back(self) -> None:
        # A wants the hour of the section dropped, B clashes with A only. The drop is refused, so A
        # falls, and B, which had lost to A, goes through.
        w = World()
        w.section("30001", "SOIL 110", "M 10:00-11:00")
        w.section("30002", "HIST 110", "M 10:30-12:00")
        w.section("30003", "WRIT 101", "M 11:30-13:00")
        w.section("30004", "ECON 110", "F 08:00-09:00")
        w.held = ["30001", "30004"]
        w.holds = (Hold("Talk first.", "advising", "room 1", frozenset({"drop"})),)
        decision = w.decide("-30001", "+30002", "+30003")
        self.assertEqual(results(decision), "rra")
        texts = [f.text for f in decision.outcomes[1].findings]
        self.assertIn("SOIL 110", texts[0])
        self.assertTrue(texts[1].endswith("That one goes through."), texts[1])

    def test_every_finding_is_reported_not_only_the_first(self) -> None:
        w = World()
        w.section("30001", "SOIL 240", "M 10:00-11:00", needs=CourseNeed("SOIL 110"), seats=0)
        w.section("30002", "HIST 110", "M 10:00-11:00")
        w.held = ["30002"]
        self.assertEqual(codes(w.decide("+30001")), ["seat.full", "requisite.unmet", "time.conflict"])


slots = [f"{d} {h:02d}:00-{h + 1:02d}:{m}" for d in ("M", "T", "MW") for h in (9, 10) for m in ("00", "30")]
COURSES = [f"LAND {n}10" for n in range(1, 7)]


@st.composite
def worlds(draw: st.DrawFn) -> tuple[World, Request]:
    """A cramped little term in which most things exclude one another."""
    w = World()
    for n in range(draw(st.integers(3, 8))):
        need = None
        if draw(st.booleans()):
            timing = draw(st.sampled_from(["before or together", "together", "before"]))
            need = CourseNeed(draw(st.sampled_from(COURSES)), None, timing)
        w.section(
            f"3000{n}",
            draw(st.sampled_from(COURSES)),
            draw(st.sampled_from(slots)),
            seats=SeatFigures(draw(st.integers(0, 2)), draw(st.integers(0, 1))),
            session=draw(st.sampled_from([FULL, FIRST_HALF, SECOND_HALF])),
            needs=need,
            credits=draw(st.sampled_from([1.0, 3.0, 4.5])),
            pool=draw(st.sampled_from([0, 0, 91])),
            bundle=draw(st.sampled_from([None, None, None, "b"])),
        )
    everything = list(w.sections)
    w.held = draw(st.lists(st.sampled_from(everything), unique=True, max_size=3))
    w.student = replace(w.student, credit_limit=draw(st.sampled_from([6.0, 9.0, 18.0])))
    if draw(st.booleans()):
        stopped = draw(st.sampled_from([{"add", "swap"}, {"drop"}]))
        w.holds = (Hold("Talk.", "advising", "room 1", frozenset(stopped)),)
    w.now = draw(st.sampled_from([on(4, 19, 10), on(8, 25), on(9, 1), on(10, 19), on(11, 8)]))
    w.windows = (*w.windows, Window(on(8, 1), on(12, 10)))
    swaps = [f"{a}>{b}" for a in w.held for b in everything if a != b]
    signs = draw(
        st.lists(
            st.sampled_from([f"{s}{n}" for s in "+-" for n in everything] + swaps),
            min_size=1,
            max_size=6,
            unique=True,
        )
    )
    return w, request(signs, draw(st.sampled_from(list(Mode))))


def accepted(wanted: Request, decision: Decision) -> Request:
    """Only what went through, in the order of the request."""
    kept = tuple(o.change for o in decision.outcomes if o.result is Result.ACCEPTED)
    return Request(kept, wanted.mode)


def stops(decision: Decision) -> list[str]:
    return [f.code for o in decision.outcomes for f in o.findings if f.severity is Severity.STOP]


class Properties(unittest.TestCase):
    @examples(400)
    @given(worlds())
    def test_ends_and_is_deterministic(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        self.assertEqual(
            decide(world.situation(), wanted, world.now),
            decide(world.situation(), wanted, world.now),
        )

    @examples(400)
    @given(worlds())
    def test_what_was_accepted_stands_without_the_rest(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        decision = decide(world.situation(), wanted, world.now)
        again = decide(world.situation(), accepted(wanted, decision), world.now)
        self.assertEqual(stops(again), [])
        self.assertEqual(numbers(again.held), numbers(decision.held))

    @examples(400)
    @given(worlds())
    def test_the_result_as_the_students_state_has_no_stop_left(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        decision = decide(world.situation(), wanted, world.now)
        added = [o.takes for o in decision.outcomes if o.takes is not None]
        for seat in added:
            rest = tuple(h for h in decision.held if h.section is not seat.section)
            again = Request((Change(Kind.ADD, seat.section.reference_number),))
            alone = decide(_after(world, decision, rest), again, world.now)
            self.assertEqual([c for c in stops(alone) if c != "credits.over"], [], seat.section)
        limit = max(world.situation().credit_limit, decision.before.credits)
        self.assertLessEqual(decision.after.credits, limit)
        for seat in added:
            for held in decision.held:
                if held.section is not seat.section:
                    self.assertIsNone(find_clash(seat.section.meetings, held.section.meetings))

    @examples(400)
    @given(worlds())
    def test_every_refusal_rests_on_a_fact_or_on_what_went_through(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        decision = decide(world.situation(), wanted, world.now)
        through = {i for i, o in enumerate(decision.outcomes) if o.result is Result.ACCEPTED}
        expanded = expand_changes(world.situation(), wanted, world.now)
        groups = group_changes(wanted, expanded, world.catalogue())
        for i, outcome in enumerate(decision.outcomes):
            found = [f for f in outcome.findings if f.severity is Severity.STOP]
            self.assertEqual(bool(found), outcome.result is Result.REFUSED)
            own = next(set(g) for g in groups if i in g)
            for finding in found:
                self.assertLessEqual(set(finding.rests_on), through | own, finding)

    @examples(300)
    @given(worlds())
    def test_pools_are_never_oversold_and_credits_add_up(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        decision = decide(world.situation(), wanted, world.now)
        moved: dict[int, int] = {}
        for o in decision.outcomes:
            if o.takes is not None:
                moved[o.takes.section.pool] = moved.get(o.takes.section.pool, 0) + 1
            for given_up in o.drops:
                pool = given_up.held.section.pool
                moved[pool] = moved.get(pool, 0) - 1
        for pool, change in moved.items():
            seats = world.seats[pool]
            if change > 0:
                self.assertLessEqual(seats.taken + seats.offered + change, seats.limit)
        self.assertEqual(decision.after.credits, sum(h.credits for h in decision.held))

    @examples(200)
    @given(worlds())
    def test_nothing_accepted_under_all_that_is_refused_under_each(self, made: tuple[World, Request]) -> None:
        world, wanted = made
        together = decide(world.situation(), Request(wanted.changes, Mode.ALL), world.now)
        each = decide(world.situation(), Request(wanted.changes, Mode.EACH), world.now)
        for one, other in zip(together.outcomes, each.outcomes, strict=True):
            if one.result is Result.ACCEPTED:
                self.assertIs(other.result, Result.ACCEPTED)

    @examples(300)
    @given(worlds(), st.randoms())
    def test_where_all_goes_through_the_order_does_not_matter(
        self, made: tuple[World, Request], chance: Random
    ) -> None:
        world, wanted = made
        decision = decide(world.situation(), wanted, world.now)
        changes = list(accepted(wanted, decision).changes)
        chance.shuffle(changes)
        again = decide(world.situation(), Request(tuple(changes), wanted.mode), world.now)
        self.assertEqual(stops(again), [])
        self.assertEqual(numbers(again.held), numbers(decision.held))
        self.assertEqual(again.after, decision.after)

    @examples(400)
    @given(worlds())
    def test_a_change_stopped_by_a_fact_alters_nothing_for_the_others(
        self, made: tuple[World, Request]
    ) -> None:
        world, wanted = made
        wanted = Request(wanted.changes, Mode.EACH)
        decision = decide(world.situation(), wanted, world.now)
        expanded = expand_changes(world.situation(), wanted, world.now)
        groups = group_changes(wanted, expanded, world.catalogue())
        for (index,) in (g for g in groups if len(g) == 1):
            found = [f for f in decision.outcomes[index].findings if f.severity is Severity.STOP]
            if any(not f.rests_on for f in found):
                rest = tuple(c for i, c in enumerate(wanted.changes) if i != index)
                if not _same_ties(world, groups, index, rest):
                    # It was a second candidate for a place: alone, the other is tied to the drop.
                    continue
                without = decide(world.situation(), Request(rest), world.now)
                others = [o.result for i, o in enumerate(decision.outcomes) if i != index]
                self.assertEqual([o.result for o in without.outcomes], others, index)


attempts = st.lists(
    st.builds(
        Attempt,
        st.sampled_from(COURSES),
        st.just("Earlier Term"),
        st.sampled_from(["A", "D-", "F", "W", "P", None]),
        st.just(3.0),
    ),
    max_size=4,
)


class Gates(unittest.TestCase):
    @examples(400)
    @given(worlds(), attempts, st.integers(0, 1))
    def test_no_gate_keeps_a_rule_from_speaking(
        self, made: tuple[World, Request], record: list[Attempt], waiting: int
    ) -> None:
        world, wanted = made
        situation = world.situation()
        situation.record = Record(tuple(record))
        situation.seats = {p: replace(f, waiting=waiting) for p, f in situation.seats.items()}
        decision = decide(situation, wanted, world.now)
        situation.catalogue = replace(situation.catalogue, applicable_rules={})
        ungated = tuple(replace(rule, gate=None) for rule in applicable_rules.BOOK)
        with mock.patch.object(applicable_rules, "BOOK", ungated):
            self.assertEqual(decision, decide(situation, wanted, world.now))


def _same_ties(world: World, groups: list[tuple[int, ...]], without: int, rest: tuple[Change, ...]) -> bool:
    """Whether the others are tied as they were when one change is taken out."""
    wanted = Request(rest)
    found = group_changes(wanted, expand_changes(world.situation(), wanted, world.now), world.catalogue())
    before = {tuple(i - (i > without) for i in g) for g in groups if without not in g}
    return set(found) == before


def _after(world: World, decision: Decision, held: tuple[object, ...]) -> Situation:
    """The situation once the decision is written, with these sections held."""
    seats = dict(world.seats)
    for o in decision.outcomes:
        for given_up in o.drops:
            pool = given_up.held.section.pool
            seats[pool] = seats[pool].after(-1)
    mine = {h.section.id for h in held}  # type: ignore[attr-defined]
    for o in decision.outcomes:
        if o.takes is not None and o.takes.section.id in mine:
            pool = o.takes.section.pool
            seats[pool] = seats[pool].after(1)
    return replace(world.situation(), held=held, seats=seats)  # type: ignore[arg-type]
