"""Windows assigned, looked at and published, and one for one student."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import httpx

from tests.support.at_once import at_once
from tests.support.campus import Somebody
from tests.support.office import OFFICE, OnOffice


class Windows(OnOffice):
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

    def test_assigned_looked_at_and_published(self) -> None:
        self.without_windows()
        seen = self.look()
        self.assertEqual((seen["assigned"], seen["left"]), (5, 0))
        self.assertEqual([slot["assigned"] for slot in seen["slots"]], [2, 2, 1])
        self.assertEqual(self.campus.value("SELECT count(*) FROM window_assignments"), 0)
        publish = f"{OFFICE}/windows/assignments"
        body = {"rule": self.rule(), "digest": seen["digest"]}
        # Another seed is another assignment than the one that was looked at.
        self.ask("POST", publish, body | {"rule": self.rule(seed="walnut")}, 409)
        done = self.ask("POST", publish, body)
        self.assertEqual(done, {"assigned": 5, "moved": 0, "is_told": True})
        for who in self.people:
            self.assertIn("You can register for Coming Term from", self.messages(who)[0])
        opens = dict(self.opens())
        self.ask("POST", publish, body, 409)
        self.assertEqual(self.look()["assigned"], 0)
        # Told to move, it moves those that were assigned, and says what they were.
        anew = self.ask(
            "POST",
            f"{OFFICE}/windows/preview",
            {"rule": self.rule(starts=600), "moves_assigned": True},
        )
        self.assertEqual(anew["assigned"], 5)
        moved = {"rule": self.rule(starts=600), "moves_assigned": True, "digest": anew["digest"]}
        self.assertEqual(self.ask("POST", publish, moved), {"assigned": 5, "moved": 5, "is_told": True})
        self.assertTrue(all(opens[row] != at for row, at in self.opens()))
        self.assertIn("it was from", self.messages(self.people[0])[1])
        windows = self.get(f"{OFFICE}/windows")
        self.assertEqual([line["moved"] for line in windows["assignments"]], [5, 0])
        self.assertEqual(windows["assignments"][0]["rule"]["starts"], 600)

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
            answers.append(client.post(f"{OFFICE}/windows/assignments", json=body).status_code)

        at_once(publish, clients)
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
        self.assertEqual((seen["assigned"], seen["left"]), (4, 1))
        body = {"rule": self.rule(**short), "digest": seen["digest"]}
        told = self.ask("POST", f"{OFFICE}/windows/assignments", body, 422)
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
