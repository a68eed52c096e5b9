"""What is said of a waitlist, and what it does with a seat."""

from __future__ import annotations

import unittest

from gremba.core.catalogue.term import Policy
from gremba.core.states import WaitlistWay
from gremba.core.waitlists.policy import WAITLIST_POLICIES, waitlist_policy, waitlist_sentence
from tests.support.world import World


class Policies(unittest.TestCase):
    def test_a_sheet_says_how_it_works_or_that_there_is_none(self) -> None:
        world = World()
        none = world.section("30001", "SOIL 110")
        offers = world.section("30002", "SOIL 120", waitlist_limit=8)
        gives = world.section("30003", "SOIL 130", waitlist_limit=1, waitlist_way=WaitlistWay.AUTOMATIC)
        self.assertEqual(
            [waitlist_sentence(s) for s in (none, offers, gives)],
            [
                "It has no waitlist.",
                "Its waitlist has 8 places. Whoever is at its head is offered a seat when one comes.",
                "Its waitlist has 1 place. Whoever is at its head is registered when a seat comes.",
            ],
        )
        self.assertEqual([waitlist_policy(s).asks_first for s in (offers, gives)], [True, False])

    def test_every_way_has_a_policy_and_its_hours_are_those_of_the_term(self) -> None:
        self.assertEqual(set(WAITLIST_POLICIES), set(WaitlistWay))
        note = WAITLIST_POLICIES[WaitlistWay.OFFER].note(Policy(offer_hours=12))
        self.assertEqual(note, "An offer must be answered within 12 hours.")
