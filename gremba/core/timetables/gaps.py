"""The measure of gaps in a timetable, with its bounds."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from functools import cache, reduce
from operator import or_
from typing import NamedTuple

from gremba.core.bits import bits_of
from gremba.core.catalogue.calendar import MINUTES_A_DAY
from gremba.core.timetables.instance import Option
from gremba.core.timetables.measure import Measure
from gremba.core.timetables.searching import Search

LONGEST_BREAK = 30
"""Minutes between two classes of a day; what is longer is a gap."""

MAX_GAPS = 7 * MINUTES_A_DAY
"""More than any week can have."""

_DAY = (1 << MINUTES_A_DAY) - 1

_STEPS_A_WEEK = 20
"""Looking at the gaps of one week costs about as much as so many steps of searching."""


class _Hole(NamedTuple):
    """A gap between two classes of a day.

    Attributes:
        excess: minutes by which it is longer than a break.
        fillers: sets of options; the gap stays where no option of some set is there.
    """

    excess: int
    fillers: list[int]

    def can_be_filled(self, possible: int) -> bool:
        """Whether the possible options together can leave no gap within it."""
        # A generator within all() takes twice as long.
        for fillers in self.fillers:  # noqa: SIM110
            if not fillers & possible:
                return False
        return True


_Week = tuple[list[int], list[list[_Hole]]]
"""Minutes with class of each day, and its gaps."""


class _ToCome(NamedTuple):
    """The most that some slots can contribute.

    Attributes:
        of_week: classes without a break between, in the whole week.
        of_days: the same for each day.
        longest: the longest of them on each day, in minutes.
    """

    of_week: int
    of_days: list[int]
    longest: list[int]


class Gaps(Measure):
    """The number of gaps in the fullest kind of week; slots to come may still fill a gap.

    A gap is counted where what can still come does not fill it: because no class lies there, or
    because it takes more classes than there are slots left for that day, or for the week.
    """

    looks_ahead = True

    def __init__(self, search: Search, fixed: Sequence[Option]) -> None:
        everyone = [*fixed, *(search.instance.options[n] for n in bits_of(search.rests[0]))]
        # Mostly the phases of a term are alike.
        by_weeks = {tuple(o.weeks[p] for o in everyone): p for p in range(len(search.instance.phases))}
        self._phases = [_Phase(search, fixed, p) for weeks, p in by_weeks.items() if any(weeks)]

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """See ``Measure``."""
        return max([p.least(chosen, possible, k) for p in self._phases], default=0), possible

    def bound_ahead(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """A closer bound: in some slot no option may keep it that low."""
        return max([p.least_ahead(chosen, possible, k) for p in self._phases], default=0), possible


class _Phase:
    """The gaps of one kind of week."""

    def __init__(self, search: Search, fixed: Sequence[Option], phase: int) -> None:
        self._search = search
        options = search.instance.options
        self._places = {options[n]: n for n in bits_of(search.rests[0])}
        self._days: dict[int, list[tuple[int, int]]] = {
            n: [(number, day) for number, day in enumerate(_days(options[n].weeks[phase])) if day]
            for n in bits_of(search.rests[0])
        }
        slots = [_most_of([self._days[n] for n in bits_of(mask)]) for mask in search.masks]
        # Slots from one on, without one of them.
        self._to_come = cache(lambda k, without: _most_together([*slots[k:without], *slots[without + 1 :]]))
        self._cuts = [self._cut(number) for number in range(7)]
        self._hole = cache(self._hole_of)
        self._holes: list[dict[int, list[_Hole]]] = [{} for _ in range(7)]
        days = _days(reduce(or_, (o.weeks[phase] for o in fixed), 0))
        self._fixed = days, [self._holes_of(weekday, day) for weekday, day in enumerate(days)]
        self._before: tuple[Sequence[Option], _Week] = [], self._fixed
        self._found = [0] * len(search.masks)
        self._order = list(range(len(search.masks)))

    def least(self, chosen: Sequence[Option], possible: int, k: int) -> int:
        """The gaps of a week, or a lower bound with slots from k on still to fill."""
        _, holes = self._week(chosen)
        return self._least(holes, possible, self._to_come(k, len(self._search.masks)))

    def _week(self, chosen: Sequence[Option]) -> _Week:
        if not chosen:
            return self._fixed
        # Those that differ in the last only come one after another.
        *before, last = chosen
        if before != self._before[0]:
            self._before = before, self._week(before)
        days, holes = list(self._before[1][0]), list(self._before[1][1])
        for weekday, day in self._days[self._places[last]]:
            days[weekday] |= day
            holes[weekday] = self._holes_of(weekday, days[weekday])
        return days, holes

    def _least(
        self, holes: Sequence[list[_Hole]], possible: int, to_come: _ToCome, enough: int = MAX_GAPS
    ) -> int:
        """A lower bound on the gaps that stay. Over ``enough`` it may be less than it could be.

        Args:
            holes: the gaps of each day.
        """
        stay = 0
        fillable: list[int] = []
        for weekday, of_day in enumerate(holes):
            if not of_day:
                continue
            # Each class fills its length and the break behind it, beside the break before the first.
            filled = to_come.longest[weekday] + LONGEST_BREAK
            needs = [-(-hole.excess // filled) for hole in of_day if hole.can_be_filled(possible)]
            if needs:
                needs = _smallest_first(needs, to_come.of_days[weekday])
                fillable += needs
            stay += len(of_day) - len(needs)
            if stay > enough:
                return stay
        return stay + len(fillable) - len(_smallest_first(fillable, to_come.of_week))

    def least_ahead(self, chosen: Sequence[Option], possible: int, k: int) -> int:
        """A closer bound: what the best option of some slot makes of it."""
        days, holes = self._week(chosen)
        least = self._least(holes, possible, self._to_come(k, len(self._search.masks)))
        for place, slot in enumerate(self._order):
            if slot < k:
                continue
            by_slot = self._least_by_slot(slot, days, holes, possible, k, least)
            if by_slot > least:
                self._order.insert(0, self._order.pop(place))
                return by_slot
        return least

    def _least_by_slot(
        self, slot: int, days: Sequence[int], holes: Sequence[list[_Hole]], possible: int, k: int, enough: int
    ) -> int:
        """The least that any option of a slot leads to; the first that is not over ``enough`` ends the
        search."""
        here = possible & self._search.masks[slot]
        to_come = self._to_come(k, slot)
        # What was found last will mostly do again.
        last = self._found[slot]
        least = MAX_GAPS
        for n in itertools.chain([last] if here >> last & 1 else [], _one_by_one(here)):
            then = list(holes)
            left = possible & self._search.goes_with[n]
            stay = 0
            for weekday, day in self._days[n]:
                of_day = then[weekday] = self._holes_of(weekday, days[weekday] | day)
                for hole in of_day:
                    if not hole.can_be_filled(left):
                        stay += 1
            self._search.steps.left -= _STEPS_A_WEEK
            # Mostly it is the days of the option itself on which a gap stays.
            value = stay if stay > enough else self._least(then, left, to_come, enough)
            if value <= enough:
                self._found[slot] = n
                return value
            least = min(least, value)
        return least

    def _holes_of(self, weekday: int, day: int) -> list[_Hole]:
        known = self._holes[weekday].get(day)
        if known is None:
            known = [self._hole(weekday, since, until) for since, until in _holes(day)]
            self._holes[weekday][day] = known
        return known

    def _hole_of(self, weekday: int, since: int, until: int) -> _Hole:
        """A gap, and its stretches longer than a break in which some class must lie."""
        cuts = [
            (max(start, since), min(end, until), options)
            for start, end, options in self._cuts[weekday]
            if end > since and start < until
        ]
        found: set[int] = set()
        for position, (start, _, _) in enumerate(cuts):
            within = 0
            for _, end, options in cuts[position:]:
                within |= options
                if end - start > LONGEST_BREAK:
                    found.add(within)
                    break
        # The smallest is the likeliest to be empty; one that holds all of a smaller one says no more.
        fillers: list[int] = []
        for within in sorted(found, key=int.bit_count):
            if all(smaller & ~within for smaller in fillers):
                fillers.append(within)
        return _Hole(until - since - LONGEST_BREAK, fillers)

    def _cut(self, weekday: int) -> list[tuple[int, int, int]]:
        """A day cut at every start and end of a class: from, to, and the options with class there."""
        minutes = {n: day for n, days in self._days.items() for number, day in days if number == weekday}
        cuts = sorted({cut for day in minutes.values() for run in _runs(day) for cut in run})
        bounds = [0, *cuts, MINUTES_A_DAY]
        return [
            (start, end, sum(1 << n for n, day in minutes.items() if day >> start & 1))
            for start, end in itertools.pairwise(bounds)
        ]


def _most_of(options: Sequence[Sequence[tuple[int, int]]]) -> _ToCome:
    """The most that one slot can contribute, over its options."""
    found = _ToCome(0, [0] * 7, [0] * 7)
    for days in options:
        runs = {weekday: _runs(day) for weekday, day in days}
        found = found._replace(of_week=max(found.of_week, sum(map(len, runs.values()))))
        for weekday, of_day in runs.items():
            found.of_days[weekday] = max(found.of_days[weekday], len(of_day))
            found.longest[weekday] = max(found.longest[weekday], *(end - start for start, end in of_day))
    return found


def _most_together(slots: Sequence[_ToCome]) -> _ToCome:
    return _ToCome(
        sum(slot.of_week for slot in slots),
        [sum(slot.of_days[weekday] for slot in slots) for weekday in range(7)],
        [max([slot.longest[weekday] for slot in slots], default=0) for weekday in range(7)],
    )


def gaps_of(week: int) -> int:
    """The number of gaps in a week, whose minutes are bits, Monday first."""
    return sum(len(list(_holes(day))) for day in _days(week))


def _days(week: int) -> list[int]:
    return [week >> n * MINUTES_A_DAY & _DAY for n in range(7)]


def _runs(day: int) -> list[tuple[int, int]]:
    """Stretches of classes without a minute between: from, to."""
    found = []
    while day:
        start = (day & -day).bit_length() - 1
        length = (~(day >> start) & (day >> start) + 1).bit_length() - 1
        found.append((start, start + length))
        day &= ~((1 << length) - 1 << start)
    return found


def _holes(day: int) -> Iterator[tuple[int, int]]:
    """Gaps between classes: from, to."""
    runs = _runs(day)
    for (_, end), (start, _) in itertools.pairwise(runs):
        if start - end > LONGEST_BREAK:
            yield end, start


def _one_by_one(bits: int) -> Iterator[int]:
    """The positions of the set bits, lazily: mostly the first will do."""
    while bits:
        yield (bits & -bits).bit_length() - 1
        bits &= bits - 1


def _smallest_first(needs: Iterable[int], classes: int) -> list[int]:
    """The gaps that can be filled with that many classes, smallest first: the classes each takes."""
    filled = []
    for need in sorted(needs):
        if need > classes:
            break
        classes -= need
        filled.append(need)
    return filled
