"""Finds the sections that meet a set of filters, and counts every value of every filter."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import reduce
from itertools import groupby
from operator import or_
from typing import Any

from gremba.core.catalogue.search.filters import (
    BY_NAME,
    FILTERS,
    MOST_WORDS,
    NO_TIMES,
    SORTS,
    YES,
    Chosen,
    Filter,
    Filters,
    Takes,
    number_patterns,
)
from gremba.core.catalogue.search.fit import Seats, WeekFit
from gremba.core.catalogue.search.index import SearchIndex, bits, indexes
from gremba.core.catalogue.search.phrases import Understood
from gremba.core.catalogue.search.words import Match
from gremba.core.wording import clock_time, listed


@dataclass(frozen=True, slots=True)
class Count:
    """The number of current results with a value, ignoring the filter's own choice."""

    value: str
    sections: int


@dataclass(frozen=True, slots=True)
class Found:
    """Search results.

    Attributes:
        courses: places in the index, in the order wanted, those of one course together.
        counts: for each filter with a choice of values.
        notes: what of the filters could not be followed, in sentences.
        loosen: where nothing was found: filters without which something would be, most first.
        read_as: words that no section holds, with those they were taken for.
        understood: plain words that were read as filters.
    """

    courses: Sequence[Sequence[int]]
    counts: Mapping[str, tuple[Count, ...]]
    notes: tuple[str, ...] = ()
    loosen: tuple[Count, ...] = ()
    read_as: Mapping[str, tuple[str, ...]] | None = None
    understood: Understood = Understood((), "", "")

    @property
    def total(self) -> int:
        """The number of sections."""
        return sum(len(sections) for sections in self.courses)


def find(index: SearchIndex, wanted: Filters, seats: Seats, fit: WeekFit) -> Found:
    """Find sections in memory.

    Args:
        seats: figures for display, of all pools.
        fit: judges against the week of whoever looks; an empty one for nobody in particular.
    """
    own, notes = _followed(index, wanted)
    filters, understood = with_phrases(index, own)
    match = index.words.match(filters.text("words"))
    masks = _Masks(index, filters, seats, fit, match)
    met = {name: masks.of(BY_NAME[name]) for name in filters.active()}
    found = _all_of(index.everything, met.values())
    without = {name: _all_of(index.everything, [m for n, m in met.items() if n != name]) for name in met}
    counts = {
        f.name: tuple(
            Count(value, (without.get(f.name, found) & mask).bit_count())
            for value, mask in masks.values(f.name).items()
        )
        for f in FILTERS
        if f.has_values
    }
    loosen = [] if found else _loosen(index, own, seats, fit)
    order = _Order(index, filters.sort, seats, fit, match.well if filters.text("words") else 0)
    return Found(order.courses(found), counts, tuple(notes), tuple(loosen), match.read_as, understood)


def _loosen(index: SearchIndex, own: Filters, seats: Seats, fit: WeekFit) -> list[Count]:
    """Filters without which something would be found, most first; phrases count with the words."""
    ways = []
    for name in own.active():
        filters, _ = with_phrases(index, own.but(**{name: None}))
        masks = _Masks(index, filters, seats, fit, index.words.match(filters.text("words")))
        found = _all_of(index.everything, [masks.of(BY_NAME[n]) for n in filters.active()])
        if found:
            ways.append(Count(name, found.bit_count()))
    return sorted(ways, key=lambda c: -c.sections)


def with_phrases(index: SearchIndex, filters: Filters) -> tuple[Filters, Understood]:
    """The filters including what phrases among the words mean. Values already chosen stay; for a
    single-valued filter they win."""
    # Two numbers would be an either-or: what is typed beside one is looked for as words.
    typed = [name for name in ("number",) if filters.text(name)]
    understood = index.phrases.read(filters.text("words"), typed)
    read: dict[str, Chosen] = {}
    for reading in understood.readings:
        for name, value in reading.meanings:
            takes = BY_NAME[name].takes
            if takes in (Takes.ANY, Takes.FREE):
                before = read.get(name, filters.values(name))
                read[name] = tuple(dict.fromkeys((*_several(before), value)))
            elif takes is Takes.MINUTE:
                if filters.minute(name) is None:
                    read[name] = int(value)
            elif takes is Takes.YES:
                read[name] = True
            elif takes is Takes.TEXT:
                read[name] = f"{read.get(name, filters.text(name))} {value}".strip()
            elif not filters.values(name):
                read[name] = value
    return (filters.but(words=understood.rest, **read) if read else filters), understood


def _several(chosen: Chosen) -> tuple[str, ...]:
    return chosen if isinstance(chosen, tuple) else (str(chosen),)


def _all_of(everything: int, masks: Iterable[int]) -> int:
    found = everything
    for mask in masks:
        found &= mask
    return found


def _followed(index: SearchIndex, wanted: Filters) -> tuple[Filters, list[str]]:
    """The filters without values unknown in this term, and a sentence about each."""
    notes: list[str] = []
    meant: dict[str, Chosen | None] = {}
    for f in FILTERS:
        if not f.has_values:
            continue
        chosen = wanted.values(f.name)
        known = index.values.get(f.name, {})
        strange = [v for v in chosen if v not in known and v not in f.always and f.takes is not Takes.YES]
        if not strange:
            continue
        if f.takes is Takes.ONE:
            notes.append(f"Left aside: {f.called} can be {listed(f.always, 'or')}.")
            meant[f.name] = None
        else:
            shown = listed([f"“{v[:40]}”" for v in strange[:3]])
            notes.append(f"Left aside: {shown} is no {f.called} of this term.")
            meant[f.name] = tuple(v for v in chosen if v not in strange)
    sort = wanted.sort
    if sort not in SORTS:
        notes.append(f"Results can be sorted by {listed(tuple(SORTS), 'or')}.")
        sort = "course"
    for name in ("words", "number"):
        if len(wanted.text(name)) > MOST_WORDS:
            notes.append(f"Only the first {MOST_WORDS} characters were looked for.")
            meant[name] = wanted.text(name)[:MOST_WORDS]
    number = wanted.text("number")[:MOST_WORDS]
    patterns, strange = number_patterns(number)
    if strange:
        shown = listed([f"“{piece[:20]}”" for piece in strange[:3]])
        what = "Left aside" if patterns else "No course has this number"
        notes.append(
            f"{what}: {shown}. A course number has figures, such as 142 or 142A; ? stands "
            "for one figure and * for any that follow, as in 1*."
        )
    if not patterns and not strange:
        meant["number"] = None
    begin, end = wanted.minute("time_from"), wanted.minute("time_to")
    if begin is not None and end is not None and begin >= end:
        notes.append(
            f"No class lies between {clock_time(begin)} and {clock_time(end)}: the earliest time "
            "must be before the latest."
        )
    return wanted.but(sort, **meant), notes


class _Masks:
    """The sets of sections that match the filters."""

    def __init__(
        self, index: SearchIndex, filters: Filters, seats: Seats, fit: WeekFit, match: Match
    ) -> None:
        self._index = index
        self._filters = filters
        self._seats = seats
        self._fit = fit
        self._match = match

    def of(self, f: Filter) -> int:
        """The sections that match a filter."""
        if not f.has_values:
            return _BESIDE_VALUES[f.name](self)
        chosen, values = self._filters.values(f.name), self.values(f.name)
        if f.takes is Takes.FREE:
            others = _any_of(mask for value, mask in values.items() if value not in chosen)
            return self._index.with_times & ~others | self._without_times()
        return _any_of(values.get(v, 0) for v in chosen)

    def values(self, name: str) -> Mapping[str, int]:
        """The sections with each value of a filter."""
        return self._index.values[name] if name in self._index.values else _OF_THE_MOMENT[name](self)

    def words(self) -> int:
        """Sections that match the words."""
        return self._match.found

    def course_number(self) -> int:
        """Sections of courses with these numbers."""
        patterns, _ = number_patterns(self._filters.text("number"))
        return _any_of(
            mask
            for number, mask in self._index.by_course_number.items()
            if any(p.fullmatch(number) for p in patterns)
        )

    def time_from(self) -> int:
        """Sections without a class that starts earlier."""
        minute = self._filters.minute("time_from") or 0
        timed = _any_of(m for start, m in self._index.by_earliest.items() if start >= minute)
        return timed | self._without_times()

    def time_to(self) -> int:
        """Sections without a class that ends later."""
        minute = self._filters.minute("time_to") or 0
        timed = _any_of(m for end, m in self._index.by_latest.items() if end <= minute)
        return timed | self._without_times()

    def among(self) -> int:
        """Sections with these reference numbers."""
        known = (self._index.index_of.get(n) for n in self._filters.values("among"))
        return bits(k for k in known if k is not None)

    def seats(self) -> Mapping[str, int]:
        """Sections with a seat, or with room on the waitlist."""
        seating = self._index.seats(self._seats)
        return {"open": seating.open, "waitlist": seating.open_or_waitlist}

    def fits(self) -> Mapping[str, int]:
        """Sections that fit the schedule."""
        return {YES: self._fit.fitting(self._seats)}

    def _without_times(self) -> int:
        """Sections without set times meet at no excluded time: they pass, unless days are chosen by name
        and they are not."""
        timeless = self._index.everything & ~self._index.with_times
        return timeless if NO_TIMES in self._filters.values("day") else 0


_BESIDE_VALUES: Mapping[str, Callable[[_Masks], int]] = {
    "words": _Masks.words,
    "number": _Masks.course_number,
    "time_from": _Masks.time_from,
    "time_to": _Masks.time_to,
    "among": _Masks.among,
}
"""Of filters without values: who meets them."""

_OF_THE_MOMENT: Mapping[str, Callable[[_Masks], Mapping[str, int]]] = {
    "seats": _Masks.seats,
    "fits": _Masks.fits,
}
"""Of filters whose values are none of the section's own: who has which now."""


def _any_of(masks: Iterable[int]) -> int:
    return reduce(or_, masks, 0)


class _Order:
    """The order of results: courses by their best section, and their sections."""

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
        """The sections found, by course. Matches in a course's name come before matches in its
        description."""
        course_of = self._index.course_of
        groups = [list(group) for _, group in groupby(indexes(found), course_of.__getitem__)]
        key = self._key
        if key is not None:
            groups = [sorted(of_course, key=key) for of_course in groups]
            groups.sort(key=lambda group: key(group[0]))
        if self._well:
            groups.sort(key=lambda group: not bits(group) & self._well)
        return groups
