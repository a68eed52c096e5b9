"""Turns a timetable into cart changes: adds, waitlists and swaps, the scarcest section first, with backup
sections that still fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from gremba.core.bits import bits_of
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding.effort import MAX_BACKUPS
from gremba.core.timetables.best import Chosen
from gremba.core.timetables.instance import Instance, Option
from gremba.core.timetables.left_out import SeatState
from gremba.core.timetables.searching import Search


@dataclass(frozen=True, slots=True)
class Part:
    """A wanted course as a timetable has it.

    Attributes:
        sections: those taken.
        alike: other sections that would be the same for the timetable, each with its linked sections.
        others: ways to have the want that would still fit the rest, not counting those alike.
    """

    option: Option
    sections: tuple[Section, ...]
    alike: tuple[tuple[Section, ...], ...]
    others: int


def parts_of(search: Search, chosen: Chosen) -> list[Part]:
    """The parts of a timetable, scarcest first: with the fewest alternatives, then with the fewest seats
    left."""
    options = search.instance.options
    found = []
    for n in chosen.options:
        option = options[n]
        others = _others(search, chosen, n)
        found.append(Part(option, option.sections, option.members[1:], len(others)))
    return sorted(found, key=lambda p: (p.others, p.option.seats, p.sections[0].reference_number))


def _others(search: Search, chosen: Chosen, place: int) -> list[Option]:
    """Other options of the slot that go with the rest of a timetable, most seats first."""
    options = search.instance.options
    mask = next(m for m in search.masks if m >> place & 1)
    left = mask & ~(1 << place)
    for other in chosen.options:
        if other != place:
            left &= search.goes_with[other]
    room = search.room - sum(search.credits[n] for n in chosen.options if n != place)
    fitting = [n for n in bits_of(left) if not search.is_limited or search.credits[n] <= room]
    return sorted((options[n] for n in fitting), key=lambda o: (-o.seats, o.sections[0].reference_number))


def request_of(instance: Instance, sections: Sequence[Section]) -> Request:
    """A timetable as changes, all or nothing, without backup sections.

    Args:
        sections: all of the timetable but what stays as it is, in order of priority.
    """
    changes = _changes(instance, sections)
    return Request(tuple(changes), Mode.ALL)


def changes_of(search: Search, chosen: Chosen) -> list[Change]:
    """A timetable as changes for a cart, scarcest first, with backup sections that fit the rest."""
    instance = search.instance
    found: list[Change] = []
    seen: set[str] = set()
    for part in parts_of(search, chosen):
        place = next(n for n in chosen.options if instance.options[n] is part.option)
        changes = _changes(instance, [s for s in part.sections if s.reference_number not in seen])
        seen |= {s.reference_number for s in part.sections}
        first = next(
            (n for n, c in enumerate(changes) if instance.term.by_number[c.number].carries_credit), None
        )
        if first is not None and part.option.bundle is None and changes[first].kind is not Kind.WAIT:
            changes[first] = replace(
                changes[first], alternatives=_next_choices(search, chosen, place, changes[first].number)
            )
        found += changes
    return found


def _next_choices(search: Search, chosen: Chosen, place: int, number: str) -> tuple[tuple[str, ...], ...]:
    """Backup sections of the same course and component, with their linked sections."""
    instance = search.instance
    wanted = instance.term.by_number[number]
    held = {h.section for h in instance.situation.held}
    found: dict[tuple[str, ...], None] = {}
    own = instance.options[place]
    others = [o for o in _others(search, chosen, place) if o.bundle is None]
    ways = [*own.members[1:], *(m for o in others for m in o.members)]
    for sections in ways:
        head = next((s for s in sections if s.stands_for_same(wanted)), None)
        if head is None or head is wanted or held & set(sections):
            continue
        rest = [s.reference_number for s in sections if s is not head and s.course is head.course]
        found.setdefault((head.reference_number, *rest))
    return tuple(found)[:MAX_BACKUPS]


def _changes(instance: Instance, sections: Sequence[Section]) -> list[Change]:
    moving = [h.section for s in instance.sought for h in s.moves]
    given_up = [s for s in moving if s not in sections]
    found = []
    for section in sections:
        if section in moving:
            continue
        number = section.reference_number
        old = next((s for s in given_up if s.stands_for_same(section)), None)
        judged = instance.judged.get(number)
        waits = judged is not None and judged.seat is not SeatState.SEAT
        if waits:
            found.append(Change(Kind.WAIT, number, in_exchange=old.reference_number if old else ""))
        elif old is not None:
            found.append(Change(Kind.SWAP, number, in_exchange=old.reference_number))
        else:
            found.append(Change(Kind.ADD, number))
    return found
