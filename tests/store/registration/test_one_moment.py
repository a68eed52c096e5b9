"""What is told together is read together: a change that is written between two statements of one look is
in none of them, or in both."""

from __future__ import annotations

import secrets
import unittest
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import mock

from gremba.actions.account.statement import look_at_account
from gremba.actions.registration.look_at_cart import look_at_cart
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.account.charges import ChargeEvent, ChargeKind
from gremba.core.registration.changes import Change, Kind, Request
from gremba.store.account import ledger as accounts
from gremba.store.database import Refused, reading, run_sql
from gremba.store.registration import situations
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database


class OneMoment(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.numbers = [self.campus.section(seats=5, weekdays="MTW"[n]) for n in range(3)]
        self.who = self.campus.person()
        self.context = self.campus.context()
        self.submit(self.who, *(Change(Kind.ADD, n) for n in self.numbers))
        # From now on there is a history to be read.
        self.submit(self.who, Change(Kind.DROP, self.numbers[2]))

    def submit(self, who: Somebody, *changes: Change) -> None:
        submission = Submission(
            who.row, self.context.term(TERM), Request(changes), secrets.token_hex(8), who.id, "One"
        )
        with ThreadPoolExecutor(1) as pool:
            (answer,) = pool.submit(process_submissions, self.context, [submission]).result()
        self.assertIsInstance(answer, Confirmation)

    def dropping_first(self, original: Callable[..., Any]) -> Callable[..., Any]:
        """The same, after a drop has gone through in between."""

        dropped: list[bool] = []

        def read(*arguments: Any) -> Any:
            # The drop reads histories as well.
            if not dropped:
                dropped.append(True)
                self.submit(self.who, Change(Kind.DROP, self.numbers[1]))
            return original(*arguments)

        return read

    def registered_of(self, events: Sequence[ChargeEvent]) -> list[str]:
        """What a history leaves, by number."""
        left = {e.section.reference_number: e.kind is not ChargeKind.DROPPED for e in events}
        return [number for number, is_held in left.items() if is_held]

    def test_the_cart_and_the_schedule(self) -> None:
        with mock.patch.object(situations, "read_histories", self.dropping_first(situations.read_histories)):
            judged = look_at_cart(self.context, self.who.id, TERM)
        self.assertEqual([h.section.reference_number for h in judged.situation.held], self.numbers[:2])
        self.assertEqual(self.registered_of(judged.situation.charge_events), self.numbers[:2])
        after = look_at_cart(self.context, self.who.id, TERM)
        self.assertEqual([h.section.reference_number for h in after.situation.held], self.numbers[:1])

    def test_the_account(self) -> None:
        with mock.patch.object(accounts, "read_histories", self.dropping_first(accounts.read_histories)):
            seen = look_at_account(self.context, self.who.id, TERM)
        self.assertEqual(self.registered_of(seen.account.events), self.numbers[:2])

    def test_nothing_is_written_while_reading(self) -> None:
        with self.assertRaises(Exception) as raised, reading(self.campus.database) as database:
            run_sql(database, "UPDATE seat_pools SET seat_limit = 9")
        self.assertNotIsInstance(raised.exception, Refused)
        self.assertEqual(self.campus.value("SELECT max(seat_limit) FROM seat_pools"), 5)
