"""Why there is none: the smallest impossible sets, against trying every subset."""

from __future__ import annotations

import unittest
from collections import Counter
from collections.abc import Sequence
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.timetables.answer import answer
from gremba.core.timetables.instance import Element, ElementKind, Instance
from gremba.core.timetables.reasons import MOST_SETS, Possible, impossible_sets, smallest_impossible
from gremba.core.timetables.searching import Steps
from tests.core.timetables.invented import Invented, invent
from tests.core.timetables.plainly import Demand, Plainly
from tests.support.examples import how_many


class Sets(unittest.TestCase):
    """Which sets are named."""

    def test_against_trying_every_subset(self) -> None:
        """Of up to eleven elements each subset is tried by plain code, smallest first."""
        tried: Counter[int] = Counter()
        for seed in range(how_many(160)):
            invented = invent(seed)
            instance = Instance(invented.situation, invented.question, invented.world.now)
            possible = Possible(instance, Steps())
            elements = possible.of(possible.universe)
            if possible(possible.universe) or len(elements) > 11:
                continue
            found, is_whole = impossible_sets(possible)
            self.assertTrue(is_whole)
            expected = _by_trying(invented, elements)
            tried.update(len(one) for one in expected)
            with self.subTest(seed=seed):
                self.assertEqual([list(one) for one in found], expected)
        self.assertGreater(tried.total(), 25)
        self.assertGreater(len(tried), 3)

    @given(st.integers(1, 8), st.lists(st.sets(st.integers(0, 7), min_size=1, max_size=4), max_size=6))
    def test_any_family_of_impossible_sets_is_found(self, size: int, family: list[set[int]]) -> None:
        """The law: what is impossible is what holds a set of the family; found are its smallest
        members that hold no other, in order."""
        kept = [s for s in family if all(e < size for e in s)]
        masks = {sum(1 << e for e in s) for s in kept}
        least = [m for m in masks if not any(o != m and o & m == o for o in masks)]
        found = list(
            smallest_impossible((1 << size) - 1, lambda chosen: not any(m & chosen == m for m in masks))
        )
        bits = [[n for n in range(size) if m >> n & 1] for m in found]
        self.assertEqual(sorted(found), sorted(least))
        self.assertEqual(bits, sorted(bits, key=lambda b: (len(b), b)))

    def test_steps_that_end_say_so(self) -> None:
        invented = next(i for i in map(invent, range(300)) if _is_tangled(i))
        instance = Instance(invented.situation, invented.question, invented.world.now)
        _, is_whole = impossible_sets(Possible(instance, Steps(1)))
        self.assertFalse(is_whole)


class WaysOn(unittest.TestCase):
    """Each reason is a sentence with ways on that act."""

    def test_every_way_on_makes_its_own_set_possible(self) -> None:
        """The law: asked with a way on taken, the reason it stands by is not met any more."""
        taken = 0
        for seed in range(how_many(220)):
            invented = invent(seed)
            found = answer(invented.situation, invented.question, invented.world.now)
            for reason in found.reasons:
                self.assertTrue(reason.title)
                self.assertTrue(reason.ways_on, reason.title)
                for way_on in reason.ways_on:
                    if way_on.question is None:
                        continue
                    taken += 1
                    again = answer(invented.situation, way_on.question, invented.world.now)
                    with self.subTest(seed=seed, reason=reason.title, way_on=way_on.text):
                        self.assertNotIn(reason.title, [r.title for r in again.reasons])
        self.assertGreater(taken, 100)

    def test_the_nearest_leaves_out_one_want_if_that_is_enough(self) -> None:
        alone = 0
        for seed in range(how_many(120)):
            invented = invent(seed)
            found = answer(invented.situation, invented.question, invented.world.now)
            if found.nearest is None:
                continue
            self.assertGreater(found.nearest.number.value, 0)
            self.assertTrue(found.nearest.without)
            alone += len(found.nearest.without) == 1
        self.assertGreater(alone, how_many(120) // 12)


def _is_tangled(invented: Invented) -> bool:
    found = answer(invented.situation, invented.question, invented.world.now)
    return bool(found.reasons) and any(len(r.elements) > 2 for r in found.reasons)


def _by_trying(invented: Invented, elements: Sequence[Element]) -> list[list[Element]]:
    plainly = Plainly(invented.situation, invented.question)
    wants = len(invented.question.wants)
    expected: list[list[Element]] = []
    for size in range(len(elements) + 1):
        for chosen in combinations(elements, size):
            if any(all(e in chosen for e in one) for one in expected):
                continue
            if not _is_possible(plainly, chosen, wants):
                expected.append(list(chosen))
            if len(expected) == MOST_SETS:
                return expected
    return expected


def _is_possible(plainly: Plainly, chosen: Sequence[Element], wants: int) -> bool:
    def of(kind: ElementKind) -> list[Element]:
        return [e for e in chosen if e.kind is kind]

    wanted = [e.index for e in of(ElementKind.WANT)]
    demand = Demand(
        frozenset(n for n in wanted if n < wants),
        frozenset(e.index for e in of(ElementKind.NARROWING)),
        frozenset(e.index for e in of(ElementKind.KEPT_FREE)),
        bool(of(ElementKind.SEATS)),
        bool(of(ElementKind.WAYS)),
        bool(of(ElementKind.LIMIT)),
        frozenset(e.name for e in of(ElementKind.HELD)),
    )
    return plainly.is_possible(demand, [n for n in wanted if n < wants], any(n >= wants for n in wanted))
