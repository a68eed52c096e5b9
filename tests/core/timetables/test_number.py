"""The number of timetables, against complete solvers and against trying everything; the order, against
sorting all."""

from __future__ import annotations

import unittest
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from itertools import combinations, islice
from unittest import mock

from benchmarks.fitting import large_term, questions
from gremba.core.catalogue.term import Section
from gremba.core.timetables.answer import answer
from gremba.core.timetables.best import best_first
from gremba.core.timetables.criteria import measures_of
from gremba.core.timetables.gaps import Gaps, _Hole, _Phase
from gremba.core.timetables.instance import Instance, Option
from gremba.core.timetables.question import Criterion, Question, Want
from gremba.core.timetables.searching import Search, Steps
from gremba.core.timetables.sought import WantState
from tests.core.timetables.invented import Invented, invent
from tests.core.timetables.plainly import Plainly
from tests.core.timetables.solvers import Pairs, count_by_backtracking, count_by_cp_sat
from tests.support.examples import how_many
from tests.support.world import World

INSTANCES = how_many(300)


def search_of(invented: Invented, steps: Steps | None = None) -> Search:
    """The search for timetables with all that is wanted, needed or not."""
    instance = Instance(invented.situation, invented.question, invented.world.now)
    wants = [n for n, s in enumerate(instance.sought) if s.state not in (WantState.HELD, WantState.TWICE)]
    return Search(instance, instance.slots_of(wants), instance.everything, once=True, steps=steps)


def look_of(sections: Sequence[Section]) -> object:
    """What makes two timetables the same: the courses at their hours, dates and campuses."""
    return frozenset(
        Counter(
            (
                s.course.key,
                s.component,
                s.bundle,
                frozenset((m.days, m.start, m.end, m.campus) for m in s.meetings),
                s.campus if not s.meetings else "",
            )
            for s in sections
        ).items()
    )


class Number(unittest.TestCase):
    """The exact number of timetables."""

    def test_against_trying_everything(self) -> None:
        """Invented instances, with all that makes them odd: halves of the term, linked sections,
        bundles, choices, hours between dates, seats, tight ways, credit limits, what is registered."""
        some = 0
        for seed in range(INSTANCES):
            invented = invent(seed)
            plainly = Plainly(invented.situation, invented.question)
            every = plainly.timetables(plainly.everything(), range(len(invented.question.wants)))
            expected = len({look_of(sections) for sections in every})
            some += expected > 1
            with self.subTest(seed=seed):
                self.assertEqual(search_of(invented).count().value, expected)
        self.assertGreater(some, INSTANCES // 4)

    def test_against_two_complete_solvers(self) -> None:
        """The same, with the clashes found date by date, by OR-tools CP-SAT and python-constraint2."""
        for seed in range(INSTANCES):
            invented = invent(seed, plain=True)
            search = search_of(invented)
            sizes, apart, credits = _tables(search, Plainly(invented.situation, invented.question))
            number = search.count()
            with self.subTest(seed=seed):
                self.assertTrue(number.is_exact)
                expected, is_whole = count_by_cp_sat(sizes, apart, credits, search.room)
                self.assertTrue(is_whole)
                self.assertEqual(number.value, expected)
                self.assertEqual(number.value, count_by_backtracking(sizes, apart, credits, search.room))

    def test_where_steps_end_it_is_at_least_so_many(self) -> None:
        counted = ended = 0
        for seed in range(60):
            expected = search_of(invent(seed)).count().value
            for most in (3, 12, 40):
                number = search_of(invent(seed), Steps(most)).count()
                self.assertLessEqual(number.value, expected)
                if number.is_exact:
                    self.assertEqual(number.value, expected)
                    counted += 1
                else:
                    ended += 1
        self.assertGreater(counted, 10)
        self.assertGreater(ended, 10)

    def test_counting_ends_soon_after_the_most(self) -> None:
        search = next(s for s in (search_of(invent(n)) for n in range(200)) if s.count().value > 50)
        again = Search(
            search.instance, range(len(search.instance.slots)), search.instance.everything, once=True
        )
        number = again.count(most=20)
        self.assertEqual(number.value, 21)
        self.assertTrue(number.is_exact)


class Order(unittest.TestCase):
    """The best first, without sorting all."""

    def test_against_sorting_the_whole_list(self) -> None:
        for seed in range(INSTANCES * 2):
            invented = invent(seed)
            search = search_of(invented)
            measures = measures_of(search, invented.question.criteria)
            walked = list(islice(best_first(search, measures), 3_000))
            if len(walked) == 3_000:
                continue
            plainly = Plainly(invented.situation, invented.question)
            options = search.instance.options
            measured = [
                (plainly.measures([s for n in w.options for s in options[n].sections]), w.options)
                for w in walked
            ]
            with self.subTest(seed=seed, criteria=invented.question.criteria):
                self.assertEqual(len(walked), search_of(invented).count().value)
                self.assertEqual(len({w.options for w in walked}), len(walked))
                self.assertEqual([tuple(m) for m, _ in measured], [w.key for w in walked])
                self.assertEqual(measured, sorted(measured))

    def test_a_gap_is_longer_than_half_an_hour(self) -> None:
        for hour, gaps in (("10:20", 0), ("10:21", 1)):
            world = World()
            world.section("30001", "SOIL 110", "M 09:00-09:50")
            world.section("30002", "BAKE 120", f"M {hour}-11:30")
            question = Question((Want(("SOIL 110",)), Want(("BAKE 120",))), criteria=(Criterion.FEW_GAPS,))
            (found,) = answer(world.situation(), question, world.now).timetables
            instance = Instance(world.situation(), question, world.now)
            search = Search(instance, range(2), instance.everything, once=True)
            (chosen,) = best_first(search, measures_of(search, question.criteria))
            with self.subTest(hour):
                self.assertEqual((found.gaps, chosen.key), (gaps, (gaps,)))

    def test_looking_ahead_changes_no_order(self) -> None:
        """Also on a term of 5,000 sections, where looking ahead leaves out most of the work."""
        world = large_term()
        situation = world.situation()
        searches = [search_of(invent(seed)) for seed in range(INSTANCES // 2)]
        for question in questions("b", world, 2):
            instance = Instance(situation, question, world.now)
            searches.append(Search(instance, range(len(instance.slots)), instance.everything, once=True))
        for number, search in enumerate(searches):
            walks = []
            for looks_ahead in (True, False):
                search.steps = Steps()
                with mock.patch.object(Gaps, "looks_ahead", looks_ahead):
                    measures = measures_of(search, (Criterion.FEW_GAPS, Criterion.STARTS_LATE))
                    walks.append(list(islice(best_first(search, measures), 50)))
            with self.subTest(number=number):
                self.assertEqual(*walks)

    def test_what_a_measure_remembers_changes_no_order(self) -> None:
        week = _Phase._week

        def forgetful(phase: _Phase, chosen: Sequence[Option]) -> tuple[list[int], list[list[_Hole]]]:
            phase._before = [], phase._fixed
            phase._found = [0] * len(phase._found)
            phase._order.sort(reverse=True)
            return week(phase, chosen)

        world = large_term()
        situation = world.situation()
        searches = [search_of(invent(seed)) for seed in range(INSTANCES // 2)]
        for question in questions("b", world, 2):
            instance = Instance(situation, question, world.now)
            searches.append(Search(instance, range(len(instance.slots)), instance.everything, once=True))
        for number, search in enumerate(searches):
            walks = []
            for remembering in (week, forgetful):
                search.steps = Steps()
                with mock.patch.object(_Phase, "_week", remembering):
                    walks.append(
                        list(islice(best_first(search, measures_of(search, (Criterion.FEW_GAPS,))), 50))
                    )
            with self.subTest(number=number):
                self.assertEqual(*walks)

    def test_looking_ahead_leaves_a_gap_to_the_other_slots(self) -> None:
        """One way of SOIL 110 has a gap that BAKE 120 fills, the other one that nothing fills; CRAF 130
        meets on other days and fills none."""
        for first, second in ("MT", "TM"):
            world = World()
            world.section("30001", "SOIL 110", f"{first} 09:00-09:50", f"{first} 13:00-13:50")
            world.section("30002", "SOIL 110", f"{second} 09:00-09:50", f"{second} 13:00-13:50")
            world.section("30003", "BAKE 120", "M 10:00-12:40")
            world.section("30004", "BAKE 120", "W 10:00-12:40")
            world.section("30005", "BAKE 120", "R 10:00-12:40")
            for number, start in enumerate((9, 10, 11, 12), start=30006):
                world.section(f"{number}", "CRAF 130", f"F {start:02d}:00-{start:02d}:50")
            question = Question((Want(("SOIL 110",)), Want(("BAKE 120",)), Want(("CRAF 130",))))
            search = Search(
                Instance(world.situation(), question, world.now), range(3), 0, once=True, steps=Steps()
            )
            walked = best_first(search, measures_of(search, (Criterion.FEW_GAPS,)))
            with self.subTest(first=first):
                self.assertEqual([chosen.key for chosen in walked], [(0,)] * 4 + [(1,)] * 20)

    def test_fifty_of_millions_are_in_order(self) -> None:
        """On a term of 5,000 sections, where the measure comes first whose bound is the hardest."""
        world = large_term()
        situation = world.situation()
        for kind, criterion in (
            ("b", Criterion.SHORT_DAYS),
            ("b", Criterion.FEW_GAPS),
            ("c", Criterion.SHORT_DAYS),
            ("c", Criterion.FEW_GAPS),
            ("c", Criterion.FEW_WAYS),
        ):
            for question in questions(kind, world, 2):
                ordered = replace(question, criteria=(criterion,))
                timetables = answer(situation, ordered, world.now, many=50).timetables
                with self.subTest(kind=kind, criterion=criterion):
                    self.assertEqual([t.is_in_order for t in timetables], [True] * 50)

    def test_whoever_goes_there_on_one_date_goes_there_in_one_week(self) -> None:
        """Two visits to another campus in different weeks are not ways of one week."""
        world = World()
        world.section("30001", "SOIL 110", "M 09:00-09:50 hill")
        world.section("30002", "SOIL 110", "M 10:00-10:50 mill 2027-09-13 2027-09-13")
        world.section("30003", "BAKE 120", "M 12:00-12:50 mill 2027-10-04 2027-10-04", "M 11:00-11:50 hill")
        world.section("30004", "CRAF 130", "M 10:00-10:50 mill 2027-09-13 2027-09-13")
        question = Question((Want(("SOIL 110",)), Want(("BAKE 120",)), Want(("CRAF 130",))))
        situation = world.situation()
        instance = Instance(situation, question, world.now)
        search = Search(instance, range(3), instance.everything, once=True)
        (best, *_) = best_first(search, measures_of(search, (Criterion.FEW_WAYS,)))
        # On 13 September to the mill and back; on 4 October there only.
        self.assertEqual(best.key, (2,))


def _tables(search: Search, plainly: Plainly) -> tuple[list[int], Pairs, list[list[int]]]:
    """The instance for a solver: options of each slot, pairs that clash, credits in tenths."""
    options = search.instance.options
    slots = [[n for n in range(len(options)) if mask >> n & 1] for mask in search.masks]
    apart = frozenset(
        (one, a, other, b)
        for one, other in combinations(range(len(slots)), 2)
        for a, mine in enumerate(slots[one])
        for b, theirs in enumerate(slots[other])
        if plainly.stand_apart(options[mine].sections, options[theirs].sections)
    )
    credits = [
        [round(10 * sum(s.credits_for(None) for s in options[n].sections)) for n in slot] for slot in slots
    ]
    return [len(s) for s in slots], apart, credits
