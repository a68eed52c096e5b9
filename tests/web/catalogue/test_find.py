"""Finding sections over HTTP: no signing in, filters in the address, odd addresses, stars."""

from __future__ import annotations

import unittest
from contextlib import closing
from datetime import datetime
from http.client import HTTPConnection
from typing import Any

import httpx
from dateutil.rrule import DAILY, WEEKLY, rrule

from gremba.web.schemas import SearchResponse
from tests.support.campus import TERM, Campus
from tests.support.servers import Server, new_database

FIND = f"/api/terms/{TERM}/search"


class Find(unittest.TestCase):
    campus: Campus
    monday: str
    clash: str
    full: str
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.monday = cls.campus.section(seats=5, weekdays="M", starts=9)
        cls.clash = cls.campus.section(seats=5, weekdays="M", starts=9)
        cls.full = cls.campus.section(seats=0, weekdays="T", starts=18)
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def setUp(self) -> None:
        self.anybody = httpx.Client(base_url=self.server.url, timeout=30)
        self.addCleanup(self.anybody.close)

    def search(self, **query: Any) -> dict[str, Any]:
        answer = self.anybody.get(FIND, params=query)
        self.assertEqual(answer.status_code, 200, answer.text)
        # It is made without the model, for speed; it must keep to it all the same.
        SearchResponse.model_validate_json(answer.content)
        return dict(answer.json())

    def numbers(self, **query: Any) -> list[str]:
        return [r["number"] for r in self.search(**query)["rows"] if r["kind"] == "section"]

    def test_everything_without_signing_in_a_line_at_a_time(self) -> None:
        everything = self.numbers()
        self.assertEqual(everything, [self.monday, self.clash, self.full])
        whole = self.search()
        self.assertEqual((whole["sections"], whole["courses"], whole["lines"]), (3, 3, 6))
        piece = self.search(offset=1, limit=3)
        self.assertEqual(piece["rows"], whole["rows"][1:4])
        self.assertEqual(self.search(offset=99)["rows"], [])

    def test_filters_are_combined_and_counted(self) -> None:
        self.assertEqual(self.numbers(part="evening"), [self.full])
        self.assertEqual(self.numbers(seats="open", day="M"), [self.monday, self.clash])
        counts = {
            c["filter"]: {v["value"]: v["sections"] for v in c["values"]}
            for c in self.search(day="M")["counts"]
        }
        self.assertEqual(counts["day"], {"M": 2, "T": 1})
        self.assertEqual(counts["seats"], {"open": 2, "waitlist": 2})

    def test_fit_is_judged_against_the_week_that_is_named(self) -> None:
        rows = {
            r["number"]: r["fit"] for r in self.search(against=self.monday)["rows"] if r["kind"] == "section"
        }
        self.assertEqual([c["number"] for c in rows[self.clash]["clashes"]], [self.monday])
        self.assertTrue(rows[self.full]["fits"])
        self.assertEqual(self.numbers(against=self.monday, fits=True), [self.monday, self.full])

    def test_odd_addresses_get_a_clear_answer(self) -> None:
        found = self.search(colour="blue", subject="NONE")
        self.assertIn("no filter “colour”", " ".join(found["notes"]))
        self.assertIn("“NONE” is no subject", " ".join(found["notes"]))
        nothing = self.search(day="M", part="evening")
        self.assertEqual({w["value"] for w in nothing["loosen"]}, {"day", "part"})
        for query, status in (
            ({"words": "x" * 60_000}, 414),
            ({"time_from": "noon"}, 422),
            ({"limit": 0}, 422),
            ({"against": "4"}, 422),
            ({"words": "\x00;--"}, 200),
            ({"number": "1(2["}, 200),
        ):
            answer = self.anybody.get(FIND, params=query)
            self.assertEqual(answer.status_code, status, answer.text[:200])
            if status != 200:
                self.assertIn("problem+json", answer.headers["content-type"])
                self.assertTrue(answer.json()["detail"])

    def test_a_hundred_thousand_characters(self) -> None:
        # The usual client refuses to send them at all.
        with closing(HTTPConnection("127.0.0.1", self.server.port)) as connection:
            connection.request("GET", f"{FIND}?words={'x' * 100_000}")
            answer = connection.getresponse()
            # No line of HTTP may be as long: it does not even reach the application.
            self.assertEqual((answer.status, answer.read()), (400, b"Invalid HTTP request received."))

    def test_a_section_with_everything_about_it(self) -> None:
        section = self.anybody.get(f"/api/terms/{TERM}/sections/{self.full}").json()
        self.assertEqual(section["row"]["seats"]["left"], 0)
        self.assertEqual(section["needs"], "")
        unknown = self.anybody.get(f"/api/terms/{TERM}/sections/49999")
        self.assertEqual((unknown.status_code, unknown.json()["type"]), (404, "/problems/section-unknown"))

    def test_what_it_would_mean_is_told_to_who_is_signed_in(self) -> None:
        student = self.campus.person()
        with self.campus.client(student, self.server.url) as client:
            client.post(f"/api/terms/{TERM}/cart/changes", json={"text": self.monday})
            clash = client.get(f"/api/terms/{TERM}/sections/{self.clash}/outlook").json()
            self.assertEqual([f["code"] for f in clash["outcome"]["findings"]], ["time.conflict"])
            there = client.get(f"/api/terms/{TERM}/sections/{self.monday}/outlook").json()
            self.assertEqual((there["state"], there["outcome"]["result"]), ("in cart", "accepted"))

    def test_stars_are_kept_for_each_student(self) -> None:
        one, other = self.campus.people(2)
        stars = f"/api/terms/{TERM}/stars"
        with self.campus.client(one, self.server.url) as client:
            for number in (self.monday, self.full, self.monday):
                client.put(f"{stars}/{number}")
            self.assertEqual(set(client.get(stars).json()["numbers"]), {self.monday, self.full})
            self.assertEqual(client.delete(f"{stars}/{self.full}").json()["numbers"], [self.monday])
            self.assertEqual(client.put(f"{stars}/49999").status_code, 404)
        with self.campus.client(other, self.server.url) as client:
            self.assertEqual(client.get(stars).json()["numbers"], [])


class InTheDemo(unittest.TestCase):
    """A whole college: labs, bundles, halves of the term, sections that share their seats."""

    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.server = Server(new_database("demo"), demo=True)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()

    def test_every_section_has_a_sheet_and_bundles_a_name(self) -> None:
        with httpx.Client(base_url=f"{self.server.url}/api/terms/harvest-2027", timeout=30) as client:
            lines: list[dict[str, Any]] = []
            while True:
                found = client.get("/search", params={"offset": len(lines), "limit": 200}).json()
                lines += found["rows"]
                if len(lines) >= found["lines"]:
                    break
            numbers = [line["number"] for line in lines if line["kind"] == "section"]
            self.assertGreater(len(numbers), 400)
            bundled: set[str] = set()
            for number in numbers:
                answer = client.get(f"/sections/{number}")
                self.assertEqual(answer.status_code, 200, f"{number}: {answer.text[:300]}")
                details = answer.json()
                if details["row"]["bundle"]:
                    bundled.add(details["row"]["bundle"])
                    self.assertTrue(details["bundle"], number)
        self.assertGreaterEqual(len(bundled), 3)
        self.assertTrue(all(not name.isdigit() for name in bundled), bundled)

    def test_three_credits_take_their_hours_of_class(self) -> None:
        # 34 CFR 600.2 (from memory): a credit is about an hour of class, of 50 minutes, a week for about
        # fifteen weeks; three are 2,250 minutes. Dates by python-dateutil, breaks as the term tells them.
        with httpx.Client(base_url=f"{self.server.url}/api/terms/harvest-2027", timeout=30) as client:
            breaks = client.get(str(client.base_url).rstrip("/")).json()["breaks"]
            off = {
                day.date()
                for b in breaks
                for day in rrule(DAILY, dtstart=_day(b["first_day"]), until=_day(b["last_day"]))
            }
            query: dict[str, Any] = {"component": "lecture", "credits": "3", "session": "full", "limit": 200}
            rows = client.get("/search", params=query).json()["rows"]
        lectures = [r for r in rows if r["kind"] == "section" and r["meetings"]]
        self.assertGreater(len(lectures), 50)
        credits = {r["key"]: (r["credits_least"], r["credits_most"]) for r in rows if r["kind"] == "course"}
        usual = 0
        for lecture in lectures:
            if credits[lecture["course"]] != (3, 3):
                continue
            minutes = sum(
                (m["end"] - m["start"])
                * sum(
                    day.date() not in off
                    for day in rrule(
                        WEEKLY,
                        byweekday=m["weekdays"],
                        dtstart=_day(m["first_day"]),
                        until=_day(m["last_day"]),
                    )
                )
                for m in lecture["meetings"]
            )
            # It is the least there may be (evening classes take more); the usual patterns meet it.
            self.assertGreater(minutes, 0.95 * 2250, lecture["number"])
            if {m["end"] - m["start"] for m in lecture["meetings"]} <= {50, 75}:
                self.assertLess(minutes, 1.05 * 2250, lecture["number"])
                usual += 1
        self.assertGreater(usual, 40)


def _day(iso: str) -> datetime:
    return datetime.fromisoformat(iso)
