"""The search for the first valid set, on systems made up at random."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import dataclass
from random import Random

from gremba.core.registration.deciding.effort import EXACT_GROUPS, MAX_QUESTIONS, Effort
from gremba.core.registration.deciding.interplay import Relations
from gremba.core.registration.deciding.selection import Stops, select
from gremba.core.registration.decision import decide
from tests.support.examples import how_many
from tests.support.world import World, codes, request, results


@dataclass
class System:
    """Groups that exclude one another, and groups that need one of some others."""

    many: int
    excludes: list[int]
    needs: list[list[int]]
    tells_exclusions: bool = False

    def stops(self, group: int, trial: int) -> list[int]:
        """For each stop, those that could free the group from it."""
        before = trial & ((1 << group) - 1)
        found = [0] if self.excludes[group] & before else []
        return found + [need for need in self.needs[group] if not trial & need]

    def is_valid(self, trial: int) -> bool:
        return not any(trial >> g & 1 and self.stops(g, trial) for g in range(self.many))

    def relations(self) -> Relations:
        saved = [0] * self.many
        for group, needs in enumerate(self.needs):
            for need in needs:
                saved[group] |= need & ~(1 << group)
        both = [0] * self.many
        for one, others in enumerate(self.excludes):
            for other in range(self.many):
                if others >> other & 1 and self.tells_exclusions:
                    both[one] |= 1 << other
                    both[other] |= 1 << one
        return Relations(
            [s | e for s, e in zip(saved, self.excludes, strict=True)], [{} for _ in saved], both
        )

    def first_valid(self) -> int:
        for pick in range(2**self.many - 1, -1, -1):
            trial = sum(1 << g for g in range(self.many) if pick >> (self.many - 1 - g) & 1)
            if self.is_valid(trial):
                return trial
        raise AssertionError("nothing at all is always valid")


def make(rng: Random, many: int) -> System:
    excludes = [0] * many
    for one in range(many):
        for other in range(one):
            if rng.random() < 0.2:
                excludes[one] |= 1 << other
    needs = [
        [rng.getrandbits(many) & rng.getrandbits(many) & ~(1 << g) for _ in range(rng.choice([0, 1, 1, 2]))]
        for g in range(many)
    ]
    return System(many, excludes, needs, rng.random() < 0.5)


class Exact(unittest.TestCase):
    def test_it_is_the_first_of_the_valid_sets(self) -> None:
        rng = Random(11)
        for trial in range(1_500):
            system = make(rng, rng.randint(1, EXACT_GROUPS))
            found = select(system.relations(), system.stops, 0)
            self.assertEqual(found.chosen, system.first_valid(), trial)
            self.assertEqual(found.unfinished, 0)
            # Whatever valid set is known beforehand makes no difference.
            known = next(t for t in (rng.getrandbits(system.many) for _ in range(999)) if system.is_valid(t))
            self.assertEqual(found, select(system.relations(), system.stops, 0, witness=known))

    def test_what_is_hopeless_is_never_taken(self) -> None:
        rng = Random(12)
        for _ in range(how_many(300)):
            system = make(rng, 8)
            lost = rng.getrandbits(8)
            without = System(
                8,
                system.excludes,
                [[*needs, 0] if lost >> g & 1 else needs for g, needs in enumerate(system.needs)],
            )
            found = select(system.relations(), system.stops, lost)
            self.assertEqual(found.chosen, without.first_valid())

    def test_the_rules_are_asked_a_bounded_number_of_times(self) -> None:
        rng = Random(13)
        for many in (10, 24, 40):
            for _ in range(40):
                system, asked = make(rng, many), [0]
                select(system.relations(), _counting(system.stops, asked), 0)
                self.assertLessEqual(asked[0], MAX_QUESTIONS + 2 * many * many)


def circle(size: int, full: int | None = None) -> tuple[World, list[str]]:
    """Swaps in a circle: each gives up the hour that the one before it wants."""
    world = World()
    world.student.credit_limit = 200.0
    hours = [f"{'MTWRF'[n % 5]} {8 + n // 5:02d}:00-{8 + n // 5:02d}:50" for n in range(size)]
    for n in range(size):
        world.section(f"{30100 + n}", f"HELD {n}10", hours[n])
        world.section(f"{30200 + n}", f"WANT {n}10", hours[(n + 1) % size], seats=0 if n == full else 10)
    world.section("30999", "LAND 990", hours[0])
    world.held = [f"{30100 + n}" for n in range(size)]
    return world, [f"{30100 + n}>{30200 + n}" for n in range(size)]


class Circles(unittest.TestCase):
    """Changes that hang together as closely as they can; how many, does not matter."""

    def test_it_goes_through_whole_or_not_at_all(self) -> None:
        for size in (10, 12, 39):
            world, swaps = circle(size)
            self.assertEqual(results(world.decide(*swaps, "+30999")), "a" * size + "r", size)
            # The add comes first and needs the circle, which would take its hour in the end.
            self.assertEqual(results(world.decide("+30999", *swaps)), "r" + "a" * size, size)
            for full in (0, size // 2, size - 1):
                world, swaps = circle(size, full)
                self.assertEqual(results(world.decide("+30999", *swaps)), "r" * (size + 1), (size, full))

    def test_few_sets_are_tried(self) -> None:
        for size in (10, 39):
            world, swaps = circle(size, size // 2)
            effort = Effort()
            decision = decide(world.situation(), request(["+30999", *swaps]), world.now, effort)
            self.assertLess(Effort().questions - effort.questions, 3 * size)
            self.assertNotIn("together.unfinished", [c for n in range(size) for c in codes(decision, n)])


class CutShort(unittest.TestCase):
    def test_it_is_sound_and_nothing_refused_could_be_added(self) -> None:
        rng = Random(14)
        cut = 0
        for _ in range(how_many(400)):
            system = make(rng, rng.randint(11, 30))
            found = select(system.relations(), system.stops, 0, Effort(sets=rng.choice([0, 5, 50])))
            self.assertTrue(system.is_valid(found.chosen))
            self.assertFalse(found.unfinished & found.chosen)
            if not found.unfinished:
                continue
            cut += 1
            for group in range(system.many):
                if not found.chosen >> group & 1:
                    self.assertFalse(system.is_valid(found.chosen | 1 << group))
        self.assertGreater(cut, how_many(400) // 4)

    def test_what_stands_by_itself_is_not_lost_with_what_was_not_found(self) -> None:
        # Twelve hold one another up, and the first of the list needs something that takes long to find.
        many = 30
        needs: list[list[int]] = [[] for _ in range(many)]
        for group in range(1, 13):
            needs[group] = [1 << (group % 12 + 1)]
        needs[0] = [sum(1 << g for g in range(13, many)), *needs[0]]
        for group in range(13, many):
            needs[group] = [sum(1 << g for g in range(13, many) if g != group), 1 << 1]
        excludes = [0] * many
        for group in range(13, many):
            excludes[group] = sum(1 << g for g in range(13, group)) | 1 << 12
        system = System(many, excludes, needs)
        for sets in (0, 1, 10, 100):
            found = select(system.relations(), system.stops, 0, Effort(sets=sets))
            self.assertTrue(system.is_valid(found.chosen))
            self.assertEqual(found.chosen & 0b1111111111110, 0b1111111111110, sets)

    def test_it_is_said(self) -> None:
        world = World()
        for n in range(12):
            # Each clashes with the next and is freed by giving up what stands in its way.
            hours = [f"{8 + k // 2:02d}:{30 * (k % 2):02d}" for k in (n, n + 2)]
            world.section(f"{30100 + n}", f"LAND {n}10", f"M {hours[0]}-{hours[1]}")
        numbers = sorted(world.sections)
        world.held = numbers[::2]
        chain = [f"{a}>{b}" for a, b in zip(world.held, numbers[1::2], strict=True)]
        wanted = request(["+" + numbers[1], *chain])
        with_effort = decide(world.situation(), wanted, world.now)
        without = decide(world.situation(), wanted, world.now, Effort(sets=0))
        self.assertEqual(set(results(with_effort)) & set("ar"), set("ar"))
        said = [c for n in range(len(wanted.changes)) for c in codes(without, n)]
        self.assertIn("together.unfinished", said)
        self.assertNotIn(
            "together.unfinished", [c for n in range(len(wanted.changes)) for c in codes(with_effort, n)]
        )


def _counting(asked: Stops, many: list[int]) -> Stops:
    def ask(group: int, trial: int) -> Sequence[int]:
        many[0] += 1
        return asked(group, trial)

    return ask
