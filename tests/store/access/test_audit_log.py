"""The record cannot be rewritten by the role that serves; whoever owns the tables and has no key is noticed."""

from __future__ import annotations

import hmac
import json
import tempfile
import unittest
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from peewee import OperationalError, ProgrammingError
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.audit_anchor import AnchorSender, sender_of
from gremba.actions.access.audit_log import AuditWriter
from gremba.actions.messages.mail_server import MailServer
from gremba.core.access.audit_log import FIRST, Verified, verify
from gremba.core.states import AuditKind
from gremba.store.access.audit_log import AUDIT_KEPT, Entry, age_out, read_head, recorded, write_entries
from gremba.store.database import connect, connected, fetch_sql
from tests.support.campus import Campus
from tests.support.servers import as_served, new_database

NOW = datetime(2027, 4, 19, 13, tzinfo=UTC)


class OnRecord(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.serving = connect(as_served(self.campus.url))
        self.addCleanup(self.serving.close_all)
        self.person = self.campus.person("registrar")

    def note(self, many: int, at: datetime = NOW, database: PooledPostgresqlDatabase | None = None) -> None:
        entries = [
            Entry(
                at + timedelta(seconds=n),
                AuditKind.OFFICE_ACT,
                self.person.id,
                detail=f"“{n}” \\ ü",
                address="::1",
            )
            for n in range(many)
        ]
        with connected(database or self.serving) as there:
            write_entries(there, entries)

    def verified(self) -> Verified:
        with connected(self.serving) as database:
            head = read_head(database)
            return verify(recorded(database, head.last_id), head)

    def owner(self, *statements: str) -> None:
        """What whoever owns the tables can do, and nobody else."""
        self.campus.run("ALTER TABLE audit_entries DISABLE TRIGGER ALL")
        for statement in statements:
            self.campus.run(statement)
        self.campus.run("ALTER TABLE audit_entries ENABLE TRIGGER ALL")


class AuditLog(OnRecord):
    def test_the_role_that_serves_adds_and_does_nothing_else(self) -> None:
        self.note(3)
        for statement in (
            "INSERT INTO audit_entries (at, kind) VALUES (now(), 'refused')",
            "UPDATE audit_entries SET detail = ''",
            "DELETE FROM audit_entries",
            "TRUNCATE audit_entries",
            "SELECT key FROM audit_key",
            "UPDATE audit_key SET key = decode(repeat('00', 32), 'hex')",
            "UPDATE audit_head SET last_id = 0",
            "SELECT audit_hmac('x')",
            "SELECT audit_digest(a) FROM audit_entries a",
            "SELECT audit_seal(h) FROM audit_head h",
            "SELECT age_out_audit(now(), 10)",
            "ALTER TABLE audit_entries DISABLE TRIGGER ALL",
            "CREATE OR REPLACE FUNCTION write_audit(entries jsonb) RETURNS void LANGUAGE sql AS ''",
        ):
            refused = self.assertRaisesRegex(ProgrammingError, "permission denied|must be owner")
            with self.subTest(statement), refused, connected(self.serving) as database:
                fetch_sql(database, statement)
        self.assertEqual((self.verified().many, self.verified().breaks), (3, ()))

    def test_no_number_and_no_digest_of_its_own(self) -> None:
        """What the function is told beside what an entry says is passed over."""
        told = {"at": NOW.isoformat(), "kind": "refused", "id": 999_999, "digest": "00", "is_keyed": False}
        told |= dict.fromkeys(("account", "address", "request_id", "detail"), "")
        with connected(self.serving) as database:
            fetch_sql(database, "SELECT write_audit(%s::jsonb)", (json.dumps([told]),))
        self.assertLess(self.campus.value("SELECT max(id) FROM audit_entries"), 999_999)
        self.assertEqual(self.verified().breaks, ())

    def test_digests_are_hmacs_by_the_key(self) -> None:
        self.note(1)
        key = bytes(self.campus.value("SELECT key FROM audit_key"))
        row = self.campus.value("SELECT id FROM audit_entries")
        said = f'[{row}, "2027-04-19T13:00:00.000000", "office act", {self.person.id}, "", null, "::1", "", '
        said += '"“0” \\\\ ü"]'
        expected = hmac.digest(key, FIRST + said.encode(), "sha256")
        self.assertEqual(bytes(self.campus.value("SELECT digest FROM audit_entries")), expected)

    def test_every_kind_of_tampering_is_named(self) -> None:
        made_anew = (
            # All digests from there on, as far as they can be made without the key.
            "DO $$ DECLARE b bytea; r record; BEGIN FOR r IN SELECT * FROM audit_entries WHERE id >= "
            "(SELECT min(id) + {after} FROM audit_entries) ORDER BY id LOOP "
            "b := coalesce(b, r.digest_before); "
            "UPDATE audit_entries SET digest_before = b, digest = sha256(b || convert_to(r.detail, 'UTF8')) "
            "WHERE id = r.id RETURNING digest INTO b; END LOOP; "
            "UPDATE audit_head SET last_digest = b; END $$"
        )
        first = "(SELECT min(id) FROM audit_entries)"
        for name, statements, count in (
            ("altered, all later digests made anew", (made_anew.format(after=30),), 20),
            (
                "the last ten gone",
                (f"DELETE FROM audit_entries WHERE id >= {first} + 40",),
                1,
            ),
            ("the first ten gone", (f"DELETE FROM audit_entries WHERE id < {first} + 10",), 1),
            (
                "the first fifteen rewritten",
                (f"UPDATE audit_entries SET detail = 'else' WHERE id < {first} + 15",),
                15,
            ),
            (
                "the last ten gone, and the note of the end put right",
                (
                    f"DELETE FROM audit_entries WHERE id >= {first} + 40",
                    "UPDATE audit_head SET last_id = (SELECT max(id) FROM audit_entries), last_digest = "
                    "(SELECT digest FROM audit_entries ORDER BY id DESC LIMIT 1)",
                ),
                1,
            ),
            ("all of it gone", ("DELETE FROM audit_entries",), 1),
            ("one put in", (_COPY,), 1),
        ):
            with self.subTest(name):
                self.setUp()
                self.note(50)
                self.assertEqual(self.verified().breaks, ())
                self.owner(*statements)
                self.assertGreaterEqual(len(self.verified().breaks), min(count, 20), self.verified())

    def test_what_has_gone_by_age_is_missed_nowhere(self) -> None:
        self.note(5, NOW - AUDIT_KEPT - timedelta(days=2))
        self.note(5)
        with connected(self.campus.database) as database:
            self.assertEqual(age_out(database, NOW), 5)
            self.assertEqual(age_out(database, NOW), 0)
        found = self.verified()
        self.assertEqual((found.many, found.breaks), (5, ()))
        self.note(2)
        self.assertEqual(self.verified().breaks, ())
        with connected(self.campus.database) as database:
            self.assertEqual(age_out(database, NOW + AUDIT_KEPT + timedelta(days=9)), 7)
        self.assertEqual((self.verified().many, self.verified().breaks), (0, ()))


_COPY = (
    "INSERT INTO audit_entries (at, kind, detail, digest_before, digest, is_keyed) "
    "SELECT at, kind, 'forged', digest, sha256(digest), true FROM audit_entries ORDER BY id DESC LIMIT 1"
)


class Writer(OnRecord):
    """What waits to be written."""

    def test_one_that_no_table_can_hold_spoils_no_other(self) -> None:
        writer = AuditWriter(self.serving)
        for detail in ("one", "half a sign \ud800", "two", "nul \0", "three"):
            writer.note(Entry(NOW, AuditKind.OFFICE_ACT, self.person.id, detail=detail))
        writer.write()
        self.assertEqual(
            self.campus.value("SELECT array_agg(detail ORDER BY id) FROM audit_entries"),
            ["one", "two", "three"],
        )
        self.assertEqual(self.verified().breaks, ())

    def test_away_in_the_middle_nothing_is_written_twice(self) -> None:
        writer = AuditWriter(self.serving)
        for detail in ("one", "nul \0", "two"):
            writer.note(Entry(NOW, AuditKind.OFFICE_ACT, self.person.id, detail=detail))
        tried: list[str] = []

        def write(database: PooledPostgresqlDatabase, entries: Sequence[Entry]) -> None:
            tried.append(entries[0].detail)
            if tried[1:] and entries[0].detail == "two":
                raise OperationalError("away")
            write_entries(database, entries)

        with (
            mock.patch("gremba.actions.access.audit_log.write_entries", write),
            self.assertRaises(OperationalError),
        ):
            writer.write()
        writer.write()
        found = "SELECT array_agg(detail ORDER BY id) FROM audit_entries"
        self.assertEqual(self.campus.value(found), ["one", "two"])

    def test_what_strangers_cause_is_written_once_and_counted(self) -> None:
        writer = AuditWriter(self.serving)
        for n in range(40):
            at = NOW - timedelta(days=900) + timedelta(seconds=n / 10)
            writer.note(Entry(at, AuditKind.LIMIT_MET, address="192.0.2.1", detail="open session (429)"))
        writer.turn()
        self.assertEqual(
            self.campus.value("SELECT array_agg(detail ORDER BY id) FROM audit_entries"),
            ["open session (429)", "39 more within the minute: open session (429)"],
        )


class Anchors(OnRecord):
    """The last digest goes somewhere else once a day."""

    def setUp(self) -> None:
        super().setUp()
        self.sent: list[str] = []

    def turn(self, send: Callable[[str], None] | None = None) -> None:
        AnchorSender(self.serving, send or self.sent.append).turn()

    def test_once_a_day_by_one_of_many(self) -> None:
        self.turn()
        self.assertEqual(self.sent, [])
        self.note(3)
        for _ in range(3):
            self.turn()
        digest = self.campus.value("SELECT encode(digest, 'hex') FROM audit_entries ORDER BY id DESC LIMIT 1")
        self.assertEqual(len(self.sent), 1)
        self.assertTrue(self.sent[0].endswith(f"digest {digest}"), self.sent)
        self.campus.run("UPDATE audit_anchors SET day = day - 1")
        self.note(1)
        self.turn()
        self.assertEqual(len(self.sent), 2)
        self.assertNotIn(digest, self.sent[1])

    def test_what_could_not_be_sent_is_tried_again_later(self) -> None:
        self.note(1)

        def away(_: str) -> None:
            raise ConnectionError("away")

        self.turn(away)
        self.turn()
        self.assertEqual(self.sent, [])
        self.campus.run("UPDATE audit_anchors SET tried_at = tried_at - interval '1 hour'")
        self.turn()
        self.assertEqual(len(self.sent), 1)

    def test_into_a_file_line_by_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "digests"
            send = sender_of(f"file:{path}", None)
            assert send is not None
            send("one")
            send("two")
            self.assertEqual(path.read_text(), "one\ntwo\n")
            self.assertEqual(path.stat().st_mode & 0o777, 0o600)

    def test_settings(self) -> None:
        self.assertIsNone(sender_of("", None))
        server = MailServer("mail.example", 25)
        for setting, mail in (("syslog:", None), ("mail:registrar@college.example", server)):
            self.assertIsNotNone(sender_of(setting, mail))
        for setting, mail in (
            ("mail:registrar@college.example", None),
            ("file:here", None),
            ("fax:1", server),
        ):
            with self.subTest(setting), self.assertRaisesRegex(ValueError, "file:/path"):
                sender_of(setting, mail)


if __name__ == "__main__":
    unittest.main()
