"""A Timetables question: courses, times to keep free, and an order."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum

MOST_WANTS = 12
"""So many courses, or choices of courses, at the most in one question."""

MOST_IN_ALL = 16
"""So many courses in all, where some are wanted of a choice."""

MOST_OF_CHOICE = 60
"""So many courses at the most among which one wants some."""

MOST_KEPT_FREE = 20

MOST_CRITERIA = 3


class SeatSwitch(StrEnum):
    """Which sections are considered, by their seats."""

    LEFT = "left"
    """Only with a seat left for this student."""
    WAITLIST = "waitlist"
    """Also with room on the waitlist."""
    ALL = "all"


class Criterion(StrEnum):
    """What makes one timetable better than another."""

    STARTS_LATE = "starts late"
    ENDS_EARLY = "ends early"
    DAYS_FREE = "days free"
    FEW_GAPS = "few gaps"
    SHORT_DAYS = "short days"
    FEW_WAYS = "few ways"
    SEATS_LEFT = "seats left"
    STARRED = "starred"
    FEW_CHANGES = "few changes"


@dataclass(frozen=True, slots=True)
class Narrowing:
    """Which sections of a want are acceptable; all if nothing is named.

    Attributes:
        without: reference numbers that will not do.
        only: reference numbers of which one is to be among them.
        instructors: surnames or whole names.
        campuses: codes; the campus of each class must be among them.
        deliveries: see :class:`gremba.core.states.Delivery`.
        sessions: codes of the sessions in which it may run.
    """

    without: frozenset[str] = frozenset()
    only: frozenset[str] = frozenset()
    instructors: frozenset[str] = frozenset()
    campuses: frozenset[str] = frozenset()
    deliveries: frozenset[str] = frozenset()
    sessions: frozenset[str] = frozenset()

    def __bool__(self) -> bool:
        return any((self.without, self.only, self.instructors, self.campuses, self.deliveries, self.sessions))


@dataclass(frozen=True, slots=True)
class Want:
    """A course, or some of several.

    Attributes:
        courses: keys, such as "SOIL 240"; one, or those to choose among.
        tag: instead of courses, what they are to count toward.
        count: how many of them are wanted.
        is_needed: else it is taken if it fits.
    """

    courses: tuple[str, ...] = ()
    tag: str = ""
    count: int = 1
    is_needed: bool = True
    narrowing: Narrowing = Narrowing()

    @property
    def is_choice(self) -> bool:
        """Whether there is a choice among courses."""
        return bool(self.tag) or len(self.courses) > 1


@dataclass(frozen=True, slots=True)
class KeptFree:
    """Hours of some weekdays to keep free of classes.

    Attributes:
        weekdays: Monday is 0.
        start: minutes since midnight, included.
        end: minutes since midnight, not included.
        first: the first date on which they are kept free; None for the term's own.
        is_must: else they are kept free where that can be had.
    """

    weekdays: tuple[int, ...]
    start: int
    end: int
    label: str = ""
    first: date | None = None
    last: date | None = None
    is_must: bool = True


@dataclass(frozen=True, slots=True)
class Question:
    """A question to Timetables.

    Attributes:
        wants: in order of priority.
        may_move: reference numbers of sections registered that may be moved to others of their
            course; all else that is registered stays as it is.
        keeps: reference numbers that every timetable is to have.
        criteria: the first decides, the next breaks ties.
        starred: reference numbers that the student has marked.
    """

    wants: tuple[Want, ...] = ()
    kept_free: tuple[KeptFree, ...] = ()
    may_move: frozenset[str] = frozenset()
    keeps: frozenset[str] = frozenset()
    criteria: tuple[Criterion, ...] = ()
    seats: SeatSwitch = SeatSwitch.LEFT
    no_tight_ways: bool = False
    starred: frozenset[str] = frozenset()

    def with_stars(self, numbers: Iterable[str]) -> Question:
        """The question with the student's starred sections."""
        return replace(self, starred=frozenset(numbers))
