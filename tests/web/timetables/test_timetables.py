"""Timetables over HTTP: questions and bad ones, into the cart, drafts and their links, plans in order, the plan
agreed with an advisor, and what is wanted, counted."""

from __future__ import annotations

import json
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from typing import Any
from uuid import uuid4

import httpx

from gremba.core.registration.plans import MOST_PLANS
from gremba.core.timetables.drafts import MOST_DRAFTS
from tests.support.campus import TERM, Campus, send
from tests.support.served import OnCampus
from tests.support.servers import Server, new_database
from tests.support.soon import soon

TIMETABLES = f"/api/terms/{TERM}/timetables"
PLANS = f"/api/terms/{TERM}/cart/plans"
DRAFTS = f"/api/terms/{TERM}/drafts"
PLAN = f"/api/terms/{TERM}/academic-plan"


class TimetablesTest(OnCampus):
    """Two courses with two sections each, Monday or Tuesday, and one with a single section on Friday."""

    numbers: list[str]
    one: str
    two: str
    odd: str

    @classmethod
    def furnish(cls) -> None:
        days = ("M", "T", "M", "T", "F")
        cls.numbers = [cls.campus.section(seats=9, weekdays=d, starts=9) for d in days]
        cls.campus.run("UPDATE sections SET course_id = 1 WHERE id = 2")
        cls.campus.run("UPDATE sections SET course_id = 3 WHERE id = 4")
        cls.campus.run("UPDATE courses SET tags = '{Craft}' WHERE id IN (1, 3)")
        cls.one, cls.two, cls.odd = "LAND 101", "LAND 103", "LAND 105"

    def setUp(self) -> None:
        super().setUp()
        # What the test before has filled, and given back, is known a moment later.
        soon(lambda: self.ask(self.one, self.two, self.odd)["number"] == 2)

    def ask(self, *courses: str, status: int = 200, **more: Any) -> dict[str, Any]:
        body = {"wants": [{"courses": [key]} for key in courses], **more}
        answer = self.client.post(TIMETABLES, json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return dict(answer.json())

    def as_plan(self, *numbers: str) -> dict[str, Any]:
        body = {"wants": [{"courses": [self.one]}, {"courses": [self.two]}], "show": numbers}
        answer = self.client.post(PLANS, json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.json())

    def fill(self, number: str) -> None:
        """Let a section have no seat left, until the test has ended."""
        self.campus.run("UPDATE seat_pools SET seat_limit = taken WHERE id = %s", self.pool(number))
        self.addCleanup(
            self.campus.run, "UPDATE seat_pools SET seat_limit = 90 WHERE id = %s", self.pool(number)
        )

    def pool(self, number: str) -> int:
        return int(number) - 40_000


class Questions(TimetablesTest):
    def test_how_many_and_which(self) -> None:
        found = self.ask(self.one, self.two, self.odd)
        self.assertEqual((found["number"], found["is_exact"]), (2, True))
        self.assertEqual(
            [t["numbers"] for t in found["timetables"]],
            [
                [self.numbers[0], self.numbers[3], self.numbers[4]],
                [self.numbers[1], self.numbers[2], self.numbers[4]],
            ],
        )
        self.assertEqual([h["section"]["number"] for h in found["key_sections"]], [self.numbers[4]])
        self.assertEqual(set(found["sections"]), set(self.numbers))
        self.assertTrue(found["now"])

    def test_one_that_counts_toward_something(self) -> None:
        found = self.client.post(TIMETABLES, json={"wants": [{"tag": "Craft"}]}).json()
        self.assertEqual(found["number"], 4)
        self.assertEqual(found["wants"][0]["name"], "One that counts toward Craft")

    def test_a_way_on_is_a_question_that_can_be_asked(self) -> None:
        friday = {"weekdays": [4], "start": 480, "end": 1080, "label": "Work"}
        found = self.ask(self.odd, kept_free=[friday])
        self.assertEqual(found["number"], 0)
        (reason,) = found["reasons"]
        self.assertEqual(reason["title"], f"“Work” on Fridays 08:00–18:00 leaves no {self.odd}")
        again = self.client.post(TIMETABLES, json=reason["ways_on"][0]["question"])
        self.assertEqual(again.json()["number"], 1)

    def test_bad_questions_are_told_what_to_do(self) -> None:
        hours = {"weekdays": [0], "start": 600, "end": 700}
        for more, said in (
            ({"wants": [{"courses": [self.one]}] * 20}, "12"),
            ({"kept_free": [hours | {"end": 500}]}, "end before they begin"),
            ({"kept_free": [hours | {"first": "2027-10-10", "last": "2027-09-01"}]}, "run backwards"),
            ({"wants": [{"courses": [], "tag": ""}]}, "Name courses"),
            ({"wants": [{"courses": [self.one], "count": 3}]}, "More are wanted"),
            ({"order": ["loudest"]}, "order"),
            ({"wants": [{"tag": "Craft", "count": 4}] * 5}, "20 courses are wanted in all"),
            ({"wants": [{"tag": "Craft", "count": 2}, {"tag": "Land"}]}, "More than two choices share"),
        ):
            with self.subTest(said):
                answer = self.client.post(TIMETABLES, json=more)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(said, answer.text)

    def test_what_is_not_offered_and_hours_that_cover_the_week(self) -> None:
        always = {"weekdays": list(range(7)), "start": 0, "end": 1440}
        found = self.ask("LAND 999", self.one, kept_free=[always])
        titles = [r["title"] for r in found["reasons"]]
        self.assertEqual(titles[0], "There is no course LAND 999")
        self.assertEqual(titles[1], f"Keeping every day free leaves no {self.one}")

    def test_a_section_that_fills_or_is_cancelled_is_in_no_timetable(self) -> None:
        self.fill(self.numbers[0])
        soon(lambda: self.ask(self.one)["number"] == 1)
        self.campus.run("UPDATE sections SET cancelled = true WHERE id = 2")
        self.campus.run("SELECT pg_notify('gremba_catalogue', %s)", TERM)
        soon(lambda: self.ask(self.one)["number"] == 0)
        stopped = self.ask(self.one)["wants"][0]["stopped"]
        self.assertEqual([s["finding"]["code"] for s in stopped], ["section.cancelled"])
        self.campus.run("UPDATE sections SET cancelled = false WHERE id = 2")
        self.campus.run("SELECT pg_notify('gremba_catalogue', %s)", TERM)
        soon(lambda: self.ask(self.one)["number"] == 1)

    def test_into_the_cart_with_next_choices_and_nothing_twice(self) -> None:
        body = {"wants": [{"courses": [self.odd]}, {"courses": [self.one]}]}
        first = {**body, "show": [self.numbers[0], self.numbers[4]]}
        cart = self.client.post(f"{TIMETABLES}/cart", json=first).json()["cart"]
        self.assertEqual(
            [c["outcome"]["number"] for c in cart["changes"]], [self.numbers[4], self.numbers[0]]
        )
        alternatives = cart["changes"][1]["alternatives"]
        self.assertEqual([a["numbers"] for a in alternatives], [[self.numbers[1]]])
        other = {**body, "show": [self.numbers[1], self.numbers[4]]}
        cart = self.client.post(f"{TIMETABLES}/cart", json=other).json()["cart"]
        self.assertEqual(
            sorted(c["outcome"]["number"] for c in cart["changes"]), [self.numbers[1], self.numbers[4]]
        )
        for show in ([self.numbers[0], self.numbers[1]], []):
            for path in (f"{TIMETABLES}/cart", PLANS):
                gone = self.client.post(path, json={**body, "show": show})
                self.assertEqual((gone.status_code, gone.json()["type"]), (409, "/problems/timetable-gone"))


class Plans(TimetablesTest):
    def sent(self, plans: dict[str, Any], key: str = "") -> httpx.Response:
        return self.client.post(
            f"/api/terms/{TERM}/submissions",
            json=plans["sends"],
            headers={"Idempotency-Key": key or f"plan-{uuid4()}"},
        )

    def two_plans(self) -> dict[str, Any]:
        self.as_plan(self.numbers[0], self.numbers[3])
        return self.as_plan(self.numbers[1], self.numbers[2])

    def test_the_first_that_goes_through_whole_is_taken(self) -> None:
        plans = self.two_plans()
        self.assertEqual((plans["taken"], [p["name"] for p in plans["plans"]]), ("A", ["A", "B"]))
        confirmation = self.sent(plans).json()
        self.assertEqual([(p["name"], p["taken"]) for p in confirmation["body"]["plans"]], [("A", True)])
        self.assertEqual([o["result"] for o in confirmation["body"]["outcomes"]], ["accepted"] * 2)
        self.assertEqual(self.client.get(PLANS).json()["plans"], [])

    def test_where_the_first_has_lost_a_seat_the_second_is_taken_and_it_is_said_why(self) -> None:
        plans = self.two_plans()
        self.fill(self.numbers[0])
        shown = self.client.get(PLANS).json()
        self.assertEqual((shown["taken"], shown["plans"][0]["is_whole"]), ("B", False))
        confirmation = self.sent(plans, "plan-key-twice").json()
        first, second = confirmation["body"]["plans"]
        self.assertEqual((first["taken"], second["taken"]), (False, True))
        self.assertEqual(first["stops"][0]["section"], self.one)
        self.assertIn("Full", first["stops"][0]["text"])
        taken = {o["number"] for o in confirmation["body"]["outcomes"]}
        self.assertEqual(taken, {self.numbers[1], self.numbers[2]})
        again = self.sent(plans, "plan-key-twice").json()
        self.assertEqual((again["repeated"], again["id"]), (True, confirmation["id"]))
        kept = self.client.get(f"/api/confirmations/{confirmation['id']}").json()
        self.assertEqual(kept["body"]["plans"], confirmation["body"]["plans"])

    def test_where_none_is_whole_nothing_or_the_best_part_of_the_first(self) -> None:
        plans = self.two_plans()
        self.fill(self.numbers[0])
        self.fill(self.numbers[1])
        confirmation = self.sent(plans).json()
        self.assertEqual([o["result"] for o in confirmation["body"]["outcomes"]], ["refused"] * 2)
        self.assertEqual(len(self.client.get(PLANS).json()["plans"]), 2)
        plans = self.client.put(f"{PLANS}/fallback", json={"fallback": "best part"}).json()
        self.assertEqual((plans["taken"], plans["passing"]), ("", 1))
        confirmation = self.sent(plans).json()
        self.assertEqual(
            {o["number"]: o["result"] for o in confirmation["body"]["outcomes"]},
            {self.numbers[0]: "refused", self.numbers[3]: "accepted"},
        )

    def test_order_most_and_twice_the_same(self) -> None:
        plans = self.two_plans()
        self.assertEqual(len(self.as_plan(self.numbers[0], self.numbers[3])["plans"]), 2)
        ids = [p["id"] for p in plans["plans"]]
        turned = self.client.put(f"{PLANS}/order", json={"ids": ids[::-1]}).json()
        self.assertEqual([p["id"] for p in turned["plans"]], ids[::-1])
        one = self.client.put(f"{PLANS}/order", json={"ids": ids[:1]}).json()
        self.assertEqual(len(one["plans"]), 1)
        moved = self.client.put(f"{PLANS}/order", json={"ids": ids})
        self.assertEqual((moved.status_code, moved.json()["type"]), (409, "/problems/cart-moved"))
        self.campus.run(
            "INSERT INTO cart_plans (student_term_id, position, changes, added_at) "
            "SELECT %s, n, '[]', now() FROM generate_series(2, %s) n",
            self.student.row,
            MOST_PLANS,
        )
        body = {"wants": [{"courses": [self.odd]}], "show": [self.numbers[4]]}
        full = self.client.post(PLANS, json=body)
        self.assertEqual((full.status_code, full.json()["type"]), (422, "/problems/too-many-plans"))

    def test_sending_neither_or_both_is_told(self) -> None:
        change = {"kind": "add", "number": self.numbers[0]}
        wrong: list[dict[str, Any]] = [{}, {"changes": [change], "plans": [[change]]}, {"plans": [[]]}]
        for body in wrong:
            answer = self.client.post(
                f"/api/terms/{TERM}/submissions", json=body, headers={"Idempotency-Key": "neither-or-both"}
            )
            self.assertEqual(answer.status_code, 422, body)

    def test_a_rush_for_the_last_seats_of_every_plan_a(self) -> None:
        """Twelve students with the same two plans: three get A whole, the others B, nobody half of one."""
        self.campus.run(
            "UPDATE seat_pools SET seat_limit = taken + 3 WHERE id = %s", self.pool(self.numbers[0])
        )
        self.campus.run("UPDATE seat_pools SET seat_limit = 90 WHERE id IN (2, 3, 4)")
        self.addCleanup(self.campus.run, "UPDATE seat_pools SET seat_limit = 90 WHERE id = 1")
        ready = threading.Barrier(12)
        plans = [[self.numbers[0], self.numbers[3]], [self.numbers[1], self.numbers[2]]]
        body = {"plans": [[{"kind": "add", "number": n} for n in plan] for plan in plans]}

        def go(_: int) -> str:
            with self.campus.client(self.campus.person(), self.server.url) as client:
                ready.wait()
                answer = client.post(
                    f"/api/terms/{TERM}/submissions",
                    json=body,
                    headers={"Idempotency-Key": f"rush-{uuid4()}"},
                )
                told = answer.json()["body"]
                self.assertEqual([o["result"] for o in told["outcomes"]], ["accepted"] * 2)
                return str(next(p["name"] for p in told["plans"] if p["taken"]))

        with ThreadPoolExecutor(12) as pool:
            taken = list(pool.map(go, range(12)))
        self.assertEqual((taken.count("A"), taken.count("B")), (3, 9))
        self.assertEqual(self.campus.disagreements(), [])


class Drafts(TimetablesTest):
    def keep(self, name: str = "Mornings off") -> dict[str, Any]:
        body = {
            "name": name,
            "question": {"wants": [{"courses": [self.one]}]},
            "numbers": [self.numbers[0]],
        }
        answer = self.client.post(DRAFTS, json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.json()["drafts"][0])

    def test_kept_renamed_let_go_and_what_has_changed(self) -> None:
        draft = self.keep()
        self.assertEqual((draft["name"], draft["changed"]), ("Mornings off", []))
        self.assertEqual(draft["question"]["wants"][0]["courses"], [self.one])
        self.fill(self.numbers[0])
        soon(lambda: bool(self.client.get(DRAFTS).json()["drafts"][0]["changed"]))
        (changed,) = self.client.get(DRAFTS).json()["drafts"][0]["changed"]
        self.assertIn("is full now", changed)
        path = f"{DRAFTS}/{draft['id']}"
        renamed = self.client.patch(path, json={"name": "Late starts"}).json()["drafts"]
        self.assertEqual(renamed[0]["name"], "Late starts")
        self.assertEqual(self.client.delete(path).json()["drafts"], [])
        for answer in (self.client.delete(path), self.client.patch(path, json={"name": "x"})):
            self.assertEqual((answer.status_code, answer.json()["type"]), (404, "/problems/draft-unknown"))
        self.assertEqual(
            self.campus.value("SELECT count(*) FROM timetable_drafts WHERE name = 'Late starts'"), 1
        )

    def test_a_link_shows_it_until_it_ends_or_is_withdrawn(self) -> None:
        draft = self.keep()
        path = self.client.post(f"{DRAFTS}/{draft['id']}/link", json={"days": 14}).json()["path"]
        with httpx.Client(base_url=self.server.url) as anybody:
            shown = anybody.get(f"/api{path}")
            self.assertEqual([s["number"] for s in shown.json()["sections"]], [self.numbers[0]])
            self.assertEqual(shown.headers["cache-control"], "no-store")
            token = path.rpartition("/")[2]
            self.assertEqual(
                self.campus.value(
                    "SELECT count(*) FROM timetable_drafts WHERE encode(digest, 'escape') LIKE %s",
                    f"%{token}%",
                ),
                0,
            )
            self.campus.run("UPDATE timetable_drafts SET link_ends_at = now() WHERE id = %s", draft["id"])
            self.assertEqual(anybody.get(f"/api{path}").status_code, 404)
            path = self.client.post(f"{DRAFTS}/{draft['id']}/link", json={"days": 1}).json()["path"]
            self.assertEqual(anybody.get(f"/api{path}").status_code, 200)
            self.client.delete(f"{DRAFTS}/{draft['id']}/link")
            gone = anybody.get(f"/api{path}")
            self.assertEqual((gone.status_code, gone.json()["type"]), (404, "/problems/link-gone"))

    def test_nobody_reads_or_changes_anothers(self) -> None:
        draft = self.keep()
        with self.campus.client(self.campus.person(), self.server.url) as other:
            self.assertEqual(other.get(DRAFTS).json()["drafts"], [])
            self.assertEqual(other.delete(f"{DRAFTS}/{draft['id']}").status_code, 404)
            self.assertEqual(other.post(f"{DRAFTS}/{draft['id']}/link", json={}).status_code, 404)

    def test_there_is_an_end_to_drafts_and_none_of_a_term_that_is_over(self) -> None:
        for n in range(MOST_DRAFTS):
            self.keep(f"No. {n}")
        body = {"name": "One more", "question": {}, "numbers": [self.numbers[0]]}
        full = self.client.post(DRAFTS, json=body)
        self.assertEqual((full.status_code, full.json()["type"]), (409, "/problems/too-many-drafts"))
        unknown = self.client.post(DRAFTS, json=body | {"numbers": ["99999"]})
        self.assertEqual(unknown.json()["type"], "/problems/section-unknown")

    def test_any_timetable_as_a_file_and_to_print(self) -> None:
        numbers = f"{self.numbers[0]},{self.numbers[4]}"
        with httpx.Client(base_url=self.server.url) as anybody:
            file = anybody.get(f"/api/terms/{TERM}/timetable/calendar", params={"numbers": numbers})
            self.assertEqual(file.content.count(b"BEGIN:VEVENT"), 2)
            shown = anybody.get(f"/api/terms/{TERM}/timetable", params={"numbers": numbers}).json()
            self.assertEqual([s["number"] for s in shown["sections"]], numbers.split(","))
            strange = anybody.get(f"/api/terms/{TERM}/timetable", params={"numbers": "99999"})
            self.assertEqual(strange.status_code, 404)


class AcademicPlans(TimetablesTest):
    def setUp(self) -> None:
        super().setUp()
        self.advisor = self.campus.person(role="advisor")
        self.campus.advised_by(self.student, self.advisor)
        self.office = self.campus.client(self.advisor, self.server.url)
        self.office.params = {"student": self.student.id}
        self.addCleanup(self.office.close)

    def lines(self, *courses: str) -> dict[str, Any]:
        return {"lines": [{"term": TERM, "courses": [key]} for key in courses]}

    def test_written_by_one_agreed_by_the_other_and_what_becomes_of_it(self) -> None:
        plan = self.office.put(PLAN, json=self.lines(self.one, self.odd)).json()
        self.assertEqual((plan["is_agreed"], plan["versions"][0]["version"]), (False, 1))
        self.assertIsNone(plan["versions"][0]["student_agreed_at"])
        plan = self.client.post(f"{PLAN}/agreement", json={"version": 1}).json()
        self.assertTrue(plan["is_agreed"])
        self.assertEqual([line["state"] for line in plan["lines"]], ["not yet", "not yet"])
        send(self.client, [f"+{self.numbers[0]}"])
        body = {"changes": [{"kind": "add", "number": self.numbers[4], "in_exchange": ""}]}
        self.client.post(f"/api/terms/{TERM}/cart/proposals", json=body)
        seen = self.office.get(PLAN).json()
        self.assertEqual([line["state"] for line in seen["lines"]], ["registered", "in cart"])
        again = self.client.put(PLAN, json=self.lines(self.one)).json()
        self.assertEqual((again["versions"][0]["version"], again["is_agreed"]), (2, False))
        late = self.office.post(f"{PLAN}/agreement", json={"version": 1})
        self.assertEqual((late.status_code, late.json()["type"]), (409, "/problems/plan-moved"))
        self.assertTrue(self.office.post(f"{PLAN}/agreement", json={"version": 2}).json()["is_agreed"])

    def test_mistakes_are_told_by_line_and_nothing_is_written(self) -> None:
        wrong = {
            "lines": [
                {"term": TERM, "courses": [self.one], "section": self.numbers[4]},
                {"term": "never", "courses": ["LAND 999"]},
                {"term": TERM, "courses": [self.two], "count": 2},
            ]
        }
        plan = self.client.put(PLAN, json=wrong).json()
        self.assertEqual([m["line"] for m in plan["mistakes"]], [1, 2, 2, 3])
        self.assertEqual(plan["versions"], [])

    def test_files_out_and_in_come_to_the_same(self) -> None:
        written = [
            {"term": TERM, "courses": [self.one, self.two], "count": 1, "section": "", "note": '=1+1, "so"'},
            {"term": TERM, "courses": [self.odd], "count": 1, "section": self.numbers[4], "note": "a\nb"},
        ]
        self.client.put(PLAN, json={"lines": written})
        table = self.client.get(f"{PLAN}/file").content.decode("utf-8-sig")
        self.assertIn("'=1+1", table)
        plain = self.client.get(f"{PLAN}/file", params={"form": "json"}).text
        for form, text in (("csv", table), ("json", plain)):
            plan = self.client.post(f"{PLAN}/file", json={"form": form, "text": text}).json()
            self.assertEqual(plan["mistakes"], [])
            same = [{k: line[k] for k in written[0]} for line in plan["lines"]]
            self.assertEqual(same, written)

    def test_bad_files_are_told_by_line(self) -> None:
        head = "term,courses,count,section,note\r\n"
        for form, text, line, said in (
            ("csv", "courses\r\nLAND 101\r\n", 1, "“term” is not among them"),
            ("csv", f"{head}{TERM},LAND 101,many\r\n", 2, "is no count"),
            ("csv", f"{head}\r\n{TERM},LAND 101,1,,\r\n{TERM},LAND 999,1,,\r\n", 4, "LAND 999"),
            ("csv", "", 1, "nothing in it"),
            ("json", "[{]", 1, "not JSON"),
            ("json", '{"term": "x"}', 1, "list of objects"),
            ("json", json.dumps([{"term": TERM, "courses": "LAND 101"}, {"grade": 1}]), 2, "no “grade”"),
            ("csv", head + f"{TERM},LAND 101,1,,\r\n" * 10_000, 121, "10,000"),
        ):
            with self.subTest(said):
                plan = self.client.post(f"{PLAN}/file", json={"form": form, "text": text}).json()
                told = plan["mistakes"][0]
                self.assertEqual(told["line"], line if said != "10,000" else told["line"])
                self.assertIn(said, told["text"])
                self.assertEqual(plan["versions"], [])
        long = self.client.post(f"{PLAN}/file", json={"form": "csv", "text": "x" * 400_000})
        self.assertEqual(long.json()["type"], "/problems/text-too-long")


class Demand(TimetablesTest):
    def test_a_want_is_counted_once_in_timetables_and_in_the_cart(self) -> None:
        registrar = self.campus.person(role="registrar")
        with self.campus.client(registrar, self.server.url) as office:

            def wants() -> dict[str, int]:
                return {d["course"]: d["wants"] for d in office.get(f"{TIMETABLES}/demand").json()["courses"]}

            self.ask()
            before = wants()
            self.ask(self.one, self.odd)
            send_to_cart = {"changes": [{"kind": "add", "number": self.numbers[0], "in_exchange": ""}]}
            self.client.post(f"/api/terms/{TERM}/cart/proposals", json=send_to_cart)
            self.assertEqual(wants().get(self.one, 0) - before.get(self.one, 0), 1)
            self.assertEqual(wants().get(self.odd, 0) - before.get(self.odd, 0), 1)
            self.ask(self.two)
            self.assertEqual(wants().get(self.odd, 0), before.get(self.odd, 0))
            self.assertEqual(wants().get(self.two, 0) - before.get(self.two, 0), 1)

    def test_what_another_process_noted_meanwhile_is_replaced_as_well(self) -> None:
        second = Server(self.campus.url)
        self.addCleanup(second.stop)
        with self.campus.client(self.student, second.url) as there:
            self.ask(self.two)
            body = {"wants": [{"courses": [self.odd]}]}
            self.assertEqual(there.post(TIMETABLES, json=body).status_code, 200)
            self.ask(self.two)
        noted = self.campus.value(
            "SELECT array_agg(c.number) FROM courses_wanted w JOIN courses c ON c.id = w.course_id"
            " WHERE student_term_id = %s",
            self.student.row,
        )
        self.assertEqual(noted, [self.two.split()[1]])


class Advisors(TimetablesTest):
    def test_an_advisor_asks_for_their_own_students_only(self) -> None:
        advisor = self.campus.person(role="advisor")
        with self.campus.client(advisor, self.server.url) as office:
            body = {"wants": [{"courses": [self.one]}]}
            self.assertEqual(
                office.post(TIMETABLES, json=body, params={"student": self.student.id}).status_code, 404
            )
            self.campus.advised_by(self.student, advisor)
            found = office.post(TIMETABLES, json=body, params={"student": self.student.id})
            self.assertEqual(found.json()["number"], 2)


class Over(unittest.TestCase):
    def test_of_a_term_that_is_over_nothing_new_is_kept_and_what_was_is_read(self) -> None:
        campus = Campus(new_database())
        self.addCleanup(campus.close)
        number = campus.section(seats=9, weekdays="M")
        server = Server(campus.url)
        self.addCleanup(server.stop)
        student = campus.person()
        with campus.client(student, server.url) as client:
            body = {"name": "Kept", "question": {}, "numbers": [number]}
            self.assertEqual(client.post(DRAFTS, json=body).status_code, 200)
            long_ago = (datetime.now() - timedelta(300)).date()
            campus.run("UPDATE terms SET first_day = %s, last_day = %s", long_ago, long_ago + timedelta(109))
            campus.run("SELECT pg_notify('gremba_catalogue', %s)", TERM)
            soon(lambda: client.post(DRAFTS, json=body).status_code == 409)
            self.assertEqual(client.post(DRAFTS, json=body).json()["type"], "/problems/term-over")
            self.assertGreater(len(client.get(DRAFTS).json()["drafts"]), 0)


if __name__ == "__main__":
    unittest.main()
