"""What the tables themselves refuse, whatever program does the writing."""

from __future__ import annotations

import unittest
from typing import Any

import peewee

from gremba.store.database import connected, run_sql
from gremba.store.installation import migrate
from tests.support.campus import Campus
from tests.support.servers import new_database


class Tables(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.number = self.campus.section(seats=1)
        self.one, self.other = self.campus.people(2)

    def register(self, who: Any, **values: Any) -> None:
        row = {
            "term_id": 1,
            "section_id": 1,
            "pool_id": 1,
            "student_term_id": who.row,
            "state": "registered",
            "grading": "standard",
            "credits": 3,
            **values,
        }
        with connected(self.campus.database):
            run_sql(
                self.campus.database,
                f"INSERT INTO registrations ({', '.join(row)}, registered_at) "
                f"VALUES ({', '.join(['%s'] * len(row))}, now())",
                list(row.values()),
            )

    def refuses(self, sql: str, problem: type[Exception] = peewee.IntegrityError) -> None:
        with connected(self.campus.database), self.assertRaises(problem):
            run_sql(self.campus.database, sql)

    def test_a_pool_cannot_be_oversold(self) -> None:
        self.register(self.one)
        with self.assertRaisesRegex(peewee.IntegrityError, "never_oversold"):
            self.register(self.other)
        self.assertEqual(self.campus.value("SELECT taken FROM seat_pools WHERE id = 1"), 1)

    def test_an_offered_seat_is_not_free(self) -> None:
        with connected(self.campus.database):
            run_sql(
                self.campus.database,
                "INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, "
                "joined_at, offer_until) VALUES (%s, 1, 1, 1, 'offered', now(), now())",
                (self.other.row,),
            )
        with self.assertRaisesRegex(peewee.IntegrityError, "never_oversold"):
            self.register(self.one)

    def test_figures_follow_rows_out_and_in(self) -> None:
        self.register(self.one)
        with connected(self.campus.database):
            run_sql(self.campus.database, "UPDATE registrations SET state = 'dropped', ended_at = now()")
        self.register(self.other)
        self.assertEqual(self.campus.disagreements(), [])
        self.refuses("UPDATE registrations SET state = 'registered', ended_at = NULL")

    def test_nobody_is_registered_twice(self) -> None:
        self.register(self.one)
        with self.assertRaises(peewee.IntegrityError):
            self.register(self.one)

    def test_orphans_and_strangers_are_refused(self) -> None:
        self.campus.section(seats=5)
        for wrong in ({"section_id": 99}, {"student_term_id": 99}, {"pool_id": 2}, {"term_id": 2}):
            with self.subTest(wrong), self.assertRaises(peewee.IntegrityError):
                self.register(self.one, **wrong)

    def test_the_history_is_kept(self) -> None:
        self.register(self.one)
        with connected(self.campus.database):
            run_sql(
                self.campus.database,
                "INSERT INTO confirmations (student_term_id, idempotency_key, request_digest, sent_at, "
                "sent_by, form, body) VALUES (%s, 'key-of-test', '', now(), %s, 1, '{}')",
                (self.one.row, self.one.id),
            )
        for sql in (
            "DELETE FROM registrations",
            "DELETE FROM confirmations",
            "UPDATE confirmations SET body = '{}'",
            "DELETE FROM sections",
            "DELETE FROM student_terms",
        ):
            with self.subTest(sql):
                self.refuses(sql, peewee.DatabaseError)

    def test_migrations_have_nothing_left_to_do(self) -> None:
        self.assertEqual(migrate(self.campus.database), [])
