"""Whatever a person types or a program sends: a clear answer, nothing lost, nothing internal."""

from __future__ import annotations

import secrets
import unittest
from collections.abc import Callable
from typing import Any

import httpx

from gremba.web.schemas import CartResponse, ConfirmationResponse, PastedResponse, WeekResponse
from tests.support.campus import TERM, Campus, outcome, send
from tests.support.servers import Server, cluster, new_database

CART = f"/api/terms/{TERM}/cart"
INTERNALS = ("Traceback", "psycopg", "peewee", "SELECT", "gremba/", 'File "')


class BadInput(unittest.TestCase):
    campus: Campus
    numbers: list[str]
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.numbers = [cls.campus.section(seats=10, weekdays="MTWRF"[n]) for n in range(5)]
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def setUp(self) -> None:
        self.client = self.campus.client(self.campus.person(), self.server.url)
        self.addCleanup(self.client.close)

    def paste(self, text: str) -> PastedResponse:
        answer = self.client.post(f"{CART}/changes", json={"kind": "add", "text": text})
        self.assertEqual(answer.status_code, 200, answer.text)
        return PastedResponse.model_validate(answer.json())

    def test_good_numbers_are_kept_and_the_others_reported_one_by_one(self) -> None:
        one, two = self.numbers[:2]
        found = self.paste(f"{one}, 99999; {two} 123 and {one}")
        self.assertEqual([c.outcome.number for c in found.cart.changes], [one, two])
        self.assertEqual([r.piece for r in found.reports if not r.taken], ["99999", one, "123"])
        self.assertIn("more than once", found.reports[-2].text)
        again = self.paste(one)
        self.assertIn("in your cart already", again.reports[0].text)
        self.assertFalse(again.reports[0].mend)

    def test_thousands_of_words(self) -> None:
        found = self.paste("word 77777 " * 1_800 + self.numbers[0])
        self.assertEqual([c.outcome.number for c in found.cart.changes], [self.numbers[0]])
        self.assertLess(len(found.reports), 50)

    def test_a_text_that_nobody_has_typed(self) -> None:
        """Marks without end took a worker's life once; a book is turned away in words."""
        found = self.paste(f"{self.numbers[0]} e" + "\u0301\u0316" * 9_900)
        self.assertEqual([c.outcome.number for c in found.cart.changes], [self.numbers[0]])
        for text in ("word " * 5_000, "e" + "\u0301\u0316" * 60_000):
            answer = self.client.post(f"{CART}/changes", json={"kind": "add", "text": text})
            self.assertEqual((answer.status_code, answer.json()["type"]), (422, "/problems/text-too-long"))
            self.assertIn("20,000", answer.json()["detail"])

    def test_what_is_not_a_request_at_all(self) -> None:
        submissions = f"/api/terms/{TERM}/submissions"
        key = {"Idempotency-Key": "a-good-key"}
        change = {"kind": "add", "number": self.numbers[0]}
        cases: tuple[tuple[int, Callable[[], httpx.Response]], ...] = (
            (
                422,
                lambda: self.client.post(
                    submissions, content="{", headers={**key, "Content-Type": "application/json"}
                ),
            ),
            (422, lambda: self.client.post(submissions, json={"changes": []}, headers=key)),
            (422, lambda: self.client.post(submissions, json={"changes": [change]})),
            (422, lambda: send(self.client, ["+1234"])),
            (
                422,
                lambda: self.client.post(
                    submissions, headers=key, json={"changes": [{**change, "credits": 1e308}]}
                ),
            ),
            (422, lambda: self.client.put(f"{CART}/order", json={"ids": ["x"]})),
            (409, lambda: self.client.put(f"{CART}/order", json={"ids": [987654321]})),
            (422, lambda: self.client.put(f"{CART}/mode", json={"mode": "some"})),
            (404, lambda: self.client.get("/api/terms/no-such-term/cart")),
            (
                404,
                lambda: self.client.post(
                    "/api/terms/no-such-term/submissions", headers=key, json={"changes": [change]}
                ),
            ),
            (404, lambda: self.client.get("/api/confirmations/99999999999999999999")),
            (404, lambda: self.client.get("/api/nothing")),
            (405, lambda: self.client.delete(CART)),
            (413, lambda: self.client.post(f"{CART}/changes", content="x" * 600_000)),
        )
        for status, call in cases:
            answer = call()
            with self.subTest(answer.url.path, status=status):
                self.assertEqual(answer.status_code, status, answer.text)
                self.assertEqual(answer.headers["content-type"], "application/problem+json")
                self.assertTrue(answer.json()["detail"])
                for word in INTERNALS:
                    self.assertNotIn(word, answer.text)

    def test_values_that_cannot_be_are_told_in_our_own_words(self) -> None:
        change = {"kind": "add", "number": self.numbers[0]}
        own = {
            "a number from 0 to 30": [{**change, "credits": -1}],
            "has five digits": [{**change, "number": "123"}],
            "names the section that is given up": [{**change, "kind": "swap"}],
            "Only a swap": [{**change, "in_exchange": self.numbers[1]}],
            "cannot be given up for itself": [
                {**change, "kind": "swap", "in_exchange": self.numbers[0]},
                {**change, "kind": "wait", "in_exchange": self.numbers[0]},
            ],
            "number from 0 to 30": [{**change, "credits": True}],
            "Name at least one change": [],
            "no such field": [{**change, "colour": "red"}],
            "is missing": [{"kind": "add"}],
            "one of add, drop": [{**change, "kind": "steal"}],
        }
        for words, changes in own.items():
            answer = self.send_raw({"changes": changes})
            self.assertEqual(answer.status_code, 422, words)
            self.assertIn(words, " ".join(f["what"] for f in answer.json()["fields"]))
            self.assertNotRegex(answer.text, r"Input should|Value error|pydantic|String should")
        not_a_number = self.client.post(
            f"/api/terms/{TERM}/submissions",
            content=f'{{"changes": [{{"kind": "add", "number": "{self.numbers[0]}", "credits": NaN}}]}}',
            headers={"Idempotency-Key": "not-a-number", "Content-Type": "application/json"},
        )
        self.assertEqual(not_a_number.status_code, 422)
        self.assertNotRegex(not_a_number.text, r"Input should|finite")

    def test_the_cart_is_as_strict_about_what_is_given_up(self) -> None:
        own, other = self.numbers[:2]
        for body in (
            {"kind": "add", "text": own, "in_exchange": other},
            {"kind": "drop", "text": own, "in_exchange": other},
            {"kind": "swap", "text": own},
            {"kind": "swap", "text": own, "in_exchange": own},
        ):
            answer = self.client.post(f"{CART}/changes", json=body)
            self.assertEqual(answer.status_code, 422, body)
        for change in (
            {"kind": "add", "number": own, "in_exchange": other},
            {"kind": "swap", "number": own},
            {"kind": "swap", "number": own, "in_exchange": own},
            {"kind": "wait", "number": own, "in_exchange": own},
            {"kind": "wait", "number": own, "in_exchange": "x" * 9},
        ):
            answer = self.client.post(f"{CART}/proposals", json={"changes": [change]})
            self.assertEqual(answer.status_code, 422, change)
        self.assertEqual(self.client.get(CART).json()["changes"], [])

    def test_a_sending_carries_as_many_changes_as_a_cart_holds(self) -> None:
        most = int(self.campus.context().term(TERM).policy.most_changes)
        changes = [{"kind": "add", "number": f"{70_000 + n}"} for n in range(most + 1)]
        answer = self.send_raw({"changes": changes})
        self.assertEqual((answer.status_code, answer.json()["type"]), (422, "/problems/too-many-changes"))
        self.assertIn(str(most), answer.json()["title"])
        self.assertEqual(self.send_raw({"changes": changes[:most]}).status_code, 200)

    def send_raw(self, body: dict[str, Any]) -> httpx.Response:
        return self.client.post(
            f"/api/terms/{TERM}/submissions", json=body, headers={"Idempotency-Key": secrets.token_hex(12)}
        )

    def test_unknown_numbers_sent_by_a_program_are_findings(self) -> None:
        answer = send(self.client, ["+99999", f"-{self.numbers[0]}", f"+{self.numbers[1]}"])
        self.assertEqual(outcome(answer), "rra")
        ConfirmationResponse.model_validate(answer.json())

    def test_answers_have_the_shapes_that_are_described(self) -> None:
        self.paste(" ".join(self.numbers[:3]))
        cart = CartResponse.model_validate(self.client.get(CART).json())
        WeekResponse.model_validate(self.client.get(f"/api/terms/{TERM}/week").json())
        order = [c.id for c in cart.changes][::-1]
        moved = CartResponse.model_validate(self.client.put(f"{CART}/order", json={"ids": order}).json())
        self.assertEqual([c.id for c in moved.changes], order)
        left = self.client.delete(f"{CART}/changes/{order[0]}").json()
        self.assertEqual([c["id"] for c in left["changes"]], order[1:])


class DatabaseAway(unittest.TestCase):
    def test_away_and_back(self) -> None:
        campus = Campus(new_database())
        number = campus.section(seats=5)
        server = Server(campus.url)
        self.addCleanup(server.stop)
        with campus.client(campus.person(), server.url) as client:
            client.post(f"{CART}/changes", json={"kind": "add", "text": number})
            campus.close()
            cluster().stop()
            try:
                for answer in (client.get(CART), send(client, [f"+{number}"], key="kept-for-later")):
                    self.assertEqual(answer.status_code, 503, answer.text)
                    self.assertEqual(answer.json()["type"], "/problems/records-away")
                    self.assertIn("Retry-After", answer.headers)
                    for word in INTERNALS:
                        self.assertNotIn(word, answer.text)
            finally:
                cluster().start()
            self.assertEqual(len(client.get(CART).json()["changes"]), 1)
            self.assertEqual(outcome(send(client, [f"+{number}"], key="kept-for-later")), "a")
            self.assertEqual(client.get(CART).json()["changes"], [])
        self.assertEqual(campus.disagreements(), [])
        campus.close()
