"""The form of what confirmations keep: they are never altered, so whoever changes it gives it a number."""

from __future__ import annotations

import unittest
from typing import Any

from gremba.core.registration.changes import Mode
from gremba.core.registration.decision import decide
from gremba.formats.confirmation import FORM, confirmation_data, read_confirmation
from tests.support.world import World, request

KEYS = {
    1: {
        "mode",
        "sent_by",
        "outcomes",
        "before",
        "after",
        "before.credits",
        "before.load",
        "before.full_time",
        "before.charge_cents",
        "after.credits",
        "after.load",
        "after.full_time",
        "after.charge_cents",
        "outcomes.kind",
        "outcomes.number",
        "outcomes.name",
        "outcomes.title",
        "outcomes.in_exchange",
        "outcomes.original",
        "outcomes.grading",
        "outcomes.credits",
        "outcomes.unusual",
        "outcomes.result",
        "outcomes.withdrawn",
        "outcomes.refund_cents",
        "outcomes.also_dropped",
        "outcomes.findings",
        "outcomes.findings.code",
        "outcomes.findings.severity",
        "outcomes.findings.text",
        "outcomes.findings.facts",
        "outcomes.findings.remedies",
        "outcomes.findings.ask",
        "outcomes.findings.common",
        "outcomes.findings.remedies.text",
        "outcomes.findings.remedies.action",
    },
}
KEYS[2] = KEYS[1] | {"plans"}
"""By form, every name in it; what facts and actions hold is the rules' own."""


def _keys(data: Any, before: str = "") -> set[str]:
    if isinstance(data, list):
        return {key for one in data for key in _keys(one, before)}
    if not isinstance(data, dict) or before.endswith(("facts.", "action.")):
        return set()
    return {
        key for name, value in data.items() for key in ({before + name} | _keys(value, f"{before}{name}."))
    }


class Form(unittest.TestCase):
    def test_another_form_gets_another_number(self) -> None:
        world = World()
        world.section("30001", "LAND 110", seats=0)
        world.section("30002", "LAND 120")
        decision = decide(world.situation(), request(["+30001", "+30002", "-30002"]), world.now)
        body = confirmation_data(decision, Mode.EACH, "Somebody")
        self.assertEqual(_keys(body), KEYS[FORM])
        self.assertEqual(read_confirmation(FORM, body), body)
        with self.assertRaises(ValueError):
            read_confirmation(FORM + 1, body)

    def test_what_was_written_before_there_were_plans_is_read(self) -> None:
        world = World()
        world.section("30001", "LAND 110")
        body = confirmation_data(
            decide(world.situation(), request(["+30001"]), world.now), Mode.EACH, "Somebody"
        )
        earlier = {name: value for name, value in body.items() if name != "plans"}
        self.assertEqual(_keys(earlier), KEYS[1] & _keys(earlier))
        self.assertEqual(read_confirmation(1, earlier), body)


if __name__ == "__main__":
    unittest.main()
