"""Students seen to by the registrar."""

from __future__ import annotations

import json

from tests.support.campus import TERM, outcome, send
from tests.support.office import OFFICE, OnOffice


class Students(OnOffice):
    number: str
    full: str

    @classmethod
    def furnish(cls) -> None:
        cls.number = cls.campus.section(seats=50, weekdays="M", starts=9)
        cls.full = cls.campus.section(seats=0, weekdays="T", starts=9)

    def path(self, more: str = "") -> str:
        return f"{OFFICE}/students/{self.student.id}{more}"

    def test_a_hold_stops_what_it_says_until_it_is_lifted(self) -> None:
        hold = {"reason": "A form is missing.", "contact": "The desk", "stops": ["add"]}
        for _ in range(2):
            seen = self.ask("POST", self.path("/holds"), hold, key="one-hold")
        self.assertEqual(len(seen["holds"]), 1)
        self.ask("POST", self.path("/holds"), {**hold, "reason": "Another one."}, 422, key="one-hold")
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "r")
        lifting = self.path(f"/holds/{seen['holds'][0]['id']}/lifting")
        self.ask("POST", lifting, {"why": "The form has come."})
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        self.ask("POST", lifting, {"why": "Again"}, 409)
        other = self.campus.person()
        self.ask(
            "POST",
            f"{OFFICE}/students/{other.id}/holds/{seen['holds'][0]['id']}/lifting",
            {"why": "Not theirs"},
            404,
        )
        what = [event["what"] for event in self.get(self.path())["events"]]
        self.assertEqual(what, ["hold lifted", "hold placed"])

    def test_a_limit_and_a_rule_lifted_with_a_reason(self) -> None:
        seen = self.ask("PUT", self.path("/limit"), {"credits": 2, "reason": "Half a load"})
        self.assertEqual((seen["credit_limit"], seen["own_limit"]), (2, 2))
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "r")
        self.ask("PUT", self.path("/limit"), {"credits": None, "reason": "Back to all"})
        self.assertEqual(outcome(send(self.client, [f"+{self.full}"])), "r")
        lifted = {"number": self.full, "waives": ["seats"], "words": "One chair more"}
        self.ask("POST", self.path("/lifted-rules"), lifted)
        self.assertIn("One chair more", self.messages(self.student)[0])
        self.assertEqual(outcome(send(self.client, [f"+{self.full}"])), "a")
        self.assertEqual(self.campus.disagreements(), [])
        self.ask("POST", self.path("/lifted-rules"), {**lifted, "number": "49999"}, 404)

    def test_the_registrar_sees_and_acts_for_anybody(self) -> None:
        cart = self.maud.get(f"/api/terms/{TERM}/cart", params={"student": self.student.id})
        self.assertEqual(cart.status_code, 200, cart.text)
        done = send(self.maud, [f"+{self.number}"], student=self.student.id)
        self.assertEqual(outcome(done), "a")
        confirmation = self.client.get(f"/api/confirmations/{done.json()['id']}").json()
        self.assertIn("registrar", json.dumps(confirmation))
        self.assertEqual(self.maud.get(f"/api/terms/{TERM}/cart").status_code, 404)
        for nobody in (0, 2**31, 999_999):
            answer = self.maud.get(f"/api/terms/{TERM}/cart", params={"student": nobody})
            self.assertEqual(answer.status_code, 404, nobody)

    def test_who_is_not_expected_is_shown_with_holds_only(self) -> None:
        stranger = self.campus.value(
            "INSERT INTO persons (username, full_name, role, email, password_hash) "
            "VALUES ('stranger', 'A Stranger', 'student', 'a@college.example', 'x') RETURNING id"
        )
        self.campus.run("INSERT INTO students (id) VALUES (%s)", stranger)
        seen = self.get(f"{OFFICE}/students/{stranger}")
        self.assertEqual((seen["is_expected"], seen["windows"]), (False, []))
        self.assertEqual(self.maud.get(f"{OFFICE}/students/999999").status_code, 404)

    def test_it_is_for_the_registrar_alone(self) -> None:
        for role in ("student", "advisor", "instructor", "cashier"):
            with self.campus.client(self.campus.person(role), self.server.url) as other:
                for path in (self.path(), OFFICE, f"{OFFICE}/sections", f"{OFFICE}/windows", "/api/record"):
                    self.assertEqual(other.get(path).status_code, 403, (role, path))
