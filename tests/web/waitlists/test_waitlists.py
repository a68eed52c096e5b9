"""Waitlists over HTTP: joining from the cart, positions, offers, messages, the office's move."""

from __future__ import annotations

import unittest
from typing import Any

import httpx
import icalendar

from tests.support.campus import TERM, Campus, Somebody, outcome, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon

CART = f"/api/terms/{TERM}/cart"


class Waitlists(unittest.TestCase):
    campus: Campus
    numbers: list[str]
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.numbers = [cls.campus.section(seats=1) for _ in range(12)]
        cls.campus.run("UPDATE sections SET waitlist_limit = 3")
        cls.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def client(self, who: Somebody) -> httpx.Client:
        client = self.campus.client(who, self.server.url)
        self.addCleanup(client.close)
        return client

    def full(self) -> tuple[str, httpx.Client]:
        """A section that is full, and the client of who is in it."""
        number = self.numbers.pop()
        holder = self.client(self.campus.person())
        self.assertEqual(outcome(send(holder, [f"+{number}"])), "a")
        return number, holder

    def entries(self, client: httpx.Client) -> list[dict[str, Any]]:
        return list(client.get(f"/api/terms/{TERM}/waitlist-entries").json()["entries"])

    def accept(
        self, client: httpx.Client, entry: int, key: str = "accept-it-now", **how: Any
    ) -> httpx.Response:
        return client.post(
            f"/api/waitlist-entries/{entry}/acceptance", json=how, headers={"Idempotency-Key": key}
        )

    def test_from_the_cart_to_the_seat(self) -> None:
        number, holder = self.full()
        student = self.client(self.campus.person())
        body = {"changes": [{"kind": "add", "number": number, "in_exchange": ""}]}
        (change,) = student.post(f"{CART}/proposals", json=body).json()["cart"]["changes"]
        (way, *_) = [r for f in change["outcome"]["findings"] for r in f["remedies"] if r["action"]]
        self.assertIn("you would be number 1", way["text"])
        wait = {"version": change["version"], "wait_if_full": True}
        cart = student.patch(f"{CART}/changes/{change['id']}", json=wait).json()
        self.assertEqual(cart["changes"][0]["outcome"]["result"], "waiting")
        sent = {"changes": [{"kind": "add", "number": number, "wait_if_full": True}]}
        confirmation = student.post(
            f"/api/terms/{TERM}/submissions", json=sent, headers={"Idempotency-Key": "waits-if-full"}
        ).json()
        self.assertEqual(confirmation["body"]["outcomes"][0]["result"], "waiting")
        self.assertEqual(student.get(CART).json()["changes"], [])
        (entry,) = self.entries(student)
        self.assertEqual((entry["state"], entry["position"], entry["waiting"]), ("waiting", 1, 1))
        send(holder, [f"-{number}"])
        soon(lambda: self.entries(student)[0]["state"] == "offered")
        news = student.get(f"/api/terms/{TERM}/news").json()
        self.assertEqual((news["unread"], news["offers"]), (1, 1))
        (message,) = student.get(f"/api/terms/{TERM}/messages").json()["messages"]
        self.assertIn("held for you until", message["body"])
        deadline = student.get(f"/api/waitlist-entries/{entry['id']}/deadline")
        (alarm,) = icalendar.Calendar.from_ical(deadline.content).walk("VALARM")
        self.assertTrue(alarm["TRIGGER"])
        look = student.get(f"/api/waitlist-entries/{entry['id']}/offer").json()
        self.assertTrue(look["possible"])
        self.assertEqual(look["after"]["credits"] - look["before"]["credits"], 3)
        taken = self.accept(student, entry["id"]).json()
        self.assertIsNotNone(taken["confirmation"])
        self.assertEqual(self.entries(student)[0]["state"], "given")
        # Whether the answer was lost, or it was pressed twice: the first confirmation.
        for key in ("accept-it-now", "accept-it-again"):
            again = self.accept(student, entry["id"], key=key)
            self.assertEqual((again.status_code, again.json()["confirmation"]), (200, taken["confirmation"]))
            self.assertEqual(again.json()["outcomes"], taken["outcomes"])
        other = self.accept(student, entry["id"], in_exchange=number)
        self.assertEqual((other.status_code, other.json()["type"]), (422, "/problems/key-used"))
        keyless = student.post(f"/api/waitlist-entries/{entry['id']}/acceptance", json={})
        self.assertEqual(keyless.status_code, 422)

    def test_an_offer_taken_as_a_swap_frees_the_other_seat(self) -> None:
        number, holder = self.full()
        own = self.numbers.pop()
        student, third = self.client(self.campus.person()), self.client(self.campus.person())
        send(student, [f"+{own}"])
        send(student, [f"?{number}"])
        send(third, [f"?{own}"])
        send(holder, [f"-{number}"])
        soon(lambda: self.entries(student)[0]["state"] == "offered")
        entry = self.entries(student)[0]["id"]
        look = student.get(f"/api/waitlist-entries/{entry}/offer", params={"in_exchange": own}).json()
        self.assertEqual([o["kind"] for o in look["outcomes"]], ["swap"])
        self.accept(student, entry, in_exchange=own)
        soon(lambda: self.entries(third)[0]["state"] == "offered")

    def test_two_who_want_what_the_other_has_are_served_at_once(self) -> None:
        one, first = self.full()
        other, second = self.full()
        send(first, [f"{one}?{other}"])
        send(second, [f"{other}?{one}"])
        soon(lambda: self.entries(first)[0]["state"] == "given")
        soon(lambda: self.entries(second)[0]["state"] == "given")
        (message,) = first.get(f"/api/terms/{TERM}/messages").json()["messages"]
        self.assertIn("in one step", message["body"])

    def test_leaving_declining_and_nobody_elses(self) -> None:
        number, holder = self.full()
        people = [self.client(self.campus.person()) for _ in range(3)]
        for client in people:
            self.assertEqual(outcome(send(client, [f"?{number}"])), "w")
        fourth = self.client(self.campus.person())
        self.assertEqual(outcome(send(fourth, [f"?{number}"])), "r", "its waitlist is full")
        first = self.entries(people[0])[0]["id"]
        self.assertEqual(people[1].delete(f"/api/waitlist-entries/{first}").status_code, 404)
        self.assertEqual(people[0].delete(f"/api/waitlist-entries/{first}").status_code, 204)
        self.assertEqual(self.entries(people[1])[0]["position"], 1)
        send(holder, [f"-{number}"])
        soon(lambda: self.entries(people[1])[0]["state"] == "offered")
        second = self.entries(people[1])[0]["id"]
        self.assertEqual(people[1].post(f"/api/waitlist-entries/{second}/refusal").status_code, 204)
        soon(lambda: self.entries(people[2])[0]["state"] == "offered")

    def test_an_office_moves_a_place_with_a_reason(self) -> None:
        number, _ = self.full()
        one, two = self.client(self.campus.person()), self.client(self.campus.person())
        for client in (one, two):
            send(client, [f"?{number}"])
        first, second = self.entries(one)[0]["id"], self.entries(two)[0]["id"]
        registrar = self.client(self.campus.person("registrar"))
        address = f"/api/terms/{TERM}/waitlist-entries/{second}/rank"
        self.assertEqual(registrar.put(address, params={"before": first}).status_code, 422)
        moved = registrar.put(address, params={"before": first, "reason": "graduates this term"})
        self.assertEqual(moved.status_code, 204)
        self.assertEqual(self.entries(two)[0]["position"], 1)
        self.assertIn("graduates this term", self.entries(two)[0]["events"][-1]["cause"])
        self.assertEqual(one.put(address, params={"before": second, "reason": "me first"}).status_code, 403)

    def test_what_an_advisor_does_for_a_student_is_kept_with_their_name(self) -> None:
        number, _ = self.full()
        student, advisor = self.campus.person(), self.campus.person("advisor")
        self.campus.advised_by(student, advisor)
        acting = self.client(advisor)
        about: dict[str, Any] = {"student": student.id}
        send(acting, [f"?{number}"], **about)
        mine = self.client(student)
        (entry,) = self.entries(mine)
        acting.delete(f"/api/waitlist-entries/{entry['id']}", params=about)
        (entry,) = self.entries(mine)
        self.assertEqual(entry["events"][-1]["by"], "Advisor" + advisor.username.removeprefix("advisor"))
        body = {"changes": [{"kind": "add", "number": number, "in_exchange": ""}]}
        (change,) = acting.post(f"{CART}/proposals", json=body, params=about).json()["cart"]["changes"]
        acting.patch(
            f"{CART}/changes/{change['id']}", params=about, json={"version": 1, "wait_if_full": True}
        )
        acting.delete(f"{CART}/changes/{change['id']}", params=about)
        kept = self.campus.value(
            "SELECT array_agg(detail ORDER BY id) FROM office_events WHERE student_id = %s AND person_id = %s",
            student.id,
            advisor.id,
        )
        self.assertEqual([k.split()[0] for k in kept], ["put", "chose", "took"])
        self.assertTrue(all(number in k for k in kept))
        # The student's own are theirs alone.
        mine.post(f"{CART}/proposals", json=body)
        self.assertEqual(
            self.campus.value("SELECT count(*) FROM office_events WHERE student_id = %s", student.id), 3
        )

    def test_refused_mail_is_shown_to_the_registrar(self) -> None:
        student = self.campus.person()
        self.campus.run(
            "INSERT INTO messages (student_term_id, kind, facts, made_at, mail_refused_at, mail_problem) "
            "VALUES (%s, 'lapsed', '{\"section\": \"LAND 101\"}', now(), now(), '550 no such box')",
            student.row,
        )
        found = self.client(self.campus.person("registrar")).get("/api/mail/refused").json()
        self.assertEqual(
            [(m["title"], m["problem"]) for m in found["mails"]],
            [("The offer for LAND 101 has lapsed", "550 no such box")],
        )
        self.assertEqual(self.client(student).get("/api/mail/refused").status_code, 403)
