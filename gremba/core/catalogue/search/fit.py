"""Decides whether a section fits a schedule: time conflicts, dates included, and linked sections."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

from gremba.core.catalogue.search.index import SearchIndex, bits, indexes
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.outcome import Decision
from gremba.core.registration.rules.time import tight_way
from gremba.core.registration.schedule import stopped_for_now

Seats = Mapping[int, SeatFigures]


@dataclass(frozen=True, slots=True)
class LinkedSectionFit:
    """How many linked sections of a component have a seat and fit as well."""

    component: str
    fitting: int
    all: int


@dataclass(frozen=True, slots=True)
class Fit:
    """How a section fits a schedule.

    Attributes:
        clashes: sections of the week that it clashes with.
        linked_sections: for each component that is to be taken with it and is not in the week.
        tight: the section of the week, the minutes there are and those that the way takes.
    """

    fits: bool
    clashes: tuple[Section, ...] = ()
    linked_sections: tuple[LinkedSectionFit, ...] = ()
    tight: tuple[Section, int, int] | None = None


def week_ahead(decision: Decision) -> tuple[Section, ...]:
    """The schedule a cart leads to, including what is only blocked by a hold or the like that is going to
    be cleared."""
    held = [h.section for h in decision.held]
    for outcome in decision.outcomes:
        wants = outcome.change.kind in (Kind.ADD, Kind.SWAP)
        section = outcome.section
        if wants and section is not None and section not in held and stopped_for_now(outcome):
            held.append(section)
    return tuple(held)


def is_replaced(by: Section, held: Section) -> bool:
    """Whether taking a section means giving up another: the same course, or a linked section that does not
    go with it."""
    if by.stands_for_same(held):
        return True
    return (
        held.course is by.course
        and held.component != by.component
        and not (by.course.by_topic and held.topic != by.topic)
        and held.reference_number not in by.linked_sections
    )


class WeekFit:
    """Judges sections against a schedule, without what each would replace."""

    def __init__(self, index: SearchIndex, week: Iterable[Section]) -> None:
        self._index = index
        self.week: Sequence[Section] = tuple(week)
        self._mask = self._with_travel = 0
        for section in self.week:
            self._mask |= section.week
            self._with_travel |= index.term.week_with_travel(section)
        self._courses = {key for s in self.week for key in s.course.same_as}
        self._fitting: tuple[Seats, int] | None = None

    def _beside(self, section: Section) -> Sequence[Section]:
        """What would remain of the schedule."""
        if self._courses.isdisjoint(section.course.same_as):
            return self.week
        return [s for s in self.week if s is not section and not is_replaced(section, s)]

    @cached_property
    def _by_time(self) -> int:
        """The sections without a time conflict, whatever their linked sections."""
        sections = self._index.sections
        near = indexes(self._index.in_class_with(self.week))
        return self._index.everything & ~bits(
            k for k in near if _clashes(sections[k], self._beside(sections[k]))
        )

    def fitting(self, seats: Seats) -> int:
        """The set of sections that fit; cached until the figures change, which must not change in place."""
        known = self._fitting
        if known is None or known[0] is not seats:
            known = self._fitting = seats, self._find_fitting(seats)
        return known[1]

    def _find_fitting(self, seats: Seats) -> int:
        asked = self._by_time & self._index.with_linked_sections
        sections = self._index.sections
        return self._by_time & ~asked | bits(
            k for k in indexes(asked) if all(c.fitting for c in self._linked_sections(sections[k], seats))
        )

    def judge(self, section: Section, seats: Seats) -> Fit:
        """How one section fits the schedule."""
        beside = self._beside(section)
        clashes = tuple(_clashes(section, beside)) if section.week & self._mask else ()
        linked_sections = tuple(self._linked_sections(section, seats))
        fits = not clashes and all(c.fitting for c in linked_sections)
        return Fit(fits, clashes, linked_sections, None if clashes else self._tight(section, beside))

    def _linked_sections(self, section: Section, seats: Seats) -> list[LinkedSectionFit]:
        if not section.linked_sections:
            return []
        beside = self._beside(section)
        have = {s.component for s in beside if s.reference_number in section.linked_sections}
        named = {
            component: options
            for component, options in self._index.term.linked_sections_of(section).items()
            if component not in have
        }
        fitting = {
            component: [
                o
                for o in options
                if not o.cancelled
                and _has_seat(o, seats)
                and o.clash_with(section) is None
                and not _clashes(o, [s for s in beside if not is_replaced(o, s)])
            ]
            for component, options in named.items()
        }
        if len(fitting) > 1 and not any(_go_together(c) for c in product(*fitting.values())):
            fitting = {component: [] for component in fitting}
        return [LinkedSectionFit(c, len(fitting[c]), len(options)) for c, options in named.items()]

    def _tight(self, section: Section, beside: Iterable[Section]) -> tuple[Section, int, int] | None:
        if not (self._index.term.week_with_travel(section) & self._mask or self._with_travel & section.week):
            return None
        for other in beside:
            tight = tight_way(section, other, self._index.term)
            if tight is not None:
                return other, tight[2], tight[3]
        return None


def _clashes(section: Section, others: Iterable[Section]) -> list[Section]:
    return [o for o in others if section.clash_with(o) is not None]


def _go_together(sections: Sequence[Section]) -> bool:
    return all(
        one.clash_with(other) is None for index, one in enumerate(sections) for other in sections[index + 1 :]
    )


def _has_seat(section: Section, seats: Seats) -> bool:
    figures = seats.get(section.pool)
    return figures is not None and figures.left > 0
