"""The cart over HTTP: verdicts before the window, ways on that act, options, the other choice."""

from __future__ import annotations

import unittest
from datetime import timedelta
from typing import Any

import httpx

from tests.support.campus import TERM, Campus, Somebody, send
from tests.support.servers import Server, new_database

CART = f"/api/terms/{TERM}/cart"


class Cart(unittest.TestCase):
    campus: Campus
    full: str
    other: str
    lecture: str
    lab: str
    other_lecture: str
    other_lab: str
    project: str
    far: str
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.full = cls.campus.section(seats=0, weekdays="M")
        cls.other = cls.campus.section(seats=9, weekdays="T")
        cls.lecture, cls.lab, cls.other_lecture, cls.other_lab = (
            cls.campus.section(seats=n, weekdays=d) for n, d in ((0, "W"), (9, "R"), (9, "F"), (9, "S"))
        )
        cls.project = cls.campus.section(seats=9)
        cls.far = cls.campus.section(seats=9)
        # The first two are one course; the next four two lectures of one course with their labs.
        cls.campus.run("UPDATE sections SET course_id = 1 WHERE id = 2")
        cls.campus.run("UPDATE sections SET course_id = 3 WHERE id IN (4, 5, 6)")
        cls.campus.run("UPDATE sections SET component = 'lab', carries_credit = false WHERE id IN (4, 6)")
        cls.campus.run("INSERT INTO linked_sections VALUES (3, 4), (4, 3), (5, 6), (6, 5)")
        cls.campus.run(
            "UPDATE courses SET credits_least = 1, credits_most = 4, "
            "gradings = '{standard,audit}' WHERE id = 7"
        )
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def sign_in(self, opens_in: timedelta = timedelta(-1)) -> Somebody:
        student = self.campus.person(opens_in=opens_in)
        self.client = self.campus.client(student, self.server.url)
        self.addCleanup(self.client.close)
        return student

    def put(self, *changes: tuple[str, str, str]) -> dict[str, Any]:
        body = {"changes": [{"kind": k, "number": n, "in_exchange": g} for k, n, g in changes]}
        answer = self.client.post(f"{CART}/proposals", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.json())

    def choose(self, change: dict[str, Any], **chosen: Any) -> httpx.Response:
        body = {"version": change["version"], **chosen}
        return self.client.patch(f"{CART}/changes/{change['id']}", json=body)

    def codes(self, cart: dict[str, Any]) -> list[list[str]]:
        return [[f["code"] for f in c["outcome"]["findings"]] for c in cart["changes"]]

    def test_before_the_window_the_verdict_is_that_of_its_opening(self) -> None:
        self.sign_in(timedelta(hours=2))
        cart = self.put(("add", self.other, ""), ("add", self.full, ""))["cart"]
        self.assertTrue(cart["ahead"])
        self.assertEqual(cart["as_of"], cart["window"]["opens_at"])
        self.assertEqual(cart["window"]["state"], "early")
        self.assertEqual([c["outcome"]["result"] for c in cart["changes"]], ["accepted", "refused"])
        # Sent now it is refused all the same.
        self.assertIn("window.early", send(self.client, [f"+{self.other}"]).text)

    def test_one_press_puts_another_section_in_its_place(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.full, ""))["cart"]
        way = cart["changes"][0]["instead"][0]["action"]
        self.assertEqual((way["do"], way["numbers"]), ("instead", [self.other]))
        change = cart["changes"][0]["id"]
        path = f"{CART}/changes/{change}/section"
        cart = self.client.put(path, json={"version": 1, "numbers": way["numbers"]}).json()
        self.assertEqual(
            [(c["outcome"]["number"], c["outcome"]["result"]) for c in cart["changes"]],
            [(self.other, "accepted")],
        )
        again = self.client.put(path, json={"version": 1, "numbers": [self.other]})
        self.assertEqual(again.json()["type"], "/problems/cart-moved")
        elsewhere = self.client.put(
            f"{CART}/changes/999999/section", json={"version": 1, "numbers": [self.full]}
        )
        self.assertEqual(elsewhere.status_code, 409)

    def test_a_lecture_is_exchanged_with_its_lab(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.lecture, ""), ("add", self.lab, ""))["cart"]
        self.assertEqual(self.codes(cart), [["seat.full"], ["together.stopped"]])
        change = cart["changes"][0]
        way = change["instead"][0]["action"]["numbers"]
        self.assertEqual(way, [self.other_lecture, self.other_lab])
        cart = self.client.put(
            f"{CART}/changes/{change['id']}/section", json={"version": 1, "numbers": way}
        ).json()
        self.assertEqual([c["outcome"]["number"] for c in cart["changes"]], way)
        self.assertEqual({c["outcome"]["result"] for c in cart["changes"]}, {"accepted"})

    def test_the_missing_lab_is_offered_in_place(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.other_lecture, ""))["cart"]
        [finding] = cart["changes"][0]["outcome"]["findings"]
        self.assertEqual(finding["code"], "linked_section.missing")
        wish = finding["remedies"][0]["action"]["changes"]
        self.assertEqual(wish, [{"kind": "add", "number": self.other_lab, "in_exchange": ""}])

    def test_what_the_other_choice_would_change_is_shown(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.other, ""), ("add", self.lecture, ""))["cart"]
        self.assertEqual([c["otherwise"] for c in cart["changes"]], ["refused", None])
        cart = self.client.put(f"{CART}/mode", json={"mode": "all"}).json()
        self.assertEqual([c["outcome"]["result"] for c in cart["changes"]], ["refused", "refused"])
        self.assertEqual([c["otherwise"] for c in cart["changes"]], ["accepted", None])

    def test_options_are_kept_and_judged(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.project, ""))["cart"]
        change = cart["changes"][0]
        for options, credits, found in (
            ({"credits": 2.5}, 2.5, []),
            ({"credits": 9}, 9, ["credits.range"]),
            ({"credits": 1.25}, 1.2, None),
            ({"grading": "audit", "credits": None}, 0, []),
            ({"credits": 2}, 0, ["credits.range"]),
            ({"credits": 0}, 0, []),
            ({"grading": "by dice", "credits": None}, 1, ["grading.not_offered"]),
        ):
            with self.subTest(options):
                answer = self.choose(change, **options)
                self.assertEqual(answer.status_code, 200, answer.text)
                cart = answer.json()
                change = cart["changes"][0]
                if found is not None:
                    self.assertEqual(cart["changes"][0]["outcome"]["credits"], credits)
                    self.assertEqual(self.codes(cart), [found])
        for nonsense in ({"credits": -1}, {"credits": 1e308}, {"grading": "x" * 41}, {"more": 1}):
            self.assertEqual(self.choose(change, **nonsense).status_code, 422)

    def test_swaps_and_what_cannot_be_one(self) -> None:
        self.sign_in()
        send(self.client, [f"+{self.far}"]).raise_for_status()
        found = self.put(
            ("swap", self.other, self.far),
            ("swap", self.project, self.other),
            ("adjust", self.project, ""),
            ("drop", "99999", ""),
        )
        self.assertEqual([r["taken"] for r in found["reports"]], [True, False, False, False])
        change = found["cart"]["changes"][0]
        self.assertEqual(
            (change["outcome"]["in_exchange"], change["outcome"]["result"]), (self.far, "accepted")
        )
        # An add in the cart turns into the swap.
        self.client.delete(f"{CART}/changes/{change['id']}")
        cart = self.put(("add", self.other, ""))["cart"]
        turned = self.put(("swap", self.other, self.far))
        self.assertEqual([r["taken"] for r in turned["reports"]], [True])
        self.assertEqual(
            [(c["id"], c["outcome"]["kind"]) for c in turned["cart"]["changes"]],
            [(cart["changes"][0]["id"], "swap")],
        )
        lonely = {"changes": [{"kind": "swap", "number": self.other}]}
        answer = self.client.post(
            f"/api/terms/{TERM}/submissions", json=lonely, headers={"Idempotency-Key": "a-good-key"}
        )
        self.assertEqual(answer.status_code, 422)
        pasted = {"kind": "swap", "text": f"{self.lecture} or {self.other}", "in_exchange": self.far}
        many = self.client.post(f"{CART}/changes", json=pasted).json()
        self.assertEqual([r["taken"] for r in many["reports"]], [True, False])

    def test_a_next_choice_is_taken_in_the_cart_and_on_sending(self) -> None:
        student = self.sign_in()
        cart = self.put(("add", self.full, ""))["cart"]
        (change,) = cart["changes"]
        answer = self.choose(change, alternatives=[[self.other]])
        (change,) = answer.json()["changes"]
        self.assertEqual(change["original"]["number"], self.full)
        self.assertEqual((change["outcome"]["number"], change["outcome"]["result"]), (self.other, "accepted"))
        self.assertEqual([n["taken"] for n in change["alternatives"]], [True])
        self.assertEqual(answer.json()["week"], [self.other])
        sent = {"changes": [{"kind": "add", "number": self.full, "alternatives": [[self.other]]}]}
        confirmation = self.client.post(
            f"/api/terms/{TERM}/submissions", json=sent, headers={"Idempotency-Key": "next-choice"}
        ).json()
        (outcome,) = confirmation["body"]["outcomes"]
        self.assertEqual((outcome["number"], outcome["original"]), (self.other, self.full))
        self.assertEqual(self.client.get(CART).json()["changes"], [], "the wish has left the cart")
        self.assertEqual(
            self.campus.value("SELECT section_id FROM registrations WHERE student_term_id = %s", student.row),
            2,
        )

    def test_a_next_choice_brings_its_lab_along(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.lecture, ""), ("add", self.lab, ""))["cart"]
        self.assertEqual({c["group"] for c in cart["changes"]}, {0})
        self.assertTrue(all(c["together"] for c in cart["changes"]))
        cart = self.choose(cart["changes"][0], alternatives=[[self.other_lecture]]).json()
        self.assertEqual(
            [
                (c["original"]["number"], c["outcome"]["number"], c["outcome"]["result"])
                for c in cart["changes"]
            ],
            [(self.lecture, self.other_lecture, "accepted"), (self.lab, self.other_lab, "accepted")],
        )

    def test_next_choices_that_cannot_be(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.full, ""))["cart"]
        (change,) = cart["changes"]
        for alternatives, status in (
            ([["99999"]], 422),
            ([["1"]], 422),
            ([[]], 422),
            ([[self.other]] * 5, 422),
            ([[self.full]], 200),
        ):
            answer = self.choose(change, alternatives=alternatives)
            self.assertEqual(answer.status_code, status, answer.text)
        self.assertEqual(self.client.get(CART).json()["changes"][0]["alternatives"], [])
        elsewhere = {**change, "id": 9999999}
        self.assertEqual(self.choose(elsewhere, alternatives=[]).status_code, 409)

    def test_two_tabs_set_only_what_they_changed_and_a_stale_one_is_told(self) -> None:
        self.sign_in()
        (seen,) = self.put(("add", self.project, ""))["cart"]["changes"]
        now = self.choose(seen, grading="audit").json()["changes"][0]
        # The other tab has not seen that: nothing is set, and it is told what stands there now.
        stale = self.choose(seen, credits=3)
        self.assertEqual((stale.status_code, stale.json()["type"]), (409, "/problems/cart-moved"))
        self.assertEqual(stale.json()["now"]["changes"][0]["options"]["grading"], "audit")
        self.assertEqual(stale.json()["now"]["changes"][0]["version"], now["version"])
        # Having seen it, it sets the code alone, and the grading stays.
        (now,) = self.choose(now, permission_code="ABCD2345").json()["changes"]
        self.assertEqual(
            (now["options"]["grading"], now["options"]["permission_code"]), ("audit", "ABCD2345")
        )
        (now,) = self.choose(now, grading=None, permission_code="").json()["changes"]
        self.assertEqual((now["options"]["grading"], now["options"]["permission_code"]), ("standard", ""))

    def test_a_sending_from_a_stale_page_loses_nothing(self) -> None:
        student = self.sign_in()
        seen = self.put(("add", self.project, ""))["cart"]
        self.assertEqual(seen["passing"], 1)
        self.choose(seen["changes"][0], grading="audit")
        refused = self.send_as_told(seen["sends"])
        self.assertEqual((refused.status_code, refused.json()["type"]), (409, "/problems/cart-moved"))
        self.assertEqual(refused.json()["now"]["changes"][0]["outcome"]["grading"], "audit")
        held = "SELECT count(*) FROM registrations WHERE student_term_id = %s"
        self.assertEqual(self.campus.value(held, student.row), 0)
        now = refused.json()["now"]
        sent = self.send_as_told(now["sends"], "the-very-same")
        self.assertEqual(sent.json()["body"]["outcomes"][0]["grading"], "audit")
        # The same once more, though the cart is another by now, gets the first confirmation.
        again = self.send_as_told(now["sends"], "the-very-same")
        self.assertEqual((again.status_code, again.json()["id"]), (200, sent.json()["id"]))

    def send_as_told(self, sends: dict[str, Any], key: str = "as-the-server-says") -> httpx.Response:
        return self.client.post(
            f"/api/terms/{TERM}/submissions", json=sends, headers={"Idempotency-Key": key}
        )

    def test_the_server_says_what_can_be_done_with_a_section(self) -> None:
        self.sign_in()
        cart = self.put(("add", self.full, ""))["cart"]
        (change,) = cart["changes"]
        self.assertEqual(
            {a["number"]: (a["state"], a["exchange"], a["in_exchange"]) for a in cart["actions"]},
            {self.full: ("in cart", None, ""), self.other: ("open", change["id"], "")},
        )
        self.client.delete(f"{CART}/changes/{change['id']}")
        send(self.client, [f"+{self.other}"]).raise_for_status()
        actions = self.client.get(CART).json()["actions"]
        self.assertEqual(
            {a["number"]: (a["state"], a["in_exchange"]) for a in actions},
            {self.full: ("open", self.other), self.other: ("registered", "")},
        )

    def test_the_sheet_says_what_the_cart_says(self) -> None:
        self.sign_in()
        self.put(("add", self.full, ""))
        (change,) = self.client.get(CART).json()["changes"]
        self.choose(change, alternatives=[[self.other]])
        (line,) = self.client.get(CART).json()["changes"]
        sheet = self.client.get(f"/api/terms/{TERM}/sections/{self.full}/outlook").json()
        self.assertEqual(sheet["outcome"], line["outcome"])
        self.assertEqual(sheet["outcome"]["number"], self.other)
