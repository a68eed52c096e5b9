"""What students are told."""

from __future__ import annotations

import unittest
from typing import Any

from gremba.core.messages import TEMPLATES, Message, MessageKind, message, message_of
from tests.support.world import World


class Words(unittest.TestCase):
    def setUp(self) -> None:
        world = World()
        world.section("30001", "SOIL 110", "TR 09:00-09:50")
        self.section = world.sections["30001"]

    def test_an_offer_says_where_until_when_and_what_is_full(self) -> None:
        facts: dict[str, Any] = {"times": "Tue Thu 9:00 to 9:50", "until": "Monday at 10:52"}
        plain = message(MessageKind.OFFERED, self.section, **facts)
        self.assertEqual(plain.title, "A seat for you in SOIL 110")
        self.assertEqual(
            plain.body,
            "A seat has come in SOIL 110 30001, Tue Thu 9:00 to 9:50. It is held for you until Monday at "
            "10:52. Accept or decline it under Waitlists; after that it goes to the next.",
        )
        with_labs = message(MessageKind.OFFERED, self.section, **facts, full="lab")
        self.assertEqual(with_labs.body, f"{plain.body} At the moment every lab that goes with it is full.")

    def test_every_kind_has_words_and_says_which_section(self) -> None:
        for kind in MessageKind:
            template = TEMPLATES[kind]
            facts: dict[str, Any] = dict.fromkeys(template.needed - {"section", "number"}, "a fact")
            if "section" in template.needed:
                told = message(kind, self.section, **facts)
                self.assertIn("SOIL 110", told.title)
                self.assertIn("30001", told.title + told.body)
            else:
                told = message_of(kind, **facts)
                self.assertIn("a fact", told.body)
            self.assertNotIn("{", told.title + told.body)

    def test_a_message_with_too_few_facts_or_strange_ones_is_a_mistake_of_ours(self) -> None:
        with self.assertRaises(ValueError):
            message(MessageKind.PASSED_OVER, self.section)
        with self.assertRaises(ValueError):
            message(MessageKind.LAPSED, self.section, why="A fact that it does not tell.")

    def test_one_that_is_kept_from_before_a_fact_was_named_says_what_it_can(self) -> None:
        told = Message(MessageKind.REGISTERED, {"section": "SOIL 110", "confirmation": 7})
        self.assertEqual((told.title, told.body), ("You are registered for SOIL 110", "Confirmation 7."))

    def test_braces_in_a_fact_are_only_signs(self) -> None:
        told = message(MessageKind.PASSED_OVER, self.section, why="{number.__class__} It clashes.")
        self.assertIn("{number.__class__} It clashes.", told.body)
