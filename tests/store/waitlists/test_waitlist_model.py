"""Waitlists that work by offers, against a naive model of a few lines.

The model keeps plain sets and lists and does one thing after another. Whatever hypothesis lets
students, offices and the clock do, the tables must say the same: who has a seat, who is offered
one and until when, who waits in which order. Now and then the process "dies" between a change and
the promotion it leads to: then the sweep comes later, and nobody may have slipped in between.
"""

from __future__ import annotations

import unittest
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule, run_state_machine_as_test

from gremba.actions.actor import Actor
from gremba.actions.problem import Problem
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.sweep import sweep
from gremba.actions.waitlists.offers import Acceptance, accept_offer, decline_offer, leave_waitlist
from gremba.demo.morning import SetClock
from gremba.store.database import connected, fetch_sql
from tests.support.campus import TERM, Campus
from tests.support.examples import how_many
from tests.support.servers import new_database
from tests.support.world import request

STUDENTS, SECTIONS, LONGEST = 5, 2, 3


@dataclass
class Naive:
    """One section as one would keep it on paper."""

    limit: int
    holders: set[int] = field(default_factory=set)
    offers: dict[int, datetime] = field(default_factory=dict)
    queue: list[int] = field(default_factory=list)

    @property
    def free(self) -> int:
        return self.limit - len(self.holders) - len(self.offers)

    def ask(self, who: int) -> None:
        """Add, or wait if it is full."""
        if who in self.holders:
            return
        if self.free > 0 and not self.queue:
            self.holders.add(who)
            self.offers.pop(who, None)
        elif who not in self.queue and who not in self.offers and len(self.queue) < LONGEST:
            self.queue.append(who)

    def settle(self, now: datetime) -> None:
        """Offers lapse, and what is free is offered to those who have waited longest."""
        self.offers = {who: until for who, until in self.offers.items() if until >= now}
        while self.free > 0 and self.queue:
            self.offers[self.queue.pop(0)] = now + timedelta(hours=24)


class Machine(RuleBasedStateMachine):
    """The tables and the model side by side."""

    def __init__(self) -> None:
        super().__init__()
        self.campus = Campus(new_database())
        self.clock = SetClock(self.campus.context().clock.now())
        self.numbers = [self.campus.section(seats=1 + n) for n in range(SECTIONS)]
        self.campus.run("UPDATE sections SET waitlist_limit = %s", LONGEST)
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.people = self.campus.people(STUDENTS)
        self.model = [Naive(1 + n) for n in range(SECTIONS)]
        self.held_back: set[int] = set()
        self.keys = 0
        self.start_anew()

    def teardown(self) -> None:
        self.campus.close()

    def start_anew(self) -> None:
        """A process with nothing in memory."""
        self.context = self.campus.context()
        self.context.clock = self.clock

    def send(self, who: int, change: str) -> None:
        self.keys += 1
        person, term = self.people[who], self.context.term(TERM)
        process_submissions(
            self.context,
            [
                Submission(person.row, term, request([change]), f"key-{self.keys:05}", person.id, "x"),
            ],
        )

    def afterwards(self, dies: bool) -> None:
        """The sweep; or the process ends before it."""
        if dies:
            self.start_anew()
            return
        self.clock.time += timedelta(seconds=1)
        while sweep(self.context, [self.context.term(TERM)]):
            pass
        for section in self.model:
            section.settle(self.clock.time)

    who = st.integers(0, STUDENTS - 1)
    which = st.integers(0, SECTIONS - 1)
    dies = st.sampled_from([False, False, False, True])

    @rule(who=who, which=which, dies=dies)
    def ask(self, who: int, which: int, dies: bool) -> None:
        self.send(who, f"+?{self.numbers[which]}")
        if who not in self.held_back:
            self.model[which].ask(who)
        self.afterwards(dies)

    @rule(which=which, nth=st.integers(0, 2), dies=dies)
    def drop(self, which: int, nth: int, dies: bool) -> None:
        holders = sorted(self.model[which].holders)
        if nth < len(holders):
            self.send(holders[nth], f"-{self.numbers[which]}")
            self.model[which].holders.remove(holders[nth])
        self.afterwards(dies)

    @rule(which=which, limit=st.integers(0, 3), dies=dies)
    def change_limit(self, which: int, limit: int, dies: bool) -> None:
        self.campus.run("UPDATE seat_pools SET seat_limit = %s WHERE id = %s", limit, which + 1)
        self.model[which].limit = limit
        self.afterwards(dies)

    @rule(which=which, nth=st.integers(0, 2), how=st.sampled_from(["accept", "accept", "decline"]), dies=dies)
    def answer(self, which: int, nth: int, how: str, dies: bool) -> None:
        section = self.model[which]
        offered = sorted(section.offers)
        if nth < len(offered):
            who = offered[nth]
            done = self.try_to_answer(who, which, how)
            in_time = section.offers[who] >= self.clock.time
            assert done == (in_time and not (how == "accept" and who in self.held_back)), how
            if done:
                del section.offers[who]
                if how == "accept":
                    section.holders.add(who)
        self.afterwards(dies)

    def try_to_answer(self, who: int, which: int, how: str) -> bool:
        entry, person = self.entry_of(who, which), self.people[who].id
        by = Actor(person, "x")
        try:
            if how == "accept":
                self.keys += 1
                key = f"accept-{self.keys:05}"
                return accept_offer(self.context, person, entry, Acceptance(), by, key).is_possible
            decline_offer(self.context, person, entry, by)
        except Problem:
            return False
        return True

    @rule(which=which, nth=st.integers(0, 2), dies=dies)
    def leave(self, which: int, nth: int, dies: bool) -> None:
        queue = self.model[which].queue
        if nth < len(queue):
            person, entry = self.people[queue[nth]].id, self.entry_of(queue[nth], which)
            leave_waitlist(self.context, person, entry, Actor(person, "x"))
            queue.pop(nth)
        self.afterwards(dies)

    def entry_of(self, who: int, which: int) -> int:
        return int(
            self.campus.value(
                "SELECT id FROM waitlist_entries WHERE student_term_id = %s AND section_id = %s "
                "AND state IN ('waiting', 'offered')",
                self.people[who].row,
                which + 1,
            )
        )

    @rule(who=who)
    def hold_or_lift(self, who: int) -> None:
        if who in self.held_back:
            self.campus.run("UPDATE holds SET lifted_at = now() WHERE student_id = %s", self.people[who].id)
            self.held_back.remove(who)
        else:
            self.campus.fee_hold(self.people[who])
            self.held_back.add(who)

    @rule(hours=st.sampled_from([1, 12, 23, 24, 30]), dies=dies)
    def time_passes(self, hours: int, dies: bool) -> None:
        self.clock.time += timedelta(hours=hours)
        self.afterwards(dies)

    @invariant()
    def the_tables_say_what_the_model_says(self) -> None:
        by_row = {person.row: who for who, person in enumerate(self.people)}
        with connected(self.campus.database) as database:
            seats = fetch_sql(
                database, "SELECT section_id, student_term_id FROM registrations WHERE state = 'registered'"
            )
            entries = fetch_sql(
                database,
                "SELECT section_id, student_term_id, state, offer_until FROM waitlist_entries "
                "WHERE state IN ('waiting', 'offered') ORDER BY coalesce(ranked, id)",
            )
        for which, section in enumerate(self.model):
            mine = [p for p in entries if p[0] == which + 1]
            assert {by_row[r] for s, r in seats if s == which + 1} == section.holders
            assert [by_row[p[1]] for p in mine if p[2] == "waiting"] == section.queue
            offers = {by_row[p[1]]: p[3] for p in mine if p[2] == "offered"}
            assert offers.keys() == section.offers.keys()
            for who, until in offers.items():
                assert abs(until - section.offers[who]) < timedelta(seconds=1)


class Model(unittest.TestCase):
    def test_the_tables_agree_with_the_model(self) -> None:
        run_state_machine_as_test(
            Machine,
            settings=settings(
                max_examples=how_many(75, least=5),
                stateful_step_count=40,
                deadline=None,
                suppress_health_check=list(HealthCheck),
            ),
        )
