"""Whoever registers while a section is cancelled, moved or the term closed is judged by what is new."""

from __future__ import annotations

import secrets
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor

from gremba.actions.process_submissions import Receipt, process_submissions
from gremba.actions.submission import Submission
from gremba.core.changes import Change, Kind, Request
from gremba.store.database import connect, connected, fetch_sql, run_sql
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database

_RAISED = "UPDATE terms SET catalogue_version = catalogue_version + 1"


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
        assert isinstance(answer, Receipt), answer
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
