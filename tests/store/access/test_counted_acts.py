"""What strangers cause fills no record: the first of a minute, and how often it came again."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from unittest import mock

from gremba.actions.access import counted_acts
from gremba.actions.access.counted_acts import CountedActs
from gremba.core.states import AuditKind
from gremba.store.access.audit_log import Entry

AT = datetime(2027, 4, 19, 13, 0, 5, tzinfo=UTC)


def entry(address: str = "192.0.2.1", seconds: float = 0, **more: object) -> Entry:
    act = more.pop("act", AuditKind.LIMIT_MET)
    detail = "read search (429)"
    return Entry(AT + timedelta(seconds=seconds), act, address=address, detail=detail, **more)  # type: ignore[arg-type]


class Counted(unittest.TestCase):
    def setUp(self) -> None:
        self.acts = CountedActs()

    def first(self, entries: Sequence[Entry]) -> int:
        return sum(self.acts.is_first(one) for one in entries)

    def test_the_first_of_a_minute_and_how_often_it_came_again(self) -> None:
        self.assertEqual(self.first([entry(seconds=n / 10) for n in range(500)]), 1)
        self.assertEqual(self.acts.over(AT), [])
        (told,) = self.acts.over(AT + timedelta(minutes=1))
        self.assertEqual(told.detail, "499 more within the minute: read search (429)")
        self.assertEqual((told.act, told.address), (AuditKind.LIMIT_MET, "192.0.2.1"))
        self.assertEqual(self.acts.over(None), [])

    def test_kinds_addresses_accounts_and_minutes_are_told_apart(self) -> None:
        others = [
            entry(),
            entry("192.0.2.2"),
            entry(act=AuditKind.PAYMENT_FORGED),
            entry(act=AuditKind.SIGN_IN_FAILED, account="wren"),
            entry(act=AuditKind.SIGN_IN_FAILED, account="odo"),
            entry(seconds=60),
        ]
        self.assertEqual(self.first(others), len(others))
        self.assertEqual(self.acts.over(None), [])

    def test_what_somebody_does_who_is_signed_in_is_never_counted_together(self) -> None:
        self.assertEqual(self.first([entry(person_id=7)] * 20), 20)
        self.assertEqual(self.first([entry(act=AuditKind.SIGNED_IN)] * 20), 20)

    def test_from_however_many_addresses_there_is_an_end(self) -> None:
        with mock.patch.object(counted_acts, "MAX_KEYS", 50):
            self.assertEqual(self.first([entry(f"192.0.2.{n}") for n in range(200)]), 51)
            told = self.acts.over(None)
        self.assertEqual([one.detail for one in told], ["149 more within the minute: from many addresses"])


if __name__ == "__main__":
    unittest.main()
