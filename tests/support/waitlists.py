"""Waitlists in a real database: what tests of them share."""

from __future__ import annotations

import unittest
from datetime import timedelta
from typing import Any

import orjson

from gremba.actions.actor import Actor
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.actions.sweep import sweep
from gremba.actions.waitlists.offers import (
    Acceptance,
    OfferOutcome,
)
from gremba.actions.waitlists.offers import accept_offer as accept
from gremba.actions.waitlists.trades import close_trades
from gremba.demo.morning import SetClock
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database
from tests.support.world import request


class OnWaitlists(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.context = self.campus.context()
        self.clock = SetClock(self.context.clock.now())
        self.context.clock = self.clock
        self.keys = 0

    def section(self, seats: int, way: str = "offer", **more: Any) -> str:
        number = self.campus.section(seats=seats, **more)
        self.campus.run(
            "UPDATE sections SET waitlist_limit = 8, waitlist_way = %s WHERE reference_number = %s",
            way,
            number,
        )
        self.context.catalogue._terms.clear()
        return number

    def send(self, who: Somebody, *changes: str) -> str:
        """One letter a change: accepted, refused or waiting."""
        self.keys += 1
        self.clock.time += timedelta(seconds=1)
        term = self.context.term(TERM)
        (answer,) = process_submissions(
            self.context,
            [Submission(who.row, term, request(changes), f"key-{self.keys:04}", who.id, who.username)],
        )
        assert isinstance(answer, Confirmation), answer
        return "".join(line["result"][0] for line in orjson.loads(answer.body)["outcomes"])

    @staticmethod
    def as_student(who: Somebody) -> Actor:
        return Actor(who.id, who.username)

    def accept(self, who: Somebody, entry: int = 1, key: str = "", **how: Any) -> OfferOutcome:
        self.keys += 1
        key = key or f"accept-{self.keys:04}"
        return accept(self.context, who.id, entry, Acceptance(**how), self.as_student(who), key)

    def sweep(self, **later: float) -> int:
        self.clock.time += timedelta(**later)
        term = self.context.term(TERM)
        return sweep(self.context, [term]) + close_trades(self.context, term)

    def states(self) -> list[str]:
        return [
            str(self.campus.value("SELECT state FROM waitlist_entries WHERE id = %s", n + 1))
            for n in range(int(self.campus.value("SELECT count(*) FROM waitlist_entries")))
        ]

    def holders(self, number: str) -> list[int]:
        found = self.campus.value(
            "SELECT coalesce(array_agg(r.student_term_id ORDER BY r.student_term_id), '{}') "
            "FROM registrations r JOIN sections s ON s.id = r.section_id "
            "WHERE s.reference_number = %s AND r.state = 'registered'",
            number,
        )
        return list(found)

    def lecture_with_labs(self, way: str) -> tuple[str, str, str]:
        """A full lecture with two labs that go with it."""
        lecture, lab, other = (self.section(seats=n, way=way) for n in (1, 1, 5))
        self.campus.run("UPDATE sections SET course_id = 1 WHERE id IN (2, 3)")
        self.campus.run("UPDATE sections SET component = 'lab', carries_credit = false WHERE id > 1")
        self.campus.run("INSERT INTO linked_sections VALUES (1, 2), (2, 1), (1, 3), (3, 1)")
        self.context.catalogue._terms.clear()
        return lecture, lab, other
