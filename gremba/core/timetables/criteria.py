"""The measures of the criteria that a student puts in order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import reduce
from operator import or_

from gremba.core.bits import bits_of
from gremba.core.catalogue.calendar import MINUTES_A_DAY, Meeting
from gremba.core.timetables.gaps import Gaps
from gremba.core.timetables.hours import weeks_by_phase
from gremba.core.timetables.instance import Instance, Option
from gremba.core.timetables.left_out import SeatState
from gremba.core.timetables.longest_day import LongestDay
from gremba.core.timetables.measure import Measure
from gremba.core.timetables.question import Criterion
from gremba.core.timetables.searching import Search
from gremba.core.timetables.ways_between import WaysBetween

NO_LIMIT = 999
"""Seats left are told apart up to here."""


class _Worst(Measure):
    """The worst value of any option, such as the earliest start."""

    def __init__(self, search: Search, fixed: Sequence[Option], of: Callable[[Option], int]) -> None:
        self._search = search
        self._of = of
        options = search.instance.options
        places = bits_of(search.rests[0])
        own = [of(options[n]) for n in places]
        self._fixed = max([of(o) for o in fixed], default=min(own, default=0))
        self._values = sorted({self._fixed, *own})
        self._up_to = {
            value: sum(1 << n for n in places if of(options[n]) <= value) for value in self._values
        }

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        value = max([self._fixed, *(self._of(o) for o in chosen)])
        if k == len(self._search.masks):
            return value, 0
        for other in self._values:
            if other >= value:
                left = possible & self._up_to[other]
                if self._search.exists(k, left, room):
                    return other, left
        return value, possible


class _Sum(Measure):
    """The sum over all options, such as the number of sections that change."""

    def __init__(self, search: Search, of: Callable[[Option], int]) -> None:
        self._of = of
        options = search.instance.options
        least = [0]
        for mask in reversed(search.masks):
            least.append(least[-1] + min((of(options[n]) for n in bits_of(mask)), default=0))
        self._least = least[::-1]

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        return sum(self._of(o) for o in chosen) + self._least[k], possible


class _Union(Measure):
    """The number of distinct things touched by any option, such as weekdays with class."""

    def __init__(self, search: Search, fixed: Sequence[Option], of: Callable[[Option], int]) -> None:
        self._search = search
        self._of = of
        options = search.instance.options
        self._options = bits_of(search.rests[0])
        self._sets = {n: of(options[n]) for n in self._options}
        self._fixed = 0
        for option in fixed:
            self._fixed |= of(option)
        every = self._fixed
        for touched in self._sets.values():
            every |= touched
        things = bits_of(every)
        self._in_turn: list[tuple[int, int]] | None = None
        if len(things) <= 7:
            sets = [sum(1 << t for i, t in enumerate(things) if n >> i & 1) for n in range(1 << len(things))]
            self._in_turn = [
                (s, sum(1 << n for n in self._options if not self._sets[n] & ~s))
                for s in sorted(sets, key=lambda s: (s.bit_count(), s))
                if not self._fixed & ~s
            ]

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        touched = self._fixed
        for option in chosen:
            touched |= self._of(option)
        if k == len(self._search.masks) or self._in_turn is None:
            return touched.bit_count(), possible
        best, left = 0, 0
        for things, within in self._in_turn:
            if touched & ~things or (best and things.bit_count() > best):
                continue
            if self._search.exists(k, possible & within, room):
                best = things.bit_count()
                left |= possible & within
                if best == touched.bit_count():
                    break
        return (best, left) if left or best else (touched.bit_count(), possible)


def weeks_together(options: Sequence[Option]) -> list[int]:
    """The minutes of the week that options cover together, for each part of the term."""
    return [reduce(or_, weeks, 0) for weeks in zip(*(o.weeks for o in options), strict=True)]


def fixed_option(instance: Instance) -> list[Option]:
    """What stays registered, as an option that is always chosen."""
    sections = tuple(h.section for h in instance.stays)
    if not sections:
        return []
    meetings: list[Meeting] = [m for s in sections for m in s.meetings if m.days]
    return [
        Option(
            slot=-1,
            course="",
            bundle=None,
            members=(sections,),
            credits=instance.credits_fixed,
            violates=0,
            breaks=instance.breaks_of(sections),
            weeks=weeks_by_phase(meetings, instance.phases, instance.term.calendar),
            start=min((m.start for m in meetings), default=MINUTES_A_DAY),
            end=max((m.end for m in meetings), default=0),
            days=sum(1 << d for d in {d for m in meetings for d in m.weekdays}),
            seats=NO_LIMIT,
            seat_state=SeatState.SEAT,
            starred=0,
            changes=0,
        )
    ]


def measures_of(search: Search, criteria: Sequence[Criterion]) -> list[Measure]:
    """First the number of preferred free hours with class, then the criteria."""
    instance = search.instance
    fixed = fixed_option(instance)
    found: list[Measure] = []
    if any(not kept.is_must for kept in instance.question.kept_free):
        found.append(_Union(search, fixed, lambda o: o.breaks))
    for criterion in criteria:
        found.append(_measure(search, fixed, criterion))
    return found


def _measure(search: Search, fixed: Sequence[Option], criterion: Criterion) -> Measure:
    match criterion:
        case Criterion.STARTS_LATE:
            return _Worst(search, fixed, lambda o: -o.start)
        case Criterion.ENDS_EARLY:
            return _Worst(search, fixed, lambda o: o.end)
        case Criterion.DAYS_FREE:
            return _Union(search, fixed, lambda o: o.days)
        case Criterion.FEW_GAPS:
            return Gaps(search, fixed)
        case Criterion.SHORT_DAYS:
            return LongestDay(search, fixed)
        case Criterion.FEW_WAYS:
            return WaysBetween(search, fixed)
        case Criterion.SEATS_LEFT:
            return _Worst(search, fixed, lambda o: -min(o.seats, NO_LIMIT))
        case Criterion.STARRED:
            return _Sum(search, lambda o: -o.starred)
        case Criterion.FEW_CHANGES:
            return _Sum(search, lambda o: o.changes)
