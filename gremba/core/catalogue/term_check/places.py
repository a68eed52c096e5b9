"""Checks places: no room and no instructor in two places at once, and rooms large enough."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Iterator
from itertools import combinations

from gremba.core.catalogue.calendar import Meeting, find_clash, week_mask
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.catalogue.term_check.facts import TermFacts
from gremba.core.catalogue.term_check.line import Fault
from gremba.core.wording import clock_time, day

MOST_COMPARED = 400
"""Sections in one room, or of one person, that are held against each other. Nobody has so many; where a
folder says so, each with each would be too much."""


def rooms_free(term: TermCatalogue, _: TermFacts) -> Iterator[Fault]:
    """No two sections meet in one room at one time, unless they share their seats."""
    by_room: dict[tuple[str, str], dict[Section, list[Meeting]]] = {}
    for section, meeting in _meetings(term):
        if meeting.room:
            by_room.setdefault((meeting.campus, meeting.room), {}).setdefault(section, []).append(meeting)
    for (_campus, room), there in sorted(by_room.items(), key=lambda item: item[0]):
        yield from _twice(term, room, there)


def instructors_free(term: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """Nobody teaches in two places at one time."""
    by_person: dict[tuple[str, int], dict[Section, list[Meeting]]] = {}
    for section, meeting in _meetings(term):
        for person, name in facts.teachers.get(section.id, ()):
            by_person.setdefault((name, person), {}).setdefault(section, []).append(meeting)
    for (name, _id), there in sorted(by_person.items(), key=lambda item: item[0]):
        yield from _twice(term, name, there)


def rooms_hold(term: TermCatalogue, facts: TermFacts) -> Iterator[Fault]:
    """No limit exceeds its room's capacity."""
    seen: set[Hashable] = set()
    for section, meeting in _meetings(term):
        holds = facts.capacities.get((meeting.campus, meeting.room))
        limit = facts.seat_limits.get(section.pool, 0)
        told = (section.pool, meeting.room)
        if holds is not None and limit > holds and told not in seen:
            seen.add(told)
            yield Fault(
                f"{section.name} has {limit} seats; {meeting.room} holds {holds}.", section.reference_number
            )


def _meetings(term: TermCatalogue) -> Iterator[tuple[Section, Meeting]]:
    for section in term.sections:
        if not section.cancelled:
            for meeting in section.meetings:
                yield section, meeting


def _twice(term: TermCatalogue, what: str, there: dict[Section, list[Meeting]]) -> Iterator[Fault]:
    in_order = sorted(there, key=lambda s: s.reference_number)
    if len(in_order) > MOST_COMPARED:
        yield Fault(f"{what}: {len(in_order)} sections, so many that only {MOST_COMPARED} were looked at.")
        in_order = in_order[:MOST_COMPARED]
    weeks = {section: week_mask(there[section]) for section in in_order}
    for one, other in combinations(in_order, 2):
        if one.pool == other.pool or not weeks[one] & weeks[other]:
            continue
        clash = find_clash(there[one], there[other])
        if clash is not None:
            yield Fault(
                f"{what}: {one.name} ({one.reference_number}) and {other.name} "
                f"({other.reference_number}), {_when(term, clash.one, clash.other, clash.days)}.",
                one.reference_number,
            )


_WEEKDAYS = ("Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays", "Sundays")


def _when(term: TermCatalogue, one: Meeting, other: Meeting, days: int) -> str:
    hours = f"{clock_time(max(one.start, other.start))}–{clock_time(min(one.end, other.end))}"
    dates = list(term.calendar.dates(days))
    if len(dates) == 1:
        return f"on {day(dates[0])}, {hours}"
    return f"{_listed(term.calendar.weekdays_of(days))} {hours}, first on {day(dates[0])}"


def _listed(weekdays: Iterable[int]) -> str:
    names = [_WEEKDAYS[n] for n in weekdays]
    return " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"
