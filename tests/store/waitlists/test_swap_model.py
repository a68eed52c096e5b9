"""Automatic waitlists, waiting by swap and trades, against a naive model of a few lines.

The model keeps plain sets and one list of those who wait, in order of entry. Whatever hypothesis lets
students and offices do, the tables must say the same: who has a seat, who waits for what and would
give up what, in which order.
"""

from __future__ import annotations

import unittest
from dataclasses import dataclass, field
from itertools import permutations

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule, run_state_machine_as_test

from gremba.actions.actor import Actor
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.sweep import sweep
from gremba.actions.waitlists.offers import leave_waitlist
from gremba.actions.waitlists.trades import close_trades
from gremba.store.database import connected, fetch_sql
from tests.support.campus import TERM, Campus
from tests.support.examples import how_many
from tests.support.servers import new_database
from tests.support.world import request

STUDENTS, SECTIONS, LONGEST = 5, 4, 4


@dataclass
class Waiting:
    """A place: who waits for which section, and would give up which."""

    who: int
    wants: int
    gives: int | None = None


@dataclass
class Naive:
    """All sections as one would keep them on paper."""

    limits: list[int]
    has: list[set[int]] = field(default_factory=lambda: [set() for _ in range(SECTIONS)])
    line: list[Waiting] = field(default_factory=list)
    held_up: set[int] = field(default_factory=set)

    def free(self, section: int) -> int:
        return self.limits[section] - len(self.has[section])

    def those_for(self, section: int) -> list[Waiting]:
        return [w for w in self.line if w.wants == section]

    def join(self, who: int, section: int, gives: int | None = None) -> None:
        mine = [w for w in self.line if w.who == who]
        if who in self.has[section] or any(w.wants == section for w in mine):
            return
        if gives is not None and who not in self.has[gives]:
            return
        if len(self.those_for(section)) < LONGEST:
            self.line.append(Waiting(who, section, gives))

    def add_or_wait(self, who: int, section: int) -> None:
        if who in self.held_up or who in self.has[section]:
            return
        if self.free(section) > 0 and not self.those_for(section):
            self.has[section].add(who)
        else:
            self.join(who, section)

    def drop(self, who: int, section: int) -> None:
        self.has[section].discard(who)
        for waiting in self.line:
            if waiting.who == who and waiting.gives == section:
                waiting.gives = None

    def give(self, waiting: Waiting) -> None:
        self.line.remove(waiting)
        if waiting.gives is not None:
            self.drop(waiting.who, waiting.gives)
        self.has[waiting.wants].add(waiting.who)

    def settle(self) -> None:
        while self._fill_a_seat() or self._close_a_trade():
            pass

    def _fill_a_seat(self) -> bool:
        for waiting in self.line:
            if self.free(waiting.wants) > 0 and waiting.who not in self.held_up:
                self.give(waiting)
                return True
        return False

    def _close_a_trade(self) -> bool:
        may = [w for w in self.line if w.gives is not None and w.who not in self.held_up]
        for first in may:
            others = [w for w in may if w is not first]
            for length in range(1, len(others) + 1):
                # In order of waiting, so that the first that is found is the one that goes first.
                for rest in permutations(others, length):
                    trade = (first, *rest)
                    if all(a.wants == b.gives for a, b in zip(trade, (*rest, first), strict=True)):
                        for member in trade:
                            self.give(member)
                        return True
        return False


class Machine(RuleBasedStateMachine):
    """The tables and the model side by side."""

    def __init__(self) -> None:
        super().__init__()
        self.campus = Campus(new_database())
        self.context = self.campus.context()
        limits = [1 + n % 2 for n in range(SECTIONS)]
        self.numbers = [self.campus.section(seats=n) for n in limits]
        self.campus.run("UPDATE sections SET waitlist_limit = %s, waitlist_way = 'automatic'", LONGEST)
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.people = self.campus.people(STUDENTS)
        self.model = Naive(limits)
        self.keys = 0
        # To begin with most of it is full, so that swaps have something to wait for.
        for who in range(STUDENTS):
            self.ask(who, who % SECTIONS)

    def teardown(self) -> None:
        self.campus.close()

    def send(self, who: int, change: str) -> None:
        self.keys += 1
        person, term = self.people[who], self.context.term(TERM)
        process_submissions(
            self.context,
            [
                Submission(person.row, term, request([change]), f"key-{self.keys:05}", person.id, "x"),
            ],
        )

    def settle(self) -> None:
        term = self.context.term(TERM)
        for _ in range(60):
            if sweep(self.context, [term]) + close_trades(self.context, term) == 0:
                break
        else:
            raise AssertionError("it does not come to an end")
        self.model.settle()

    who = st.integers(0, STUDENTS - 1)
    which = st.integers(0, SECTIONS - 1)

    @rule(who=who, which=which)
    def ask(self, who: int, which: int) -> None:
        self.send(who, f"+?{self.numbers[which]}")
        self.model.add_or_wait(who, which)
        self.settle()

    @rule(nth=st.integers(0, 6), which=which)
    def wait_by_swap(self, nth: int, which: int) -> None:
        seats = [(who, s) for s in range(SECTIONS) for who in sorted(self.model.has[s]) if s != which]
        if seats:
            who, own = seats[nth % len(seats)]
            self.send(who, f"{self.numbers[own]}?{self.numbers[which]}")
            self.model.join(who, which, own)
            self.settle()

    @rule(nth=st.integers(0, 6))
    def drop(self, nth: int) -> None:
        seats = [(who, s) for s in range(SECTIONS) for who in sorted(self.model.has[s])]
        if seats:
            who, own = seats[nth % len(seats)]
            self.send(who, f"-{self.numbers[own]}")
            self.model.drop(who, own)
            self.settle()

    @rule(which=which, limit=st.integers(0, 3))
    def change_limit(self, which: int, limit: int) -> None:
        self.campus.run("UPDATE seat_pools SET seat_limit = %s WHERE id = %s", limit, which + 1)
        self.model.limits[which] = limit
        self.settle()

    @rule(who=who)
    def hold_or_lift(self, who: int) -> None:
        if who in self.model.held_up:
            self.campus.run("UPDATE holds SET lifted_at = now() WHERE student_id = %s", self.people[who].id)
            self.model.held_up.remove(who)
        else:
            self.campus.fee_hold(self.people[who])
            self.model.held_up.add(who)
        self.settle()

    @rule(nth=st.integers(0, 6))
    def leave(self, nth: int) -> None:
        if nth < len(self.model.line):
            waiting = self.model.line.pop(nth)
            person = self.people[waiting.who]
            entry = int(
                self.campus.value(
                    "SELECT id FROM waitlist_entries WHERE student_term_id = %s AND section_id = %s "
                    "AND state = 'waiting'",
                    person.row,
                    waiting.wants + 1,
                )
            )
            leave_waitlist(self.context, person.id, entry, Actor(person.id, "x"))
            self.settle()

    @invariant()
    def the_tables_say_what_the_model_says(self) -> None:
        by_row = {person.row: who for who, person in enumerate(self.people)}
        with connected(self.campus.database) as database:
            seats = fetch_sql(
                database, "SELECT section_id, student_term_id FROM registrations WHERE state = 'registered'"
            )
            entries = fetch_sql(
                database,
                "SELECT student_term_id, section_id, in_exchange_id FROM waitlist_entries "
                "WHERE state = 'waiting' ORDER BY id",
            )
        for which in range(SECTIONS):
            assert {by_row[r] for s, r in seats if s == which + 1} == self.model.has[which], which
        line = [Waiting(by_row[r], s - 1, None if g is None else g - 1) for r, s, g in entries]
        assert line == self.model.line
        assert self.campus.disagreements() == []


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
