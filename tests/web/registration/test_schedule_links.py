"""A week to keep: files, a subscription address, links to show it by, and their end."""

from __future__ import annotations

import csv
import io
from typing import Any

import httpx
import icalendar
import recurring_ical_events

from tests.support.campus import TERM, send
from tests.support.served import OnCampus

WEEK = f"/api/terms/{TERM}/week"


class Keep(OnCampus):
    first: str
    second: str

    @classmethod
    def furnish(cls) -> None:
        cls.first = cls.campus.section(seats=50, weekdays="MW")
        cls.second = cls.campus.section(seats=50)
        cls.campus.run("UPDATE courses SET title = '=cmd(1)' WHERE id = 2")

    def setUp(self) -> None:
        super().setUp()
        self.anybody = httpx.Client(base_url=self.server.url)
        self.addCleanup(self.anybody.close)
        send(self.client, [f"+{self.first}", f"+{self.second}"])

    def make(self, kind: str, **more: Any) -> str:
        answer = self.client.post(f"{WEEK}/links", json={"kind": kind, **more})
        self.assertEqual(answer.status_code, 200, answer.text)
        return str(answer.json()["path"])

    def classes(self, file: bytes) -> int:
        begins = self.campus.begins
        events = recurring_ical_events.of(icalendar.Calendar.from_ical(file))
        return len(events.between(begins, begins.replace(year=begins.year + 1)))

    def test_files(self) -> None:
        calendar = self.client.get(f"{WEEK}/calendar")
        self.assertTrue(calendar.headers["content-type"].startswith("text/calendar"))
        self.assertEqual(
            self.classes(calendar.content),
            sum((self.campus.begins.weekday() + n) % 7 in (0, 2) for n in range(110)),
        )
        table = self.client.get(f"{WEEK}/table")
        self.assertIn("attachment", table.headers["content-disposition"])
        lines = list(csv.DictReader(io.StringIO(table.content.decode("utf-8-sig"))))
        self.assertEqual([line["reference number"] for line in lines], [self.first, self.second])
        self.assertEqual(lines[1]["title"], "'=cmd(1)")

    def test_a_subscription_follows_changes_and_can_be_withdrawn(self) -> None:
        path = self.make("calendar")
        before = self.classes(self.anybody.get(path).content)
        send(self.client, [f"-{self.first}"])
        self.assertGreater(before, self.classes(self.anybody.get(path).content))
        again = self.make("calendar")
        self.assertEqual(self.anybody.get(path).status_code, 404, "a new one takes its place")
        (link,) = self.client.get(f"{WEEK}/links").json()["links"]
        self.assertEqual(self.client.delete(f"{WEEK}/links/{link['id']}").json()["links"], [])
        gone = self.anybody.get(again)
        self.assertEqual((gone.status_code, gone.json()["type"]), (404, "/problems/link-gone"))
        self.assertIn("new one", gone.json()["detail"])
        self.assertEqual(self.client.delete(f"{WEEK}/links/{link['id']}").status_code, 404)

    def test_a_share_link_shows_the_week_until_it_expires(self) -> None:
        token = self.make("share", days=1).rsplit("/", 1)[1]
        shown = self.anybody.get(f"/api/shared/{token}")
        self.assertEqual(shown.headers["cache-control"], "no-store")
        self.assertEqual([s["number"] for s in shown.json()["registered"]], [self.first, self.second])
        self.assertEqual(self.anybody.get(f"/api/calendars/{token}").status_code, 404)
        self.campus.run(
            "UPDATE week_links SET expires_at = made_at WHERE student_term_id = %s", self.student.row
        )
        self.assertEqual(self.anybody.get(f"/api/shared/{token}").status_code, 404)
        self.assertEqual(self.client.get(f"{WEEK}/links").json()["links"], [])

    def test_only_a_digest_is_kept_and_nobody_withdraws_anothers(self) -> None:
        token = self.make("share").rsplit("/", 1)[1]
        kept = self.campus.value("SELECT digest FROM week_links WHERE student_term_id = %s", self.student.row)
        self.assertNotIn(token.encode(), bytes(kept))
        (link,) = self.client.get(f"{WEEK}/links").json()["links"]
        with self.campus.client(self.campus.person(), self.server.url) as other:
            self.assertEqual(other.delete(f"{WEEK}/links/{link['id']}").status_code, 404)
        self.assertEqual(self.anybody.get(f"/api/shared/{token}").status_code, 200)

    def test_bad_wishes_and_too_many(self) -> None:
        for body in ({"kind": "poster"}, {"kind": "share", "days": 0}, {"kind": "share", "days": 999}):
            self.assertEqual(self.client.post(f"{WEEK}/links", json=body).status_code, 422)
        for _ in range(20):
            self.make("share")
        full = self.client.post(f"{WEEK}/links", json={"kind": "share"})
        self.assertEqual((full.status_code, full.json()["type"]), (409, "/problems/too-many-links"))
