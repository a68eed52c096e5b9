"""The index of a term's sections."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

from gremba.core.catalogue.calendar import MINUTES_A_DAY
from gremba.core.catalogue.search.filters import FILTERS, Filter
from gremba.core.catalogue.search.phrases import PhraseBook
from gremba.core.catalogue.search.words import WordIndex
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue

COMPONENTS = ("lecture", "seminar", "studio", "field", "discussion", "lab")
"""In the order in which a course's sections stand."""

Value = TypeVar("Value", str, int)

_SLOT = 10
"""Minutes."""


def _slots_of(section: Section) -> Iterator[int]:
    """The slots of the week, counted from Monday, in which its classes are."""
    for meeting in section.meetings:
        for day in meeting.weekdays:
            begins = day * MINUTES_A_DAY
            yield from range((begins + meeting.start) // _SLOT, (begins + meeting.end - 1) // _SLOT + 1)


def bits(indexes: Iterable[int]) -> int:
    """The bit set of these indexes."""
    marked = bytearray()
    for index in indexes:
        byte = index >> 3
        if byte >= len(marked):
            marked.extend(bytes(byte + 1 - len(marked)))
        marked[byte] |= 1 << (index & 7)
    return int.from_bytes(marked, "little")


def indexes(mask: int) -> list[int]:
    """The indexes in a bit set, ascending."""
    digits = f"{mask:b}"[::-1]
    return [index for index, digit in enumerate(digits) if digit == "1"]


def _in_order(having: dict[str, int], f: Filter) -> dict[str, int]:
    """Values in the filter's own order, if it has one: weekdays, for example."""
    own = {value: having[value] for value in f.always if value in having}
    return own | having


@dataclass(frozen=True, slots=True)
class Seating:
    """What seat figures mean for a term's sections.

    Attributes:
        left: seats left of each section, by place.
        open: the set of sections with a seat left.
        open_or_waitlist: these, and those whose waitlist has room.
    """

    figures: Mapping[int, SeatFigures]
    left: Sequence[int]
    open: int
    open_or_waitlist: int


class SearchIndex:
    """The sections of a term in order of course, component, and reference number, with bit sets by value."""

    def __init__(self, term: TermCatalogue) -> None:
        self.term = term
        self.sections: Sequence[Section] = sorted(
            term.sections,
            key=lambda s: (s.course.key, COMPONENTS.index(s.component), s.reference_number),
        )
        self.index_of = {s.reference_number: k for k, s in enumerate(self.sections)}
        self.everything = (1 << len(self.sections)) - 1
        self.words = WordIndex(term, self.sections)
        self.phrases = PhraseBook(term)
        self.lines: dict[int, Any] = {}
        """What others keep by section, for as long as the catalogue stays as it is."""
        self._seating = Seating({}, [0] * len(self.sections), 0, 0)
        self._indexes_of: dict[int, list[int]] = {}
        for index, section in enumerate(self.sections):
            self._indexes_of.setdefault(section.pool, []).append(index)
        self._in_class = self._who_has(_slots_of)
        self.values = {f.name: _in_order(self._who_has(f.of), f) for f in FILTERS if f.of is not None}
        """For each filter by values of sections, who has which."""

    @cached_property
    def course_of(self) -> Sequence[str]:
        """The course of each section."""
        return [s.course.key for s in self.sections]

    @cached_property
    def earliest(self) -> Sequence[tuple[int, int]]:
        """The first class of each section's week, as weekday and minute; sections without set times come
        last."""
        return [
            min(((d, m.start) for m in s.meetings for d in m.weekdays), default=(7, 0)) for s in self.sections
        ]

    def seats(self, figures: Mapping[int, SeatFigures]) -> Seating:
        """The seating by these figures.

        Kept until other figures are asked about; they must not change in place.
        """
        known = self._seating
        if known.figures is not figures:
            known = self._seating = self._seat(figures, known)
        return known

    def _seat(self, figures: Mapping[int, SeatFigures], before: Seating) -> Seating:
        """Updates only pools with changed figures: in a rush figures change all the time, and few differ."""
        left, anew, seat, room = list(before.left), [], [], []
        for pool, indexes in self._indexes_of.items():
            of_pool = figures.get(pool)
            if of_pool is before.figures.get(pool):
                continue
            anew += indexes
            for index in indexes:
                section = self.sections[index]
                left[index] = 0
                if of_pool is None or section.cancelled:
                    continue
                left[index] = of_pool.left
                if of_pool.left:
                    seat.append(index)
                elif of_pool.waiting < section.waitlist_limit:
                    room.append(index)
        lines, new = ~bits(anew), bits(seat)
        return Seating(
            figures, left, before.open & lines | new, before.open_or_waitlist & lines | new | bits(room)
        )

    def in_class_with(self, sections: Iterable[Section]) -> int:
        """Sections with classes in the hours of these, or within some minutes, whatever their dates: no
        others can conflict."""
        found = 0
        for slot in {slot for section in sections for slot in _slots_of(section)}:
            found |= self._in_class.get(slot, 0)
        return found

    def _who_has(self, of: Callable[[Section], Iterable[Value]]) -> dict[Value, int]:
        found: dict[Value, list[int]] = {}
        for index, section in enumerate(self.sections):
            for value in of(section):
                found.setdefault(value, []).append(index)
        return {value: bits(found[value]) for value in sorted(found)}

    @cached_property
    def with_times(self) -> int:
        """Sections with set times."""
        return bits(k for k, s in enumerate(self.sections) if s.meetings)

    @cached_property
    def with_linked_sections(self) -> int:
        """Sections with linked sections."""
        return bits(k for k, s in enumerate(self.sections) if s.linked_sections)

    @cached_property
    def by_course_number(self) -> dict[str, int]:
        """Sections by course number, such as ``142A``."""
        return self._who_has(lambda s: [s.course.number])

    @cached_property
    def by_earliest(self) -> dict[int, int]:
        """Sections by the minute at which their earliest class starts."""
        return self._who_has(lambda s: [min(m.start for m in s.meetings)] if s.meetings else [])

    @cached_property
    def by_latest(self) -> dict[int, int]:
        """Sections by the minute at which their latest class ends."""
        return self._who_has(lambda s: [max(m.end for m in s.meetings)] if s.meetings else [])
