"""The gaps of a timetable, and how few they can still become."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from functools import reduce
from itertools import groupby
from operator import itemgetter, or_
from typing import NamedTuple

from gremba.core.bits import bits_of
from gremba.core.catalogue.calendar import MINUTES_A_DAY
from gremba.core.timetables.instance import Option
from gremba.core.timetables.searching import Search

LONGEST_BREAK = 30
"""Minutes between two classes of a day; what is longer is a gap."""

_DAY = (1 << MINUTES_A_DAY) - 1


class _ToCome(NamedTuple):
    """What the slots from one on can bring to a day at most.

    Attributes:
        classes: one after another without a break, so many.
        longest: the longest of them, in minutes.
    """

    classes: int
    longest: int


class _Piece(NamedTuple):
    """Minutes of a day through which the same options have class.

    Attributes:
        options: as bits.
    """

    start: int
    end: int
    options: int


class Gaps:
    """Gaps of the fullest kind of week; a gap may still be filled by what is to come.

    A gap is counted where what can still come does not fill it: because no class lies there, or
    because it takes more classes than there are slots left for that day, or for the week.
    """

    def __init__(self, search: Search, fixed: Sequence[Option]) -> None:
        self._search = search
        self._options = search.instance.options
        everyone = [*fixed, *(self._options[n] for n in bits_of(search.rests[0]))]
        # Mostly the phases of a term are alike.
        by_weeks = {tuple(o.weeks[p] for o in everyone): p for p in range(len(search.instance.phases))}
        self._phases = [p for weeks, p in by_weeks.items() if any(weeks)]
        self._fixed = {p: reduce(or_, (o.weeks[p] for o in fixed), 0) for p in self._phases}
        self._to_come = {p: self._most_to_come(p) for p in self._phases}
        self._pieces = {p: [self._pieces_of(p, number) for number in range(7)] for p in self._phases}
        self._holes: dict[int, list[tuple[int, int]]] = {}

    def _most_to_come(self, phase: int) -> list[tuple[int, list[_ToCome]]]:
        """From each slot on, how many classes a week and a day can get, and how long ones."""
        found = [(0, [_ToCome(0, 0)] * 7)]
        for mask in reversed(self._search.masks):
            of_option = [[_runs(day) for day in _days(self._options[n].weeks[phase])] for n in bits_of(mask)]
            of_week, of_days = found[-1]
            if not of_option:
                found.append(found[-1])
                continue
            most = max((sum(map(len, days)) for days in of_option), default=0)
            days = [
                _ToCome(
                    to_come.classes + max(len(runs) for runs in of_day),
                    max([to_come.longest, *(end - start for runs in of_day for start, end in runs)]),
                )
                for to_come, of_day in zip(of_days, zip(*of_option, strict=True), strict=True)
            ]
            found.append((of_week + most, days))
        return found[::-1]

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """How good it can still become, and the options with which it can; see ``Measure``."""
        most = 0
        for phase in self._phases:
            week = self._fixed[phase]
            for option in chosen:
                week |= option.weeks[phase]
            most = max(most, self._least(week, k, possible, phase))
        return most, possible

    def _least(self, week: int, k: int, possible: int, phase: int) -> int:
        """The gaps of a week, or at least so many whatever comes from slot k on."""
        classes, of_days = self._to_come[phase][k]
        holes = [
            (number, hole) for number, day in enumerate(_days(week)) if day for hole in self._holes_of(day)
        ]
        if not holes or not classes:
            return len(holes)
        kept: list[int] = []
        for number, of_day in groupby(holes, itemgetter(0)):
            to_come, pieces = of_days[number], self._pieces[phase][number]
            needs = [_need(hole, to_come) for _, hole in of_day if not _stays(hole, pieces, possible)]
            kept += _smallest_first(needs, to_come.classes)
        return len(holes) - len(_smallest_first(kept, classes))

    def _holes_of(self, day: int) -> list[tuple[int, int]]:
        if day not in self._holes:
            self._holes[day] = list(_holes(day))
        return self._holes[day]

    def _pieces_of(self, phase: int, number: int) -> list[_Piece]:
        """A day cut where any class begins or ends."""
        days = {
            n: self._options[n].weeks[phase] >> number * MINUTES_A_DAY & _DAY
            for n in bits_of(self._search.rests[0])
        }
        cuts = sorted({cut for day in days.values() for run in _runs(day) for cut in run})
        bounds = [0, *cuts, MINUTES_A_DAY]
        return [
            _Piece(start, end, sum(1 << n for n, day in days.items() if day >> start & 1))
            for start, end in itertools.pairwise(bounds)
        ]


def gaps_of(week: int) -> int:
    """The gaps between the classes of a week, whose minutes are bits, Monday first."""
    return sum(len(list(_holes(day))) for day in _days(week))


def _days(week: int) -> list[int]:
    return [week >> n * MINUTES_A_DAY & _DAY for n in range(7)]


def _runs(day: int) -> list[tuple[int, int]]:
    """Where classes follow one another without a minute between: from, to."""
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


def _stays(hole: tuple[int, int], pieces: Sequence[_Piece], possible: int) -> bool:
    """Whether the options that are possible leave a gap within a hole, even all together."""
    since, until = hole
    for start, end, options in pieces:
        if end <= since:
            continue
        if start >= until:
            break
        if options & possible:
            since = end
        elif min(end, until) - since > LONGEST_BREAK:
            return True
    return False


def _need(hole: tuple[int, int], to_come: _ToCome) -> int:
    """How many classes at least it takes to fill a gap."""
    start, end = hole
    # Each class fills its length and the break behind it, beside the break before the first.
    return -(-(end - start - LONGEST_BREAK) // (to_come.longest + LONGEST_BREAK))


def _smallest_first(needs: Iterable[int], classes: int) -> list[int]:
    """As many gaps as can be filled with so many classes: the classes that each takes."""
    filled = []
    for need in sorted(needs):
        if need > classes:
            break
        classes -= need
        filled.append(need)
    return filled
