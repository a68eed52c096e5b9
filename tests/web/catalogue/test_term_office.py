"""Terms in preparation, open and closed; what is decided for them; carried forward."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from gremba.store.database import connected, fetch_sql
from tests.support.campus import TERM, outcome, send
from tests.support.office import OFFICE, OnOffice
from tests.support.soon import soon


class Terms(OnOffice):
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
        self.campus.run(
            "INSERT INTO tariff_fees (term_id, label, cents, delivery, refund) "
            "VALUES (1, 'wires', 600, 'mixed', 'never'), (1, 'Term fee', 500, NULL, 'by steps')"
        )
        self.campus.run("UPDATE terms SET late_from = first_day + 2, late_cents = 70 WHERE id = 1")
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
        costs = (
            "SELECT ARRAY(SELECT (rate_class, per_credit_cents)::text FROM tariff_rates WHERE term_id = t.id), "
            "ARRAY(SELECT (label, cents, delivery, refund)::text FROM tariff_fees "
            "WHERE term_id = t.id ORDER BY id), late_from - first_day, late_cents FROM terms t WHERE code = %s"
        )
        with connected(self.campus.database):
            old, new = (fetch_sql(self.campus.database, costs, (code,))[0] for code in (TERM, "next"))
        self.assertEqual((new[:2], new[3]), (old[:2], 70))
        self.assertEqual(len(new[1]), 2)
        self.assertAlmostEqual(new[2], 2, delta=4)
        # The pages of this process know it at once, and students do not.
        self.assertEqual(self.get("/api/office/terms/next")["state"], "in preparation")
        self.assertEqual(self.client.get("/api/terms/next").status_code, 404)
