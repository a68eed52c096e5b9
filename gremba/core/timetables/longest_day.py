"""The measure of the longest day of a timetable, with its bounds."""

from __future__ import annotations

import itertools
from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from functools import cache
from itertools import accumulate
from operator import or_

from gremba.core.bits import bits_of
from gremba.core.catalogue.calendar import MINUTES_A_DAY
from gremba.core.timetables.instance import Option
from gremba.core.timetables.measure import Measure
from gremba.core.timetables.searching import Search

Span = tuple[int, int]
"""The first minute of a day with class, and the end of its last class."""

_STAYS = -1
"""Stands among the places of options for what stays as it is."""

_DAY = (1 << MINUTES_A_DAY) - 1


class LongestDay(Measure):
    """Minutes from the first class of a day to the end of its last, on the longest day.

    The longest day is as long as the span of some two classes. A length that no day exceeds is
    therefore a condition on pairs of options, and the bound is exact: the least length with which
    the rest can be filled.
    """

    def __init__(self, search: Search, fixed: Sequence[Option]) -> None:
        self._search = search
        options = search.instance.options
        self._places = {options[n]: n for n in bits_of(search.rests[0])}
        self._days = [_Day(spans) for spans in _spans_by_day(search, self._places, fixed)]
        self._spans = {n: [day.spans.get(n) for day in self._days] for n in self._places.values()}
        lengths = {0}.union(*(day.lengths for day in self._days))
        self._lengths = sorted(lengths)
        self._searches: dict[int, Search] = {}

    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """See ``Measure``; the bound is exact."""
        spans = [self._spans[self._places[o]] for o in chosen]
        taken = [
            _joined([day.spans.get(_STAYS), *of_day]) for day, *of_day in zip(self._days, *spans, strict=True)
        ]
        length = max([span[1] - span[0] for span in taken if span], default=0)
        if k == len(self._search.masks):
            return length, possible
        low, high = bisect_left(self._lengths, length), len(self._lengths) - 1
        # Mostly it need become no longer than it is.
        if not self._can_keep(self._lengths[low], taken, k, possible, room):
            low = min(low + 1, high)
            while low < high:
                middle = (low + high) // 2
                if self._can_keep(self._lengths[middle], taken, k, possible, room):
                    high = middle
                else:
                    low = middle + 1
        return self._lengths[low], possible & self._keeping(self._lengths[low], taken)

    def _can_keep(self, length: int, taken: Sequence[Span | None], k: int, possible: int, room: int) -> bool:
        within = possible & self._keeping(length, taken)
        return self._search_within(length).exists(k, within, room)

    def _keeping(self, length: int, taken: Sequence[Span | None]) -> int:
        """The options with which no day exceeds the length."""
        beyond = 0
        for day, span in zip(self._days, taken, strict=True):
            if span is not None:
                beyond |= day.beyond(length, *span)
        return self._search.rests[0] & ~beyond

    def _search_within(self, length: int) -> Search:
        """The search among pairs with which no day exceeds the length."""
        if length not in self._searches:
            goes_with = list(self._search.goes_with)
            for n, spans in self._spans.items():
                goes_with[n] &= self._keeping(length, spans)
            self._searches[length] = self._search.going_with(goes_with)
        return self._searches[length]


class _Day:
    """One day of one kind of week.

    Attributes:
        spans: by place of the option.
        lengths: of the day with some one or two of the options.
        beyond: by a length and the span of what is there, the options with which the day becomes longer.
    """

    def __init__(self, spans: Mapping[int, Span]) -> None:
        self.spans = spans
        by_start = sorted((start, n) for n, (start, _) in spans.items() if n != _STAYS)
        by_end = sorted((end, n) for n, (_, end) in spans.items() if n != _STAYS)
        self._starts = [start for start, _ in by_start]
        self._ends = [end for end, _ in by_end]
        self._up_to_start: list[int] = [0, *accumulate((1 << n for _, n in by_start), or_)]
        self._from_end: list[int] = [0, *accumulate((1 << n for _, n in reversed(by_end)), or_)][::-1]
        starts, ends = ({span[side] for span in spans.values()} for side in (0, 1))
        self.lengths = {end - start for start in starts for end in ends if end > start}
        self.beyond = cache(self._beyond)

    def _beyond(self, length: int, start: int, end: int) -> int:
        too_late = self._from_end[bisect_right(self._ends, start + length)]
        return too_late | self._up_to_start[bisect_left(self._starts, end - length)]


def _spans_by_day(
    search: Search, places: Mapping[Option, int], fixed: Sequence[Option]
) -> list[dict[int, Span]]:
    """The spans of options on each day of each kind of week, without duplicates."""
    everyone = [*places.items(), *((option, _STAYS) for option in fixed)]
    found: dict[tuple[tuple[int, Span], ...], None] = {}
    for phase, weekday in itertools.product(range(len(search.instance.phases)), range(7)):
        spans = []
        for option, n in everyone:
            minutes = option.weeks[phase] >> weekday * MINUTES_A_DAY & _DAY
            if minutes:
                spans.append((n, ((minutes & -minutes).bit_length() - 1, minutes.bit_length())))
        if spans:
            found[tuple(spans)] = None
    return [dict(spans) for spans in found]


def _joined(spans: Sequence[Span | None]) -> Span | None:
    there = [span for span in spans if span is not None]
    if not there:
        return None
    return min(start for start, _ in there), max(end for _, end in there)
