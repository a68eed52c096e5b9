"""Timetables by plain code: every choice of sections is made and looked at, one after another.

It shares nothing with the code under test but the catalogue, the rules' verdict on single sections,
and dates computed by ``datetime``.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from itertools import combinations, pairwise
from typing import NamedTuple

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Severity
from gremba.core.registration.situation import Situation
from gremba.core.timetables.question import Criterion, KeptFree, Narrowing, Question, SeatSwitch, Want
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
        self._clashes: dict[frozenset[int], bool] = {}
        self._tight: dict[frozenset[int], bool] = {}
        self._seated: dict[int, bool] = {}
        self.hours = {s.id: classes(s) for s in self.term.sections}
        self.moving = [h.section for h in situation.held if h.section.reference_number in question.may_move]
        self.staying = [h.section for h in situation.held if h.section not in self.moving]

    def clash(self, one: Section, other: Section) -> bool:
        """Whether some class of each overlaps, date by date."""
        return any(
            a == d and b < f and e < c for a, b, c in self.hours[one.id] for d, e, f in self.hours[other.id]
        )

    def is_tight(self, one: Section, other: Section) -> bool:
        """Whether between two classes of a day on two campuses there is less time than the way takes."""
        pair = frozenset({one.id, other.id})
        if pair not in self._tight:
            self._tight[pair] = self._find_tight(one, other)
        return self._tight[pair]

    def _find_tight(self, one: Section, other: Section) -> bool:
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
        if _among(section, self.moving) or self.question.seats is SeatSwitch.ALL:
            return True
        if section.id not in self._seated:
            self._seated[section.id] = self._find_seat(section)
        return self._seated[section.id]

    def _find_seat(self, section: Section) -> bool:
        change = Change(Kind.ADD, section.reference_number)
        found = decide(self.situation, Request((change,)), OPEN).outcomes[0].findings
        if not any(f.code.startswith("seat.") and f.severity is Severity.STOP for f in found):
            return True
        figures = self.situation.seats[section.pool]
        waits = figures.waiting < section.waitlist_limit
        return self.question.seats is SeatSwitch.WAITLIST and waits

    def ways(self, key: str) -> list[tuple[Section, ...]]:
        """Every set of sections with which a course is had: one of each component, as linked; or with
        its whole bundle."""
        own = [s for s in self.term.sections if s.course.key == key]
        free = [s for s in own if s.bundle is None]
        found = [
            chosen
            for size in (1, 2)
            for chosen in combinations(free, size)
            if len({s.component for s in chosen}) == size and all(self._is_whole(s, chosen) for s in chosen)
        ]
        for name in dict.fromkeys(s.bundle for s in own if s.bundle is not None):
            found.append(tuple(s for s in self.term.sections if s.bundle == name))
        return found

    def _is_whole(self, section: Section, chosen: Sequence[Section]) -> bool:
        by_component: dict[str, list[str]] = {}
        for number in section.linked_sections:
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

    def timetables(self, demand: Demand, wants: Sequence[int]) -> list[list[Section]]:
        """All sets of sections that have these wants and keep what is demanded, without what stays."""
        found: dict[frozenset[int], list[Section]] = {}
        for sections in self._candidates(demand, wants):
            ids = frozenset(s.id for s in sections)
            if ids not in found and self._works(sections, demand):
                found[ids] = sections
        return list(found.values())

    def is_possible(self, demand: Demand, wants: Sequence[int], moves: bool) -> bool:
        """Whether there is any set of sections that has these wants and keeps what is demanded."""
        moving, self.moving = self.moving, self.moving if moves else []
        try:
            return any(self._works(s, demand) for s in self._candidates(demand, wants))
        finally:
            self.moving = moving

    def _candidates(self, demand: Demand, wants: Sequence[int]) -> Iterator[list[Section]]:
        held = {h.section.course.key for h in self.situation.held}
        slots: list[list[_Had]] = []
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
            ways = [
                (k, w)
                for k in keys
                for w in self.ways(k)
                if self._kept(narrowing, k, w) and self._works(w, demand)
            ]
            choices = [(want.is_choice, ways)] * want.count
            slots += [w for _, w in choices]
        for section in self.moving:
            key = section.course.key
            slots.append([(key, w) for w in self.ways(key) if self._works(w, demand)])
        is_choice = []
        for n in wants:
            want = self.question.wants[n]
            if not self._courses(want) or [k for k in self._courses(want) if k not in held]:
                is_choice += [want.is_choice] * want.count
        is_choice += [False] * len(self.moving)
        for chosen in self._chosen(slots):
            if self._come_along_rightly(chosen, is_choice):
                yield list({s.id: s for _, way in chosen for s in way}.values())

    def _chosen(self, slots: Sequence[Sequence[_Had]]) -> Iterator[tuple[_Had, ...]]:
        """One way a slot, left aside as soon as two of them clash."""
        if not slots:
            yield ()
            return
        for before in self._chosen(slots[:-1]):
            taken = [s for _, way in before for s in way]
            for key, way in slots[-1]:
                if any(key == other for other, _ in before):
                    continue
                if not any(self.clash(a, b) for a in way for b in (*taken, *way) if a is not b):
                    yield (*before, (key, way))

    def _come_along_rightly(self, chosen: Sequence[_Had], is_choice: Sequence[bool]) -> bool:
        """No section is had by two wants, but a bundle by several that are no choices."""
        for (one, choice_one), (other, choice_other) in combinations(zip(chosen, is_choice, strict=True), 2):
            mine, theirs = ({s.id for s in way} for _, way in (one, other))
            if mine & theirs and (choice_one or choice_other or mine != theirs):
                return False
        return True

    def _courses(self, want: Want) -> list[str]:
        if want.tag:
            return sorted({s.course.key for s in self.term.sections if want.tag in s.course.tags})
        return list(want.courses)

    def _kept(self, narrowing: Narrowing, key: str, way: Sequence[Section]) -> bool:
        own = [s for s in way if s.course.key == key]
        if any(s.reference_number in narrowing.without for s in own):
            return False
        if narrowing.sessions and any(s.session.code not in narrowing.sessions for s in own):
            return False
        where = [{m.campus for m in s.meetings} or {s.campus or "online"} for s in own]
        return not narrowing.campuses or all(w <= narrowing.campuses for w in where)

    def _works(self, sections: Sequence[Section], demand: Demand) -> bool:
        held = [s for s in self.staying if demand.held is None or s.course.key in demand.held]
        both = [*sections, *held]
        courses = [(s.course.key, s.component) for s in both]
        if len(set(courses)) < len(courses):
            return False
        if any(self.clash(a, b) for a, b in combinations(both, 2)):
            return False
        tight = self.question.no_tight_ways and demand.ways
        if tight and any(
            self.is_tight(a, b) for a, b in combinations(both, 2) if not (_among(a, held) and _among(b, held))
        ):
            return False
        if demand.seats and not all(self.has_seat(s) for s in sections):
            return False
        for n in demand.kept_free:
            if any(self.is_in(s, self.question.kept_free[n]) for s in sections):
                return False
        credits = sum(s.credits_for(None) for s in both)
        return not demand.limit or credits <= self.situation.credit_limit

    def stand_apart(self, ones: Sequence[Section], others: Sequence[Section]) -> bool:
        """Whether two ways to have courses cannot stand together."""
        tight = self.question.no_tight_ways
        return any(
            self.clash(a, b) or (a.course.key == b.course.key) or (tight and self.is_tight(a, b))
            for a in ones
            for b in others
        )

    def measures(self, sections: Sequence[Section]) -> list[int]:
        """How good a timetable is by the question's criteria, less being better; before them how many
        of the hours to be kept free if possible have class."""
        found = []
        rather = [k for k in self.question.kept_free if not k.is_must]
        if rather:
            broken = [k for k in rather if any(self.is_in(s, k) for s in (*sections, *self.staying))]
            found.append(len(broken))
        return found + [self._measure(c, sections) for c in self.question.criteria]

    def _measure(self, criterion: Criterion, sections: Sequence[Section]) -> int:
        every = [*sections, *self.staying]
        hours = [hour for s in every for hour in self.hours[s.id]]
        match criterion:
            case Criterion.STARTS_LATE:
                return -min((start for _, start, _ in hours), default=24 * 60)
            case Criterion.ENDS_EARLY:
                return max((end for _, _, end in hours), default=0)
            case Criterion.DAYS_FREE:
                return len({on.weekday() for on, _, _ in hours})
            case Criterion.FEW_GAPS:
                return max((self._gaps(week) for week in self._weeks(every)), default=0)
            case Criterion.SHORT_DAYS:
                return max((self._longest(week) for week in self._weeks(every)), default=0)
            case Criterion.FEW_WAYS:
                return max((self._ways(week) for week in self._weeks(every)), default=0)
            case Criterion.SEATS_LEFT:
                return -min([min(999, self._seats(s)) for s in sections], default=999)
            case Criterion.STARRED:
                return -sum(1 for s in sections if s.reference_number in self.question.starred)
            case Criterion.FEW_CHANGES:
                return sum(1 for s in self.moving if not _among(s, sections))

    def _seats(self, section: Section) -> int:
        if _among(section, self.moving):
            return self.situation.seats[section.pool].left
        change = Change(Kind.ADD, section.reference_number)
        found = decide(self.situation, Request((change,)), OPEN).outcomes[0].findings
        if any(f.code.startswith("seat.") and f.severity is Severity.STOP for f in found):
            return 0
        return self.situation.seats[section.pool].left

    def _weeks(self, sections: Sequence[Section]) -> list[list[list[tuple[int, int, str]]]]:
        """Every week of the term, by weekday the classes in order."""
        weeks: dict[tuple[int, int], list[set[tuple[int, int, str]]]] = {}
        for section in sections:
            for m in section.meetings:
                for on in _days(m):
                    days = weeks.setdefault(on.isocalendar()[:2], [set() for _ in range(7)])
                    days[on.weekday()].add((m.start, m.end, m.campus))
        return [[sorted(day) for day in days] for days in weeks.values()]

    def _gaps(self, week: list[list[tuple[int, int, str]]]) -> int:
        found = 0
        for day in week:
            until = None
            for start, end, _ in day:
                if until is not None and start - until > 30:
                    found += 1
                until = end if until is None else max(until, end)
        return found

    def _longest(self, week: list[list[tuple[int, int, str]]]) -> int:
        return max((max(e for _, e, _ in day) - day[0][0] for day in week if day), default=0)

    def _ways(self, week: list[list[tuple[int, int, str]]]) -> int:
        return sum(
            1
            for day in week
            for one, then in pairwise([where for _, _, where in day if where])
            if one != then
        )

    def is_in(self, section: Section, kept: KeptFree) -> bool:
        """Whether a section has a class in hours to be kept free."""
        first, last = kept.first or CALENDAR.first, kept.last or CALENDAR.last
        return any(
            first <= on <= last and on.weekday() in kept.weekdays and start < kept.end and kept.start < end
            for on, start, end in self.hours[section.id]
        )


_Had = tuple[str, tuple[Section, ...]]
"""A course, and the sections with which it is had."""


def _among(section: Section, sections: Sequence[Section]) -> bool:
    return any(section is s for s in sections)


def _days(meeting: object) -> list[date]:
    first, last, weekdays = meeting.first, meeting.last, meeting.weekdays  # type: ignore[attr-defined]
    every = (first + timedelta(days=n) for n in range((last - first).days + 1))
    return [
        d
        for d in every
        if d.weekday() in weekdays and not any(b.first <= d <= b.last for b in CALENDAR.breaks)
    ]
