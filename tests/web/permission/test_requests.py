"""Requests and the advisors' day over the API: who sees and does what, files that lie, answers in time."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx

from tests.core.permission.test_attachments import PDF
from tests.support.campus import TERM, Somebody, outcome, send
from tests.support.requests import AskingCampus
from tests.support.servers import Server, new_database

TERMS = f"/api/terms/{TERM}"


class Requests(unittest.TestCase):
    campus: AskingCampus
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = AskingCampus(new_database())
        cls.campus.in_room(cls.campus.closed, "Hill 12", 200)
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def setUp(self) -> None:
        self.who = self.campus.student()
        self.mine = self.client(self.who)
        self.petra = self.client(self.campus.petra)

    def client(self, who: Somebody) -> httpx.Client:
        client = self.campus.client(who, self.server.url)
        self.addCleanup(client.close)
        return client

    def ask(self, **more: Any) -> int:
        body = {"number": self.campus.closed, "words": "Please.", **more}
        answer = self.mine.post(f"{TERMS}/requests", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return int(answer.json()["id"])

    def answer(self, request: int, **said: Any) -> httpx.Response:
        return self.petra.post(f"/api/requests/{request}/answer", json={"version": 1, **said})

    def card(self, request: int) -> dict[str, Any]:
        found = self.petra.get(f"{TERMS}/requests-to-answer").json()
        return next(r for s in found["sections"] for r in s["requests"] if r["id"] == request)

    def test_a_stopped_cart_leads_to_asking_and_a_yes_to_the_cart(self) -> None:
        self.mine.post(f"{TERMS}/cart/changes", json={"text": self.campus.closed})
        (change,) = self.mine.get(f"{TERMS}/cart").json()["changes"]
        ways = [w for f in change["outcome"]["findings"] for w in f["remedies"] if w["action"]]
        self.assertIn("ask", [w["action"]["target"] for w in ways])
        asking = self.mine.get(f"{TERMS}/asking/{self.campus.closed}").json()
        self.assertEqual(
            (asking["waives"], asking["who"], asking["why_not"]), (["consent"], ["Instructor1"], "")
        )
        request = self.ask()
        card = self.card(request)
        self.assertTrue(card["goes"] and card["is_mine"])
        self.assertEqual((card["credits_before"], card["credits_after"]), (0, 3))
        self.assertEqual(self.answer(request, answer="yes", words="Come in.").status_code, 204)
        cart = self.mine.get(f"{TERMS}/cart").json()
        self.assertEqual(cart["changes"][0]["outcome"]["result"], "accepted")
        (granted,) = cart["granted"]
        self.assertEqual((granted["number"], granted["by"]), (self.campus.closed, "Instructor1"))
        sent = self.mine.post(
            f"{TERMS}/submissions",
            json={"changes": granted["changes"]},
            headers={"Idempotency-Key": f"granted-{request}"},
        )
        self.assertEqual(outcome(sent), "a")
        self.assertEqual(self.mine.get(f"{TERMS}/cart").json()["granted"], [])
        (told,) = self.mine.get(f"{TERMS}/requests").json()["requests"]
        self.assertEqual(
            (told["state"], told["confirmation"], told["is_good"]), ("granted", sent.json()["id"], False)
        )

    def test_files_are_kept_as_they_are_and_downloaded_never_shown(self) -> None:
        request = self.ask()
        files = f"/api/requests/{request}/files"

        def attach(name: str, content: bytes) -> httpx.Response:
            return self.mine.post(
                files,
                params={"name": name},
                content=content,
                headers={"Content-Type": "application/octet-stream"},
            )

        self.assertEqual(attach("Zeugnis “gut”.pdf", PDF).status_code, 204)
        for name, content, status in (
            ("a.pdf", b"<script>alert(1)</script>", 422),
            ("a.pdf", PDF + b"\x00" * (2 * 1024 * 1024), 422),
            ("a.pdf", PDF + b"\x00" * (4 * 1024 * 1024), 413),
            ("a.html", PDF, 422),
            ("", PDF, 422),
        ):
            self.assertEqual(attach(name, content).status_code, status, name)
        (file,) = self.card(request)["files"]
        got = self.petra.get(f"{files}/{file['id']}")
        self.assertEqual(got.content, PDF)
        self.assertTrue(got.headers["Content-Disposition"].startswith("attachment; "))
        # RFC 8187: the name as it is, in UTF-8.
        self.assertIn(
            "filename*=UTF-8''Zeugnis%20%E2%80%9Cgut%E2%80%9D.pdf", got.headers["Content-Disposition"]
        )
        self.assertEqual(got.headers["X-Content-Type-Options"], "nosniff")
        self.assertIn("sandbox", got.headers["Content-Security-Policy"])
        other = self.client(self.campus.student())
        for client in (other, self.client(self.campus.person("instructor")), self.client(self.campus.maud)):
            self.assertEqual(client.get(f"{files}/{file['id']}").status_code, 404)

    def test_a_large_body_is_taken_nowhere_else(self) -> None:
        answer = self.mine.post(
            f"{TERMS}/requests", content=b"x" * (600 * 1024), headers={"Content-Type": "application/json"}
        )
        self.assertEqual(answer.status_code, 413)

    def test_ten_thousand_signs_are_told_how_many_there_may_be(self) -> None:
        answer = self.mine.post(
            f"{TERMS}/requests", json={"number": self.campus.closed, "words": "x" * 10_000}
        )
        self.assertEqual(answer.status_code, 422)
        self.assertIn("2,000", answer.json()["detail"])

    def test_whoever_comes_second_is_told_of_the_first(self) -> None:
        request = self.ask()
        self.assertEqual(self.answer(request, answer="no", words="Full.").status_code, 204)
        late = self.answer(request, answer="yes")
        self.assertEqual((late.status_code, late.json()["type"]), (409, "/problems/request-moved"))
        self.assertIn("Refused, Instructor1", late.json()["detail"])

    def test_no_and_a_question_need_words(self) -> None:
        request = self.ask()
        for said in ("no", "not yet"):
            self.assertEqual(self.answer(request, answer=said).status_code, 422)
        self.assertEqual(self.answer(request, answer="perhaps").status_code, 422)

    def test_a_time_without_a_zone_is_the_colleges(self) -> None:
        request = self.ask()
        until = (datetime.now(UTC) + timedelta(days=3)).replace(tzinfo=None, microsecond=0)
        self.assertEqual(self.answer(request, answer="yes", until=until.isoformat()).status_code, 204)
        good = datetime.fromisoformat(self.card(request)["good_until"])
        offset = good - until.replace(tzinfo=UTC)
        self.assertIn(offset, (timedelta(hours=4), timedelta(hours=5)))

    def test_let_in_from_the_roster_and_taken_back_there(self) -> None:
        taught = f"{TERMS}/taught/{self.campus.closed}"
        body = {"student": self.who.username, "waives": ["consent"], "words": "Come."}
        key = {"Idempotency-Key": "come-in-once"}
        for _ in range(2):
            self.petra.post(f"{taught}/let-in", json=body, headers=key).raise_for_status()
        self.assertEqual(self.petra.post(f"{taught}/let-in", json=body, headers=key).status_code, 204)
        (line,) = self.petra.get(taught).json()["permission_codes"]
        self.assertEqual((line["code"], line["state"]), ("", "open"))
        self.assertEqual(len(self.mine.get(f"{TERMS}/cart").json()["granted"]), 1)
        self.petra.delete(f"{taught}/permission-codes/{line['id']}")
        self.assertEqual(outcome(send(self.mine, [f"+{self.campus.closed}"])), "r")

    def test_what_was_granted_on_a_request_is_not_taken_back_as_a_code(self) -> None:
        request = self.ask()
        self.answer(request, answer="yes")
        grant = self.campus.value("SELECT grant_id FROM permission_requests WHERE id = %s", request)
        taught = f"{TERMS}/taught/{self.campus.closed}"
        self.assertNotIn(grant, [c["id"] for c in self.petra.get(taught).json()["permission_codes"]])
        self.assertEqual(self.petra.delete(f"{taught}/permission-codes/{grant}").status_code, 409)
        self.assertEqual(outcome(send(self.mine, [f"+{self.campus.closed}"])), "a")

    def test_an_advisor_sees_a_students_requests_and_makes_none(self) -> None:
        self.ask()
        advisor = self.client(self.campus.idris)
        seen = advisor.get(f"{TERMS}/requests", params={"student": self.who.id})
        self.assertEqual(len(seen.json()["requests"]), 1)
        made = advisor.post(
            f"{TERMS}/requests",
            params={"student": self.who.id},
            json={"number": self.campus.closed, "words": "For them."},
        )
        self.assertEqual(made.status_code, 403)


class AdvisingDay(unittest.TestCase):
    """Who needs an advisor now."""

    def setUp(self) -> None:
        self.campus = AskingCampus(new_database())
        self.addCleanup(self.campus.close)
        self.open_one = self.campus.section(5)
        self.server = Server(self.campus.url)
        self.addCleanup(self.server.stop)
        self.own = self.campus.client(self.campus.idris, self.server.url)
        self.addCleanup(self.own.close)

    def student(self, opens_in: timedelta) -> Somebody:
        who = self.campus.person(opens_in=opens_in)
        self.campus.advised_by(who, self.campus.idris)
        return who

    def day(self) -> dict[str, Any]:
        found: dict[str, Any] = self.own.get(f"{TERMS}/advising-day").json()
        return found

    def test_not_released_with_the_window_near_and_released_at_once(self) -> None:
        near, far, soon, done = (self.student(timedelta(d)) for d in (2, 20, -1, -1))
        stranger = self.campus.person()
        for who in (near, far, soon, stranger):
            self.campus.clearance(who, "release")
        waiting = [s["id"] for s in self.day()["unreleased"]]
        self.assertEqual(waiting, [soon.id, near.id])
        releases = f"{TERMS}/advisees/releases"
        # All or none.
        refused = self.own.post(releases, json={"students": [near.id, stranger.id]})
        self.assertEqual((refused.status_code, len(self.day()["unreleased"])), (404, 2))
        released = self.own.post(releases, json={"students": [near.id, soon.id, done.id, near.id]})
        self.assertEqual((released.json(), self.day()["unreleased"]), ({"released": 2}, []))
        by = "SELECT done_by FROM clearance_items WHERE student_term_id = %s"
        self.assertEqual(self.campus.value(by, near.row), self.campus.idris.id)
        events = "SELECT count(*) FROM office_events WHERE student_id = %s AND what = 'released'"
        self.assertEqual([self.campus.value(events, s.id) for s in (near, soon, done)], [1, 1, 0])

    def test_carts_that_would_be_stopped_and_by_what(self) -> None:
        stopped, fine = self.student(timedelta(2)), self.student(timedelta(-1))
        for who, text in ((stopped, f"{self.campus.closed} {self.open_one}"), (fine, self.open_one)):
            with self.campus.client(who, self.server.url) as client:
                client.post(f"{TERMS}/cart/changes", json={"text": text})
        (found,) = self.day()["stopped"]
        self.assertEqual((found["student"]["id"], found["passing"]), (stopped.id, 1))
        self.assertEqual(len(found["stops"]), 1)
        self.assertIn("consent", found["stops"][0])
        self.assertEqual([o["result"] for o in found["outcomes"]], ["refused", "accepted"])

    def test_what_only_the_window_or_a_release_stops_is_not_among_them(self) -> None:
        who = self.student(timedelta(2))
        self.campus.clearance(who, "release")
        with self.campus.client(who, self.server.url) as client:
            client.post(f"{TERMS}/cart/changes", json={"text": self.open_one})
        self.assertEqual(self.day()["stopped"], [])

    def test_clearance_speaks_to_whoever_looks(self) -> None:
        who = self.student(timedelta(-1))
        self.campus.clearance(who, "release", "agreement")
        seen = self.own.get(f"{TERMS}/clearance", params={"student": who.id}).json()
        self.assertIn(f"stand between {who.username.title()} and registering", seen["sentence"])
        self.assertNotIn("your advisor", seen["sentence"])
        owners = {i["kind"]: i["owner"] for i in seen["items"]}
        self.assertEqual((owners["release"], owners["agreement"]), ("you", "the student"))
        with self.campus.client(who, self.server.url) as client:
            own = client.get(f"{TERMS}/clearance").json()
        self.assertIn("stand between you and registering", own["sentence"])


if __name__ == "__main__":
    unittest.main()
