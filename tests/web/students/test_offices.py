"""What offices may do, and to whom only."""

from __future__ import annotations

import unittest

import httpx

from tests.support.campus import TERM, Campus, Somebody, outcome, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon

CART = f"/api/terms/{TERM}/cart"
ADVISEES = f"/api/terms/{TERM}/advisees"


class Offices(unittest.TestCase):
    campus: Campus
    roomy: list[str]
    full: list[str]
    single: list[str]
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        # Made before the server starts, which then knows them; each test takes what it needs.
        cls.roomy = [
            cls.campus.section(seats=5, weekdays="MTWRF"[n % 5], starts=8 + n // 2) for n in range(12)
        ]
        cls.full = [cls.campus.section(seats=0) for _ in range(2)]
        cls.single = [cls.campus.section(seats=1) for _ in range(2)]
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def client(self, who: Somebody) -> httpx.Client:
        client = self.campus.client(who, self.server.url)
        self.addCleanup(client.close)
        return client

    def test_an_advisor_releases_own_students_only(self) -> None:
        advisor, other = self.campus.person("advisor"), self.campus.person("advisor")
        student = self.campus.person()
        self.campus.advised_by(student, advisor)
        self.campus.clearance(student, "release")
        number = self.roomy.pop()
        mine, theirs, own = self.client(student), self.client(other), self.client(advisor)
        self.assertEqual(outcome(send(mine, [f"+{number}"])), "r")
        release = f"{ADVISEES}/{student.id}/release"
        self.assertEqual(theirs.put(release, json={"released": True}).status_code, 404)
        self.assertEqual(outcome(send(mine, [f"+{number}"])), "r")
        self.assertEqual(own.put(release, json={"released": True}).status_code, 204)
        self.assertEqual(outcome(send(mine, [f"+{number}"])), "a")
        listed = own.get(ADVISEES).json()["students"]
        self.assertEqual([(s["id"], s["released"]) for s in listed], [(student.id, True)])
        self.assertEqual(theirs.get(ADVISEES).json()["students"], [])
        events = self.campus.value("SELECT count(*) FROM office_events WHERE student_id = %s", student.id)
        self.assertEqual(events, 1)

    def test_an_advisors_try_at_another_ones_student_is_on_record(self) -> None:
        advisor, other, student = (
            self.campus.person("advisor"),
            self.campus.person("advisor"),
            self.campus.person(),
        )
        self.campus.advised_by(student, advisor)
        theirs = self.client(other)
        self.assertEqual(theirs.get(f"{CART}?student={student.id}").status_code, 404)
        self.assertEqual(
            theirs.put(f"{ADVISEES}/{student.id}/release", json={"released": True}).status_code, 404
        )
        found = (
            "SELECT count(*) FROM audit_entries WHERE kind = 'refused' AND person_id = %s AND student_id = %s"
        )
        soon(lambda: self.campus.value(found, other.id, student.id) == 2)
        self.assertEqual(self.client(advisor).get(f"{CART}?student={student.id}").status_code, 200)
        self.assertEqual(self.campus.value(found, advisor.id, student.id), 0)

    def test_an_overload_counts_at_once_and_is_limited(self) -> None:
        advisor, student = self.campus.person("advisor"), self.campus.person()
        self.campus.advised_by(student, advisor)
        numbers = [self.roomy.pop() for _ in range(7)]
        mine, own = self.client(student), self.client(advisor)
        self.assertEqual(outcome(send(mine, [f"+{n}" for n in numbers])), "aaaaaar")
        limit = f"{ADVISEES}/{student.id}/limit"
        self.assertEqual(own.put(limit, json={"credits": 60}).status_code, 422)
        self.assertEqual(own.put(limit, json={"credits": 21}).status_code, 204)
        self.assertEqual(mine.get(CART).json()["credit_limit"], 21)
        self.assertEqual(outcome(send(mine, [f"+{numbers[6]}"])), "a")

    def test_an_advisor_sees_and_acts_as_the_student_would_and_the_confirmation_says_so(self) -> None:
        advisor, student, stranger = (
            self.campus.person("advisor"),
            self.campus.person(),
            self.campus.person(),
        )
        self.campus.advised_by(student, advisor)
        number = self.roomy.pop()
        mine, own = self.client(student), self.client(advisor)
        for who, status in ((student, 200), (stranger, 404)):
            subject_id = {"student": who.id}
            self.assertEqual(own.get(CART, params=subject_id).status_code, status)
            self.assertEqual(own.get(f"/api/terms/{TERM}/clearance", params=subject_id).status_code, status)
            added = own.post(f"{CART}/changes", params=subject_id, json={"text": number})
            self.assertEqual(added.status_code, status)
        # Nobody named is nobody's cart; and a student cannot name another.
        self.assertEqual(own.get(CART).status_code, 404)
        self.assertEqual(mine.get(CART, params={"student": stranger.id}).status_code, 404)
        self.assertEqual(mine.get(CART).json()["changes"][0]["outcome"]["number"], number)
        sent = send(own, [f"+{number}"], student=student.id)
        self.assertEqual(outcome(sent), "a")
        seen = mine.get(f"/api/confirmations/{sent.json()['id']}").json()
        self.assertEqual(seen["body"]["sent_by"], f"{advisor.username.title()}, advisor")
        self.assertEqual(send(own, [f"+{number}"], student=stranger.id).status_code, 404)

    def test_an_instructor_reaches_own_sections_only(self) -> None:
        petra, other, student = (
            self.campus.person("instructor"),
            self.campus.person("instructor"),
            self.campus.person(),
        )
        number, elsewhere = self.single.pop(), self.single.pop()
        self.campus.taught_by(number, petra)
        self.campus.taught_by(elsewhere, other)
        own, mine = self.client(petra), self.client(student)
        self.assertEqual(outcome(send(mine, [f"+{number}"])), "a")
        taught = f"/api/terms/{TERM}/taught"
        self.assertEqual([s["number"] for s in own.get(taught).json()], [number])
        roster = own.get(f"{taught}/{number}").json()["roster"]
        self.assertEqual([r["username"] for r in roster], [student.username])
        self.assertEqual(own.get(f"{taught}/{elsewhere}").status_code, 404)
        given = {"waives": ["seats"]}
        self.assertEqual(own.post(f"{taught}/{elsewhere}/permission-codes", json=given).status_code, 404)
        self.assertEqual(own.post(f"{taught}/{number}/permission-codes", json=given).status_code, 200)

    def test_codes_for_one_student_until_a_time_and_taken_back(self) -> None:
        petra, student, other = (self.campus.person("instructor"), self.campus.person(), self.campus.person())
        number = self.full.pop()
        self.campus.taught_by(number, petra)
        own, mine, theirs = self.client(petra), self.client(student), self.client(other)
        permission_codes = f"/api/terms/{TERM}/taught/{number}/permission-codes"
        past = own.post(permission_codes, json={"waives": ["seats"], "expires_at": "2020-01-01T10:00:00"})
        self.assertEqual(past.json()["type"], "/problems/permission-code-expired")
        unknown = own.post(permission_codes, json={"waives": ["seats"], "student": "nobody"})
        self.assertEqual(unknown.json()["type"], "/problems/student-name-unknown")
        self.assertEqual(own.post(permission_codes, json={"waives": ["everything"]}).status_code, 422)
        self.assertEqual(own.post(permission_codes, json={"waives": ["seats"], "many": 51}).status_code, 422)
        made = own.post(permission_codes, json={"waives": ["seats"], "many": 2, "student": student.username})
        one, two = (c["code"] for c in made.json()["permission_codes"])
        self.assertEqual(outcome(send(theirs, [f"+{number} #{one}"])), "r")
        # Typed small and with a dash, as it may have been written down.
        self.assertEqual(outcome(send(mine, [f"+{number} #{one[:4].lower()}-{one[4:]}"])), "a")
        listed = {
            c["code"]: c
            for c in own.get(permission_codes.removesuffix("/permission-codes")).json()["permission_codes"]
        }
        self.assertEqual((listed[one]["state"], listed[two]["state"]), ("used", "open"))
        self.assertEqual(listed[one]["used_by"], student.username.title())
        self.assertEqual(own.delete(f"{permission_codes}/{listed[one]['id']}").status_code, 409)
        self.assertEqual(own.delete(f"{permission_codes}/{listed[two]['id']}").status_code, 200)

    def test_the_cashier_places_and_lifts_fee_holds_only(self) -> None:
        cashier, student = self.campus.person("cashier"), self.campus.person()
        number = self.roomy.pop()
        context, mine = self.client(cashier), self.client(student)
        found = context.get("/api/students", params={"search": student.username}).json()
        self.assertIn(student.id, [s["id"] for s in found])
        holds = f"/api/students/{student.id}/fee-holds"
        key = {"Idempotency-Key": "one-kiln-fee"}
        wanted = {"reason": "A kiln fee is unpaid.", "amount_cents": 4000}
        context.post(holds, json=wanted, headers=key).raise_for_status()
        placed = context.post(holds, json=wanted, headers=key)
        self.assertEqual(len(placed.json()["holds"]), 1)
        hold = placed.json()["holds"][0]["id"]
        sent = send(mine, [f"+{number}"])
        self.assertEqual(outcome(sent), "r")
        self.assertIn("A kiln fee is unpaid.", sent.text)
        self.campus.run(
            "INSERT INTO holds (student_id, kind, reason, office, contact, stops, "
            "cleared_by, placed_at) VALUES (%s, 'health', 'A record is missing.', "
            "'the health office', 'room 8', ARRAY['drop'], 'office', now())",
            student.id,
        )
        health = self.campus.value("SELECT max(id) FROM holds")
        why = {"why": "paid in cash"}
        self.assertEqual(context.post(f"{holds}/{health}/lifting", json=why).status_code, 404)
        self.assertEqual(context.post(f"{holds}/{hold}/lifting", json=why).status_code, 200)
        self.assertEqual(context.post(f"{holds}/{hold}/lifting", json=why).status_code, 409)
        self.assertEqual(outcome(send(mine, [f"+{number}"])), "a")
        # Signs that mean something to a database are only letters here.
        self.assertEqual(context.get("/api/students", params={"search": "%_"}).json(), [])
