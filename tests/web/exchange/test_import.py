"""Folders in and out by page."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any
from unittest import mock

import httpx
from fastapi.testclient import TestClient

from gremba.settings import Settings
from gremba.web.access.guard import CSRF_HEADER
from gremba.web.app import build_app
from gremba.web.exchange import import_routes as exchange
from tests.support.at_once import at_once
from tests.support.campus import PASSWORD, TERM, outcome, send
from tests.support.office import OnOffice
from tests.support.soon import soon


class Folders(OnOffice):
    number: str

    @classmethod
    def furnish(cls) -> None:
        cls.number = cls.campus.section(seats=5, weekdays="M", starts=9)

    def bring(self, tables: dict[str, str], client: httpx.Client | None = None, **query: Any) -> Any:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            for name, text in tables.items():
                archive.writestr(f"{name}.csv", text)
        return self.send(packed.getvalue(), client, **query)

    def send(self, content: bytes, client: httpx.Client | None = None, **query: Any) -> Any:
        answer = (client or self.maud).post("/api/exchange/folder", params=query, content=content)
        self.assertEqual(answer.status_code, 200, answer.text)
        lines = [json.loads(line) for line in answer.text.splitlines()]
        shares = [line["share"] for line in lines[:-1]]
        self.assertEqual(shares, sorted(shares))
        return lines[-1]

    def test_what_goes_out_comes_in_and_changes_nothing(self) -> None:
        for form in ("zip", "xlsx"):
            packed = self.maud.get("/api/exchange/folder", params={"form": form})
            report = self.send(packed.content)["report"]
            self.assertEqual((report["mistakes_in_all"], report["changes_nothing"]), (0, True), form)
        for path in ("/api/exchange/template?form=zip", "/api/exchange/template?form=xlsx"):
            report = self.send(self.maud.get(path).content)["report"]
            self.assertEqual((report["mistakes_in_all"], report["changes_nothing"]), (0, True), path)

    def test_tried_then_taken_over(self) -> None:
        row = {"subjects": "code,name\r\nSALT,Salt making\r\n"}
        trial = self.bring(row)["report"]
        self.assertEqual([(t["name"], t["new"]) for t in trial["tables"]], [("subjects", 1)])
        self.assertEqual(self.campus.value("SELECT count(*) FROM subjects WHERE code = 'SALT'"), 0)
        done = self.bring(row, trial=False, expected=trial["digest"])["report"]
        self.assertTrue(done["is_done"])
        self.assertEqual(self.campus.value("SELECT name FROM subjects WHERE code = 'SALT'"), "Salt making")
        self.assertTrue(self.bring(row, trial=False)["report"]["changes_nothing"])
        self.recorded("exchange folder taken over")

    def test_a_folder_may_hold_only_what_changes(self) -> None:
        changed = {"sections": f"term,number,notes\r\n{TERM},{self.number},Bring a spade.\r\n"}
        self.assertTrue(self.bring(changed, trial=False)["report"]["is_done"])
        self.assertEqual(
            self.campus.value("SELECT notes FROM sections WHERE reference_number = %s", self.number),
            "Bring a spade.",
        )
        self.assertEqual(
            self.campus.value(
                "SELECT seat_limit FROM seat_pools p JOIN sections s ON s.pool_id = p.id "
                "WHERE reference_number = %s",
                self.number,
            ),
            5,
        )
        report = self.bring({"sections": f"term,number,notes\r\n{TERM},54321,New.\r\n"})["report"]
        self.assertEqual(
            [(m["column"], m["problem"]) for m in report["mistakes"]],
            [
                (c, "is not in the heading, and this row is new")
                for c in ("course", "session", "component", "seats")
            ],
        )

    def test_a_term_alone_and_who_is_registered(self) -> None:
        packed = self.maud.get("/api/exchange/folder", params={"term": TERM}).content
        names = zipfile.ZipFile(io.BytesIO(packed)).namelist()
        self.assertIn("sections.csv", names)
        self.assertFalse({"people.csv", "courses.csv", "records.csv"} & set(names))
        self.assertTrue(self.send(packed)["report"]["changes_nothing"])
        self.assertEqual(self.maud.get("/api/exchange/folder", params={"term": "never"}).status_code, 404)
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        path = f"/api/exchange/terms/{TERM}/registrations"
        for query in ({}, {"number": self.number}):
            rows = self.maud.get(path, params=query).text.strip().splitlines()
            self.assertEqual(len(rows), 2)
            self.assertIn(f"{self.number},LAND 101,{self.student.username}", rows[1])
        self.assertEqual(self.maud.get(path, params={"number": "54321"}).status_code, 404)

    def test_a_term_that_students_have_seen_is_not_prepared_again(self) -> None:
        report = self.bring({"terms": f"code,state\r\n{TERM},in preparation\r\n"})["report"]
        self.assertIn("has been opened already", report["mistakes"][0]["problem"])

    def test_what_cannot_be_read(self) -> None:
        for content in (b"", b"PK\x03\x04 nonsense", b"code,name\n", b"\x00" * 100_000):
            self.assertIn("no .xlsx", self.send(content)["problem"]["detail"])
        self.assertEqual(
            self.bring({"subjects": "code,name\r\nSOYL,\r\n"})["report"]["mistakes"][0]["column"], "name"
        )
        large = self.maud.post("/api/exchange/folder", content=b"x" * (65 << 20))
        self.assertEqual(large.status_code, 413)
        for who in ("student", "advisor", "instructor", "cashier"):
            with self.campus.client(self.campus.person(who), self.server.url) as other:
                self.assertEqual(other.post("/api/exchange/folder", content=b"x").status_code, 403)
                self.assertEqual(other.get("/api/exchange/folder").status_code, 403)

    def test_one_that_nobody_waits_for_any_more_ends_and_keeps_nothing(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            rows = "".join(
                f"new{n},New Student {n},student,new{n}@college.example\r\n" for n in range(60_000)
            )
            archive.writestr("people.csv", f"username,full_name,role,email\r\n{rows}")
        before = self.campus.value("SELECT count(*) FROM persons")
        with self.maud.stream(
            "POST", "/api/exchange/folder?trial=false", content=packed.getvalue()
        ) as answer:
            next(answer.iter_lines())
        # Both places are free at once, long before so many would have been taken over.
        soon(lambda: self.send(b"PK")["problem"]["title"] != "")
        soon(lambda: "report" in self.bring({"subjects": "code,name\r\nMALT,Malt\r\n"}))
        self.assertEqual(self.campus.value("SELECT count(*) FROM persons"), before)

    def test_one_that_takes_too_long_ends_and_says_so(self) -> None:
        app = build_app(Settings(database_url=self.campus.url))
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("subjects.csv", "code,name\r\nLATE,Late\r\n")
        who = {"username": self.registrar.username, "password": PASSWORD}
        with TestClient(app, base_url="https://localhost") as client:
            token = client.post("/api/session", json=who).json()["csrf_token"]
            client.headers[CSRF_HEADER] = token
            with mock.patch.object(exchange, "MAX_SECONDS", -60):
                answer = client.post("/api/exchange/folder?trial=false", content=packed.getvalue())
        told = json.loads(answer.text.splitlines()[-1])["problem"]["detail"]
        self.assertIn("It took longer than", told)
        self.assertEqual(self.campus.value("SELECT count(*) FROM subjects WHERE code = 'LATE'"), 0)

    def test_more_at_once_than_are_read_wait_their_turn(self) -> None:
        statuses: list[int] = []

        def one(n: int) -> None:
            with self.campus.client(self.registrar, self.server.url) as client:
                packed = io.BytesIO()
                with zipfile.ZipFile(packed, "w") as archive:
                    rows = "".join(f"S{chr(65 + k // 26 % 26)}{chr(65 + k % 26)},x\r\n" for k in range(600))
                    archive.writestr("subjects.csv", f"code,name\r\n{rows}")
                answer = client.post("/api/exchange/folder", content=packed.getvalue())
                statuses.append(answer.status_code)

        at_once(one, range(6))
        self.assertTrue(set(statuses) <= {200, 503}, statuses)
        self.assertIn(200, statuses)
        # All places are free again.
        self.assertIsNotNone(self.bring({"subjects": "code,name\r\nSALT,Salt\r\n"})["report"])
