"""Accounts over HTTP: the statement, paying, installments, asking back; the cashier's desk, the drop for nonpayment, the day's
files, and what is sent that is not right."""

from __future__ import annotations

import csv
import io
import secrets
import time
from datetime import timedelta
from typing import Any

import httpx
import orjson

from gremba.actions.account.payment_service import sign
from tests.support.accounts import DUE, NOW, demand_payment, paid, registered, seats_of
from tests.support.campus import TERM, Somebody, outcome, send
from tests.support.paying import pay_on_page
from tests.support.served import OnCampus
from tests.support.servers import PAYMENT_SECRET
from tests.support.soon import soon

ACCOUNT = f"/api/terms/{TERM}/account"
ACCOUNTS = f"/api/terms/{TERM}/accounts"
APPROVED = "9000 0000 0000 0001"


class Accounts(OnCampus):
    numbers: list[str]
    cashier_self: Somebody

    @classmethod
    def furnish(cls) -> None:
        demand_payment(cls.campus)
        cls.numbers = [cls.campus.section(seats=500) for _ in range(3)]
        cls.cashier_self = cls.campus.person("cashier")

    def setUp(self) -> None:
        super().setUp()
        self.cashier = self.campus.client(self.cashier_self, self.server.url)
        self.addCleanup(self.cashier.close)
        self.own = f"{ACCOUNTS}/{self.student.id}"

    def register(self, *numbers: str) -> None:
        self.assertEqual(outcome(send(self.client, [f"+{n}" for n in numbers])), "a" * len(numbers))

    def account(self) -> dict[str, Any]:
        return dict(self.client.get(ACCOUNT).raise_for_status().json())

    def post(self, kind: str, cents: int, key: str = "", **more: Any) -> httpx.Response:
        return self.cashier.post(
            f"{self.own}/entries",
            json={"kind": kind, "amount_cents": cents, **more},
            headers={"Idempotency-Key": key or secrets.token_hex(8)},
        )


class Students(Accounts):
    def test_a_statement_says_what_it_is_for_how_it_comes_about_and_where_it_was_told(self) -> None:
        self.register(*self.numbers[:2])
        told = self.account()
        (first, second) = told["lines"]
        self.assertEqual((first["what"], first["how"]), ("LAND 101", "3 credits at 100.00"))
        self.assertEqual(first["told_by"], f"confirmation {first['confirmation']}")
        self.assertIn("all of it back if dropped by", first["gives_back"])
        self.assertEqual((told["charged_cents"], told["balance_cents"]), (600_00, 600_00))
        self.assertEqual([due["open_cents"] for due in told["dues"]], [450_00, 450_00, 600_00])
        self.assertEqual(outcome(send(self.client, [f"-{self.numbers[0]}"])), "a")
        dropped = self.account()["lines"][1]
        self.assertEqual(
            (dropped["kind"], dropped["charged_cents"], dropped["was_cents"], dropped["how"]),
            ("dropped", 0, 300_00, "3 credits, all of it given back"),
        )
        self.assertEqual(second["number"], self.numbers[1])

    def test_the_cart_tells_what_a_change_does_to_what_is_due(self) -> None:
        registered(self.campus, self.student, self.numbers[0], when=NOW - timedelta(5))
        self.client.post(f"/api/terms/{TERM}/cart/changes", json={"text": self.numbers[1]})
        cart = self.client.get(f"/api/terms/{TERM}/cart").json()
        self.assertEqual(
            (cart["due"]["before_cents"], cart["due"]["after_cents"], cart["due"]["over"]),
            (225_00, 450_00, False),
        )
        paid(self.campus, self.student, 225_00)
        cart = self.client.get(f"/api/terms/{TERM}/cart").json()
        self.assertEqual((cart["due"]["before_cents"], cart["due"]["after_cents"]), (0, 225_00))

    def test_a_second_tab_is_told_what_was_paid_before_it_pays_again(self) -> None:
        self.register(self.numbers[0])
        seen = self.account()["paid_cents"]
        wanted = {"amount_cents": 100_00, "paid_cents": seen}
        begun = self.client.post(f"{ACCOUNT}/payments", json=wanted).json()
        same = self.client.post(f"{ACCOUNT}/payments", json=wanted).json()
        self.assertEqual(same["reference"], begun["reference"])
        pay_on_page(self.client, begun["page"], "9000000000000001")
        soon(lambda: self.account()["paid_cents"] == 100_00)
        again = self.client.post(f"{ACCOUNT}/payments", json=wanted)
        self.assertEqual((again.status_code, again.json()["type"]), (409, "/problems/paid-since"))
        self.assertIn("100.00 is paid by now, and the balance is 200.00", again.json()["detail"])
        looked = {"amount_cents": 100_00, "paid_cents": 100_00}
        self.assertEqual(self.client.post(f"{ACCOUNT}/payments", json=looked).status_code, 200)

    def test_paying_on_the_services_page_counts_once_however_it_is_told(self) -> None:
        self.register(self.numbers[0])
        begun = self.client.post(f"{ACCOUNT}/payments", json={"amount_cents": 100_00}).json()
        self.assertEqual(self.account()["payments"][0]["state"], "waiting")
        back = pay_on_page(self.client, begun["page"], "9000000000000035")
        self.assertEqual(back.headers["Location"], f"/{TERM}/account?payment={begun['reference']}")
        body = orjson.dumps(
            {
                "reference": begun["reference"],
                "amount_cents": 100_00,
                "result": "approved",
                "sent_at": int(time.time()),
            }
        )
        signed = {"X-Payment-Signature": sign(body, PAYMENT_SECRET)}
        for _ in range(3):
            answer = httpx.post(f"{self.server.url}/api/payments/answers", content=body, headers=signed)
            self.assertEqual(answer.status_code, 200)
        told = self.account()
        self.assertEqual((told["paid_cents"], told["balance_cents"]), (100_00, 200_00))
        self.assertEqual([p["state"] for p in told["payments"]], ["approved"])
        # For another sum than was begun: it is nobody's.
        other = body.replace(b"10000", b"20000")
        odd = httpx.post(
            f"{self.server.url}/api/payments/answers",
            content=other,
            headers={"X-Payment-Signature": sign(other, PAYMENT_SECRET)},
        )
        self.assertEqual(odd.status_code, 404)
        self.assertEqual(self.account()["paid_cents"], 100_00)
        messages = self.client.get(f"/api/terms/{TERM}/messages").json()["messages"]
        # The sweep may have warned of the due date meanwhile.
        titles = [m["title"] for m in messages]
        self.assertEqual(titles.count("100.00 was paid"), 1)
        # What somebody pays is not for the advisor.
        advisor = self.campus.person("advisor")
        self.campus.advised_by(self.student, advisor)
        with self.campus.client(advisor, self.server.url, params={"student": self.student.id}) as theirs:
            self.assertEqual(theirs.get(f"/api/terms/{TERM}/messages").json()["messages"], [])
            self.assertEqual(theirs.get(f"/api/terms/{TERM}/news").json()["unread"], 0)
            self.assertEqual(theirs.get(ACCOUNT).status_code, 403)
        self.assertGreater(self.client.get(f"/api/terms/{TERM}/news").json()["unread"], 0)

    def test_a_payment_for_somebody_who_has_dropped_everything_stands_on_the_account(self) -> None:
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        begun = self.client.post(f"{ACCOUNT}/payments", json={"amount_cents": 50_00}).json()
        pay_on_page(self.client, begun["page"], APPROVED)
        self.assertEqual(self.account()["balance_cents"], -50_00)
        # What was paid too much is paid back by the cashier, and no more than that.
        self.assertEqual(self.post("refund", 50_01).status_code, 422)
        self.assertEqual(self.account()["balance_cents"], -50_00)
        self.assertEqual(self.post("refund", 50_00).status_code, 200)
        told = self.account()
        self.assertEqual(told["balance_cents"], 0)
        self.assertEqual(told["lines"][-1]["how"], "to the card")
        self.assertEqual(self.post("refund", 1).status_code, 422)

    def test_sums_that_are_none(self) -> None:
        for sum_ in (0, -5, 5_000_001, "all", 1.5, None):
            answer = self.client.post(f"{ACCOUNT}/payments", json={"amount_cents": sum_})
            self.assertEqual(answer.status_code, 422, sum_)

    def test_installments_are_joined_once_and_in_time(self) -> None:
        self.assertEqual(self.client.post(f"{ACCOUNT}/installments", json={"plan": "two"}).status_code, 409)
        self.register(*self.numbers)
        self.assertEqual(
            [part["amount_cents"] for part in self.account()["plans"][0]["parts"]], [450_00, 450_00]
        )
        self.assertEqual(self.client.post(f"{ACCOUNT}/installments", json={"plan": "x"}).status_code, 409)
        joined = self.client.post(f"{ACCOUNT}/installments", json={"plan": "two"}).json()
        self.assertEqual((joined["joined"], joined["plans"]), ("two parts", []))
        self.assertEqual([due["own_cents"] for due in joined["dues"]], [450_00, 450_00])
        self.assertEqual(self.client.post(f"{ACCOUNT}/installments", json={"plan": "two"}).status_code, 409)

    def test_another_persons_account_is_not_to_be_had(self) -> None:
        self.register(self.numbers[0])
        with self.campus.client(self.campus.person(), self.server.url) as other:
            self.assertEqual(other.get(ACCOUNT).json()["lines"], [])
            begun = self.client.post(f"{ACCOUNT}/payments", json={"amount_cents": 100}).json()
            self.assertEqual(other.get(f"/api/payments/{begun['reference']}").status_code, 404)
            answer = other.post(f"/api/payments/{begun['reference']}/question")
            self.assertEqual(answer.status_code, 404)

    def test_the_table_file_is_the_statement(self) -> None:
        self.register(*self.numbers[:2])
        paid(self.campus, self.student, 70_00)
        file = self.client.get(f"{ACCOUNT}/file")
        rows = list(csv.reader(io.StringIO(file.content.decode("utf-8-sig"))))
        self.assertEqual([row[5] for row in rows[1:]], ["300.00", "300.00", "0.00", "600.00", "530.00"])
        self.assertEqual(rows[-2][6], "70.00")


class Cashiers(Accounts):
    def test_who_owes_what(self) -> None:
        self.register(self.numbers[0])
        paid(self.campus, self.student, 100_00)
        name = self.student.username
        found = self.cashier.get(ACCOUNTS, params={"search": name}).json()["students"]
        mine = next(line for line in found if line["student"] == self.student.id)
        self.assertEqual((mine["charged_cents"], mine["balance_cents"]), (300_00, 200_00))
        paid(self.campus, self.student, 200_00)
        for only_open, there in ((True, False), (False, True)):
            found = self.cashier.get(ACCOUNTS, params={"search": name, "only_open": only_open}).json()
            self.assertEqual(self.student.id in [s["student"] for s in found["students"]], there)

    def test_the_list_goes_on_where_it_stopped_and_everybody_stands_in_it_once(self) -> None:
        people = self.campus.people(70)
        seen: list[int] = []
        place = ""
        for _ in range(20):
            page = self.cashier.get(ACCOUNTS, params={"only_open": False, "place": place}).json()
            seen += [s["student"] for s in page["students"]]
            place = page["next"]
            if not place:
                break
        self.assertEqual(len(seen), len(set(seen)))
        self.assertLessEqual({who.id for who in people}, set(seen))
        for odd in ("x", "!!!", "MTI6", "w6k"):
            answer = self.cashier.get(ACCOUNTS, params={"place": odd})
            self.assertIn(answer.status_code, (200, 422), answer.text)

    def test_posted_once_and_undone_once(self) -> None:
        self.register(self.numbers[0])
        self.post("payment", 120_00, "posted-twice", label="in cash")
        self.post("payment", 120_00, "posted-twice", label="in cash")
        other = self.post("payment", 130_00, "posted-twice")
        self.assertEqual((other.status_code, other.json()["type"]), (422, "/problems/key-used"))
        told = self.account()
        self.assertEqual(told["paid_cents"], 120_00)
        entry = next(line["entry"] for line in told["lines"] if line["kind"] == "entry")
        undo = f"{self.own}/entries/{entry}/undoing"
        self.assertEqual(self.cashier.post(undo, json={"reason": " "}).status_code, 422)
        self.assertEqual(self.cashier.post(undo, json={"reason": "For another."}).status_code, 200)
        self.assertEqual(self.cashier.post(undo, json={"reason": "Again."}).status_code, 409)
        told = self.account()
        self.assertEqual(told["paid_cents"], 0)
        lines = [line for line in told["lines"] if line["kind"] == "entry"]
        self.assertEqual([line["undone"] for line in lines], [True, True])
        self.assertIn("For another.", lines[1]["how"])
        again = f"{self.own}/entries/{lines[1]['entry']}/undoing"
        self.assertEqual(self.cashier.post(again, json={"reason": "Back."}).status_code, 409)

    def test_what_is_somebody_elses_or_came_by_card_is_not_undone_here(self) -> None:
        begun = self.client.post(f"{ACCOUNT}/payments", json={"amount_cents": 10_00}).json()
        pay_on_page(self.client, begun["page"], APPROVED)
        entry = next(line["entry"] for line in self.account()["lines"] if line["kind"] == "entry")
        why = {"reason": "A mistake."}
        self.assertEqual(self.cashier.post(f"{self.own}/entries/{entry}/undoing", json=why).status_code, 409)
        other = self.campus.person()
        path = f"{ACCOUNTS}/{other.id}/entries/{entry}/undoing"
        self.assertEqual(self.cashier.post(path, json=why).status_code, 404)

    def test_corrections_and_waivers_need_a_reason_and_only_they_go_below_zero(self) -> None:
        for kind, cents, more, status in (
            ("correction", -30_00, {"reason": "The kiln fee was forgotten."}, 200),
            ("correction", -30_00, {}, 422),
            ("correction", 0, {"reason": "Nothing."}, 422),
            ("waiver", 30_00, {"reason": "  "}, 422),
            ("waiver", -30_00, {"reason": "Turned round."}, 422),
            ("payment", -1, {}, 422),
            ("counter-entry", 1, {}, 422),
            ("payment", 5_000_001, {}, 422),
        ):
            with self.subTest(kind=kind, cents=cents, more=more):
                self.assertEqual(self.post(kind, cents, **more).status_code, status)
        self.assertEqual(self.account()["balance_cents"], 30_00)

    def test_an_anticipated_payment_counts_until_it_is_kept_and_then_it_is_money(self) -> None:
        self.register(self.numbers[0])
        wanted = {"kind": "aid", "label": "the aid office", "amount_cents": 200_00}
        key = {"Idempotency-Key": secrets.token_hex(8)}
        desk = self.cashier.post(f"{self.own}/anticipated-payments", json=wanted, headers=key).json()
        again = self.cashier.post(f"{self.own}/anticipated-payments", json=wanted, headers=key)
        self.assertEqual((again.status_code, len(again.json()["anticipated_payments"])), (200, 1))
        other = self.cashier.post(
            f"{self.own}/anticipated-payments", json={**wanted, "amount_cents": 1}, headers=key
        )
        self.assertEqual((other.status_code, other.json()["type"]), (422, "/problems/key-used"))
        self.assertEqual(self.cashier.post(f"{self.own}/anticipated-payments", json=wanted).status_code, 422)
        self.assertEqual(self.account()["anticipated_cents"], 200_00)
        self.post("aid", 150_00, anticipated_payment=desk["anticipated_payments"][0]["id"])
        told = self.account()
        self.assertEqual((told["paid_cents"], told["anticipated_cents"]), (150_00, 50_00))
        self.assertEqual(self.post("aid", 1, anticipated_payment=999_999).status_code, 404)
        path = f"{self.own}/anticipated-payments/{desk['anticipated_payments'][0]['id']}"
        self.assertEqual(self.cashier.delete(path).status_code, 200)
        self.assertEqual(self.cashier.delete(path).status_code, 404)
        self.assertEqual(self.account()["anticipated_cents"], 0)

    def test_the_trial_of_a_cut_changes_nothing_and_a_note_spares(self) -> None:
        registered(self.campus, self.student, self.numbers[0], when=NOW - timedelta(3))

        def tried() -> dict[str, Any] | None:
            place = ""
            while True:
                page = self.cashier.post(
                    f"/api/terms/{TERM}/nonpayment-drops/trial",
                    params={"place": place},
                    json={"at": DUE.isoformat()},
                ).json()
                for line in page["lines"]:
                    if line["student"] == self.student.id:
                        return dict(line)
                place = page["next"]
                if not place:
                    return None

        line = tried()
        assert line is not None
        self.assertEqual((line["result"], line["owed_cents"]), ("seats lost", 225_00))
        why = {"reason": "Her bank is on strike."}
        self.cashier.put(f"{self.own}/seats-kept", json=why).raise_for_status()
        line = tried()
        assert line is not None
        self.assertEqual(line["result"], "spared")
        self.assertIn("Her bank is on strike.", line["why"])
        self.cashier.delete(f"{self.own}/seats-kept").raise_for_status()
        self.assertEqual(seats_of(self.campus, self.student), 1)
        early = self.cashier.post(f"/api/terms/{TERM}/nonpayment-drops", json={"at": DUE.isoformat()})
        self.assertEqual((early.status_code, early.json()["type"]), (409, "/problems/nonpayment-not-yet"))
        strange = self.cashier.post(f"/api/terms/{TERM}/nonpayment-drops", json={"at": NOW.isoformat()})
        self.assertEqual(strange.status_code, 404)

    def bring(self, *lines: str, head: str = "id,student,kind,amount,what,reason") -> dict[str, Any]:
        text = "\r\n".join((head, *lines))
        answer = self.cashier.post(f"/api/terms/{TERM}/day-file", json={"text": text})
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.json())

    def test_the_finance_office_tells_each_entry_once(self) -> None:
        who, key = self.student.username, secrets.token_hex(4)
        lines = f"{key}-1,{who},payment,40.00,bank transfer,", f"{key}-2,{who},waiver,5.50,,A late bus"
        self.assertEqual(self.bring(*lines)["taken"], 2)
        again = self.bring(*lines, f"{key}-3,{who},payment,1.00,,")
        self.assertEqual((again["taken"], again["known"]), (1, 2))
        self.assertEqual(self.account()["paid_cents"], 46_50)

    def test_what_the_finance_office_tells_of_lifts_a_hold(self) -> None:
        self.campus.run(
            "INSERT INTO holds (student_id, kind, reason, office, contact, stops, cleared_by, placed_at) "
            "VALUES (%s, 'overdue', 'Something due for Coming Term was not paid in time.', 'the cashier', "
            "'room 3', ARRAY['add'], 'student', now())",
            self.student.id,
        )
        self.bring(f"{secrets.token_hex(4)},{self.student.username},payment,1.00,,")
        lifted = "SELECT lifted_why FROM holds WHERE student_id = %s"
        self.assertEqual(self.campus.value(lifted, self.student.id), "what was due is paid")

    def test_with_a_line_that_is_not_right_nothing_is_taken(self) -> None:
        who, key = self.student.username, secrets.token_hex(4)
        good = f"{key}-g,{who},payment,40.00,,"
        for wrong, said in (
            (f"{key}-1,{who},payment,-40.00,,", "Only a correction may be below zero"),
            (f'{key}-1,{who},payment,"40,00",,', "with a point and two digits"),
            (f"{key}-1,{who},payment,1e3,,", "with a point and two digits"),
            (f"{key}-1,{who},payment,40,,", "with a point and two digits"),
            (f"{key}-1,{who},payment,0.00,,", "The amount is nothing"),
            (f"{key}-1,{who},payment,90000.00,,", "more than 50,000.00"),
            (f"{key}-1,{who},gift,40.00,,", "The kind is one of"),
            (f"{key}-1,nobody.such,payment,40.00,,", "There is no student nobody.such"),
            (f"{key}-1,,payment,40.00,,", "user name is missing"),
            (f",{who},payment,40.00,,", "The id is missing"),
            (f"{key}-g,{who},payment,40.00,,", "stands in line 2 already"),
            (f"{key}-1,{who},waiver,40.00,,", "A waiver needs a reason"),
            (f"{key}-1,{who},waiver", "with a point and two digits"),
            ('"', "cannot be read as a table file"),
        ):
            with self.subTest(wrong):
                answer = self.bring(good, wrong)
                self.assertEqual((answer["taken"], len(answer["problems"])), (0, 1), answer)
                self.assertEqual(answer["problems"][0]["line"], 3)
                self.assertIn(said, answer["problems"][0]["text"])
        self.assertIn("missing: amount", self.bring(good, head="id,student,kind,sum")["problems"][0]["text"])
        self.assertEqual(self.account()["paid_cents"], 0)
        self.bring(good)
        other = self.bring(good.replace("40.00", "41.00"))
        self.assertIn("with another sum or student", other["problems"][0]["text"])

    def test_a_file_of_very_many_lines_has_an_end(self) -> None:
        answer = self.bring(*(f"x{n},nobody,payment,1.00,," for n in range(6_000)))
        self.assertEqual((answer["taken"], len(answer["problems"])), (0, 200))
        self.assertGreater(answer["more"], 4_000)

    def test_the_days_file_is_the_same_each_time_and_runs_nothing(self) -> None:
        self.post("payment", 12_34, label="=HYPERLINK(1)")
        day = NOW.date()
        first = self.cashier.get(f"/api/terms/{TERM}/day-file", params={"day": day.isoformat()})
        again = self.cashier.get(f"/api/terms/{TERM}/day-file", params={"day": day.isoformat()})
        self.assertEqual(first.content, again.content)
        rows = list(csv.DictReader(io.StringIO(first.content.decode("utf-8-sig"))))
        mine = [row for row in rows if row["student"] == self.student.username]
        self.assertEqual([(row["amount"], row["what"]) for row in mine], [("12.34", "'=HYPERLINK(1)")])
        ids = [int(row["entry"]) for row in rows]
        self.assertEqual(ids, sorted(set(ids)))
