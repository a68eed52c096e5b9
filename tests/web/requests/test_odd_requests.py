"""Requests of a kind that no page of ours makes."""

from __future__ import annotations

import json
import secrets
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx

from gremba.actions.account.pay import MOST_WAITING
from tests.support.campus import TERM, Campus, outcome, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon

CART = f"/api/terms/{TERM}/cart"


class Odd(unittest.TestCase):
    campus: Campus
    numbers: list[str]
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.numbers = [
            cls.campus.section(seats=30, weekdays="MTWRF"[n % 5], starts=8 + n // 5) for n in range(50)
        ]
        cls.server = Server(cls.campus.url, hosts="localhost,127.0.0.1")

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def client(self, role: str = "student") -> httpx.Client:
        """Somebody signed in."""
        client = self.campus.client(self.campus.person(role), self.server.url)
        self.addCleanup(client.close)
        return client

    def test_a_signature_of_odd_bytes_is_a_wrong_one(self) -> None:
        for signature in (b"\xff\xfe", "é".encode(), b"", b"\x80" * 100):
            answer = httpx.post(
                f"{self.server.url}/api/payments/answers",
                content=b"{}",
                headers={b"X-Payment-Signature": signature},
            )
            self.assertEqual((answer.status_code, answer.json()["type"]), (403, "/problems/payment-forged"))

    def test_the_short_way_is_as_narrow_as_the_long_one(self) -> None:
        body = json.dumps({"changes": [{"kind": "add", "number": self.numbers[0]}]})
        client = self.client()
        for path, kind, status in (
            (f"/api/terms/{TERM}/submissions", "text/plain", 415),
            (f"/api/terms/{TERM}/submissions", "", 415),
            (f"/api/terms/{TERM}/submissions%0A", "application/json", 404),
            (f"/api/terms/{TERM}/submissions", "application/json; charset=utf-8", 200),
        ):
            headers = {"Idempotency-Key": secrets.token_hex(8), "Content-Type": kind}
            with self.subTest(path, kind=kind):
                answer = client.post(path, content=body, headers=headers)
                self.assertEqual(answer.status_code, status, answer.text)
                if status != 200:
                    self.assertEqual(answer.headers["Content-Type"], "application/problem+json")

    def test_a_body_without_a_length_has_a_bound_all_the_same(self) -> None:
        def pieces() -> Iterator[bytes]:
            for _ in range(20):
                yield b"x" * 40_000

        for path in (f"{CART}/changes", f"/api/terms/{TERM}/submissions"):
            answer = self.client().post(
                path,
                content=pieces(),
                headers={
                    "Content-Type": "application/json",
                    "Idempotency-Key": "a-good-key",
                },
            )
            self.assertEqual((answer.status_code, answer.json()["type"]), (413, "/problems/too-large"))

    def test_signs_that_cannot_be_seen_are_refused_in_words(self) -> None:
        cashier, student = self.client("cashier"), self.campus.person()
        for reason in ("A fee\u202eeef A", "A fee\x07 is due", "A fee \u2066is due", "fee\ud800s"):
            body = json.dumps({"reason": reason, "amount_cents": 100})
            answer = cashier.post(
                f"/api/students/{student.id}/fee-holds",
                content=body,
                headers={"Content-Type": "application/json", "Idempotency-Key": "odd-signs"},
            )
            self.assertEqual(answer.status_code, 422, reason)
        self.assertIn(
            "cannot be seen",
            answer.text
            + cashier.post(
                f"/api/students/{student.id}/fee-holds",
                json={"reason": "A fee\u202e", "amount_cents": 100},
                headers={"Idempotency-Key": "odd-signs"},
            ).text,
        )
        good = cashier.post(
            f"/api/students/{student.id}/fee-holds",
            json={"reason": "Gebühr für Töpferei 🏺", "amount_cents": 100},
            headers={"Idempotency-Key": "odd-signs"},
        )
        self.assertEqual(good.status_code, 200, good.text)

    def test_blanks_find_nobody_and_a_hold_is_lifted_where_it_lies(self) -> None:
        cashier, (one, other) = self.client("cashier"), self.campus.people(2)
        for search in ("  ", "", " a ", "\t\n"):
            self.assertEqual(cashier.get("/api/students", params={"search": search}).json(), [])
        self.assertGreater(len(cashier.get("/api/students", params={"search": "stud"}).json()), 1)
        hold = self.campus.fee_hold(one)
        why = {"why": "Paid in cash."}
        away = cashier.post(f"/api/students/{other.id}/fee-holds/{hold}/lifting", json=why)
        self.assertEqual(away.status_code, 404)
        there = cashier.post(f"/api/students/{one.id}/fee-holds/{hold}/lifting", json=why)
        self.assertEqual(there.status_code, 200)

    def test_few_payments_wait_for_one_account(self) -> None:
        who = self.campus.person()
        with self.campus.client(who, self.server.url) as client:
            codes = [
                client.post(f"/api/terms/{TERM}/account/payments", json={"amount_cents": 100 + n}).status_code
                for n in range(MOST_WAITING + 2)
            ]
        self.assertEqual(codes, [200] * MOST_WAITING + [409] * 2)

    def test_no_week_has_hundreds_of_sections(self) -> None:
        for path in ("search", f"sections/{self.numbers[0]}"):
            for many, status in ((40, 200), (41, 422)):
                answer = httpx.get(
                    f"{self.server.url}/api/terms/{TERM}/{path}",
                    params={"against": ",".join(self.numbers[:many])},
                )
                self.assertEqual(answer.status_code, status, answer.text)

    def test_other_names_for_this_server_are_not_answered(self) -> None:
        for host, status in (("evil.example", 421), ("localhost:1", 200), ("127.0.0.1", 200), ("", 421)):
            answer = httpx.get(f"{self.server.url}/api/session", headers={"Host": host})
            self.assertEqual(answer.status_code, status, host)

    def test_what_is_about_a_person_is_kept_by_no_cache(self) -> None:
        who = self.campus.person()
        with self.campus.client(who, self.server.url) as client:
            send(client, [f"+{self.numbers[0]}"])
            made = client.post(f"/api/terms/{TERM}/week/links", json={"kind": "calendar", "days": 7}).json()
            paths = [
                CART,
                "/api/session",
                f"/api/terms/{TERM}/week",
                f"/api/terms/{TERM}/confirmations",
                f"/api/terms/{TERM}/week/calendar",
                made["path"],
                "/api/sessions",
            ]
            for path in paths:
                self.assertIn("no-store", client.get(path).headers["Cache-Control"], path)
            self.assertEqual(client.get(made["path"]).headers["X-Robots-Tag"], "noindex")
            ends = self.campus.value("SELECT expires_at FROM week_links WHERE kind = 'calendar'")
            self.assertEqual(ends.date().isoformat()[:4], str(self.campus.begins.year))

    def test_head_is_answered_like_get_without_a_body(self) -> None:
        for path in ("/healthz", "/api/session", f"/api/terms/{TERM}/search"):
            answer = httpx.head(f"{self.server.url}{path}")
            self.assertEqual((answer.status_code, answer.content), (200, b""), path)
            self.assertGreater(int(answer.headers["Content-Length"]), 0)

    def test_consent_codes_have_a_quota_an_end_and_lift_no_holds(self) -> None:
        petra = self.campus.person("instructor")
        number, other = self.numbers[1:3]
        for taught in (number, other):
            self.campus.taught_by(taught, petra)
        path = f"/api/terms/{TERM}/taught/{number}/permission-codes"
        with self.campus.client(petra, self.server.url) as client:
            hold = client.post(path, json={"waives": ["hold", "seats"]})
            self.assertEqual((hold.status_code, hold.json()["type"]), (403, "/problems/permission-not-yours"))
            late = client.post(path, json={"waives": ["seats"], "expires_at": "2060-01-01T00:00:00Z"})
            self.assertEqual(late.status_code, 422)
            codes = [client.post(path, json={"waives": ["seats"], "many": 20}).status_code for _ in range(3)]
            self.assertEqual(codes, [200, 200, 409])
            given = client.get(f"/api/terms/{TERM}/taught/{number}").json()["permission_codes"]
            self.assertEqual({c["expires_at"] is None for c in given}, {False})
            elsewhere = client.post(
                f"/api/terms/{TERM}/taught/{other}/permission-codes", json={"waives": ["seats"]}
            )
            code = elsewhere.json()["permission_codes"][0]["code"]
        who = self.campus.person()
        with self.campus.client(who, self.server.url) as student:
            told = {
                outcome_text(send(student, [f"+{number} #{named}"])).replace(named, "…")
                for named in (code, "AAAA2222")
            }
            self.assertEqual(len(told), 1, "who guesses learns that there is such a code")
            self.assertEqual(
                self.campus.value(
                    "SELECT count(*) FROM permission_code_guesses WHERE person_id = %s", who.id
                ),
                2,
            )
            # For its own section it is good, and no guess.
            self.assertEqual(outcome(send(student, [f"+{other} #{code}"])), "a")

    def test_an_advisor_is_charged_with_guesses_and_sees_no_address(self) -> None:
        advisor, student = self.campus.person("advisor"), self.campus.person()
        self.campus.advised_by(student, advisor)
        with self.campus.client(advisor, self.server.url) as client:
            send(client, [f"+{self.numbers[3]} #AAAA3333"], student=student.id)
            told = client.get(f"/api/terms/{TERM}/clearance", params={"student": student.id}).json()
        charged = self.campus.value("SELECT person_id FROM permission_code_guesses WHERE code = 'AAAA3333'")
        self.assertEqual(charged, advisor.id)
        self.assertEqual((told["email"], told["details"]), ("", None))


def outcome_text(answer: httpx.Response) -> str:
    """What is said of the first change."""
    return str(answer.json()["body"]["outcomes"][0]["findings"])


class TooMany(unittest.TestCase):
    """Visitors that ask without end."""

    campus: Campus
    number: str
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.number = cls.campus.section(seats=5)
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def test_one_visitor_waits_for_their_own_turn_and_there_is_an_end(self) -> None:
        """The server is one process: sixty requests of one session at once leave room for another."""
        greedy = self.campus.client(self.campus.person(), self.server.url)
        other = self.campus.client(self.campus.person(), self.server.url)
        for client in (greedy, other):
            self.addCleanup(client.close)
        with ThreadPoolExecutor(60) as pool:
            asked = [pool.submit(greedy.get, CART) for _ in range(60)]
            self.assertEqual([other.get(CART).status_code for _ in range(5)], [200] * 5)
            self.assertEqual({a.result().status_code for a in asked}, {200})

    def test_sendings_of_one_person_a_minute_are_limited(self) -> None:
        with self.campus.client(self.campus.person(), self.server.url) as client:
            answers = [send(client, [f"-{self.number}"]) for _ in range(60)]
        # One more may come every two seconds, which a slow machine takes for a few of them.
        self.assertEqual([a.status_code for a in answers[:30]], [200] * 30)
        limited = [a.json() for a in answers if a.status_code == 429]
        self.assertGreater(len(limited), 2)
        self.assertEqual({told["type"] for told in limited}, {"/problems/submissions-limited"})
        self.assertIn("Your cart is kept", limited[0]["detail"])
        soon(lambda: self.campus.value("SELECT count(*) FROM audit_entries WHERE kind = 'limit met'") >= 2)
