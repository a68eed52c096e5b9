"""Decisions made before the seats are locked: the same as those made under the locks."""

from __future__ import annotations

import random
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from threading import Thread
from typing import Any
from unittest import mock

import orjson

from gremba.actions.registration import process_submissions as module
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.registration.alternatives import backup_sections as candidates
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.changes import Kind, Mode, Request
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.world import request

SEATS = (2, 4, 9, 25, 60)
HOURS = ("M", "T", "W", "R")


def _college(rng: random.Random) -> tuple[Campus, list[str], list[Somebody]]:
    """Two dozen sections, some with a waitlist, some with a part kept for a program."""
    campus = Campus(new_database())
    numbers = [
        campus.section(seats=rng.choice(SEATS), weekdays=rng.choice(HOURS), starts=8 + n % 6)
        for n in range(24)
    ]
    campus.run("UPDATE sections SET waitlist_limit = 4 WHERE id %% 3 = 0")
    campus.run(
        "INSERT INTO reserved_seats (pool_id, group_kind, group_value, seats) "
        "SELECT id, 'program', 'Bees', 2 FROM seat_pools WHERE seat_limit > 2 AND id %% 5 = 0"
    )
    people = campus.people(30)
    campus.run("UPDATE students SET program = 'Bees' WHERE id %% 4 = 0")
    return campus, numbers, people


def _wishes(rng: random.Random, numbers: list[str], held: set[str]) -> list[str]:
    wishes = []
    for number in rng.sample(numbers, rng.randint(1, 6)):
        own = sorted(held)
        kind = rng.choice(["add"] * 6 + ["drop", "swap", "wait"])
        if kind == "drop" and own:
            wishes.append(f"-{rng.choice(own)}")
        elif kind == "swap" and own:
            wishes.append(f"{rng.choice(own)}>{number}")
        elif kind == "wait":
            wishes.append(f"+?{number}")
        else:
            wishes.append(f"+{number}")
    return wishes


def _with_next(wanted: Request, other: str | None) -> Request:
    """With a next choice for the first add."""
    if other is None:
        return wanted
    changes = list(wanted.changes)
    for index, change in enumerate(changes):
        if change.kind is Kind.ADD:
            changes[index] = replace(change, alternatives=((other,),))
            break
    return replace(wanted, changes=tuple(changes))


class _UnderLocks:
    """Chooses with everything locked, as it would be without looking ahead."""

    def __init__(self, wanted: Request) -> None:
        self._wanted = wanted

    def decide(self, situation: Situation, now: datetime) -> Decision:
        """The decision, and all the trying, on locked facts."""
        return decide_with_alternatives(situation, self._wanted, now)[1]


class SameAsUnderLocks(unittest.TestCase):
    def test_random_batches_end_the_same_in_two_colleges(self) -> None:
        """One college decides ahead where it can; the other, its twin, never does."""
        held_ahead = 0
        real = module.SpeculativeDecisions.still_valid

        def still_valid(speculative: Any, scarce_pools: Any, now: datetime) -> Any:
            nonlocal held_ahead
            found = real(speculative, scarce_pools, now)
            held_ahead += len(found)
            return found

        log = mock.patch.object(module, "log").start()
        self.addCleanup(mock.patch.stopall)
        for seed in range(5):
            rng = random.Random(seed)
            one, numbers, people = _college(random.Random(seed))
            other, _, _ = _college(random.Random(seed))
            self.addCleanup(one.close)
            self.addCleanup(other.close)
            context, twin = one.context(), other.context()
            held: dict[int, set[str]] = {p.id: set() for p in people}
            for turn in range(30):
                # A batch with next choices in it is put through one by one.
                second = rng.choice([None, None, None, rng.choice(numbers)])
                batch = [
                    (p, _wishes(rng, numbers, held[p.id]), rng.choice(list(Mode)), second)
                    for p in rng.sample(people, rng.randint(1, 9))
                ]

                def submissions(of: Any, batch: Any = batch, turn: int = turn) -> list[Submission]:
                    return [
                        Submission(
                            p.row,
                            of.term(TERM),
                            _with_next(request(wishes, mode), second),
                            f"key-of-{turn}-{p.id}",
                            p.id,
                            p.username,
                        )
                        for p, wishes, mode, second in batch
                    ]

                with mock.patch.object(module.SpeculativeDecisions, "still_valid", still_valid):
                    answers = process_submissions(context, submissions(context))
                with (
                    mock.patch.object(module.SpeculativeDecisions, "still_valid", return_value=set()),
                    mock.patch.object(module, "_choose", lambda _, s, __: _UnderLocks(s.request)),
                ):
                    expected = process_submissions(twin, submissions(twin))
                for (person, wishes, *_), a, b in zip(batch, answers, expected, strict=True):
                    assert isinstance(a, Confirmation) and isinstance(b, Confirmation), (a, b, wishes)
                    self.assertEqual(orjson.loads(a.body), orjson.loads(b.body), wishes)
                    for o in orjson.loads(a.body)["outcomes"]:
                        if o["result"] == "accepted":
                            held[person.id].discard(o["in_exchange"] or o["number"])
                            if o["kind"] in ("add", "swap"):
                                held[person.id].add(o["number"])
                self.assertEqual(one.disagreements(), [])
            for text in (
                "SELECT json_agg(json_build_array(taken, offered, beyond) ORDER BY id) FROM seat_pools",
                "SELECT json_agg(json_build_array(student_term_id, section_id, state, reserved_seats_id, beyond) "
                "ORDER BY student_term_id, section_id, id) FROM registrations",
            ):
                self.assertEqual(one.value(text), other.value(text))
        self.assertEqual(log.warning.call_count, 0, "the tables had to refuse a batch")
        self.assertGreater(held_ahead, 50, "hardly anything was decided ahead")


class Stepping:
    """A clock that goes on by a step each time it is asked."""

    def __init__(self, begins: datetime, step: timedelta) -> None:
        self._next = begins
        self._step = step

    def now(self) -> datetime:
        """The time, and the next one later."""
        now, self._next = self._next, self._next + self._step
        return now


class WhatHasMovedMeanwhile(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.number = self.campus.section(seats=3)
        self.context = self.campus.context()

    def _send(self, who: Somebody) -> str:
        submission = Submission(
            who.row,
            self.context.term(TERM),
            request([f"+{self.number}"]),
            f"a-key-of-{who.id}",
            who.id,
            who.username,
        )
        [answer] = process_submissions(self.context, [submission])
        assert isinstance(answer, Confirmation)
        outcomes = orjson.loads(answer.body)["outcomes"]
        return str(outcomes[0]["result"])

    def test_a_window_that_opens_before_the_seats_are_locked_is_open(self) -> None:
        opens = datetime.now(UTC) + timedelta(hours=1)
        who = self.campus.person(opens_in=timedelta(hours=1))
        self.campus.run("UPDATE windows SET opens_at = %s WHERE student_term_id = %s", opens, who.row)
        self.context.clock = Stepping(opens - timedelta(seconds=1), timedelta(seconds=1))
        self.assertEqual(self._send(who), "accepted")

    def test_seats_that_go_before_they_are_locked_are_gone(self) -> None:
        who = self.campus.person()
        real = module.lock_seats

        def lock_seats(database: Any, pools: Any) -> None:
            # On a connection of its own, as another process would.
            other = Thread(target=self.campus.run, args=("UPDATE seat_pools SET seat_limit = 0",))
            other.start()
            other.join()
            real(database, pools)

        with mock.patch.object(module, "lock_seats", lock_seats):
            self.assertEqual(self._send(who), "refused")
        self.assertIn(int(self.number) - 40_000, self.context.scarce_pools)
        self.campus.run("UPDATE seat_pools SET seat_limit = 3")
        self.assertEqual(self._send(self.campus.person()), "accepted")
        self.assertEqual(self.context.scarce_pools, set())

    def test_a_next_choice_counts_among_those_who_want_the_seat(self) -> None:
        full = self.campus.section(seats=0)
        self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = %s", int(self.number) - 40_000)
        first, second = self.campus.people(2)
        term = self.context.term(TERM)
        batch = [
            Submission(
                first.row,
                term,
                _with_next(request([f"+{full}"]), self.number),
                "key-of-first",
                first.id,
                first.username,
            ),
            Submission(
                second.row, term, request([f"+{self.number}"]), "key-of-second", second.id, second.username
            ),
        ]
        answers = process_submissions(self.context, batch)
        found = [orjson.loads(a.body)["outcomes"][0] for a in answers if isinstance(a, Confirmation)]
        self.assertEqual([o["result"] for o in found], ["accepted", "refused"])

    def _choosing(self, who: Somebody, *alternatives: str) -> dict[str, Any]:
        """Send a full section with next choices; gives the outcome."""
        full = self.campus.section(seats=0)
        wanted = request([f"+{full}"])
        changes = (replace(wanted.changes[0], alternatives=tuple((n,) for n in alternatives)),)
        context = self.campus.context()
        submission = Submission(
            who.row,
            context.term(TERM),
            replace(wanted, changes=changes),
            f"a-key-of-{who.id}",
            who.id,
            who.username,
        )
        [answer] = process_submissions(context, [submission])
        assert isinstance(answer, Confirmation)
        return dict(orjson.loads(answer.body)["outcomes"][0])

    def test_a_next_choice_that_goes_before_it_is_locked_is_chosen_anew(self) -> None:
        other = self.campus.section(seats=3)
        real = module.lock_seats
        taken: list[Any] = []

        def lock_seats(database: Any, pools: Any) -> None:
            if not taken:
                taken.append(self.number)
                goes = Thread(
                    target=self.campus.run,
                    args=("UPDATE seat_pools SET seat_limit = 0 WHERE id = %s", int(self.number) - 40_000),
                )
                goes.start()
                goes.join()
            real(database, pools)

        with mock.patch.object(module, "lock_seats", lock_seats):
            outcome = self._choosing(self.campus.person(), self.number, other)
        self.assertEqual((outcome["result"], outcome["number"]), ("accepted", other))

    def test_under_the_locks_it_is_looked_at_once_and_not_tried_again(self) -> None:
        """Nothing is tried between the lock and the end, however many next choices there are."""
        others = [self.campus.section(seats=3, weekdays="M", starts=9) for _ in range(4)]
        who = self.campus.person()
        calls: list[str] = []
        real_lock, real_decide = module.lock_seats, candidates.decide

        def lock_seats(database: Any, pools: Any) -> None:
            real_lock(database, pools)
            calls.append("locked")

        def decide(*args: Any) -> Decision:
            calls.append("decided")
            return real_decide(*args)

        with (
            mock.patch.object(module, "lock_seats", lock_seats),
            mock.patch.object(candidates, "decide", decide),
        ):
            self.assertEqual(self._choosing(who, *others)["result"], "accepted")
        self.assertLessEqual(len(calls) - 1 - calls.index("locked"), 1)
        self.assertGreater(calls.index("locked"), 1)
