"""The one action a student is offered for a section, given their schedule and cart."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.situation import Situation


class SectionState(StrEnum):
    """A section's state for a student."""

    REGISTERED = "registered"
    IN_CART = "in cart"
    NEXT_CHOICE = "next choice"
    WAITING = "waiting"
    OFFERED = "offered"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class SectionAction:
    """What can be done with a section.

    Attributes:
        exchange: place of the change in the cart in whose stead it can be taken; None for none.
        in_exchange: number of the section held that it would be swapped for, or waited for by swap; "".
    """

    section: Section
    state: SectionState = SectionState.OPEN
    exchange: int | None = None
    in_exchange: str = ""


def section_action(situation: Situation, changes: Sequence[Change], section: Section) -> SectionAction:
    """What can be done with one section."""
    number = section.reference_number
    if any(h.section is section for h in situation.held):
        return SectionAction(section, SectionState.REGISTERED)
    if any(number in (c.number, c.original) for c in changes):
        return SectionAction(section, SectionState.IN_CART)
    if any(numbers[0] == number for c in changes for numbers in c.alternatives):
        return SectionAction(section, SectionState.NEXT_CHOICE)
    for entry in situation.waitlist_entries:
        if entry.section is section:
            state = SectionState.OFFERED if entry.offered else SectionState.WAITING
            return SectionAction(section, state)
    by_number = situation.catalogue.by_number
    for at, change in enumerate(changes):
        other = by_number.get(change.number)
        if change.kind in (Kind.ADD, Kind.SWAP) and other and section.stands_for_same(other):
            return SectionAction(section, exchange=at)
    given_up = {c.in_exchange or c.number for c in changes if c.kind in (Kind.DROP, Kind.SWAP)}
    for held in situation.held:
        old = held.section
        if section.stands_for_same(old) and old.reference_number not in given_up:
            return SectionAction(section, in_exchange=old.reference_number)
    return SectionAction(section)


def section_actions(situation: Situation, changes: Sequence[Change]) -> list[SectionAction]:
    """What can be done with the sections for which it is more than adding or waiting: those of the
    schedule, the cart, and the waitlists, and others of their courses."""
    catalogue = situation.catalogue
    named: Iterable[str] = [
        n for c in changes for n in (c.number, c.original, *(ns[0] for ns in c.alternatives))
    ]
    touched = [catalogue.by_number[n] for n in named if n in catalogue.by_number]
    touched += [h.section for h in situation.held] + [p.section for p in situation.waitlist_entries]
    courses = {key for s in touched for key in s.course.same_as}
    found = (
        section_action(situation, changes, section)
        for key in sorted(courses)
        for section in catalogue.by_course.get(key, ())
    )
    return [a for a in found if a != SectionAction(a.section)]


def as_change(action: SectionAction, changes: Sequence[Change]) -> Change:
    """The change it would add to the cart.

    Args:
        changes: those of the cart.
    """
    number = action.section.reference_number
    if action.state is SectionState.REGISTERED:
        return Change(Kind.ADJUST, number)
    if action.in_exchange:
        return Change(Kind.SWAP, number, in_exchange=action.in_exchange)
    if action.exchange is not None:
        there = changes[action.exchange]
        return Change(there.kind, number, in_exchange=there.in_exchange)
    return Change(Kind.ADD, number)
