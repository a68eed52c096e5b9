"""What swaps, adjustments, linked sections, consent and reserved seats leave in the tables."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, time, timedelta
from threading import Barrier

import orjson
import peewee
from psycopg.types.json import Jsonb

from gremba.actions.actor import SubjectStudent
from gremba.actions.registration.edit_cart import put_changes
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.waitlists.freed_seats import fill_freed_seats
from gremba.core.account.charges import Charges
from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.findings import ProposedChange
from gremba.core.registration.outcome import Adjusted, Decision, DroppedSeat, Figures, Outcome, Result
from gremba.core.registration.situation import Registration
from gremba.core.waitlists.entry import WaitlistEntry
from gremba.demo.morning import SetClock
from gremba.store.database import Refused, connected, fetch_sql, in_few_trips, run_sql
from gremba.store.registration.carts import read_cart
from gremba.store.registration.situations import read_situations
from gremba.store.registration.writing.batch import write
from gremba.store.registration.writing.decided import Writing
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.world import request


class Written(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.one, self.two, self.three = self.campus.people(3)
        self.clock: SetClock | None = None
        self.turn = 0

    def send(self, who: Somebody, *changes: str) -> str:
        """One letter a change: a for accepted, r for refused."""
        context = self.campus.context()
        context.clock = self.clock or context.clock
        self.turn += 1
        [answer] = process_submissions(
            context,
            [
                Submission(
                    who.row, context.term(TERM), request(changes), f"key-of-{self.turn}", who.id, who.username
                )
            ],
        )
        assert isinstance(answer, Confirmation), answer
        return "".join(o["result"][0] for o in orjson.loads(answer.body)["outcomes"])

    def held(self, who: Somebody) -> list[str]:
        with connected(self.campus.database):
            found = fetch_sql(
                self.campus.database,
                "SELECT s.reference_number FROM registrations r JOIN sections s "
                "ON s.id = r.section_id WHERE r.student_term_id = %s "
                "AND r.state = 'registered' ORDER BY 1",
                (who.row,),
            )
        return [row[0] for row in found]

    def pool(self, number: str) -> tuple[int, int]:
        with connected(self.campus.database):
            found = fetch_sql(
                self.campus.database,
                "SELECT taken, beyond FROM seat_pools WHERE id = %s",
                (int(number) - 40_000,),
            )
        return found[0][0], found[0][1]

    def permission_code(self, code: str, number: str, *waives: str) -> None:
        giver = self.campus.person("instructor")
        self.campus.run(
            "INSERT INTO permission_codes (code, section_id, waives, given_by, given_at) "
            "VALUES (%s, %s, %s, %s, now())",
            code,
            int(number) - 40_000,
            list(waives),
            giver.id,
        )

    def test_a_swap_succeeds_or_fails_whole(self) -> None:
        one, other, full = (self.campus.section(n) for n in (1, 1, 1))
        self.assertEqual(self.send(self.two, f"+{full}"), "a")
        self.assertEqual(self.send(self.one, f"+{one}"), "a")
        self.assertEqual(self.send(self.one, f"{one}>{full}"), "r")
        self.assertEqual(self.held(self.one), [one])
        self.assertEqual(self.send(self.one, f"{one}>{other}"), "a")
        self.assertEqual((self.held(self.one), self.pool(one), self.pool(other)), ([other], (0, 0), (1, 0)))
        self.assertEqual(self.campus.value("SELECT what FROM registration_events"), "dropped")
        self.assertEqual(self.campus.disagreements(), [])

    def test_an_adjustment_is_written_with_its_history(self) -> None:
        number = self.campus.section(2)
        self.campus.run("UPDATE courses SET gradings = '{standard,audit}'")
        self.assertEqual(self.send(self.one, f"+{number}"), "a")
        self.assertEqual(self.send(self.one, f"~{number} audit"), "a")
        with connected(self.campus.database):
            row = fetch_sql(self.campus.database, "SELECT grading, credits::int FROM registrations")[0]
            event = fetch_sql(
                self.campus.database, "SELECT what, grading, credits::int FROM registration_events"
            )[0]
        self.assertEqual((row, event), (("audit", 0), ("adjusted", "audit", 0)))
        self.assertEqual(self.send(self.one, f"~{number} standard"), "a")
        self.assertEqual(self.campus.value("SELECT credits::int FROM registrations"), 3)

    def late(self, days: int) -> SetClock:
        """A clock so many days into the term, when half of the charge comes back until day 11."""
        steps = [{"through": str(self.campus.begins + timedelta(11)), "percent": 50}]
        self.campus.run("UPDATE term_sessions SET refund_steps = %s", Jsonb(steps))
        self.campus.run("UPDATE terms SET policy = policy || %s", Jsonb({"may_leave_by_dropping": True}))
        self.campus.run("UPDATE tariff_rates SET per_credit_cents = 10001")
        self.campus.run("DELETE FROM tariff_fees")
        self.campus.run(
            "INSERT INTO tariff_fees (term_id, label, cents, refund) "
            "VALUES (1, 'Term fee', 5000, 'while all is')"
        )
        self.campus.run("UPDATE windows SET closes_at = now() + interval '300 days'")
        return SetClock(datetime.combine(self.campus.begins, time(12), tzinfo=UTC) + timedelta(days))

    def test_a_late_drop_leaves_a_w_and_what_stays_due(self) -> None:
        number, other = self.campus.section(2), self.campus.section(2)
        self.assertEqual(self.send(self.one, f"+{number}", f"+{other}"), "aa")
        self.clock = self.late(8)
        self.assertEqual(self.send(self.one, f"-{number}"), "a")
        self.clock = self.late(20)
        self.assertEqual(self.send(self.one, f"-{other}"), "a")
        with connected(self.campus.database):
            found = fetch_sql(
                self.campus.database,
                "SELECT r.state, e.what FROM registrations r "
                "JOIN registration_events e ON e.registration_id = r.id ORDER BY r.id",
            )
        self.assertEqual(found, [("dropped", "dropped"), ("withdrawn", "withdrawn")])
        # Half of 300.03, rounded half up; then all of it; and the fee of the term.
        self.assertEqual(self.charged(), [150_02, 300_03, 50_00])

    def charged(self) -> list[int]:
        """What is charged of each section that is or was held, and of fees for the term."""
        term = self.campus.context().term(TERM)
        with connected(self.campus.database):
            found = read_situations(self.campus.database, {self.one.row: term}, {})[self.one.row]
        charges = Charges(term.policy.tariff, "", found.charge_events)
        lines = (*charges.held.values(), *charges.dropped)
        return [line.kept_cents for line in lines] + [due for _, due in charges.fees_once()]

    def test_fewer_credits_leave_what_a_drop_of_the_difference_would(self) -> None:
        number, other = self.campus.section(2), self.campus.section(2)
        self.campus.run("UPDATE courses SET credits_least = 1, credits_most = 4")
        self.assertEqual(self.send(self.one, f"+{number} 4cr", f"+{other}"), "aa")
        self.clock = self.late(8)
        self.assertEqual(self.send(self.one, f"~{number} 2cr"), "a")
        # Half of two credits of 100.01.
        self.assertEqual(self.charged(), [100_01, 0, 50_00])
        self.assertEqual(self.send(self.one, f"-{number}"), "a")
        self.assertEqual(self.charged(), [0, 200_02, 50_00])

    def test_the_history_knows_how_it_was_registered_for(self) -> None:
        number = self.campus.section(2)
        self.campus.run(
            "UPDATE courses SET gradings = '{standard,audit}', credits_least = 1, credits_most = 4"
        )
        self.assertEqual(self.send(self.one, f"+{number} 4cr"), "a")
        for change in ("2cr", "audit", "standard"):
            self.assertEqual(self.send(self.one, f"~{number} {change}"), "a")
        term = self.campus.context().term(TERM)
        with connected(self.campus.database):
            found = read_situations(self.campus.database, {self.one.row: term}, {})[self.one.row]
        self.assertEqual(
            [(e.kind.value, e.credits, e.grading) for e in found.charge_events],
            [
                ("registered", 4.0, "standard"),
                ("adjusted", 2.0, "standard"),
                ("adjusted", 0.0, "audit"),
                ("adjusted", 1.0, "standard"),
            ],
        )

    def test_a_clock_that_is_set_back_turns_no_history_round(self) -> None:
        number, other = self.campus.section(2), self.campus.section(2)
        self.clock = self.late(1)
        self.assertEqual(self.send(self.one, f"+{number}", f"+{other}"), "aa")
        self.clock = self.late(-20)
        self.assertEqual(self.send(self.one, f"-{number}"), "a")
        # Half comes back through the eleventh day, so it does before the first, too.
        self.assertEqual(self.charged(), [0, 150_02, 50_00])

    def test_what_touches_other_rows_than_the_decision_speaks_of_is_an_error(self) -> None:
        number = self.campus.section(2)
        self.assertEqual(self.send(self.one, f"+{number}"), "a")
        context = self.campus.context()
        term = context.term(TERM)
        section = term.by_number[number]
        held, entry = Registration(section, 3.0), WaitlistEntry(77, section)
        change = Change(Kind.DROP, number)
        gone = Outcome(
            change, section, 3.0, "standard", Result.ACCEPTED, (), drops=(DroppedSeat(held, False, 0, 0),)
        )
        adjusted = Outcome(change, section, 3.0, "standard", Result.ACCEPTED, (), adjusted=Adjusted(held, 0))
        figures = Figures(0.0, "", False, 0)
        for turn, decision in enumerate(
            (
                Decision((gone,), figures, figures, ()),
                Decision((adjusted,), figures, figures, ()),
                Decision((), figures, figures, (), leaves=(entry,)),
                Decision((), figures, figures, (), loosened=(entry,)),
            )
        ):
            writing = Writing(
                900 + turn, self.two.row, term.id, f"key-{turn:04}", bytes(32), self.two.id, decision, b"{}"
            )
            with (
                self.subTest(turn),
                self.assertRaises(Refused),
                connected(self.campus.database),
                in_few_trips(self.campus.database),
            ):
                write(self.campus.database, [writing], datetime.now(UTC))
        self.assertEqual(self.campus.value("SELECT count(*) FROM confirmations"), 1, "nothing of it is kept")
        self.assertEqual(self.held(self.one), [number])

    def test_what_was_refused_stays_in_the_cart_and_the_rest_leaves_it(self) -> None:
        full, free = self.campus.section(0), self.campus.section(2)
        context = self.campus.context()
        put_changes(
            context,
            SubjectStudent.alone(self.one.id),
            TERM,
            [ProposedChange(Kind.ADD, full), ProposedChange(Kind.ADD, free)],
        )
        self.assertEqual(self.send(self.one, f"+{full}", f"+{free}"), "ra")
        with connected(self.campus.database):
            left = read_cart(self.campus.database, self.one.row, context.term(TERM)).changes
        self.assertEqual([c.change.number for c in left], [full])

    def test_a_place_keeps_what_was_chosen_for_it_until_its_seat_comes(self) -> None:
        number = self.campus.section(0, consent_needed=True)
        self.campus.run(
            "UPDATE courses SET credits_least = 1, credits_most = 4, gradings = '{standard,pass}'"
        )
        self.campus.run("UPDATE sections SET waitlist_limit = 3, waitlist_way = 'automatic'")
        self.permission_code("AGREED23", number, "consent")
        self.assertEqual(self.send(self.one, f"?{number} 3.5cr pass #AGREED23"), "w")
        with connected(self.campus.database):
            kept = fetch_sql(
                self.campus.database, "SELECT grading, credits::float, permission_code FROM waitlist_entries"
            )[0]
        self.assertEqual(kept, ("pass", 3.5, "AGREED23"))
        self.campus.run("UPDATE seat_pools SET seat_limit = 1")
        fill_freed_seats(self.campus.context())
        with connected(self.campus.database):
            found = fetch_sql(self.campus.database, "SELECT grading, credits::float FROM registrations")
        self.assertEqual(found, [("pass", 3.5)])
        self.assertEqual(self.campus.value("SELECT count(*) FROM permission_code_uses"), 1)

    def test_a_cancelled_section_serves_nobody(self) -> None:
        for way in ("offer", "automatic"):
            number = self.campus.section(0)
            who = self.campus.person()
            self.campus.run("UPDATE sections SET waitlist_limit = 3, waitlist_way = %s", way)
            self.assertEqual(self.send(who, f"?{number}"), "w")
            self.campus.run("UPDATE sections SET cancelled = true WHERE reference_number = %s", number)
            self.campus.run("UPDATE seat_pools SET seat_limit = 1 WHERE id = %s", int(number) - 40_000)
            self.assertEqual(fill_freed_seats(self.campus.context()), 0, way)
        self.assertEqual(
            self.campus.value("SELECT count(*) FROM waitlist_entries WHERE state <> 'waiting'"), 0
        )

    def test_a_drop_takes_linked_sections_along(self) -> None:
        lecture, lab, third = (self.campus.section(5) for _ in range(3))
        self.campus.run(
            "UPDATE sections SET course_id = 1, component = 'lab', carries_credit = false WHERE id = 2"
        )
        self.campus.run("INSERT INTO linked_sections VALUES (1, 2), (2, 1)")
        self.assertEqual(self.send(self.one, f"+{lecture}"), "r")
        self.assertEqual(self.send(self.one, f"+{lecture}", f"+{lab}", f"+{third}"), "aaa")
        self.assertEqual(self.send(self.one, f"-{lab}"), "a")
        self.assertEqual((self.held(self.one), self.pool(lecture)), ([third], (0, 0)))
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_lab_dropped_takes_lecture_and_discussion_along(self) -> None:
        lecture, lab, discussion, other = (self.campus.section(5) for _ in range(4))
        self.campus.run(
            "UPDATE sections SET course_id = 1, carries_credit = false, "
            "component = CASE id WHEN 2 THEN 'lab' ELSE 'discussion' END WHERE id IN (2, 3)"
        )
        self.campus.run("INSERT INTO linked_sections VALUES (1, 2), (2, 1), (1, 3), (3, 1)")
        together = [f"+{n}" for n in (lecture, lab, discussion, other)]
        self.assertEqual(self.send(self.one, *together), "aaaa")
        self.assertEqual(self.send(self.one, f"-{lab}"), "a")
        self.assertEqual(self.held(self.one), [other])
        self.assertEqual(self.campus.disagreements(), [])

    def test_consent_seats_beyond_the_limit_until_enough_have_gone(self) -> None:
        number, other = self.campus.section(1), self.campus.section(5)
        self.permission_code("BEYOND23", number, "seats")
        self.assertEqual(self.send(self.one, f"+{number}", f"+{other}"), "aa")
        self.assertEqual(self.send(self.two, f"+{number}"), "r")
        self.assertEqual(self.send(self.two, f"+{number} #BEYOND23", f"+{other}"), "aa")
        self.assertEqual(self.pool(number), (2, 1))
        self.assertEqual(self.send(self.one, f"-{number}"), "a")
        self.assertEqual(self.pool(number), (1, 0))
        self.assertEqual(self.send(self.three, f"+{number}"), "r")
        self.assertEqual(self.send(self.two, f"-{number}"), "a")
        self.assertEqual(self.send(self.three, f"+{number}"), "a")
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_code_used_twice_at_once_serves_one(self) -> None:
        number = self.campus.section(0)
        people = [self.one, self.two, self.three, *self.campus.people(3)]
        for turn in range(5):
            code = f"ATONCE{turn}2"
            self.permission_code(code, number, "seats")
            together = Barrier(len(people))

            def use(who: Somebody, code: str = code, together: Barrier = together) -> str:
                context = self.campus.context()
                submission = Submission(
                    who.row,
                    context.term(TERM),
                    request([f"+{number} #{code}"]),
                    f"key-{code}-{who.id}",
                    who.id,
                    who.username,
                )
                together.wait()
                [answer] = process_submissions(context, [submission])
                assert isinstance(answer, Confirmation), answer
                return str(orjson.loads(answer.body)["outcomes"][0]["result"])

            with ThreadPoolExecutor(len(people)) as pool:
                results = list(pool.map(use, people))
            self.assertEqual(results.count("accepted"), 1)
            people.pop(results.index("accepted"))
        self.assertEqual(self.pool(number), (5, 5))
        self.assertEqual(self.campus.value("SELECT count(*) FROM permission_code_uses"), 5)
        self.assertEqual(self.campus.disagreements(), [])

    def test_in_one_batch_a_code_serves_the_first(self) -> None:
        number = self.campus.section(0)
        self.permission_code("ONEBATCH", number, "seats")
        context = self.campus.context()
        batch = [
            Submission(
                p.row,
                context.term(TERM),
                request([f"+{number} #ONEBATCH"]),
                f"key-of-{p.id}",
                p.id,
                p.username,
            )
            for p in (self.one, self.two)
        ]
        found = [
            orjson.loads(a.body)["outcomes"][0]
            for a in process_submissions(context, batch)
            if isinstance(a, Confirmation)
        ]
        self.assertEqual([o["result"] for o in found], ["accepted", "refused"])
        self.assertIn("it has been used already", str(found[1]["findings"]))

    def test_reserved_seats_are_counted_by_who_took_them(self) -> None:
        number = self.campus.section(2)
        self.campus.run(
            "INSERT INTO reserved_seats (pool_id, group_kind, group_value, seats) "
            "VALUES (1, 'cohort', 'first year', 1)"
        )
        self.campus.run("UPDATE students SET cohort = 'first year' WHERE id = %s", self.one.id)
        # One open seat, one reserved: a stranger takes the open one, the next is refused, the
        # first-year takes the reserved one.
        self.assertEqual(self.send(self.two, f"+{number}"), "a")
        self.assertEqual(self.send(self.three, f"+{number}"), "r")
        self.assertEqual(self.send(self.one, f"+{number}"), "a")
        self.assertEqual(self.campus.value("SELECT count(reserved_seats_id) FROM registrations"), 1)
        # The member gives it up again: it is reserved as before.
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.assertEqual(self.send(self.one, f"-{number}"), "a")
        self.assertEqual(self.send(self.three, f"+{number}"), "r")

    def test_the_tables_refuse_keys_that_move_away(self) -> None:
        number = self.campus.section(2)
        self.campus.section(2)
        self.assertEqual(self.send(self.one, f"+{number}"), "a")
        for sql in (
            "UPDATE sections SET pool_id = 2 WHERE id = 1",
            "UPDATE student_terms SET id = 99 WHERE id = (SELECT max(student_term_id) FROM registrations)",
            "UPDATE registrations SET section_id = 2, pool_id = 2",
        ):
            with (
                self.subTest(sql),
                connected(self.campus.database),
                self.assertRaises(peewee.IntegrityError),
            ):
                run_sql(self.campus.database, sql)
