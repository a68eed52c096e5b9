"""The ledger's own constraints: nothing in it is altered, nothing is told twice, a mistake is undone once."""

from __future__ import annotations

import unittest

import peewee

from gremba.core.account.ledger import CounterAccount, EntryKind
from gremba.store.account.ledger import NewEntry, add_entries, add_entry, read_account
from gremba.store.database import connected
from tests.support.accounts import NOW
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import new_database


class Ledger(unittest.TestCase):
    campus: Campus
    one: Somebody
    other: Somebody

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.one, cls.other = cls.campus.people(2)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.campus.close()

    def entry(self, origin: str, cents: int = 100_00, **more: object) -> NewEntry:
        values: dict[str, object] = {
            "student_term_id": self.one.row,
            "kind": EntryKind.PAYMENT,
            "account": CounterAccount.DESK,
            "amount_cents": cents,
            "origin": origin,
            "at": NOW,
            **more,
        }
        return NewEntry(**values)  # type: ignore[arg-type]

    def add(self, new: NewEntry) -> int | None:
        with connected(self.campus.database) as database:
            return add_entry(database, new)

    def balance(self) -> int:
        with connected(self.campus.database) as database:
            return read_account(database, self.campus.context().term(TERM), self.one.row).paid_cents

    def test_told_twice_it_counts_once(self) -> None:
        before = self.balance()
        self.assertIsNotNone(self.add(self.entry("told:1")))
        self.assertIsNone(self.add(self.entry("told:1")))
        with connected(self.campus.database) as database:
            self.assertEqual(len(add_entries(database, [self.entry("told:1"), self.entry("told:2")])), 1)
        self.assertEqual(self.balance() - before, 200_00)

    def test_no_entry_is_changed_or_taken_away(self) -> None:
        self.add(self.entry("kept:1"))
        for attempt in (
            "UPDATE ledger_entries SET amount_cents = 1 WHERE origin = 'kept:1'",
            "UPDATE ledger_entries SET reason = 'better'",
            "DELETE FROM ledger_entries",
        ):
            with self.subTest(attempt), self.assertRaises(peewee.PeeweeException):
                self.campus.run(attempt)

    def test_a_counter_entry_fits_its_entry_and_there_is_one_of_it(self) -> None:
        entry = self.add(self.entry("wrong:1", 70_00))
        more: dict[str, object] = {"kind": EntryKind.COUNTER, "counters": entry, "reason": "A slip."}
        for wrong in (
            self.entry("c:1", -69_99, **more),
            self.entry("c:2", 70_00, **more),
            self.entry("c:3", -70_00, **more, student_term_id=self.other.row),
            self.entry("c:4", -70_00, **more, account=CounterAccount.AID),
            self.entry("c:5", -70_00, **{**more, "reason": ""}),
            self.entry("c:6", -70_00, **{**more, "kind": EntryKind.CORRECTION}),
        ):
            with self.subTest(wrong.origin), self.assertRaises(peewee.PeeweeException):
                self.add(wrong)
        undoing = self.add(self.entry("c:7", -70_00, **more))
        self.assertIsNotNone(undoing)
        with self.assertRaises(peewee.PeeweeException):
            self.add(self.entry("c:8", -70_00, **more))
        # What undoes is not undone itself.
        with self.assertRaises(peewee.PeeweeException):
            self.add(self.entry("c:9", 70_00, **{**more, "counters": undoing}))

    def test_signs_and_reasons_are_as_the_kind_wants_them(self) -> None:
        for wrong in (
            self.entry("s:1", 0),
            self.entry("s:2", -1),
            self.entry("s:3", 1, kind=EntryKind.REFUND),
            self.entry("s:4", 1, kind=EntryKind.WAIVER),
            self.entry("s:5", 1, kind=EntryKind.CORRECTION),
            self.entry("s", 1),
        ):
            with self.subTest(wrong.origin), self.assertRaises(peewee.PeeweeException):
                self.add(wrong)
