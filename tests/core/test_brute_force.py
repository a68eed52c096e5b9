"""What goes through, against an independent brute force over all subsets (tests/core/plain_term)."""

from __future__ import annotations

import os
import unittest
from concurrent.futures import ProcessPoolExecutor
from unittest import mock

from gremba.core import board
from gremba.core.applicable_rules import BOOK
from gremba.core.decision import decide
from gremba.core.interplay import Relations
from gremba.core.outcome import Decision, Result
from tests.core import plain_term
from tests.support.world import World

MANY = int(os.environ.get("GREMBA_REQUESTS", "20000"))
"""Requests that are compared; fewer while one works on something."""
CLEVER = MANY * 3 // 100
"""So many of them, at least, in which going through the changes one by one would end otherwise."""


def _compare(seeds: range) -> tuple[list[str], int]:
    wrong, clever = [], 0
    for seed in seeds:
        term, wanted = plain_term.make(seed)
        expected = plain_term.first_valid(term, wanted)
        if _through(_decided(seed)[1]) != expected:
            wrong.append(f"seed {seed}: {wanted}")
        clever += expected != plain_term.taken_one_by_one(term, wanted)
    return wrong, clever


def _decided(seed: int) -> tuple[World, Decision]:
    term, wanted = plain_term.make(seed)
    world = plain_term.as_world(term)
    return world, decide(world.situation(), plain_term.as_request(wanted), world.now)


def _through(decision: Decision) -> set[int]:
    return {i for i, o in enumerate(decision.outcomes) if o.result is not Result.REFUSED}


class WhatGoesThrough(unittest.TestCase):
    def test_it_is_the_first_of_the_valid_sets(self) -> None:
        with ProcessPoolExecutor(2) as pool:
            halves = list(pool.map(_compare, (range(0, MANY, 2), range(1, MANY, 2))))
        self.assertEqual([w for wrong, _ in halves for w in wrong], [])
        self.assertGreaterEqual(sum(clever for _, clever in halves), CLEVER)

    def test_tables_receipt_and_week_would_say_the_same(self) -> None:
        for seed in range(MANY // 20):
            world, decision = _decided(seed)
            held = {h.section.reference_number: h.credits for h in world.situation().held}
            for outcome in decision.outcomes:
                for gone in outcome.drops:
                    self.assertIn(gone.held.section.reference_number, held, seed)
                    del held[gone.held.section.reference_number]
            for outcome in decision.outcomes:
                if outcome.adjusted is not None:
                    number = outcome.adjusted.held.section.reference_number
                    self.assertIn(number, held, seed)
                    held[number] = outcome.adjusted.held.credits
                if outcome.takes is not None:
                    self.assertNotIn(outcome.takes.section.reference_number, held, seed)
                    held[outcome.takes.section.reference_number] = outcome.takes.credits
            after = {h.section.reference_number: h.credits for h in decision.held}
            self.assertEqual(held, after, seed)
            self.assertEqual(decision.after.credits, sum(held.values()), seed)


class WhatIsSpared(unittest.TestCase):
    """What is kept or left out for speed changes nothing."""

    def test_asking_only_where_something_can_alter_the_answer(self) -> None:
        def all_of_them(situation: object, groups: list[object]) -> Relations:
            everybody = (1 << len(groups)) - 1
            others = [everybody & ~(1 << index) for index in range(len(groups))]
            return Relations(others, others, [0 for _ in groups])

        for seed in range(MANY // 30):
            usual = _decided(seed)[1]
            with mock.patch.object(board, "find_relations", all_of_them):
                self.assertEqual(usual, _decided(seed)[1], seed)

    def test_which_rules_are_asked_on_one_warm_catalogue(self) -> None:
        for seed in range(MANY // 150):
            term, _ = plain_term.make(seed)
            world = plain_term.as_world(term)
            warm = world.situation()
            for other in range(8):
                # Requests of other seeds name some sections of this term, and some that it has not.
                wanted = plain_term.as_request(plain_term.make(seed + other)[1])
                asked_warm = decide(warm, wanted, world.now)
                self.assertEqual(asked_warm, decide(world.situation(), wanted, world.now), seed)

    def test_a_section_without_a_waitlist_leaves_the_others_watched(self) -> None:
        world = World()
        world.section("30001", "SOIL 110", "M 10:00-11:00")
        world.section("30002", "HIST 110", "T 10:00-11:00", waitlist_limit=1)
        world.seats[2].waiting = 1
        situation = world.situation()
        for number, code in (("30001", "wait.none"), ("30002", "wait.full")):
            wanted = plain_term.as_request([plain_term.Wanted("?", number)])
            found = [f.code for f in decide(situation, wanted, world.now).outcomes[0].findings]
            self.assertIn(code, found)

    def test_every_rule_says_what_it_looks_at_of_a_section(self) -> None:
        # A rule without a word is asked of every section, which is never wrong.
        self.assertGreater(sum(rule.of_section is not None for rule in BOOK), 15)
