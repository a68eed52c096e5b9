"""The search for the first valid set, on systems made up at random."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import dataclass
from random import Random

from gremba.core import selection
from gremba.core.decision import decide
from gremba.core.interplay import Relations
from gremba.core.selection import Effort, select
from tests.support.world import World, codes, request, results


@dataclass
class System:
    """Groups that exclude one another, and groups that need one of some others."""

    many: int
    excludes: list[int]
    needs: list[list[int]]
    tells_exclusions: bool = False

    def is_stopped(self, group: int, trial: int) -> bool:
        before = trial & ((1 << group) - 1)
        if self.excludes[group] & before:
            return True
        return any(not trial & need for need in self.needs[group])

    def is_valid(self, trial: int) -> bool:
        return not any(trial >> g & 1 and self.is_stopped(g, trial) for g in range(self.many))

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
        return Relations([s | e for s, e in zip(saved, self.excludes, strict=True)], saved, both)

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
            system = make(rng, rng.randint(1, selection.EXACT))
            found = select(system.relations(), system.is_stopped, 0)
            self.assertEqual(found.chosen, system.first_valid(), trial)
            self.assertEqual(found.unfinished, 0)
            # Whatever valid set is known beforehand makes no difference.
            known = next(t for t in (rng.getrandbits(system.many) for _ in range(999)) if system.is_valid(t))
            self.assertEqual(found, select(system.relations(), system.is_stopped, 0, witness=known))

    def test_what_is_hopeless_is_never_taken(self) -> None:
        rng = Random(12)
        for _ in range(300):
            system = make(rng, 8)
            lost = rng.getrandbits(8)
            without = System(
                8,
                system.excludes,
                [[*needs, 0] if lost >> g & 1 else needs for g, needs in enumerate(system.needs)],
            )
            found = select(system.relations(), system.is_stopped, lost)
            self.assertEqual(found.chosen, without.first_valid())

    def test_the_rules_are_asked_a_bounded_number_of_times(self) -> None:
        rng = Random(13)
        for many in (10, 24, 40):
            for _ in range(40):
                system, asked = make(rng, many), [0]
                select(system.relations(), _counting(system.is_stopped, asked), 0)
                self.assertLessEqual(asked[0], many * (1 << selection.EXACT) + many * many)


class CutShort(unittest.TestCase):
    def test_it_is_sound_and_nothing_refused_could_be_added(self) -> None:
        rng = Random(14)
        cut = 0
        for _ in range(400):
            system = make(rng, rng.randint(11, 30))
            found = select(system.relations(), system.is_stopped, 0, Effort(rng.choice([0, 5, 50])))
            self.assertTrue(system.is_valid(found.chosen))
            self.assertFalse(found.unfinished & found.chosen)
            if not found.unfinished:
                continue
            cut += 1
            for group in range(system.many):
                if not found.chosen >> group & 1:
                    self.assertFalse(system.is_valid(found.chosen | 1 << group))
        self.assertGreater(cut, 100)

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
        without = decide(world.situation(), wanted, world.now, Effort(0))
        self.assertEqual(set(results(with_effort)) & set("ar"), set("ar"))
        said = [c for n in range(len(wanted.changes)) for c in codes(without, n)]
        self.assertIn("together.unfinished", said)
        self.assertNotIn(
            "together.unfinished", [c for n in range(len(wanted.changes)) for c in codes(with_effort, n)]
        )


def _counting(asked: Callable[[int, int], bool], many: list[int]) -> Callable[[int, int], bool]:
    def ask(group: int, trial: int) -> bool:
        many[0] += 1
        return asked(group, trial)

    return ask
