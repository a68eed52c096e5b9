"""A term's sections, arranged for finding."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import ceil, floor
from typing import Any, TypeVar

from gremba.core.calendar import MINUTES_A_DAY, WEEKDAY_LETTERS
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.search.filters import NO_TIMES, PARTS_OF_DAY
from gremba.core.search.words import WordIndex
from gremba.core.situation import SeatFigures

COMPONENTS = ("lecture", "seminar", "studio", "field", "discussion", "lab")
"""In the order in which a course's sections stand."""

ONLINE = "online"
"""As a campus: sections that meet on none."""


Value = TypeVar("Value", str, int)

_SLOT = 10
"""Minutes."""


def _slots_of(section: Section) -> Iterator[int]:
    """The parts of the week, counted from the beginning of Monday, that its classes touch."""
    for meeting in section.meetings:
        for day in meeting.weekdays:
            begins = day * MINUTES_A_DAY
            yield from range((begins + meeting.start) // _SLOT, (begins + meeting.end - 1) // _SLOT + 1)


def bits(indexes: Iterable[int]) -> int:
    """The set of these places."""
    marked = bytearray()
    for index in indexes:
        byte = index >> 3
        if byte >= len(marked):
            marked.extend(bytes(byte + 1 - len(marked)))
        marked[byte] |= 1 << (index & 7)
    return int.from_bytes(marked, "little")


def indexes(mask: int) -> list[int]:
    """The places in a set, ascending."""
    digits = f"{mask:b}"[::-1]
    return [index for index, digit in enumerate(digits) if digit == "1"]


def credits_of(section: Section) -> list[str]:
    """The figures that the course's credits may be, in steps of one from a half to the next."""
    course = section.course
    between = range(ceil(course.credits_least), floor(course.credits_most) + 1)
    found = {course.credits_least, course.credits_most, *(float(n) for n in between)}
    return [f"{n:g}" for n in sorted(found)]


def days_of(section: Section) -> list[str]:
    """The weekday letters on which it meets, or that it has no set times."""
    met = {d for m in section.meetings for d in m.weekdays}
    return [WEEKDAY_LETTERS[d] for d in sorted(met)] or [NO_TIMES]


def parts_of(section: Section) -> list[str]:
    """The parts of the day in which its classes start."""
    starts = [m.start for m in section.meetings]
    return [p for p, (a, b) in PARTS_OF_DAY.items() if any(a <= s < b for s in starts)]


VALUES: Mapping[str, Callable[[Section], Iterable[str]]] = {
    "subject": lambda s: [s.course.subject],
    "instructor": lambda s: s.instructors,
    "day": days_of,
    "part": parts_of,
    "campus": lambda s: sorted(s.campuses or {s.campus or ONLINE}),
    "delivery": lambda s: [s.delivery],
    "component": lambda s: [s.component],
    "block": lambda s: [s.block.code],
    "credits": credits_of,
    "level": lambda s: [s.course.number[:1]],
    "counts": lambda s: s.course.tags,
}
"""For each filter with a choice of values, those that a section has."""


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
    """Sections in order of course, component and reference number, and who has what."""

    def __init__(self, term: TermCatalogue) -> None:
        self.term = term
        self.sections: Sequence[Section] = sorted(
            term.sections,
            key=lambda s: (s.course.key, COMPONENTS.index(s.component), s.reference_number),
        )
        self.index_of = {s.reference_number: k for k, s in enumerate(self.sections)}
        self.everything = (1 << len(self.sections)) - 1
        self.words = WordIndex(term, self.sections)
        self.lines: dict[int, Any] = {}
        """What others keep by section, for as long as the catalogue stays as it is."""
        self._seating = Seating({}, [0] * len(self.sections), 0, 0)
        self._indexes_of: dict[int, list[int]] = {}
        for index, section in enumerate(self.sections):
            self._indexes_of.setdefault(section.pool, []).append(index)
        self._in_class = self._who_has(_slots_of)
        self.values = {name: self._who_has(of) for name, of in VALUES.items()}

    @cached_property
    def course_of(self) -> Sequence[str]:
        """The course of each section."""
        return [s.course.key for s in self.sections]

    @cached_property
    def earliest(self) -> Sequence[tuple[int, int]]:
        """Of each section the first class of its week, as weekday and minute; those without set
        times come last."""
        return [
            min(((d, m.start) for m in s.meetings for d in m.weekdays), default=(7, 0)) for s in self.sections
        ]

    def seats(self, figures: Mapping[int, SeatFigures]) -> Seating:
        """How the sections stand by these figures.

        Kept until other figures are asked about; they must not change in place.
        """
        known = self._seating
        if known.figures is not figures:
            known = self._seating = self._seat(figures, known)
        return known

    def _seat(self, figures: Mapping[int, SeatFigures], before: Seating) -> Seating:
        """Only pools whose figures are others than before are looked at: in a rush there are new
        figures all the time, and few of them differ."""
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
        """The sections that have classes at the hours of these, or within some minutes of them,
        whatever the dates: no other can clash with them."""
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
        """Sections that have set times."""
        return bits(k for k, s in enumerate(self.sections) if s.meetings)

    @cached_property
    def with_companions(self) -> int:
        """Sections that are taken together with others of their course."""
        return bits(k for k, s in enumerate(self.sections) if s.companions)

    @cached_property
    def no_textbook_cost(self) -> int:
        """Sections whose books cost nothing."""
        return bits(k for k, s in enumerate(self.sections) if s.no_textbook_cost)

    @cached_property
    def by_course_number(self) -> dict[str, int]:
        """Sections by the number of their course, such as ``142A``."""
        return self._who_has(lambda s: [s.course.number])

    @cached_property
    def by_earliest(self) -> dict[int, int]:
        """Sections by the minute at which their earliest class of any day starts."""
        return self._who_has(lambda s: [min(m.start for m in s.meetings)] if s.meetings else [])

    @cached_property
    def by_latest(self) -> dict[int, int]:
        """Sections by the minute at which their latest class of any day ends."""
        return self._who_has(lambda s: [max(m.end for m in s.meetings)] if s.meetings else [])
