"""Whoever registers while a section is cancelled, moved or the term closed is judged by what is new."""

from __future__ import annotations

import secrets
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.waitlists.freed_seats import fill_freed_seats
from gremba.actions.waitlists.trades import close_trades
from gremba.core.registration.changes import Change, Kind, Request
from gremba.store.database import connect, connected, fetch_sql, run_sql
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.waitlists import OnWaitlists

_RAISED = "UPDATE terms SET catalogue_version = catalogue_version + 1"


class SeatsGivenWhileItMoves(OnWaitlists):
    """What was read of the term is older than the term: no seat is given by it."""

    def move(self, change: str, *values: object) -> None:
        self.campus.run(change, *values)
        self.campus.run(_RAISED)

    def waiting_for_a_seat(self, way: str) -> tuple[str, Somebody]:
        """A seat has come free, and one student waits for it."""
        number, other = self.section(seats=1, way=way), self.section(seats=5)
        one, two = self.campus.people(2)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(one, f"-{number}", f"+{other}")
        return number, two

    def test_no_seat_of_a_cancelled_section_is_given_or_offered(self) -> None:
        for way in ("automatic", "offer"):
            with self.subTest(way=way):
                self.setUp()
                number, _ = self.waiting_for_a_seat(way)
                known = self.context.term(TERM)
                self.move("UPDATE sections SET cancelled = true WHERE reference_number = %s", number)
                self.assertEqual(fill_freed_seats(self.context), 0)
                self.assertFalse(self.context.term(TERM) is known)
                self.assertEqual((self.states(), self.holders(number)), (["waiting"], []))

    def test_an_offer_accepted_after_its_section_was_cancelled_is_refused(self) -> None:
        number, who = self.waiting_for_a_seat("offer")
        self.sweep()
        self.assertEqual(self.states(), ["offered"])
        self.move("UPDATE sections SET cancelled = true WHERE reference_number = %s", number)
        self.assertFalse(self.accept(who).is_possible)
        self.assertEqual(self.holders(number), [])

    def test_a_trade_through_a_section_cancelled_meanwhile_is_not_closed(self) -> None:
        numbers = [self.section(seats=1) for _ in range(2)]
        people = self.campus.people(2)
        for who, number in zip(people, numbers, strict=True):
            self.send(who, f"+{number}")
        self.send(people[0], f"{numbers[0]}?{numbers[1]}")
        self.send(people[1], f"{numbers[1]}?{numbers[0]}")
        term = self.context.term(TERM)
        self.move("UPDATE sections SET cancelled = true WHERE reference_number = %s", numbers[0])
        self.assertEqual(close_trades(self.context, term), 0)
        self.assertEqual([self.holders(n) for n in numbers], [[p.row] for p in people])

    def test_an_entry_for_a_section_made_since_is_served(self) -> None:
        old = self.context.term(TERM)
        number, who = self.waiting_for_a_seat("automatic")
        self.campus.run(_RAISED)
        self.context.catalogue._terms[TERM] = old
        self.assertEqual(fill_freed_seats(self.context), 1)
        self.assertEqual(self.holders(number), [who.row])

    def test_whoever_holds_a_section_made_since_is_decided_by_the_term_as_it_is(self) -> None:
        """Another process has read the term again already, this one has not."""
        old = self.context.term(TERM)
        number, other = self.section(seats=3), self.section(seats=3)
        (who,) = self.campus.people(1)
        self.send(who, f"+{number}")
        self.campus.run(_RAISED)
        self.context.catalogue._terms[TERM] = old
        self.assertEqual(self.send(who, f"+{other}"), "a")

    def test_a_term_that_keeps_moving_is_told_and_nothing_is_done(self) -> None:
        number, who = self.waiting_for_a_seat("offer")
        self.sweep()
        self.move("UPDATE terms SET name = 'Moved'")
        with (
            mock.patch.object(type(self.context.catalogue), "catch_up", autospec=True),
            self.assertRaises(Problem) as raised,
        ):
            self.accept(who)
        self.assertIs(raised.exception.kind, ProblemKind.RECORDS_AWAY)
        self.assertEqual((self.states(), self.holders(number)), (["offered"], []))


class TermMoved(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.numbers = [self.campus.section(seats=50, weekdays="MT"[n]) for n in range(2)]
        self.context = self.campus.context()
        self.known = self.context.term(TERM)

    def submission(self, who: Somebody) -> Submission:
        """Made with the term as it was known at first."""
        changes = tuple(Change(Kind.ADD, number) for number in self.numbers)
        return Submission(who.row, self.known, Request(changes), secrets.token_hex(8), who.id, "One")

    def codes(self, who: Somebody) -> list[list[str]]:
        (answer,) = process_submissions(self.context, [self.submission(who)])
        assert isinstance(answer, Confirmation), answer
        body = answer.body.decode()
        return [
            [c for c in ("section.cancelled", "term.not_open") if c in part]
            for part in body.split('"kind"')[1:]
        ]

    def test_a_section_cancelled_meanwhile_is_refused(self) -> None:
        self.campus.run("UPDATE sections SET cancelled = true WHERE reference_number = %s", self.numbers[0])
        self.campus.run(_RAISED)
        self.assertIs(self.context.term(TERM), self.known)
        who = self.campus.person()
        self.assertEqual(self.codes(who), [["section.cancelled"], []])
        self.assertIsNot(self.context.term(TERM), self.known)
        held = "SELECT count(*) FROM registrations WHERE student_term_id = %s"
        self.assertEqual(self.campus.value(held, who.row), 1)

    def test_a_term_closed_while_a_submission_waits_for_it(self) -> None:
        other = connect(self.campus.url)
        self.addCleanup(other.close_all)
        who = self.campus.person()
        with ThreadPoolExecutor(1) as pool:
            with connected(other), other.atomic():
                run_sql(other, "UPDATE terms SET state = 'closed'")
                run_sql(other, _RAISED)
                waiting = pool.submit(self.codes, who)
                self.assertRaises(TimeoutError, waiting.result, 0.5)
            self.assertEqual(waiting.result(30), [["term.not_open"], ["term.not_open"]])
        self.assertEqual(self.campus.value("SELECT count(*) FROM registrations"), 0)

    def test_of_all_who_register_while_it_is_cancelled_everybody_was_counted_or_refused(self) -> None:
        people = self.campus.people(24)
        other = connect(self.campus.url)
        self.addCleanup(other.close_all)
        begin = threading.Barrier(9)
        counted: list[int] = []

        def cancel() -> None:
            begin.wait()
            with connected(other), other.atomic():
                run_sql(
                    other,
                    "UPDATE sections SET cancelled = true WHERE reference_number = %s",
                    (self.numbers[0],),
                )
                run_sql(other, _RAISED)
                ((many,),) = fetch_sql(other, "SELECT count(*) FROM registrations WHERE section_id = 1")
                counted.append(int(str(many)))

        def register(some: list[Somebody]) -> None:
            begin.wait()
            for who in some:
                process_submissions(self.context, [self.submission(who)])

        with ThreadPoolExecutor(9) as pool:
            done = [pool.submit(register, people[n::8]) for n in range(8)]
            done.append(pool.submit(cancel))
            for each in done:
                each.result()
        registered = self.campus.value("SELECT count(*) FROM registrations WHERE section_id = 1")
        self.assertEqual(registered, counted[0])
        self.assertEqual(self.campus.value("SELECT count(*) FROM registrations WHERE section_id = 2"), 24)
