"""Sections changed by page, one or many."""

from __future__ import annotations

from typing import Any

from tests.support.campus import outcome, send
from tests.support.office import OFFICE, OnOffice


class Sections(OnOffice):
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
        [affected] = self.change([mine], meetings=[moved])["report"]["affected"]
        self.assertEqual((affected["registered"], affected["clashing"], affected["is_off"]), (1, 1, False))
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
        self.assertEqual(report["affected"][0]["registered"], 1)
