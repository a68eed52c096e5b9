"""What goes through, against an independent brute force over all subsets (tests/core/registration/plain_term)."""

from __future__ import annotations

import os
import unittest
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from unittest import mock

from gremba.core.catalogue.term import Section
from gremba.core.registration import decision
from gremba.core.registration.changes import Kind
from gremba.core.registration.deciding import applicable_rules, board
from gremba.core.registration.deciding.applicable_rules import BOOK, all_name_what_they_depend_on
from gremba.core.registration.deciding.interplay import Relations, everything_matters
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules.case import Case, Rule, rule
from tests.core.registration import plain_term
from tests.support.examples import how_many
from tests.support.world import World

MANY = int(os.environ.get("GREMBA_REQUESTS", how_many(20_000)))
"""Requests that are compared."""
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

    def test_tables_confirmation_and_week_would_say_the_same(self) -> None:
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


def _is_late(section: Section) -> bool:
    return section.meetings[0].start >= 10 * 60


@rule("made.one_late", Severity.STOP, Kind.ADD, Kind.SWAP)
def at_most_one_late(case: Case, me: Rule) -> Iterator[Finding]:
    """At most one of the sections that the student would have begins at ten or later.

    Why: A rule about the whole request, of which the decision has never heard.

    Ways on: None.
    """
    if _is_late(case.section) and sum(map(_is_late, case.end.sections)) > 1:
        yield me.finding("More than one is late.")


@rule("made.early_first", Severity.STOP, Kind.ADD)
def late_only_with_early(case: Case, me: Rule) -> Iterator[Finding]:
    """Nothing late is added unless something of another course is early.

    Why: A change is freed by others that have nothing else in common with it.

    Ways on: None.
    """
    if _is_late(case.section) and not any(
        not _is_late(s) and s.course is not case.section.course for s in case.end.sections
    ):
        yield me.finding("Only with something early.")


def _is_plainly_late(section: plain_term.Offered) -> bool:
    return section.text.split()[1] >= "10:00"


def _plainly_at_most_one(end: Sequence[plain_term.Offered], add: plain_term.Offered) -> bool:
    return _is_plainly_late(add) and sum(map(_is_plainly_late, end)) > 1


def _plainly_with_early(end: Sequence[plain_term.Offered], add: plain_term.Offered) -> bool:
    return _is_plainly_late(add) and not any(not _is_plainly_late(s) and s.course != add.course for s in end)


class RulesNeverSeen(unittest.TestCase):
    """A rule written as CONTRIBUTING says, without a word on what it depends on, is right at once."""

    def compare(self, new: Rule, plainly: plain_term.Unheard) -> int:
        mattered = 0
        with _book(*BOOK, new):
            for seed in range(MANY // 20):
                term, wanted = plain_term.make(seed)
                expected = plain_term.first_valid(term, wanted, plainly)
                self.assertEqual(_through(_decided(seed)[1]), expected, f"seed {seed}: {wanted}")
                mattered += expected != plain_term.first_valid(term, wanted)
        return mattered

    def test_about_the_whole_request(self) -> None:
        self.assertGreater(self.compare(at_most_one_late, _plainly_at_most_one), MANY // 1000)

    def test_freed_by_a_change_that_no_other_rule_connects_with_it(self) -> None:
        self.assertGreater(self.compare(late_only_with_early, _plainly_with_early), MANY // 1000)

    def test_one_that_names_less_than_it_depends_on_lets_nothing_through(self) -> None:
        lies = replace(at_most_one_late, depends_on=frozenset())
        fell_back = 0
        with _book(*BOOK, lies), mock.patch.object(decision, "_log") as log:
            for seed in range(MANY // 20):
                for outcome in _decided(seed)[1].outcomes:
                    stops = [f for f in outcome.findings if f.severity is Severity.STOP]
                    self.assertEqual(bool(stops), outcome.result is Result.REFUSED, seed)
            fell_back = log.error.call_count
        self.assertGreater(fell_back, 0)

    def test_nothing_is_decided_before_the_seats_are_locked(self) -> None:
        self.assertTrue(all_name_what_they_depend_on())
        with _book(*BOOK, at_most_one_late):
            self.assertFalse(all_name_what_they_depend_on())


def _book(*rules: Rule) -> mock._patch[tuple[Rule, ...]]:
    return mock.patch.object(applicable_rules, "BOOK", rules)


class WhatIsSpared(unittest.TestCase):
    """What is kept or left out for speed changes nothing."""

    def test_asking_only_where_something_can_alter_the_answer(self) -> None:
        def all_of_them(situation: object, groups: list[object], matters: object) -> Relations:
            return everything_matters(len(groups))

        for seed in range(MANY // 30):
            usual = _decided(seed)[1]
            with mock.patch.object(board, "find_relations", all_of_them):
                self.assertEqual(usual, _decided(seed)[1], seed)

    def test_each_rule_names_all_that_its_answer_depends_on(self) -> None:
        # Without the first three a decision could not be written down; what excludes what is known
        # from the others.
        needed = (
            "drop.not_held",
            "adjust.not_held",
            "together.contradiction",
            "time.conflict",
            "course.twice_in_cart",
        )
        always = tuple(r for r in BOOK if r.code in needed)

        def all_of_them(situation: object, groups: list[object], matters: object) -> Relations:
            return everything_matters(len(groups))

        for mine in BOOK:
            if mine.severity is not Severity.STOP or mine.depends_on is None or mine in always:
                continue
            with _book(*always, mine):
                for seed in range(MANY // 200):
                    usual = _through(_decided(seed)[1])
                    with mock.patch.object(board, "find_relations", all_of_them):
                        self.assertEqual(usual, _through(_decided(seed)[1]), (mine.code, seed))

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
