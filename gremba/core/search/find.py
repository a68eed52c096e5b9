"""From filters to the sections that meet them, with a count beside every value of every filter."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import reduce
from itertools import groupby
from operator import or_
from typing import Any

from gremba.core.search.filters import (
    MOST_WORDS,
    NO_TIMES,
    PARTS_OF_DAY,
    SEATS,
    SORTS,
    Filters,
    number_patterns,
)
from gremba.core.search.fit import Seats, WeekFit
from gremba.core.search.index import VALUES, SearchIndex, bits, indexes
from gremba.core.search.words import Match
from gremba.core.wording import clock_time, listed

FREE = ("day", "part")
"""Filters that say when one has time: a section passes if it has nothing at any other."""

NAMES = {
    "words": "words",
    "subject": "subject",
    "number": "number",
    "instructor": "instructor",
    "day": "days",
    "part": "part of the day",
    "time_from": "earliest time",
    "time_to": "latest time",
    "campus": "campus",
    "delivery": "delivery",
    "component": "component",
    "block": "part of the term",
    "credits": "credits",
    "level": "level",
    "counts": "requirement",
    "seats": "seats",
    "no_textbook_cost": "no textbook cost",
    "fits": "fits my week",
    "among": "chosen sections",
}
"""Filters as they are called in sentences."""


@dataclass(frozen=True, slots=True)
class Count:
    """How many of the present results have a value, the filter's own choice left aside."""

    value: str
    sections: int


@dataclass(frozen=True, slots=True)
class Found:
    """What was found.

    Attributes:
        courses: places in the index, in the order wanted, those of one course together.
        counts: for each filter with a choice of values.
        notes: what of the filters could not be followed, in sentences.
        loosen: where nothing was found: filters without which something would be, most first.
        read_as: words that no section holds, with those they were taken for.
    """

    courses: Sequence[Sequence[int]]
    counts: Mapping[str, tuple[Count, ...]]
    notes: tuple[str, ...] = ()
    loosen: tuple[Count, ...] = ()
    read_as: Mapping[str, tuple[str, ...]] | None = None

    @property
    def total(self) -> int:
        """How many sections there are."""
        return sum(len(sections) for sections in self.courses)


def find(index: SearchIndex, wanted: Filters, seats: Seats, fit: WeekFit) -> Found:
    """Find sections, in memory alone.

    Args:
        seats: figures for display, of all pools.
        fit: judges against the week of whoever looks; an empty one for nobody in particular.
    """
    filters, notes = _understood(index, wanted)
    match = index.words.match(filters.words)
    masks = _Masks(index, filters, seats, fit, match)
    met = {name: masks.of(name) for name in filters.active()}
    found = _all_of(index.everything, met.values())
    without = {name: _all_of(index.everything, [m for n, m in met.items() if n != name]) for name in met}
    counts = {
        name: tuple(
            Count(value, (without.get(name, found) & mask).bit_count())
            for value, mask in masks.values(name).items()
        )
        for name in (*VALUES, "seats", "no_textbook_cost", "fits")
    }
    loosen: list[Count] = []
    if not found:
        loosen = [Count(name, mask.bit_count()) for name, mask in without.items() if mask]
        loosen.sort(key=lambda c: -c.sections)
    order = _Order(index, filters.sort, seats, fit, match.well if filters.words else 0)
    return Found(order.courses(found), counts, tuple(notes), tuple(loosen), match.read_as)


def _all_of(everything: int, masks: Iterable[int]) -> int:
    found = everything
    for mask in masks:
        found &= mask
    return found


def _understood(index: SearchIndex, wanted: Filters) -> tuple[Filters, list[str]]:
    """The filters without what means nothing in this term, and a sentence about each such part."""
    notes: list[str] = []
    meant: dict[str, object] = {}
    for name in VALUES:
        chosen: tuple[str, ...] = getattr(wanted, name)
        known = index.values[name]
        strange = [v for v in chosen if v not in known and v not in _always(name)]
        if strange:
            shown = listed([f"“{v[:40]}”" for v in strange[:3]])
            notes.append(f"Left aside: {shown} is no {NAMES[name]} of this term.")
            meant[name] = tuple(v for v in chosen if v not in strange)
    if wanted.seats not in ("", *SEATS):
        notes.append(f"Left aside: seats can be {listed(SEATS, 'or')}.")
        meant["seats"] = ""
    if wanted.sort not in SORTS:
        notes.append(f"Results can be sorted by {listed(SORTS, 'or')}.")
        meant["sort"] = "course"
    if len(wanted.words) > MOST_WORDS:
        notes.append(f"Only the first {MOST_WORDS} characters were looked for.")
        meant["words"] = wanted.words[:MOST_WORDS]
    patterns, strange = number_patterns(wanted.number[:MOST_WORDS])
    if strange:
        shown = listed([f"“{piece[:20]}”" for piece in strange[:3]])
        notes.append(
            f"Left aside: {shown}. A course number has figures, such as 142 or 142A; ? stands "
            "for one figure and * for any that follow, as in 1*."
        )
        meant["number"] = wanted.number[:MOST_WORDS] if patterns else ""
    begin, end = wanted.time_from, wanted.time_to
    if begin is not None and end is not None and begin >= end:
        notes.append(
            f"No class lies between {clock_time(begin)} and {clock_time(end)}: the earliest time "
            "must be before the latest."
        )
    return replace(wanted, **meant), notes  # type: ignore[arg-type]


def _always(name: str) -> tuple[str, ...]:
    """Values that make sense whether or not a section of the term has them."""
    return {"day": ("M", "T", "W", "R", "F", "S", "U", NO_TIMES), "part": tuple(PARTS_OF_DAY)}.get(name, ())


class _Masks:
    """For each filter the set of sections that meet it."""

    def __init__(
        self, index: SearchIndex, filters: Filters, seats: Seats, fit: WeekFit, match: Match
    ) -> None:
        self._index = index
        self._filters = filters
        self._seats = seats
        self._fit = fit
        self._match = match

    def of(self, name: str) -> int:
        index, filters = self._index, self._filters
        if name in FREE:
            return self._free(name, getattr(filters, name))
        if name in VALUES or name == "seats":
            chosen = getattr(filters, name)
            values = self.values(name)
            return _any_of(values.get(v, 0) for v in ([chosen] if name == "seats" else chosen))
        if name in ("no_textbook_cost", "fits"):
            return self.values(name)["yes"]
        if name == "words":
            return self._match.found
        if name == "number":
            patterns, _ = number_patterns(filters.number)
            return _any_of(
                mask
                for number, mask in index.by_course_number.items()
                if any(p.fullmatch(number) for p in patterns)
            )
        if name == "among":
            known = (index.index_of.get(n) for n in filters.among or ())
            return bits(k for k in known if k is not None)
        minute = getattr(filters, name)
        if name == "time_from":
            timed = _any_of(m for start, m in index.by_earliest.items() if start >= minute)
        else:
            timed = _any_of(m for end, m in index.by_latest.items() if end <= minute)
        return timed | self._without_times()

    def _free(self, name: str, chosen: Sequence[str]) -> int:
        values = self._index.values[name]
        others = _any_of(mask for value, mask in values.items() if value not in chosen)
        return self._index.with_times & ~others | self._without_times()

    def _without_times(self) -> int:
        """Sections without set times meet at no time that one has not: they pass where days are
        not asked for by name, or where they are asked for too."""
        timeless = self._index.everything & ~self._index.with_times
        return timeless if NO_TIMES in self._filters.day else 0

    def values(self, name: str) -> Mapping[str, int]:
        """For each value of a filter, the sections that have it."""
        if name in self._index.values:
            return self._index.values[name]
        if name == "seats":
            seating = self._index.seats(self._seats)
            return {"open": seating.open, "waitlist": seating.open_or_waitlist}
        if name == "fits":
            return {"yes": self._fit.fitting(self._seats)}
        return {"yes": self._index.no_textbook_cost}


def _any_of(masks: Iterable[int]) -> int:
    return reduce(or_, masks, 0)


class _Order:
    """The order of results: courses by the best of their sections, and these among themselves."""

    def __init__(self, index: SearchIndex, sort: str, seats: Seats, fit: WeekFit, well: int) -> None:
        self._index = index
        self._well = well
        self._key: Callable[[int], Any] | None = None
        if sort == "time":
            self._key = index.earliest.__getitem__
        elif sort == "seats":
            self._key = [-many for many in index.seats(seats).left].__getitem__
        elif sort == "fit":
            fitting = set(indexes(fit.fitting(seats)))
            self._key = lambda index: index not in fitting

    def courses(self, found: int) -> list[list[int]]:
        """The found sections, course by course. Words in what a course is called go before
        words in what is said of it."""
        course_of = self._index.course_of
        groups = [list(group) for _, group in groupby(indexes(found), course_of.__getitem__)]
        key = self._key
        if key is not None:
            groups = [sorted(of_course, key=key) for of_course in groups]
            groups.sort(key=lambda group: key(group[0]))
        if self._well:
            groups.sort(key=lambda group: not bits(group) & self._well)
        return groups


def filter_names() -> tuple[str, ...]:
    """The names of all filters, as they stand in addresses."""
    return tuple(f.name for f in fields(Filters))
