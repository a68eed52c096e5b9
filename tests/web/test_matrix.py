"""Every role against every route: who is let in, and who is told what."""

from __future__ import annotations

import unittest

import httpx

from gremba.settings import Settings
from gremba.web.access.guard import ACCESS, ROLES
from gremba.web.app import build_app
from tests.support.campus import TERM, Campus, Somebody
from tests.support.servers import Server, new_database

SOMETHING = {
    "term": TERM,
    "change_id": "1",
    "confirmation_id": "1",
    "hold_id": "1",
    "key": "offer_hours",
    "username": "nobody",
    "reference": "none",
    "student": "1",
    "number": "40001",
    "permission_code_id": "1",
    "link_id": "1",
    "token": "none",
    "entry_id": "1",
    "entry": 1,
    "anticipated_payment": 1,
    "draft": "1",
    "request_id": "1",
    "file_id": "1",
    "delegate": "1",
}
"""Values for the parts of an address; whether there is such a thing does not matter here."""


class Matrix(unittest.TestCase):
    campus: Campus
    people: dict[str, Somebody]
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.campus.section(seats=5)
        cls.people = {role: cls.campus.person(role) for role in sorted(ROLES)}
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def test_every_role_against_every_route(self) -> None:
        paths = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()["paths"]
        routes = [
            (described["operationId"], method.upper(), path)
            for path, methods in paths.items()
            for method, described in methods.items()
        ]
        self.assertEqual({name for name, _, _ in routes}, set(ACCESS))
        for who in ("nobody", *sorted(ROLES)):
            for name, method, path in routes:
                if name in ("close_session", "follow_term"):
                    # The one would end the session, the other never ends (see test_live).
                    continue
                client = (
                    httpx.Client(base_url=self.server.url)
                    if who == "nobody"
                    else self.campus.client(self.people[who], self.server.url)
                )
                with client, self.subTest(who=who, route=name):
                    answer = client.request(method, path.format(**SOMETHING))
                    allowed = who in ACCESS[name]
                    kind = answer.json()["type"] if answer.status_code >= 400 else ""
                    shut = {"/problems/sign-in-first", "/problems/not-for-you"}
                    self.assertEqual(kind not in shut, allowed, answer.text)
                    if not allowed:
                        expected = 401 if who == "nobody" else 403
                        self.assertEqual(answer.status_code, expected)

    def test_what_is_allowed_still_needs_the_token(self) -> None:
        with self.campus.client(self.people["cashier"], self.server.url) as client:
            answer = client.post(
                "/api/students/1/fee-holds",
                headers={"X-CSRF-Token": "no"},
                json={"reason": "A fee is due.", "amount_cents": 100},
            )
            self.assertEqual((answer.status_code, answer.json()["type"]), (403, "/problems/csrf"))
