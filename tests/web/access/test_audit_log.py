"""What was done is on record, with who, from where and under which request; and goes when it is old."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock

import httpx

from gremba.store.access import audit_log as audit
from gremba.store.access.audit_log import RETENTION, purge
from gremba.store.database import connected, fetch_sql
from tests.support.campus import PASSWORD, TERM, Campus, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon


class Record(unittest.TestCase):
    campus: Campus
    number: str
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.number = cls.campus.section(seats=40)
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def entry_of(self, answer: httpx.Response) -> dict[str, Any]:
        """The entry of the request that was answered so."""
        request_id = answer.headers["X-Request-Id"]
        soon(
            lambda: (
                self.campus.value("SELECT count(*) FROM audit_entries WHERE request_id = %s", request_id) == 1
            )
        )
        with connected(self.campus.database):
            found = fetch_sql(
                self.campus.database,
                "SELECT row_to_json(e) FROM audit_entries e WHERE request_id = %s",
                (request_id,),
            )
        return dict(found[0][0])

    def test_each_kind_of_act(self) -> None:
        student, advisor, cashier = (self.campus.person(r) for r in ("student", "advisor", "cashier"))
        self.campus.advised_by(student, advisor)
        nobody = httpx.Client(base_url=self.server.url)
        clients = [self.campus.client(p, self.server.url) for p in (student, advisor, cashier)]
        for client in (nobody, *clients):
            self.addCleanup(client.close)
        mine, theirs, office = clients
        given = {"username": student.username, "password": PASSWORD}
        many = [
            mine.post(
                "/api/failed-pages",
                json={"where": "cart", "address": "/coming/week", "problem": "x is undefined"},
            )
            for _ in range(7)
        ]
        cases = (
            ("signed in", student.id, None, nobody.post("/api/session", json=given)),
            (
                "sign-in failed",
                None,
                None,
                httpx.post(f"{self.server.url}/api/session", json={**given, "password": "no"}),
            ),
            ("refused", student.id, None, mine.get("/api/students", params={"search": "ann"})),
            (
                "refused",
                student.id,
                None,
                mine.put(
                    f"/api/terms/{TERM}/cart/mode", json={"mode": "all"}, headers={"X-CSRF-Token": "forged"}
                ),
            ),
            (
                "payment forged",
                None,
                None,
                httpx.post(f"{self.server.url}/api/payments/answers", content=b"{}"),
            ),
            ("acted for", advisor.id, student.id, send(theirs, [f"+{self.number}"], student=student.id)),
            (
                "office act",
                cashier.id,
                student.id,
                office.post(
                    f"/api/students/{student.id}/fee-holds",
                    json={"reason": "A fee.", "amount_cents": 5},
                    headers={"Idempotency-Key": "a-fee-of-five"},
                ),
            ),
            ("page failed", student.id, None, many[0]),
            ("limit met", student.id, None, many[6]),
            ("signed out", student.id, None, mine.delete("/api/session")),
        )
        for kind, person, about, answer in cases:
            with self.subTest(kind, status=answer.status_code):
                entry = self.entry_of(answer)
                self.assertEqual(
                    (entry["kind"], entry["person_id"], entry["student_id"]), (kind, person, about)
                )
                self.assertEqual(entry["address"], "127.0.0.1")
        failed = self.entry_of(cases[1][3])
        self.assertEqual(failed["account"], student.username)
        self.assertIn("x is undefined", self.entry_of(many[0])["detail"])

    def test_what_a_student_does_alone_is_in_confirmations_and_not_here(self) -> None:
        with self.campus.client(self.campus.person(), self.server.url) as client:
            answer = send(client, [f"+{self.number}"])
            self.assertRegex(answer.headers["X-Request-Id"], r"^[0-9a-f]{16}$")
            found = self.campus.value(
                "SELECT count(*) FROM audit_entries WHERE request_id = %s", answer.headers["X-Request-Id"]
            )
            self.assertEqual(found, 0)

    def test_it_is_only_added_to(self) -> None:
        self.campus.run("INSERT INTO audit_entries (at, kind) VALUES (now(), 'refused')")
        with self.assertRaisesRegex(Exception, "only added to"):
            self.campus.run("UPDATE audit_entries SET kind = 'signed in'")

    def test_what_is_old_goes_and_nothing_else(self) -> None:
        who = self.campus.person()
        now = datetime.now(UTC)
        for days in (1, 29, 31, 100, 179, 181, 399, 401):
            at = now - timedelta(days=days)
            # What is older was written before.
            self.campus.run(
                "INSERT INTO audit_entries (id, at, kind, detail) VALUES (%s, %s, 'refused', 'old')",
                -days,
                at,
            )
            self.campus.run(
                "INSERT INTO sign_ins (account, origin, at, result) VALUES ('old', 'x', %s, 'wrong')", at
            )
            self.campus.run(
                "INSERT INTO permission_code_guesses (person_id, code, at) VALUES (%s, 'x', %s)", who.id, at
            )
            self.campus.run("INSERT INTO known_browsers VALUES (%s, %s, %s)", bytes([days % 256]), who.id, at)
            self.campus.run(
                "INSERT INTO sessions (token_digest, person_id, csrf_token, created_at, "
                "expires_at) VALUES (%s, %s, '', %s, %s)",
                b"%d" % days,
                who.id,
                at,
                at,
            )
        confirmations = self.campus.value("SELECT count(*) FROM confirmations")
        # In several goes, each of a few rows.
        with connected(self.campus.database), mock.patch.object(audit, "AT_ONCE", 2):
            gone = purge(self.campus.database, now)
        self.assertEqual(
            gone,
            {"sign_ins": 6, "permission_code_guesses": 6, "known_browsers": 3, "sessions": 6},
        )
        self.assertEqual(set(gone), set(RETENTION))
        self.assertEqual(self.campus.value("SELECT count(*) FROM confirmations"), confirmations)
