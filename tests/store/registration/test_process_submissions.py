"""Sending as an action: batches, keys, and what the database refuses."""

from __future__ import annotations

import unittest
from unittest import mock

import orjson
import structlog

from gremba.actions.problem import Problem
from gremba.actions.registration import speculative_decisions
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.registration.changes import Mode
from gremba.logs import set_up_logs
from gremba.store.database import connected, run_sql
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.world import request


class Batches(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.numbers = [self.campus.section(seats=2, weekdays="M", starts=8 + n) for n in range(3)]
        self.people = self.campus.people(5)
        self.context = self.campus.context()

    def submission(self, who: Somebody, *changes: str, key: str = "", mode: Mode = Mode.EACH) -> Submission:
        return Submission(
            who.row,
            self.context.term(TERM),
            request(changes, mode),
            key or f"key-{who.id}-{changes}",
            who.id,
            who.username,
        )

    def letters(self, answer: object) -> str:
        assert isinstance(answer, Confirmation), answer
        return "".join(o["result"][0] for o in orjson.loads(answer.body)["outcomes"])

    def test_each_sees_what_those_before_it_left(self) -> None:
        one, two, _ = self.numbers
        answers = process_submissions(
            self.context, [self.submission(p, f"+{one}", f"+{two}") for p in self.people]
        )
        self.assertEqual([self.letters(a) for a in answers], ["aa", "aa", "rr", "rr", "rr"])
        self.assertEqual(self.campus.disagreements(), [])

    def test_a_seat_given_up_serves_the_next_in_the_batch(self) -> None:
        one, two, _ = self.numbers
        first = [self.submission(p, f"+{one}", f"+{two}") for p in self.people[:2]]
        process_submissions(self.context, first)
        answers = process_submissions(
            self.context,
            [self.submission(self.people[0], f"-{one}"), self.submission(self.people[2], f"+{one}")],
        )
        self.assertEqual([self.letters(a) for a in answers], ["a", "a"])
        self.assertEqual(self.campus.disagreements(), [])

    def test_the_same_key_gives_the_first_confirmation(self) -> None:
        submission = self.submission(self.people[0], f"+{self.numbers[0]}")
        [first] = process_submissions(self.context, [submission])
        [again] = process_submissions(self.context, [submission])
        assert isinstance(first, Confirmation) and isinstance(again, Confirmation)
        self.assertEqual((again.id, again.repeated), (first.id, True))
        self.assertEqual(orjson.loads(again.body), orjson.loads(first.body))
        self.assertEqual(self.campus.value("SELECT count(*) FROM registrations"), 1)

    def test_the_same_key_for_something_else_is_refused(self) -> None:
        process_submissions(
            self.context, [self.submission(self.people[0], f"+{self.numbers[0]}", key="same-key")]
        )
        [answer] = process_submissions(
            self.context, [self.submission(self.people[0], f"+{self.numbers[1]}", key="same-key")]
        )
        self.assertIsInstance(answer, Problem)
        self.assertEqual(self.campus.value("SELECT count(*) FROM registrations"), 1)

    def test_one_that_the_tables_refuse_does_not_spoil_the_others(self) -> None:
        good = self.submission(self.people[0], f"+{self.numbers[0]}")
        bad = self.submission(self.people[1], f"+{self.numbers[0]}", key="short")
        answers = process_submissions(self.context, [bad, good])
        self.assertIsInstance(answers[0], Problem)
        self.assertEqual(self.letters(answers[1]), "a")

    def test_one_that_fails_unforeseen_does_not_spoil_the_others(self) -> None:
        real = speculative_decisions.decide

        def decide(situation, wanted, now):  # type: ignore[no-untyped-def]
            if situation.student.id == self.people[1].id:
                raise ZeroDivisionError
            return real(situation, wanted, now)

        # As the server logs it: with the values of all variables it would take half a minute.
        set_up_logs()
        self.addCleanup(structlog.reset_defaults)
        batch = [self.submission(p, f"+{self.numbers[0]}") for p in self.people[:2]]
        with mock.patch.object(speculative_decisions, "decide", decide):
            answers = process_submissions(self.context, batch)
        self.assertEqual(self.letters(answers[0]), "a")
        assert isinstance(answers[1], Problem)
        self.assertNotIn("ZeroDivision", answers[1].detail)

    def test_drop_and_add_in_one_request_with_history_and_cart(self) -> None:
        who, (one, two, _) = self.people[0], self.numbers
        process_submissions(self.context, [self.submission(who, f"+{one}")])
        with connected(self.campus.database):
            run_sql(
                self.campus.database,
                "INSERT INTO cart_changes (student_term_id, term_id, position, kind, section_id, "
                "pool_id, added_at) VALUES (%s, 1, 1, 'drop', 1, 1, now()), "
                "(%s, 1, 2, 'add', 2, 2, now()), (%s, 1, 3, 'add', 3, 3, now())",
                (who.row, who.row, who.row),
            )
        process_submissions(self.context, [self.submission(who, f"-{one}", f"+{two}", mode=Mode.ALL)])
        history = self.campus.value(
            "SELECT string_agg(state || ' by ' || r.registered_by || coalesce(', ' || what || ' by ' "
            "|| confirmation_id, ''), '; ' ORDER BY r.id) FROM registrations r "
            "LEFT JOIN registration_events e ON e.registration_id = r.id"
        )
        self.assertEqual(history, "dropped by 1, dropped by 2; registered by 2")
        self.assertEqual(self.campus.value("SELECT count(*) FROM cart_changes"), 1)
