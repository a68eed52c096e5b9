"""A machine follows the first way on of every stop, as the page shows them, in carts made at random."""

from __future__ import annotations

import os
import unittest
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

from gremba.core.registration.alternatives.substitutes import find_substitutes
from gremba.core.registration.alternatives.ways_on import follow, keep_what_helps
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Action, GoTo, Remedy, SeeChange, Severity, TakeOut, put
from gremba.core.registration.outcome import Decision, Result
from tests.core.registration import plain_term
from tests.support.world import World

MANY = int(os.environ.get("GREMBA_FOLLOWED", "1000"))
MOST_STEPS = 8


def cart_of(wanted: Sequence[plain_term.Wanted]) -> Request:
    """The request as a cart holds it: each section once."""
    return plain_term.as_request(list({w.number: w for w in reversed(wanted)}.values())[::-1])


def look(world: World, request: Request) -> tuple[Decision, dict[int, tuple[Remedy, ...]]]:
    """What the cart shows."""
    situation, effort = world.situation(), Effort()
    decision = decide(situation, request, world.now, effort)
    substitutes = find_substitutes(situation, request, decision, world.now, effort)
    keep_what_helps(situation, request, decision, world.now, effort)
    return decision, substitutes


def first_way(decision: Decision, substitutes: dict[int, tuple[Remedy, ...]], index: int) -> Action | None:
    """The first button of a change."""
    findings = decision.outcomes[index].findings
    ways = [*substitutes.get(index, ()), *(r for f in findings for r in f.remedies)]
    return next((way.action for way in ways if way.action is not None), None)


def key_of(request: Request) -> tuple[tuple[str, str, str], ...]:
    return tuple((c.kind.value, c.number, c.in_exchange) for c in request.changes)


class Following(unittest.TestCase):
    def test_every_stop_ends_well_in_a_few_steps(self) -> None:
        with ProcessPoolExecutor(2) as pool:
            ends = sum(pool.map(_ends_of, (range(0, MANY, 2), range(1, MANY, 2))), Counter[str]())
        for end in ("accepted", "waiting", "a place or person", "somebody to ask"):
            self.assertGreater(ends[end], MANY // 10, ends)


def _ends_of(seeds: range) -> Counter[str]:
    ends: Counter[str] = Counter()
    for seed in seeds:
        term, wanted = plain_term.make(seed)
        cart = Cart(plain_term.as_world(term))
        request = cart_of(wanted)
        for index, outcome in enumerate(cart.look(request)[0].outcomes):
            if outcome.result is Result.REFUSED:
                ends[cart.follow_to_the_end(request, index, f"seed {seed}, change {index}")] += 1
    return ends


class Cart(unittest.TestCase):
    """A cart that is looked at and followed; what was looked at before need not be again."""

    def __init__(self, world: World) -> None:
        super().__init__()
        self.world = world
        self.seen: dict[object, tuple[Decision, dict[int, tuple[Remedy, ...]]]] = {}

    def look(self, request: Request) -> tuple[Decision, dict[int, tuple[Remedy, ...]]]:
        """What the cart shows."""
        if key_of(request) not in self.seen:
            self.seen[key_of(request)] = look(self.world, request)
        return self.seen[key_of(request)]

    def follow_to_the_end(self, request: Request, index: int, where: str) -> str:
        """How it ends; each step is one that the cart takes, and none leads back."""
        world = self.world
        seen = {(key_of(request), index)}
        for _ in range(MOST_STEPS + 1):
            decision, substitutes = self.look(request)
            outcome = decision.outcomes[index]
            if outcome.result is not Result.REFUSED:
                return outcome.result.value
            action = first_way(decision, substitutes, index)
            stops = [f for f in outcome.findings if f.severity is Severity.STOP]
            if action is None:
                if any(f.ask for f in stops):
                    return "somebody to ask"
                # A sentence that says what the student can do, or that there is nothing to be done.
                self.assertTrue(
                    any(f.remedies for f in stops) or any("already" in f.text for f in stops), (where, stops)
                )
                return "the student's own choice"
            if isinstance(action, GoTo):
                return "a place or person"
            if isinstance(action, SeeChange):
                index = next(n for n, c in enumerate(request.changes) if c.number == action.number)
            else:
                after = follow(world.situation(), request, index, action, world.now)
                assert after is not None, (where, action, "cannot be put in")
                request, index = after
            self.assertNotIn((key_of(request), index), seen, (where, "leads back"))
            seen.add((key_of(request), index))
        self.fail(f"{where}: more than {MOST_STEPS} steps")


class WhatIsOffered(unittest.TestCase):
    def test_what_is_left_for_want_of_effort_is_not_offered(self) -> None:
        for seed in range(MANY // 10):
            term, wanted = plain_term.make(seed)
            world, request = plain_term.as_world(term), cart_of(wanted)
            decision = decide(world.situation(), request, world.now)
            keep_what_helps(world.situation(), request, decision, world.now, Effort(changes=0))
            for outcome in decision.outcomes:
                for finding in outcome.findings:
                    for way in finding.remedies:
                        self.assertTrue(way.action is None or isinstance(way.action, GoTo | SeeChange))

    def test_what_goes_through_is_left_as_it_is(self) -> None:
        for seed in range(MANY // 10):
            term, wanted = plain_term.make(seed)
            world, request = plain_term.as_world(term), cart_of(wanted)
            plain = decide(world.situation(), request, world.now)
            shown, _ = look(world, request)
            for one, other in zip(plain.outcomes, shown.outcomes, strict=True):
                self.assertEqual([f.text for f in one.findings], [f.text for f in other.findings])
                if one.result is not Result.REFUSED:
                    self.assertEqual(one, other)

    def test_a_change_put_in_stands_as_the_cart_would_have_it(self) -> None:
        world = World()
        world.section("30001", "SOIL 110", "M 10:00-11:00", waitlist_limit=5, seats=0)
        request = Request((Change(Kind.ADD, "30001"),))
        decision, _ = look(world, request)
        action = first_way(decision, {}, 0)
        assert action is not None
        after = follow(world.situation(), request, 0, action, world.now)
        assert after is not None
        self.assertEqual(key_of(after[0]), (("wait", "30001", ""),))

    def test_a_bundle_over_the_credits_is_put_in_and_another_course_taken_out(self) -> None:
        world = World()
        world.section("30001", "FERM 110", "M 10:00-11:00")
        for day, number, course in (("T", "30011", "SEMR 101"), ("W", "30012", "WRIT 110")):
            world.section(number, course, f"{day} 08:00-09:00", bundle="Bundle 1")
        world.student = replace(world.student, credit_limit=6.0)
        request = Request((Change(Kind.ADD, "30001"), Change(Kind.ADD, "30011")))
        decision, _ = look(world, request)
        action = first_way(decision, {}, 1)
        self.assertEqual(action, put(Kind.ADD, "30012"))
        both = follow(world.situation(), request, 1, put(Kind.ADD, "30012"), world.now)
        assert both is not None
        decision, _ = look(world, both[0])
        self.assertEqual(first_way(decision, {}, both[1]), SeeChange("30012"))
        self.assertEqual(first_way(decision, {}, 2), TakeOut(("30001",)))

    def test_a_bundle_that_no_one_course_makes_room_for_is_not_offered(self) -> None:
        world = World()
        for day, number, course in (("T", "30011", "SEMR 101"), ("W", "30012", "WRIT 110")):
            world.section(number, course, f"{day} 08:00-09:00", bundle="Bundle 1")
        world.student = replace(world.student, credit_limit=3.0)
        decision, _ = look(world, Request((Change(Kind.ADD, "30011"),)))
        self.assertIsNone(first_way(decision, {}, 0))
        (finding,) = decision.outcomes[0].findings
        self.assertEqual(
            [w.text for w in finding.remedies], ["Or take a section of the course that is in no bundle."]
        )

    def test_a_full_cart_is_not_offered_more_than_it_takes(self) -> None:
        world = World()
        for day, number, course in (("T", "30011", "SEMR 101"), ("W", "30012", "WRIT 110")):
            world.section(number, course, f"{day} 08:00-09:00", bundle="Bundle 1")
        request = Request((Change(Kind.ADD, "30011"),))
        for most, offered in ((2, put(Kind.ADD, "30012")), (1, None)):
            world.policy = replace(world.policy, most_changes=most)
            decision, _ = look(world, request)
            self.assertEqual(first_way(decision, {}, 0), offered)
