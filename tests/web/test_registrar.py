"""The registrar's own: terms opened and closed, windows dealt, sections changed, folders brought in, students
seen to, and the record of all of it."""

from __future__ import annotations

import io
import json
import threading
import zipfile
from datetime import date, timedelta
from typing import Any

import httpx

from tests.support.campus import TERM, Somebody, outcome, send
from tests.support.served import OnCampus
from tests.support.soon import soon

OFFICE = f"/api/office/terms/{TERM}"


class Office(OnCampus):
    registrar: Somebody
    maud: httpx.Client

    def setUp(self) -> None:
        super().setUp()
        self.registrar = self.campus.person("registrar")
        self.maud = self.campus.client(self.registrar, self.server.url)
        self.addCleanup(self.maud.close)

    def get(self, path: str, **query: Any) -> Any:
        answer = self.maud.get(path, params=query)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def ask(self, method: str, path: str, body: Any, status: int = 200) -> Any:
        answer = self.maud.request(method, path, json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def recorded(self, words: str) -> str:
        """What is on record with these words, as soon as it is."""
        found: list[str] = []

        def is_there() -> bool:
            entries = self.get("/api/record")["entries"]
            found[:] = [str(entry["detail"]) for entry in entries if words in entry["detail"]]
            return bool(found)

        soon(is_there)
        return found[0]

    def messages(self, who: Somebody) -> list[str]:
        return [told.body for row, told in self.campus.told() if row == who.row]


class Terms(Office):
    number: str

    @classmethod
    def furnish(cls) -> None:
        cls.number = cls.campus.section(seats=30, weekdays="MW", starts=9)

    def tearDown(self) -> None:
        self.campus.run(
            "UPDATE terms SET state = 'open', catalogue_version = catalogue_version + 1 WHERE id = 1"
        )
        self.campus.run("UPDATE terms SET policy = policy - 'offer_hours' WHERE id = 1")

    def faults(self) -> list[str]:
        return [line["key"] for line in self.get(OFFICE)["checks"] if not line["is_well"]]

    def test_a_term_in_preparation_is_none_for_everybody_else(self) -> None:
        self.campus.run("UPDATE terms SET state = 'in preparation', catalogue_version = 77 WHERE id = 1")
        soon(lambda: self.client.get(f"/api/terms/{TERM}").status_code == 404)
        for path in (f"/api/terms/{TERM}", f"/api/terms/{TERM}/sections", f"/api/terms/{TERM}/cart"):
            self.assertEqual(self.client.get(path).status_code, 404, path)
        self.assertEqual(send(self.client, [f"+{self.number}"]).status_code, 404)
        self.assertEqual(self.client.get("/api/session").json()["terms"], [])
        self.assertEqual([t["state"] for t in self.get("/api/terms")], ["in preparation"])
        # It cannot be closed; and it is opened only by who knows what is not in order.
        self.ask("PUT", f"{OFFICE}/state", {"state": "closed"}, 409)
        faults = self.faults()
        self.assertIn("advisors", faults)
        told = self.ask("PUT", f"{OFFICE}/state", {"state": "open", "despite": faults[1:]}, 409)
        self.assertIn("Look at the check list again", told["detail"])
        opened = self.ask("PUT", f"{OFFICE}/state", {"state": "open", "despite": faults})
        self.assertEqual(opened["state"], "open")
        # Who has a window is told now, once, and not when it is closed and opened again.
        [told] = self.messages(self.student)
        self.assertIn("You can register for Coming Term from", told)
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        self.recorded("opened Coming Term, although not in order: ")

    def test_in_a_closed_term_nothing_goes(self) -> None:
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        self.assertEqual(self.ask("PUT", f"{OFFICE}/state", {"state": "closed"})["state"], "closed")
        refused = send(self.client, [f"-{self.number}"])
        self.assertEqual(outcome(refused), "r")
        findings = refused.json()["body"]["outcomes"][0]["findings"]
        [found] = [finding for finding in findings if finding["code"] == "term.not_open"]
        self.assertEqual(found["text"], "The registrar's office has closed registration for Coming Term.")
        # It can still be looked at, and be opened again.
        self.assertEqual(self.client.get(f"/api/terms/{TERM}/cart").status_code, 200)
        self.ask("PUT", f"{OFFICE}/state", {"state": "open", "despite": self.faults()})
        self.campus.run(
            "UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}' WHERE id = 1"
        )

    def test_a_setting_is_set_with_its_bounds(self) -> None:
        hours = f"{OFFICE}/settings/offer_hours"
        settings = {s["key"]: s["value"] for s in self.ask("PUT", hours, {"value": 6})["settings"]}
        self.assertEqual(settings["offer_hours"], 6)
        self.assertEqual(self.campus.value("SELECT policy->'offer_hours' FROM terms WHERE id = 1"), 6)
        self.recorded("An offer is held: 24 hours → 6 hours")
        wrong: list[Any] = [0, 1.5, "six", True, [], 10**30]
        for value in wrong:
            self.assertEqual(self.maud.put(hours, json={"value": value}).status_code, 422, value)
        for key in ("tariff", "policy", "offer_hours.x", "%00", "a" * 200):
            answer = self.maud.put(f"{OFFICE}/settings/{key}", json={"value": 6})
            self.assertIn(answer.status_code, (404, 422), key)
        self.assertEqual(self.campus.value("SELECT policy->'offer_hours' FROM terms WHERE id = 1"), 6)

    def test_carried_forward(self) -> None:
        first = self.campus.begins + timedelta(weeks=52)
        wanted = {
            "code": "next",
            "name": "Next Term",
            "first_day": first.isoformat(),
            "last_day": (first + timedelta(120)).isoformat(),
            "breaks": [],
        }
        path = f"{OFFICE}/carried-forward"
        for wrong, words in (
            ({"last_day": first.isoformat()}, "after the first"),
            ({"first_day": "9999-12-01", "last_day": "9999-12-30"}, "between 1990 and 2200"),
            ({"last_day": (first + timedelta(500)).isoformat()}, "no longer than 400"),
            (
                {"breaks": [{"name": "b", "first_day": "2020-01-01", "last_day": "2020-01-02"}]},
                "within the term",
            ),
        ):
            self.assertIn(words, self.ask("POST", path, wanted | wrong, 422)["detail"])
        sections = self.campus.value("SELECT count(*) FROM sections WHERE term_id = 1")
        carried = self.ask("POST", path, wanted)
        self.assertEqual((carried["sections"], carried["cancelled"]), (sections, 0))
        self.assertEqual(self.ask("POST", path, wanted, 409)["title"], "There is such a term already")
        self.assertEqual(
            self.campus.value(
                "SELECT count(*) FROM sections s JOIN meetings m ON m.section_id = s.id "
                "JOIN terms t ON t.id = s.term_id WHERE t.code = 'next' AND m.weekdays = 'MW' "
                "AND m.first_day = t.first_day AND m.last_day = t.last_day"
            ),
            1,
        )
        self.assertEqual(
            self.campus.value("SELECT count(DISTINCT reference_number) FROM sections"), 2 * sections
        )
        # The pages of this process know it at once, and students do not.
        self.assertEqual(self.get("/api/office/terms/next")["state"], "in preparation")
        self.assertEqual(self.client.get("/api/terms/next").status_code, 404)


class Windows(Office):
    people: list[Somebody]

    def setUp(self) -> None:
        super().setUp()
        self.people = self.campus.people(5)
        for who in self.people:
            self.campus.run("UPDATE windows SET closes_at = closes_at WHERE student_term_id = %s", who.row)

    def without_windows(self) -> None:
        """The owner of the tables may what the application may not."""
        for who in self.people:
            self.campus.run("DELETE FROM windows WHERE student_term_id = %s", who.row)

    def rule(self, **more: Any) -> dict[str, Any]:
        today = date.today()
        return {
            "bands": [54],
            "first_day": (today + timedelta(2)).isoformat(),
            "weekdays": "MTWRFSU",
            "starts": 480,
            "ends": 1020,
            "slot_minutes": 30,
            "capacity": 2,
            "closes_at": f"{today + timedelta(20)}T17:00:00",
            "seed": "chestnut",
            **more,
        }

    def look(self, **more: Any) -> Any:
        return self.ask("POST", f"{OFFICE}/windows/preview", {"rule": self.rule(**more)})

    def test_dealt_looked_at_and_published(self) -> None:
        self.without_windows()
        seen = self.look()
        self.assertEqual((seen["dealt"], seen["left"]), (5, 0))
        self.assertEqual([slot["dealt"] for slot in seen["slots"]], [2, 2, 1])
        self.assertEqual(self.campus.value("SELECT count(*) FROM window_dealings"), 0)
        publish = f"{OFFICE}/windows/dealings"
        body = {"rule": self.rule(), "digest": seen["digest"]}
        # Another seed is another dealing than the one that was looked at.
        self.ask("POST", publish, body | {"rule": self.rule(seed="walnut")}, 409)
        done = self.ask("POST", publish, body)
        self.assertEqual(done, {"dealt": 5, "moved": 0, "is_told": True})
        for who in self.people:
            self.assertIn("You can register for Coming Term from", self.messages(who)[0])
        opens = dict(self.opens())
        self.ask("POST", publish, body, 409)
        self.assertEqual(self.look()["dealt"], 0)
        # Told to move, it moves those that were dealt, and says what they were.
        anew = self.ask(
            "POST",
            f"{OFFICE}/windows/preview",
            {"rule": self.rule(starts=600), "moves_dealt": True},
        )
        self.assertEqual(anew["dealt"], 5)
        moved = {"rule": self.rule(starts=600), "moves_dealt": True, "digest": anew["digest"]}
        self.assertEqual(self.ask("POST", publish, moved), {"dealt": 5, "moved": 5, "is_told": True})
        self.assertTrue(all(opens[row] != at for row, at in self.opens()))
        self.assertIn("it was from", self.messages(self.people[0])[1])
        windows = self.get(f"{OFFICE}/windows")
        self.assertEqual([line["moved"] for line in windows["dealings"]], [5, 0])
        self.assertEqual(windows["dealings"][0]["rule"]["starts"], 600)

    def opens(self) -> list[tuple[int, Any]]:
        rows = [who.row for who in self.people]
        return [
            (row, self.campus.value("SELECT opens_at FROM windows WHERE student_term_id = %s", row))
            for row in rows
        ]

    def test_of_two_who_publish_at_once_one_does(self) -> None:
        self.without_windows()
        body = {"rule": self.rule(), "digest": self.look()["digest"]}
        answers: list[int] = []
        clients = [self.campus.client(self.registrar, self.server.url) for _ in range(4)]

        def publish(client: httpx.Client) -> None:
            answers.append(client.post(f"{OFFICE}/windows/dealings", json=body).status_code)

        threads = [threading.Thread(target=publish, args=(client,)) for client in clients]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        for client in clients:
            client.close()
        self.assertEqual(sorted(answers), [200, 409, 409, 409])
        rows = [who.row for who in self.people]
        many = self.campus.value("SELECT count(*) FROM windows WHERE student_term_id = ANY(%s)", rows)
        self.assertEqual(many, 5)

    def test_who_would_be_left_out_stops_it(self) -> None:
        self.without_windows()
        day = date.today() + timedelta(9)
        short = {"first_day": day.isoformat(), "closes_at": f"{day}T08:45:00"}
        seen = self.look(**short)
        self.assertEqual((seen["dealt"], seen["left"]), (4, 1))
        body = {"rule": self.rule(**short), "digest": seen["digest"]}
        told = self.ask("POST", f"{OFFICE}/windows/dealings", body, 422)
        self.assertIn("1 student would be left", told["detail"])
        past = self.rule(first_day=(date.today() - timedelta(3)).isoformat())
        self.assertIn(
            "begin later", self.ask("POST", f"{OFFICE}/windows/preview", {"rule": past}, 422)["detail"]
        )
        for wrong in (
            {"bands": [27, 54]},
            {"weekdays": "TM"},
            {"starts": 2000},
            {"capacity": 0},
            {"seed": ""},
        ):
            self.ask("POST", f"{OFFICE}/windows/preview", {"rule": self.rule(**wrong)}, 422)

    def test_one_student_gets_a_window_with_a_reason(self) -> None:
        who = self.people[0]
        path = f"{OFFICE}/students/{who.id}/windows"
        [there] = self.get(path)
        day = date.today() + timedelta(3)
        wanted = {
            "before": there["opens_at"],
            "opens_at": f"{day}T09:00:00",
            "closes_at": f"{day + timedelta(9)}T17:00:00",
            "reason": "Away with the flock",
        }
        [now] = self.ask("PUT", path, wanted)
        self.assertEqual(now["opens_at"][:16], f"{day}T09:00")
        self.assertIn("Away with the flock", self.messages(who)[0])
        self.assertEqual(self.ask("PUT", path, wanted, 422)["title"], "This window cannot be set")
        second = {**wanted, "before": None, "opens_at": f"{day}T10:00:00"}
        self.assertEqual(len(self.ask("PUT", path, second)), 2)
        self.ask("PUT", path, second, 422)
        self.ask("PUT", path, {**second, "closes_at": f"{day}T08:00:00"}, 422)
        events = self.get(f"{OFFICE}/students/{who.id}")["events"]
        self.assertEqual([event["what"] for event in events], ["window", "window"])


class Sections(Office):
    numbers: list[str]
    far: str

    @classmethod
    def furnish(cls) -> None:
        cls.numbers = [cls.campus.section(seats=5, weekdays=day, starts=9) for day in "MTWRF"]
        cls.far = cls.campus.section(seats=5, weekdays="S", starts=9)

    def change(self, numbers: list[str], status: int = 200, /, **change: Any) -> Any:
        return self.ask("POST", f"{OFFICE}/sections/changes", {"numbers": numbers, **change}, status)

    def section(self, number: str) -> Any:
        return next(s for s in self.get(f"{OFFICE}/sections")["sections"] if s["number"] == number)

    def test_limits_of_many_at_once(self) -> None:
        two = self.numbers[:2]
        trial = self.change(two, limit_by=2)["report"]
        self.assertFalse(trial["is_done"])
        [table] = trial["tables"]
        self.assertEqual([row["cells"]["seats"] for row in table["first_changed"]], [["5", "7"], ["5", "7"]])
        self.assertEqual(self.section(two[0])["limit"], 5)
        done = self.change(two, limit_by=2, trial=False, expected=trial["digest"])["report"]
        self.assertTrue(done["is_done"])
        self.assertEqual([self.section(n)["limit"] for n in two], [7, 7])
        # Told twice it does it once: what was looked at is not what it would do now.
        again = self.change(two, limit_by=2, trial=False, expected=trial["digest"])["report"]
        self.assertTrue(again["has_moved"])
        self.assertEqual(self.section(two[0])["limit"], 7)
        self.recorded("limit by 2")

    def test_a_limit_below_what_is_taken_lets_everybody_stay(self) -> None:
        number = self.numbers[2]
        self.assertEqual(outcome(send(self.client, [f"+{number}"])), "a")
        self.change([number], limit=0, trial=False)
        section = self.section(number)
        self.assertEqual((section["limit"], section["taken"]), (0, 1))
        self.assertEqual(self.campus.disagreements(), [])

    def test_moving_one_tells_whom_it_reaches_and_then_tells_them(self) -> None:
        mine, other = self.numbers[3], self.numbers[4]
        self.assertEqual(outcome(send(self.client, [f"+{mine}", f"+{other}"])), "aa")
        meeting = self.section(mine)["meetings"][0]
        moved = {**meeting, "weekdays": "F", "place": 1}
        [reached] = self.change([mine], meetings=[moved])["report"]["reached"]
        self.assertEqual((reached["registered"], reached["clashing"], reached["is_off"]), (1, 1, False))
        self.assertEqual(self.messages(self.student), [])
        self.assertTrue(self.change([mine], meetings=[moved], trial=False)["report"]["is_done"])
        self.assertIn("clashes with", self.messages(self.student)[0])
        self.assertEqual(self.section(mine)["meetings"][0]["weekdays"], "F")

    def test_taken_off_and_handed_over(self) -> None:
        old, new = self.campus.person("instructor"), self.campus.person("instructor")
        self.campus.taught_by(self.far, old)
        names = {"old_teacher": old.username, "new_teacher": new.username}
        self.change([self.far], 422, old_teacher=old.username, new_teacher="nobody")
        report = self.change([self.far], new_teacher="nobody")["report"]
        self.assertEqual(report["mistakes"][0]["problem"], "there is no such person")
        self.assertTrue(self.change([self.far], trial=False, **names)["report"]["is_done"])
        self.assertEqual([t["username"] for t in self.section(self.far)["teachers"]], [new.username])
        self.assertTrue(self.change([self.far], trial=False, **names)["report"]["changes_nothing"])
        beside = self.change([self.far], trial=False, new_teacher=old.username)["report"]
        self.assertTrue(beside["is_done"])
        self.assertEqual(len(self.section(self.far)["teachers"]), 2)
        self.change([self.far], cancelled=True, trial=False)
        self.assertTrue(self.section(self.far)["cancelled"])
        self.assertEqual(outcome(send(self.client, [f"+{self.far}"])), "r")

    def test_seats_are_reserved(self) -> None:
        number = self.numbers[0]
        part = {"kind": "cohort", "value": "2031", "seats": 5, "release_on": "2031-01-01"}
        done = self.change([number], limit=5, reserved=[part], trial=False)["report"]
        self.assertTrue(done["is_done"])
        self.assertEqual(self.section(number)["reserved"], [part])
        refused = send(self.client, [f"+{number}"])
        self.assertEqual(outcome(refused), "r")
        self.assertIn("seat.reserved", refused.text)
        self.change([number], reserved=[{**part, "seats": 1}], trial=False)
        self.assertEqual(outcome(send(self.client, [f"+{number}"])), "a")

    def test_what_makes_no_sense_is_told_and_changes_nothing(self) -> None:
        self.change(["49999"], 404, limit=3)
        self.change([self.numbers[0]], 422)
        meeting = self.section(self.numbers[0])["meetings"][0]
        ways: list[dict[str, Any]] = [{"starts": 900, "ends": 600}, {"campus": "moon"}, {"place": 4}]
        for wrong in ways:
            report = self.change([self.numbers[0]], meetings=[{**meeting, "place": 1, **wrong}], trial=False)
            self.assertGreater(report["report"]["mistakes_in_all"], 0, wrong)
        self.assertEqual(self.section(self.numbers[0])["meetings"], [meeting])
        for wrong in (
            {"limit": -1},
            {"limit": 10**9},
            {"numbers": []},
            {"numbers": ["1"]},
            {"colour": "red"},
        ):
            body = {"numbers": [self.numbers[0]], **wrong}
            self.ask("POST", f"{OFFICE}/sections/changes", body, 422)

    def test_a_change_with_another_in_between_is_looked_at_again(self) -> None:
        number = self.numbers[1]
        meeting = {**self.section(number)["meetings"][0], "place": 1, "room": "Barn"}
        digest = self.change([number], meetings=[meeting])["report"]["digest"]
        self.assertEqual(outcome(send(self.client, [f"+{number}"])), "a")
        report = self.change([number], meetings=[meeting], trial=False, expected=digest)["report"]
        self.assertEqual((report["is_done"], report["has_moved"]), (False, True))
        self.assertEqual(report["reached"][0]["registered"], 1)


class Folders(Office):
    number: str

    @classmethod
    def furnish(cls) -> None:
        cls.number = cls.campus.section(seats=5, weekdays="M", starts=9)

    def bring(self, tables: dict[str, str], client: httpx.Client | None = None, **query: Any) -> Any:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            for name, text in tables.items():
                archive.writestr(f"{name}.csv", text)
        return self.send(packed.getvalue(), client, **query)

    def send(self, content: bytes, client: httpx.Client | None = None, **query: Any) -> Any:
        answer = (client or self.maud).post("/api/exchange/folder", params=query, content=content)
        self.assertEqual(answer.status_code, 200, answer.text)
        lines = [json.loads(line) for line in answer.text.splitlines()]
        shares = [line["share"] for line in lines[:-1]]
        self.assertEqual(shares, sorted(shares))
        return lines[-1]

    def test_what_goes_out_comes_in_and_changes_nothing(self) -> None:
        for form in ("zip", "xlsx"):
            packed = self.maud.get("/api/exchange/folder", params={"form": form})
            report = self.send(packed.content)["report"]
            self.assertEqual((report["mistakes_in_all"], report["changes_nothing"]), (0, True), form)
        for path in ("/api/exchange/template?form=zip", "/api/exchange/template?form=xlsx"):
            report = self.send(self.maud.get(path).content)["report"]
            self.assertEqual((report["mistakes_in_all"], report["changes_nothing"]), (0, True), path)

    def test_tried_then_taken_over(self) -> None:
        row = {"subjects": "code,name\r\nSALT,Salt making\r\n"}
        trial = self.bring(row)["report"]
        self.assertEqual([(t["name"], t["new"]) for t in trial["tables"]], [("subjects", 1)])
        self.assertEqual(self.campus.value("SELECT count(*) FROM subjects WHERE code = 'SALT'"), 0)
        done = self.bring(row, trial=False, expected=trial["digest"])["report"]
        self.assertTrue(done["is_done"])
        self.assertEqual(self.campus.value("SELECT name FROM subjects WHERE code = 'SALT'"), "Salt making")
        self.assertTrue(self.bring(row, trial=False)["report"]["changes_nothing"])
        self.recorded("exchange folder taken over")

    def test_a_folder_may_hold_only_what_changes(self) -> None:
        changed = {"sections": f"term,number,notes\r\n{TERM},{self.number},Bring a spade.\r\n"}
        self.assertTrue(self.bring(changed, trial=False)["report"]["is_done"])
        self.assertEqual(
            self.campus.value("SELECT notes FROM sections WHERE reference_number = %s", self.number),
            "Bring a spade.",
        )
        self.assertEqual(
            self.campus.value(
                "SELECT seat_limit FROM seat_pools p JOIN sections s ON s.pool_id = p.id "
                "WHERE reference_number = %s",
                self.number,
            ),
            5,
        )
        report = self.bring({"sections": f"term,number,notes\r\n{TERM},54321,New.\r\n"})["report"]
        self.assertEqual(
            [(m["column"], m["problem"]) for m in report["mistakes"]],
            [
                (c, "is not in the heading, and this row is new")
                for c in ("course", "block", "component", "seats")
            ],
        )

    def test_a_term_alone_and_who_is_registered(self) -> None:
        packed = self.maud.get("/api/exchange/folder", params={"term": TERM}).content
        names = zipfile.ZipFile(io.BytesIO(packed)).namelist()
        self.assertIn("sections.csv", names)
        self.assertFalse({"people.csv", "courses.csv", "records.csv"} & set(names))
        self.assertTrue(self.send(packed)["report"]["changes_nothing"])
        self.assertEqual(self.maud.get("/api/exchange/folder", params={"term": "never"}).status_code, 404)
        self.assertEqual(outcome(send(self.client, [f"+{self.number}"])), "a")
        path = f"/api/exchange/terms/{TERM}/registrations"
        for query in ({}, {"number": self.number}):
            rows = self.maud.get(path, params=query).text.strip().splitlines()
            self.assertEqual(len(rows), 2)
            self.assertIn(f"{self.number},LAND 101,{self.student.username}", rows[1])
        self.assertEqual(self.maud.get(path, params={"number": "54321"}).status_code, 404)

    def test_a_term_that_students_have_seen_is_not_prepared_again(self) -> None:
        report = self.bring({"terms": f"code,state\r\n{TERM},in preparation\r\n"})["report"]
        self.assertIn("has been opened already", report["mistakes"][0]["problem"])

    def test_what_cannot_be_read(self) -> None:
        for content in (b"", b"PK\x03\x04 nonsense", b"code,name\n", b"\x00" * 100_000):
            self.assertIn("no .xlsx", self.send(content)["problem"]["detail"])
        self.assertEqual(
            self.bring({"subjects": "code,name\r\nSOYL,\r\n"})["report"]["mistakes"][0]["column"], "name"
        )
        large = self.maud.post("/api/exchange/folder", content=b"x" * (65 << 20))
        self.assertEqual(large.status_code, 413)
        for who in ("student", "advisor", "instructor", "cashier"):
            with self.campus.client(self.campus.person(who), self.server.url) as other:
                self.assertEqual(other.post("/api/exchange/folder", content=b"x").status_code, 403)
                self.assertEqual(other.get("/api/exchange/folder").status_code, 403)

    def test_more_at_once_than_are_read_wait_their_turn(self) -> None:
        statuses: list[int] = []

        def one(n: int) -> None:
            with self.campus.client(self.registrar, self.server.url) as client:
                packed = io.BytesIO()
                with zipfile.ZipFile(packed, "w") as archive:
                    rows = "".join(f"S{chr(65 + k // 26 % 26)}{chr(65 + k % 26)},x\r\n" for k in range(600))
                    archive.writestr("subjects.csv", f"code,name\r\n{rows}")
                answer = client.post("/api/exchange/folder", content=packed.getvalue())
                statuses.append(answer.status_code)

        threads = [threading.Thread(target=one, args=(n,)) for n in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertTrue(set(statuses) <= {200, 503}, statuses)
        self.assertIn(200, statuses)
        # All places are free again.
        self.assertIsNotNone(self.bring({"subjects": "code,name\r\nSALT,Salt\r\n"})["report"])


class Students(Office):
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
        seen = self.ask("POST", self.path("/holds"), hold)
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
        receipt = self.client.get(f"/api/receipts/{done.json()['id']}").json()
        self.assertIn("registrar", json.dumps(receipt))
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


class Record(Office):
    @classmethod
    def furnish(cls) -> None:
        cls.campus.section(seats=1)

    def test_the_chain_holds_and_tells_where_it_does_not(self) -> None:
        for n in range(3):
            self.ask("PUT", f"{OFFICE}/settings/offer_hours", {"value": 10 + n})
        self.recorded("11 hours → 12 hours")
        found = self.get("/api/record/chain")
        self.assertEqual(found["breaks"], [])
        self.assertEqual(len(found["last"]), 64)
        self.recorded("10 hours → 11 hours")
        middle = self.campus.value("SELECT id FROM audit_entries WHERE detail LIKE '%%10 hours → 11 hours%%'")
        # Only who owns the tables can do this at all.
        self.campus.run("ALTER TABLE audit_entries DISABLE TRIGGER keep_audit_entries")
        self.campus.run("UPDATE audit_entries SET detail = 'nothing' WHERE id = %s", middle)
        self.campus.run("ALTER TABLE audit_entries ENABLE TRIGGER keep_audit_entries")
        [broken] = self.get("/api/record/chain")["breaks"]
        self.assertEqual(broken, {"entry": middle, "what": "says something else than when it was written"})

    def test_it_is_looked_through_and_taken_along(self) -> None:
        self.ask("PUT", f"{OFFICE}/settings/leave_office", {"value": "=cmd()"})
        self.recorded("=cmd()")
        entries = self.get("/api/record", words="cmd")["entries"]
        self.assertEqual(len(entries), 1)
        self.assertIn("=cmd()", entries[0]["detail"])
        self.assertEqual(self.get("/api/record", words="cmd", kind="refused")["entries"], [])
        self.assertEqual(self.get("/api/record", words="cmd", until="2020-01-01")["entries"], [])
        self.assertEqual(self.get("/api/record", words="%_\\ '; --")["entries"], [])
        for path in ("/api/record", "/api/record/file"):
            for words in ("\x00", "%", "'"):
                self.assertIn(
                    self.maud.get(path, params={"words": words}).status_code, (200, 400, 422), words
                )
            self.assertEqual(self.maud.get(path, params={"since": "0001-01-01"}).status_code, 200)
        for wrong in ({"kind": "x"}, {"since": "soon"}, {"before": 0}, {"words": "x" * 101}):
            self.assertEqual(self.maud.get("/api/record", params=wrong).status_code, 422, wrong)
        table = self.maud.get("/api/record/file", params={"words": "cmd"})
        self.assertTrue(table.text.startswith("\ufeffnumber,at,what,by"))
        self.assertEqual(len(table.text.strip().splitlines()), 2)

    def test_entries_written_by_many_at_once_are_one_chain(self) -> None:
        clients = [self.campus.client(self.registrar, self.server.url) for _ in range(6)]

        def work(client: httpx.Client) -> None:
            for n in range(8):
                client.put(f"{OFFICE}/settings/offer_hours", json={"value": 1 + n})

        threads = [threading.Thread(target=work, args=(client,)) for client in clients]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        for client in clients:
            client.close()
        chained = self.campus.value("SELECT count(*) FROM audit_entries WHERE digest IS NOT NULL")
        followed = self.campus.value(
            "SELECT count(*) FROM audit_entries a JOIN audit_entries b ON b.digest = a.digest_before"
        )
        self.assertEqual(followed, chained - 1)
