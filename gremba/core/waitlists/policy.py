"""How waitlists fill seats: each policy, what it does and how it is explained."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gremba.core.catalogue.term import Policy, Section
from gremba.core.states import WaitlistWay
from gremba.core.wording import counted


@dataclass(frozen=True, slots=True)
class WaitlistPolicy:
    """How a waitlist gives a seat.

    Attributes:
        asks_first: the seat is held, and offered; else it is given without asking.
        at_the_head: to whoever looks at the section, a sentence.
        when_joining: to whoever is about to join, a sentence; the hours an offer is held in braces.
        while_waiting: to whoever waits, a sentence.
    """

    asks_first: bool
    at_the_head: str
    when_joining: str
    while_waiting: str

    def note(self, policy: Policy) -> str:
        """What to tell a student before joining."""
        return self.when_joining.format(hours=policy.offer_hours)


WAITLIST_POLICIES: Mapping[WaitlistWay, WaitlistPolicy] = {
    WaitlistWay.OFFER: WaitlistPolicy(
        asks_first=True,
        at_the_head="Whoever is at its head is offered a seat when one comes.",
        when_joining="An offer must be answered within {hours} hours.",
        while_waiting="When your turn comes you get an offer, and answer it within the time it says.",
    ),
    WaitlistWay.AUTOMATIC: WaitlistPolicy(
        asks_first=False,
        at_the_head="Whoever is at its head is registered when a seat comes.",
        when_joining="When your turn comes you are registered by itself, if nothing stands in the way.",
        while_waiting="When your turn comes you are registered by itself, if nothing stands in the way.",
    ),
}


def waitlist_policy(section: Section) -> WaitlistPolicy:
    """The policy of a section's waitlist."""
    return WAITLIST_POLICIES[WaitlistWay(section.waitlist_way)]


def waitlist_sentence(section: Section) -> str:
    """The description of a section's waitlist."""
    if not section.waitlist_limit:
        return "It has no waitlist."
    many = counted(section.waitlist_limit, "place", "places")
    return f"Its waitlist has {many}. {waitlist_policy(section).at_the_head}"
