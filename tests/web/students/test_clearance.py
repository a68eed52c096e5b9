"""Clearance over HTTP: clearing what one can, paying, and payment answers that are not right."""

from __future__ import annotations

import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import orjson

from gremba.actions.account.payment_service import sign
from gremba.standins.payment import passes_check
from tests.support.campus import TERM, Campus, outcome, send
from tests.support.paying import leave_page, pay_on_page
from tests.support.served import OnCampus
from tests.support.servers import PAYMENT_SECRET, Server, new_database

CLEARANCE = f"/api/terms/{TERM}/clearance"
APPROVED, DECLINED, SILENT, TWICE = (
    "9000 0000 0000 0001",
    "9000 0000 0000 0019",
    "9000 0000 0000 0027",
    "9000000000000035",
)


class Clearance(OnCampus):
    number: str

    @classmethod
    def furnish(cls) -> None:
        cls.number = cls.campus.section(seats=1000)

    def cart_says(self) -> list[str]:
        changes = self.client.get(f"/api/terms/{TERM}/cart").json()["changes"]
        return [f["code"] for c in changes for f in c["outcome"]["findings"]]


class Clearing(Clearance):
    def test_each_item_is_cleared_right_there_and_the_cart_knows_at_once(self) -> None:
        self.campus.clearance(self.student, "agreement", "details", "survey", "orientation")
        self.client.post(f"/api/terms/{TERM}/cart/changes", json={"text": self.number})
        self.assertEqual(self.cart_says(), ["clearance.open"] * 4)
        seen = self.client.get(CLEARANCE).json()
        self.assertFalse(seen["clear"])
        self.assertIn("stand between you and registering", seen["sentence"])
        # The college's own words, as they stand with the term.
        self.assertEqual(
            (seen["agreement"], seen["orientation"]), (["An anticipated payment."], ["A page.", "Another."])
        )
        self.assertIn("Two questions about boots and hours.", [item["about"] for item in seen["items"]])
        details = {
            "phone": "555-0101",
            "address": "3 Quern Lane",
            "emergency_name": "Kin",
            "emergency_phone": "555-0102",
        }
        incomplete = self.client.post(f"{CLEARANCE}/details", json={**details, "phone": "  "})
        self.assertEqual(incomplete.status_code, 422)
        self.assertIn("a phone number", incomplete.json()["detail"])
        half = {"answers": {"boots": "Yes"}}
        self.assertEqual(self.client.post(f"{CLEARANCE}/survey", json=half).status_code, 422)
        self.assertEqual(self.cart_says(), ["clearance.open"] * 4)
        answers = {"answers": {q["key"]: q["options"][-1] for q in seen["survey"]}}
        for path, body in (
            ("agreement", None),
            ("details", details),
            ("survey", answers),
            ("orientation", None),
        ):
            answer = self.client.post(f"{CLEARANCE}/{path}", json=body)
            self.assertEqual(answer.status_code, 200, answer.text)
        self.assertTrue(answer.json()["clear"])
        self.assertTrue(answer.json()["sentence"].startswith("You are clear."))
        self.assertEqual(self.cart_says(), [])
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")

    def test_a_release_is_not_the_students_to_give(self) -> None:
        self.campus.clearance(self.student, "release")
        path = f"/api/terms/{TERM}/advisees/{self.student.id}/release"
        self.assertEqual(self.client.put(path, json={"released": True}).status_code, 403)
        self.assertFalse(self.client.get(CLEARANCE).json()["clear"])


class Paying(Clearance):
    def setUp(self) -> None:
        super().setUp()
        self.hold = self.campus.fee_hold(self.student)

    def begin(self) -> dict[str, Any]:
        answer = self.client.post(f"/api/holds/{self.hold}/payment", headers={"Back": "/coming/clearance"})
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.json())

    def pay(self, number: str) -> dict[str, Any]:
        begun = self.begin()
        back = pay_on_page(self.client, begun["page"], number)
        self.assertEqual(
            (back.status_code, back.headers["Location"]),
            (303, f"/coming/clearance?payment={begun['reference']}"),
        )
        return dict(self.client.get(f"/api/payments/{begun['reference']}").json())

    def lifted(self) -> bool:
        return bool(self.campus.value("SELECT lifted_at IS NOT NULL FROM holds WHERE id = %s", self.hold))

    def states(self) -> list[str]:
        found = self.campus.value(
            "SELECT array_agg(state ORDER BY id) FROM payments WHERE hold_id = %s", self.hold
        )
        return list(found or [])

    def test_declined_then_approved(self) -> None:
        self.assertEqual(self.pay(DECLINED)["state"], "declined")
        self.assertFalse(self.lifted())
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "r")
        self.assertEqual(self.pay(APPROVED)["state"], "approved")
        self.assertTrue(self.lifted())
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        again = self.client.post(f"/api/holds/{self.hold}/payment")
        self.assertEqual(again.status_code, 409)

    def test_no_answer_in_time_then_asked(self) -> None:
        begun = self.pay(SILENT)
        self.assertEqual(begun["state"], "waiting")
        holds = self.client.get(CLEARANCE).json()["holds"]
        self.assertEqual(holds[0]["waiting_payment"], begun["reference"])
        asked = self.client.post(f"/api/payments/{begun['reference']}/question").json()
        self.assertEqual(asked["state"], "declined")
        self.assertEqual(self.pay(APPROVED)["state"], "approved")

    def test_notified_twice_lifts_once(self) -> None:
        self.assertEqual(self.pay(TWICE)["state"], "approved")
        self.assertEqual((self.lifted(), self.states()), (True, ["approved"]))

    def test_a_slip_and_a_strange_card(self) -> None:
        page = self.begin()["page"]
        for number, said in (
            ("9000 0000 0000 0002", "has a slip in it"),
            ("12", "has a slip in it"),
            ("letters", "has a slip in it"),
            ("9000000000000050", "takes only its own test cards"),
        ):
            answer = pay_on_page(self.client, page, number)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.text)
        self.assertEqual(self.states(), ["waiting"])
        # Adjacent digits that change places are noticed (ISO/IEC 7812-1, from memory).
        self.assertTrue(passes_check("79927398713"))
        self.assertFalse(passes_check("79927398731"))

    def test_begun_again_it_is_the_same_payment(self) -> None:
        first, again = self.begin(), self.begin()
        self.assertEqual(first["reference"], again["reference"])
        self.assertEqual(self.states(), ["waiting"])

    def test_leaving_the_page_charges_nothing_and_after_paying_changes_nothing(self) -> None:
        begun = self.begin()
        leave_page(self.client, begun["page"])
        self.assertEqual((self.lifted(), self.states()), (False, ["declined"]))
        self.assertEqual(self.pay(APPROVED)["state"], "approved")
        paid_page = self.client.get(f"/api/payments/{begun['reference']}").json()
        self.assertEqual(paid_page["state"], "declined")
        leave_page(self.client, begun["page"])
        self.assertEqual(self.states(), ["declined", "approved"])

    def test_the_page_is_the_services_own_and_its_address_cannot_be_made_up(self) -> None:
        page = self.begin()["page"]
        shown = httpx.get(f"{self.server.url}{page}")
        self.assertEqual(shown.status_code, 200)
        self.assertIn("62.00", shown.text)
        self.assertNotIn("Gremba", shown.text)
        self.assertIn("form-action 'self'", shown.headers["Content-Security-Policy"])
        body, _, signature = page.rpartition(".")
        for strange in (f"{body}.{'0' * 64}", f"{body}A.{signature}", "/payment-service/x", f"{page}é"):
            self.assertEqual(httpx.get(f"{self.server.url}{strange}").status_code, 404, strange)
        # The way back leads nowhere but here.
        for away in ("//elsewhere.example", "https://elsewhere.example", "/\\\\elsewhere.example"):
            answer = self.client.post(f"/api/holds/{self.hold}/payment", headers={"Back": away})
            back = leave_page(self.client, answer.json()["page"]).headers["Location"]
            self.assertTrue(back.startswith("/?payment="), back)

    def test_somebody_elses_hold_looks_like_none(self) -> None:
        with self.campus.client(self.campus.person(), self.server.url) as other:
            theirs = other.post(f"/api/holds/{self.hold}/payment")
            none = other.post("/api/holds/999999/payment")
            self.assertEqual((theirs.status_code, theirs.json()), (404, none.json()))

    def answer(self, body: bytes, signature: str) -> httpx.Response:
        return httpx.post(
            f"{self.server.url}/api/payments/answers",
            content=body,
            headers={"X-Payment-Signature": signature},
        )

    def body(self, reference: str, **other: Any) -> bytes:
        return orjson.dumps(
            {
                "reference": reference,
                "amount_cents": 6200,
                "result": "approved",
                "sent_at": int(time.time()),
                **other,
            }
        )

    def test_forged_stale_and_misfitting_answers_change_nothing(self) -> None:
        reference = self.pay(SILENT)["reference"]
        good = self.body(reference)
        cases = (
            (403, good, "0" * 64),
            (403, good, sign(good, "another secret")),
            (403, good.replace(b"6200", b"1"), sign(good, PAYMENT_SECRET)),
            *(
                (status, body, sign(body, PAYMENT_SECRET))
                for status, body in (
                    (422, self.body(reference, sent_at=int(time.time()) - 3600)),
                    (404, self.body(reference, amount_cents=1)),
                    (404, self.body("f" * 24)),
                    (422, self.body(reference, result="perhaps")),
                    (422, self.body(reference, result="returned")),
                    (422, self.body(reference, more=1)),
                    (422, b"not json"),
                )
            ),
        )
        for status, body, signature in cases:
            with self.subTest(body):
                self.assertEqual(self.answer(body, signature).status_code, status)
        self.assertEqual((self.lifted(), self.states()), (False, ["waiting"]))

    def test_an_answer_replayed_many_times_at_once_counts_once(self) -> None:
        reference = self.pay(SILENT)["reference"]
        body = self.body(reference)
        with ThreadPoolExecutor(8) as pool:
            answers = list(pool.map(lambda _: self.answer(body, sign(body, PAYMENT_SECRET)), range(16)))
        self.assertEqual({a.status_code for a in answers}, {200})
        self.assertEqual((self.lifted(), self.states()), (True, ["approved"]))

    def test_an_approval_that_comes_after_a_decline_counts(self) -> None:
        """The service has taken the money: what it said before was wrong, or came out of order."""
        reference = self.pay(DECLINED)["reference"]
        for result in ("approved", "declined", "waiting"):
            body = self.body(reference, result=result)
            self.assertEqual(self.answer(body, sign(body, PAYMENT_SECRET)).status_code, 200)
        self.assertEqual((self.lifted(), self.states()), (True, ["approved"]))

    def test_two_payments_for_one_hold_the_second_is_paid_back(self) -> None:
        first, second = self.pay(SILENT)["reference"], "b" * 24
        self.campus.run(
            "INSERT INTO payments (reference, hold_id, student_id, amount_cents, state, begun_at) "
            "SELECT %s, hold_id, student_id, amount_cents, 'waiting', begun_at FROM payments "
            "WHERE reference = %s",
            second,
            first,
        )
        for reference in (first, second):
            body = self.body(reference)
            self.answer(body, sign(body, PAYMENT_SECRET))
        self.assertEqual(self.states(), ["approved", "returned"])


class WithoutStandIn(unittest.TestCase):
    def test_test_cards_are_worth_nothing_where_there_is_no_stand_in(self) -> None:
        campus = Campus(new_database())
        self.addCleanup(campus.close)
        student = campus.person()
        hold = campus.fee_hold(student)
        server = Server(campus.url, payments=False)
        self.addCleanup(server.stop)
        with campus.client(student, server.url) as client:
            answer = client.post(f"/api/holds/{hold}/payment")
            self.assertEqual(answer.json()["type"], "/problems/payment-elsewhere")
            self.assertEqual(client.get("/payment-service/anything").status_code, 404)
        self.assertEqual(campus.value("SELECT count(*) FROM payments"), 0)


class Guessing(Clearance):
    def test_codes_guessed_at_speed_are_limited_and_noted(self) -> None:
        guesses = [send(self.client, [f"+{self.number} #GUESS{n:03d}"]) for n in range(10)]
        self.assertEqual([g.status_code for g in guesses], [200] * 8 + [429] * 2)
        self.assertIn("there is no such code", guesses[0].text)
        noted = self.campus.value(
            "SELECT count(*) FROM permission_code_guesses WHERE person_id = %s", self.student.id
        )
        self.assertEqual(noted, 8)
        # In the cart they count as well; without a code everything goes on.
        added = self.client.post(f"/api/terms/{TERM}/cart/changes", json={"text": self.number}).json()
        change = added["cart"]["changes"][0]
        path = f"/api/terms/{TERM}/cart/changes/{change['id']}"
        guess = {"version": change["version"], "permission_code": "GUESSED1"}
        self.assertEqual(self.client.patch(path, json=guess).status_code, 429)
        self.assertEqual(self.client.patch(path, json={**guess, "permission_code": ""}).status_code, 200)
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
