"""Who may call what, sessions, and what a guessed address gives away."""

from __future__ import annotations

import unittest

import httpx

from gremba.settings import Settings
from gremba.web.access.guard import ACCESS
from gremba.web.app import build_app
from tests.support.campus import PASSWORD, TERM, Campus, Somebody, send
from tests.support.servers import Server, new_database

CART = f"/api/terms/{TERM}/cart"


class Access(unittest.TestCase):
    campus: Campus
    number: str
    student: Somebody
    other: Somebody
    cashier: Somebody
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.number = cls.campus.section(seats=10, weekdays="M")
        cls.student, cls.other = cls.campus.people(2)
        cls.cashier = cls.campus.person("cashier")
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def test_every_route_stands_in_the_table(self) -> None:
        paths = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()["paths"]
        names = {op["operationId"] for methods in paths.values() for op in methods.values()}
        self.assertEqual(names, set(ACCESS))

    def test_nobody_gets_a_students_pages(self) -> None:
        with httpx.Client(base_url=self.server.url) as nobody:
            for path in (CART, f"/api/terms/{TERM}/week", "/api/confirmations/1"):
                answer = nobody.get(path)
                self.assertEqual(answer.status_code, 401)
                self.assertEqual(answer.headers["content-type"], "application/problem+json")

    def test_an_office_does_not_get_them_either(self) -> None:
        with self.campus.client(self.cashier, self.server.url) as client:
            self.assertEqual(client.get(CART).status_code, 403)
            self.assertEqual(send(client, [f"+{self.number}"]).status_code, 403)

    def test_a_write_needs_the_token_and_our_own_page(self) -> None:
        with self.campus.client(self.student, self.server.url) as client:
            body = {"kind": "add", "text": self.number}
            for headers in (
                {"X-CSRF-Token": ""},
                {"X-CSRF-Token": "wrong"},
                {"Origin": "http://elsewhere.test"},
                {"Sec-Fetch-Site": "cross-site"},
            ):
                with self.subTest(headers):
                    answer = client.post(f"{CART}/changes", json=body, headers=headers)
                    self.assertEqual(answer.status_code, 403)
                    answer = client.post(
                        f"/api/terms/{TERM}/submissions",
                        headers=headers,
                        json={"changes": [{"kind": "add", "number": self.number}]},
                    )
                    self.assertEqual(answer.status_code, 403)
            self.assertEqual(client.get(CART).json()["changes"], [])

    def test_another_students_confirmation_looks_like_none(self) -> None:
        with self.campus.client(self.other, self.server.url) as client:
            confirmation = send(client, [f"+{self.number}"]).json()["id"]
            self.assertEqual(client.get(f"/api/confirmations/{confirmation}").status_code, 200)
        with self.campus.client(self.student, self.server.url) as client:
            theirs, none = (
                client.get(f"/api/confirmations/{confirmation}"),
                client.get("/api/confirmations/999999"),
            )
            self.assertEqual((theirs.status_code, theirs.json()), (404, none.json()))

    def test_signing_in_and_out(self) -> None:
        with httpx.Client(base_url=self.server.url) as client:
            given = {"username": self.student.username, "password": PASSWORD}
            answer = client.post("/api/session", json=given)
            self.assertEqual(answer.status_code, 200)
            cookie = answer.headers["set-cookie"]
            for part in ("HttpOnly", "SameSite=strict"):
                self.assertIn(part, cookie)
            self.assertEqual(client.get(CART).status_code, 200)
            token = {"X-CSRF-Token": answer.json()["csrf_token"]}
            kept = dict(client.cookies)
            self.assertEqual(client.delete("/api/session", headers=token).status_code, 204)
            # The old cookie is worth nothing any more, wherever it was kept.
            self.assertEqual(httpx.get(f"{self.server.url}{CART}", cookies=kept).status_code, 401)
