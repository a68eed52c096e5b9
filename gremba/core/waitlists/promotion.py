"""Works out the request of a waitlist entry when a seat opens, and whether the seat may be offered."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace
from datetime import date, datetime, timedelta
from itertools import islice, product

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules.seats import NO_FIGURES, reserved_against
from gremba.core.registration.situation import Registration, Situation
from gremba.core.windows.opening import Window
from gremba.core.wording import day, listed

_MOST_TRIED = 24
"""Choices of linked sections that are tried for one entry at the most."""


def seat_for(figures: SeatFigures, situation: Situation, on: date) -> bool:
    """Whether one of the free seats may go to this student: an open one, or one reserved for their group."""
    if not figures.left:
        return False
    reserved = [p for p in figures.reserved_seats if p.left and p.is_in_force(on)]
    if figures.left > sum(p.left for p in reserved):
        return True
    return any(p.is_for(situation.student) for p in reserved)


def why_reserved(figures: SeatFigures, situation: Situation, on: date) -> str:
    """What to tell a student who may have none of the free seats."""
    reserved = reserved_against(figures, situation.student, on)
    groups = listed([f"the {p.kind} “{p.value}”" for p in reserved])
    release = [p.release_on for p in reserved if p.release_on is not None]
    until = f" until {day(min(release))}" if release else ""
    return f"What is free is kept for {groups}{until}."


def linked_sections_are_full(
    situation: Situation, section: Section, seats: Mapping[int, SeatFigures]
) -> list[str]:
    """The components the student lacks of which no linked section has a seat."""
    have = {
        h.section.component for h in situation.held if h.section.reference_number in section.linked_sections
    }
    return [
        component
        for component, options in situation.catalogue.linked_sections_of(section).items()
        if component not in have
        and not any(seats[o.pool].left for o in options if not o.cancelled and o.pool in seats)
    ]


def exchanged_with(situation: Situation, section: Section, in_exchange: Section | None) -> list[Registration]:
    """What the student has besides `in_exchange` that can be exchanged for a linked section: the lab of
    another lecture of the same course."""
    options = situation.catalogue.linked_sections_of(section)
    lacking = _lacking(situation, section, in_exchange)
    return [
        h
        for h in situation.held
        if h.section is not in_exchange
        and h.section.component in lacking
        and any(h.section.stands_for_same(o) for o in options[h.section.component])
    ]


def _lacking(situation: Situation, section: Section, in_exchange: Section | None) -> set[str]:
    """Components of which the student has no linked section."""
    have = {
        h.section.component
        for h in situation.held
        if h.section.reference_number in section.linked_sections and h.section is not in_exchange
    }
    return set(situation.catalogue.linked_sections_of(section)) - have


def for_entry(
    situation: Situation, section: Section, seats: Mapping[int, SeatFigures], now: datetime
) -> Situation:
    """The situation for promoting an entry: the seat is kept for the student, who needs no window because
    the college offers it.

    Args:
        seats: figures in which that seat is free.
    """
    day = timedelta(days=1)
    own = {section.pool: replace(seats[section.pool], waiting=0)}
    return replace(
        situation,
        seats={**seats, **own},
        windows=(Window(now - day, now + day),),
        seat_held_for=frozenset({section.id}),
        waitlist_entries=tuple(p for p in situation.waitlist_entries if p.section is not section),
    )


def promote(
    situation: Situation,
    section: Section,
    now: datetime,
    *,
    in_exchange: Section | None,
    chosen_linked_sections: tuple[Section, ...],
    grading: str | None = None,
    credits: float | None = None,
    permission_code: str = "",
    any_linked_section: bool = True,
) -> Decision:
    """Decide an entry, all or nothing: the section, in place of the one to be given up if still
    registered, and the linked sections it needs.

    Args:
        situation: as :func:`for_entry` makes it.
        chosen_linked_sections: linked sections named for the entry, taken first.
        any_linked_section: where those cannot be had, any that fits will do.

    Raises:
        LookupError: it asks for nothing, which no entry does.
    """
    first: Decision | None = None
    for linked_sections in _linked_sections(
        situation, section, in_exchange, chosen_linked_sections, any_linked_section
    ):
        request = _request(
            situation, section, in_exchange, linked_sections, grading, credits, permission_code
        )
        decision = decide(situation, request, now)
        if all(o.result is Result.ACCEPTED for o in decision.outcomes):
            return decision
        first = first or decision
    if first is None:
        raise LookupError("a waitlist entry was promoted without a request")
    return first


def _request(
    situation: Situation,
    section: Section,
    in_exchange: Section | None,
    linked_sections: tuple[str, ...],
    grading: str | None,
    credits: float | None,
    permission_code: str,
) -> Request:
    held = {h.section.id: h.section for h in situation.held}
    number = section.reference_number
    if in_exchange is not None and in_exchange.id in held:
        main = Change(Kind.SWAP, number, grading, credits, in_exchange.reference_number, permission_code)
    else:
        main = Change(Kind.ADD, number, grading, credits, permission_code=permission_code)
    more = []
    for linked_section in linked_sections:
        other = situation.catalogue.by_number[linked_section]
        # A linked section held that does not go with the section is exchanged for one that does.
        old = next((h for h in held.values() if h.stands_for_same(other) and h is not other), None)
        if old is None:
            more.append(Change(Kind.ADD, linked_section))
        else:
            more.append(Change(Kind.SWAP, linked_section, in_exchange=old.reference_number))
    return Request((main, *more), Mode.ALL)


def _linked_sections(
    situation: Situation,
    section: Section,
    in_exchange: Section | None,
    chosen_linked_sections: tuple[Section, ...],
    any_linked_section: bool,
) -> Iterator[tuple[str, ...]]:
    needed = _lacking(situation, section, in_exchange)
    named = tuple(s.reference_number for s in chosen_linked_sections if s.component in needed)
    if named or not needed:
        yield named
    if needed and (any_linked_section or not named):
        found = _with_a_seat(situation, section, needed) if any_linked_section else []
        yield from (c for c in found if c != named)
        if not named and not found:
            yield ()


def _with_a_seat(situation: Situation, section: Section, needed: Collection[str]) -> list[tuple[str, ...]]:
    """A few choices of linked sections with a seat, one of each component needed."""
    options = [
        [o.reference_number for o in many if not o.cancelled and situation.seats.get(o.pool, NO_FIGURES).left]
        for component, many in situation.catalogue.linked_sections_of(section).items()
        if component in needed
    ]
    return list(islice(product(*options), _MOST_TRIED))
