"""Waitlists as a state machine: whatever happens, nobody is overtaken and no seat lies idle.

Hypothesis plays students, offices and the clock against the real tables. After every step what
must always hold is looked up in the rows themselves.
"""

from __future__ import annotations

import unittest
from datetime import timedelta

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule, run_state_machine_as_test

from gremba.actions.actor import Actor
from gremba.actions.problem import Problem
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.sweep import sweep
from gremba.actions.waitlists.offers import Acceptance, accept_offer, decline_offer, leave_waitlist
from gremba.actions.waitlists.trades import close_trades
from gremba.demo.morning import SetClock
from gremba.store.database import connected, fetch_sql
from tests.support.campus import TERM, Campus
from tests.support.examples import how_many
from tests.support.servers import new_database
from tests.support.world import request

STUDENTS, SECTIONS = 5, 3

NEVER = {
    "oversold": "SELECT id FROM seat_pools WHERE taken + offered > seat_limit + beyond",
    "unlike its rows": """
        SELECT p.id FROM seat_pools p WHERE
            p.taken <> (SELECT count(*) FROM registrations r
                        WHERE r.pool_id = p.id AND r.state = 'registered')
            OR p.offered <> (SELECT count(*) FROM waitlist_entries w
                             WHERE w.pool_id = p.id AND w.state = 'offered')""",
    "two places for one course": """
        SELECT w.student_term_id FROM waitlist_entries w JOIN sections s ON s.id = w.section_id
        WHERE w.state IN ('waiting', 'offered') GROUP BY w.student_term_id, s.course_id
        HAVING count(*) > 1""",
    "a place without a beginning": """
        SELECT w.id FROM waitlist_entries w WHERE NOT EXISTS (
            SELECT 1 FROM waitlist_events e WHERE e.entry_id = w.id AND e.what = 'joined')""",
    "offered twice": """
        SELECT entry_id FROM waitlist_events WHERE what = 'offered' GROUP BY entry_id
        HAVING count(*) > 1""",
    "an offer without a message": """
        SELECT w.id FROM waitlist_entries w WHERE w.state = 'offered' AND NOT EXISTS (
            SELECT 1 FROM messages m WHERE m.entry_id = w.id AND m.until IS NOT NULL)""",
    # Sections in the way "offer" serve strictly in order; what is "automatic" may pass over.
    "overtaken": """
        SELECT w.id FROM waitlist_entries w JOIN sections s ON s.id = w.section_id
        JOIN waitlist_entries o ON o.pool_id = w.pool_id AND o.id > w.id
        JOIN waitlist_events e ON e.entry_id = o.id AND e.what = 'offered'
        WHERE s.waitlist_way = 'offer' AND w.state = 'waiting'""",
}
"""What must never be found, by what it would mean."""


class Machine(RuleBasedStateMachine):
    """Students join, leave, drop and answer; offices raise, lower and hold; time passes."""

    def __init__(self) -> None:
        super().__init__()
        self.campus = Campus(new_database())
        self.context = self.campus.context()
        self.clock = SetClock(self.context.clock.now())
        self.context.clock = self.clock
        self.sections = [self.campus.section(seats=1 + n % 2) for n in range(SECTIONS)]
        self.campus.run(
            "UPDATE sections SET waitlist_limit = 4, "
            "waitlist_way = CASE WHEN id = 3 THEN 'automatic' ELSE 'offer' END"
        )
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.people = self.campus.people(STUDENTS)
        self.keys = 0
        # To begin with everything is full, and some wait.
        for who in range(STUDENTS):
            for which in range(SECTIONS):
                if (who + which) % 2:
                    self.send(who, f"+?{self.sections[which]}")

    def teardown(self) -> None:
        self.campus.close()

    def send(self, who: int, *changes: str) -> None:
        self.keys += 1
        self.clock.time += timedelta(seconds=1)
        person, term = self.people[who], self.context.term(TERM)
        process_submissions(
            self.context,
            [
                Submission(person.row, term, request(changes), f"key-{self.keys:05}", person.id, "x"),
            ],
        )

    who = st.integers(0, STUDENTS - 1)
    which = st.integers(0, SECTIONS - 1)

    @rule(who=who, which=which)
    def add_or_wait(self, who: int, which: int) -> None:
        self.send(who, f"+?{self.sections[which]}")

    @rule(who=who, which=which, other=which)
    def wait_by_swap(self, who: int, which: int, other: int) -> None:
        self.send(who, f"{self.sections[which]}?{self.sections[other]}")

    @rule(who=who)
    def wait_for_everything(self, who: int) -> None:
        self.send(who, *(f"+?{number}" for number in self.sections))

    @rule(which=which)
    def somebody_drops(self, which: int) -> None:
        row = self.campus.value(
            "SELECT coalesce(min(student_term_id), 0) FROM registrations "
            "WHERE section_id = %s AND state = 'registered'",
            which + 1,
        )
        for who, person in enumerate(self.people):
            if person.row == row:
                self.send(who, f"-{self.sections[which]}")

    @rule(who=who, which=which)
    def drop(self, who: int, which: int) -> None:
        self.send(who, f"-{self.sections[which]}")

    @rule(which=which, seats=st.integers(0, 3))
    def change_limit(self, which: int, seats: int) -> None:
        self.campus.run("UPDATE seat_pools SET seat_limit = %s WHERE id = %s", seats, which + 1)

    @rule(nth=st.integers(0, 5), how=st.sampled_from(["accept", "accept", "decline", "leave"]))
    def answer(self, nth: int, how: str) -> None:
        """Answer an open offer, or leave a waitlist; also one that has ended."""
        with connected(self.campus.database) as database:
            entries = fetch_sql(
                database,
                "SELECT w.id, st.student_id FROM waitlist_entries w JOIN student_terms st "
                "ON st.id = w.student_term_id ORDER BY w.state <> 'offered', w.id LIMIT 6",
            )
        if nth >= len(entries):
            return
        entry, owner = entries[nth]
        try:
            if how == "accept":
                self.keys += 1
                by, key = Actor(owner, "x"), f"accept-{self.keys:05}"
                accept_offer(self.context, owner, entry, Acceptance(), by, key)
            else:
                end = decline_offer if how == "decline" else leave_waitlist
                end(self.context, owner, entry, Actor(owner, "x"))
        except Problem as problem:
            # It is no offer, or has ended: nothing may have changed then.
            self.last = problem

    @rule(who=who)
    def hold_or_lift(self, who: int) -> None:
        student = self.people[who].id
        lifted = self.campus.value(
            "WITH l AS (UPDATE holds SET lifted_at = now() WHERE student_id = %s "
            "AND lifted_at IS NULL RETURNING 1) SELECT count(*) FROM l",
            student,
        )
        if not lifted:
            self.campus.fee_hold(self.people[who])

    @rule(hours=st.sampled_from([0, 1, 23, 25]))
    def time_passes(self, hours: int) -> None:
        self.clock.time += timedelta(hours=hours, seconds=1)
        self.settle()

    def settle(self) -> None:
        """Sweep until nothing moves; it must come to an end."""
        for _ in range(40):
            term = self.context.term(TERM)
            if sweep(self.context, [term]) + close_trades(self.context, term) == 0:
                return
        raise AssertionError("the sweep does not come to an end")

    @invariant()
    def nothing_that_must_never_be(self) -> None:
        with connected(self.campus.database) as database:
            for what, sql in NEVER.items():
                found = fetch_sql(database, sql)
                assert not found, (what, found)

    @invariant()
    def every_freed_seat_has_gone_where_it_could(self) -> None:
        self.settle()
        with connected(self.campus.database) as database:
            # Free though somebody waits: only where all who wait automatically were passed over, and
            # nothing is left to be looked at again.
            idle = fetch_sql(
                database,
                """
                SELECT p.id FROM seat_pools p WHERE p.taken + p.offered < p.seat_limit AND EXISTS (
                    SELECT 1 FROM waitlist_entries w JOIN sections s ON s.id = w.section_id
                    WHERE w.pool_id = p.id AND w.state = 'waiting'
                        AND (s.waitlist_way = 'offer' OR w.blocked IS NULL))
                UNION ALL SELECT pool_id FROM freed_seats""",
            )
        assert not idle, idle


class Waitlists(unittest.TestCase):
    def test_machine(self) -> None:
        run_state_machine_as_test(
            Machine,
            settings=settings(
                max_examples=how_many(60, least=5),
                stateful_step_count=40,
                deadline=None,
                suppress_health_check=list(HealthCheck),
            ),
        )
