"""Fits by plain code: every choice of sections is made and looked at, one after another.

It shares nothing with the code under test but the catalogue, the rules' verdict on single sections,
and dates computed by ``datetime``.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from itertools import combinations, product
from typing import NamedTuple

from gremba.core.catalogue import Section
from gremba.core.changes import Change, Kind, Request
from gremba.core.decision import decide
from gremba.core.findings import Severity
from gremba.core.fits.question import KeptFree, Narrowing, Question, SeatSwitch, Want
from gremba.core.situation import Situation
from tests.support.world import CALENDAR, OPEN

Hour = tuple[date, int, int]


class Demand(NamedTuple):
    """What may be given up, for looking for what is impossible: everything is asked unless said otherwise."""

    wants: frozenset[int]
    narrowings: frozenset[int]
    kept_free: frozenset[int]
    seats: bool = True
    ways: bool = True
    limit: bool = True
    held: frozenset[str] | None = None


def classes(section: Section) -> list[Hour]:
    """Every class of a section: date, start, end."""
    found = []
    for meeting in section.meetings:
        on = meeting.first
        while on <= meeting.last:
            is_break = any(b.first <= on <= b.last for b in CALENDAR.breaks)
            if on.weekday() in meeting.weekdays and not is_break:
                found.append((on, meeting.start, meeting.end))
            on += timedelta(days=1)
    return found


class Plainly:
    """Answers one question by trying everything."""

    def __init__(self, situation: Situation, question: Question) -> None:
        self.situation = situation
        self.question = question
        self.term = situation.catalogue
        self.hours = {s: classes(s) for s in self.term.sections}
        self.moving = [h.section for h in situation.held if h.section.reference_number in question.may_move]
        self.staying = [h.section for h in situation.held if h.section not in self.moving]

    def clash(self, one: Section, other: Section) -> bool:
        """Whether some class of each overlaps, date by date."""
        return any(a == d and b < f and e < c for a, b, c in self.hours[one] for d, e, f in self.hours[other])

    def is_tight(self, one: Section, other: Section) -> bool:
        """Whether between two classes of a day on two campuses there is less time than the way takes."""
        for mine in one.meetings:
            for theirs in other.meetings:
                if not set(_days(mine)) & set(_days(theirs)):
                    continue
                first, then = sorted((mine, theirs), key=lambda m: m.start)
                gap = then.start - first.end
                if 0 <= gap < self.term.travel.get((first.campus, then.campus), 0):
                    return True
        return False

    def has_seat(self, section: Section) -> bool:
        """By the decision itself, whether there is what the switch asks for."""
        if section in self.moving or self.question.seats is SeatSwitch.ALL:
            return True
        change = Change(Kind.ADD, section.reference_number)
        found = decide(self.situation, Request((change,)), OPEN).outcomes[0].findings
        if not any(f.code.startswith("seat.") and f.severity is Severity.STOP for f in found):
            return True
        figures = self.situation.seats[section.pool]
        waits = figures.waiting < section.waitlist_limit
        return self.question.seats is SeatSwitch.WAITLIST and waits

    def ways(self, key: str) -> list[frozenset[Section]]:
        """Every set of sections with which a course is had: one of each component, as linked; or with
        its whole bundle."""
        own = [s for s in self.term.sections if s.course.key == key]
        free = [s for s in own if s.bundle is None]
        found = set()
        for size in (1, 2):
            for chosen in combinations(free, size):
                if len({s.component for s in chosen}) == size and all(
                    self._is_whole(s, chosen) for s in chosen
                ):
                    found.add(frozenset(chosen))
        for section in own:
            if section.bundle is not None:
                found.add(frozenset(s for s in self.term.sections if s.bundle == section.bundle))
        return sorted(found, key=lambda w: sorted(s.reference_number for s in w))

    def _is_whole(self, section: Section, chosen: Sequence[Section]) -> bool:
        by_component: dict[str, list[str]] = {}
        for number in section.companions:
            by_component.setdefault(self.term.by_number[number].component, []).append(number)
        have = {s.reference_number for s in chosen}
        return all(have & set(numbers) for numbers in by_component.values())

    def everything(self) -> Demand:
        """All that is asked."""
        every = range(len(self.question.wants))
        return Demand(
            frozenset(every),
            frozenset(every),
            frozenset(n for n, k in enumerate(self.question.kept_free) if k.is_must),
        )

    def timetables(self, demand: Demand, wants: Sequence[int]) -> set[frozenset[Section]]:
        """All sets of sections that have these wants and keep what is demanded, without what stays."""
        found: set[frozenset[Section]] = set()
        for sections in self._candidates(demand, wants):
            if sections not in found and self._works(sections, demand):
                found.add(sections)
        return found

    def is_possible(self, demand: Demand, wants: Sequence[int], moves: bool) -> bool:
        """Whether there is any set of sections that has these wants and keeps what is demanded."""
        moving, self.moving = self.moving, self.moving if moves else []
        try:
            return any(self._works(s, demand) for s in self._candidates(demand, wants))
        finally:
            self.moving = moving

    def _candidates(self, demand: Demand, wants: Sequence[int]) -> Iterator[frozenset[Section]]:
        held = {h.section.course.key for h in self.situation.held}
        slots: list[list[tuple[str, frozenset[Section]]]] = []
        singles = []
        for n in wants:
            want = self.question.wants[n]
            keys = sorted(self._courses(want)) if want.is_choice else list(want.courses)
            keys = [k for k in keys if k not in held]
            if not keys and any(k in held for k in self._courses(want)):
                continue
            if not want.is_choice:
                if keys[0] in singles:
                    continue
                singles.append(keys[0])
            narrowing = want.narrowing if n in demand.narrowings else Narrowing()
            ways = [(k, w) for k in keys for w in self.ways(k) if self._kept(narrowing, k, w)]
            choices = [(want.is_choice, ways)] * want.count
            slots += [w for _, w in choices]
        for section in self.moving:
            slots.append([(section.course.key, w) for w in self.ways(section.course.key)])
        is_choice = []
        for n in wants:
            want = self.question.wants[n]
            if not self._courses(want) or [k for k in self._courses(want) if k not in held]:
                is_choice += [want.is_choice] * want.count
        is_choice += [False] * len(self.moving)
        for chosen in product(*slots):
            keys = [k for k, _ in chosen]
            if len(set(keys)) < len(keys):
                continue
            if not self._come_along_rightly(chosen, is_choice):
                continue
            yield frozenset().union(*(w for _, w in chosen))

    def _come_along_rightly(
        self, chosen: Sequence[tuple[str, frozenset[Section]]], is_choice: Sequence[bool]
    ) -> bool:
        """No section is had by two wants, but a bundle by several that are no choices."""
        for (one, choice_one), (other, choice_other) in combinations(zip(chosen, is_choice, strict=True), 2):
            if one[1] & other[1] and (choice_one or choice_other or one[1] != other[1]):
                return False
        return True

    def _courses(self, want: Want) -> list[str]:
        if want.tag:
            return sorted({s.course.key for s in self.term.sections if want.tag in s.course.tags})
        return list(want.courses)

    def _kept(self, narrowing: Narrowing, key: str, way: frozenset[Section]) -> bool:
        own = [s for s in way if s.course.key == key]
        if any(s.reference_number in narrowing.without for s in own):
            return False
        if narrowing.blocks and any(s.block.code not in narrowing.blocks for s in own):
            return False
        where = [{m.campus for m in s.meetings} or {s.campus or "online"} for s in own]
        return not narrowing.campuses or all(w <= narrowing.campuses for w in where)

    def _works(self, sections: frozenset[Section], demand: Demand) -> bool:
        held = [s for s in self.staying if demand.held is None or s.course.key in demand.held]
        both = [*sections, *held]
        courses = [(s.course.key, s.component) for s in both]
        if len(set(courses)) < len(courses):
            return False
        if any(self.clash(a, b) for a, b in combinations(both, 2)):
            return False
        tight = self.question.no_tight_ways and demand.ways
        if tight and any(
            self.is_tight(a, b) for a, b in combinations(both, 2) if a in sections or b in sections
        ):
            return False
        if demand.seats and not all(self.has_seat(s) for s in sections):
            return False
        for n in demand.kept_free:
            if any(self.is_in(s, self.question.kept_free[n]) for s in sections):
                return False
        credits = sum(s.credits_for(None) for s in both)
        return not demand.limit or credits <= self.situation.credit_limit

    def is_in(self, section: Section, kept: KeptFree) -> bool:
        """Whether a section has a class in hours to be kept free."""
        first, last = kept.first or CALENDAR.first, kept.last or CALENDAR.last
        return any(
            first <= on <= last and on.weekday() in kept.weekdays and start < kept.end and kept.start < end
            for on, start, end in self.hours[section]
        )


def _days(meeting: object) -> list[date]:
    first, last, weekdays = meeting.first, meeting.last, meeting.weekdays  # type: ignore[attr-defined]
    every = (first + timedelta(days=n) for n in range((last - first).days + 1))
    return [
        d
        for d in every
        if d.weekday() in weekdays and not any(b.first <= d <= b.last for b in CALENDAR.breaks)
    ]
