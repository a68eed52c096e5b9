"""The facts a decision rests on: one student, one term, as of one moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.record import Record


@dataclass(frozen=True, slots=True)
class Student:
    """Who the student is.

    Attributes:
        credit_limit: a limit of their own that an advisor has set; None for the standing's.
    """

    id: int
    name: str
    program: str = ""
    cohort: str = ""
    campus: str = ""
    standing: str = "good"
    credit_limit: float | None = None


@dataclass(frozen=True, slots=True)
class Hold:
    """Placed by an office; stops some kinds of change until it is lifted.

    Attributes:
        stops: any of "add", "wait", "swap", "drop".
        cleared_by: "student" or "office".
    """

    reason: str
    office: str
    contact: str
    stops: frozenset[str]
    cleared_by: str = "office"


@dataclass(frozen=True, slots=True)
class Window:
    """A time in which a student may register."""

    opens_at: datetime
    closes_at: datetime


@dataclass(frozen=True, slots=True)
class Held:
    """A section the student is registered for."""

    section: Section
    credits: float
    grading: str = "standard"


@dataclass(frozen=True, slots=True)
class SeatFigures:
    """A seat pool at this moment.

    Attributes:
        beyond: seats that were given beyond the limit, by consent or before it was lowered.
        waiting: students on the waitlist without an offer.
    """

    limit: int
    taken: int
    offered: int = 0
    beyond: int = 0
    waiting: int = 0

    @property
    def left(self) -> int:
        """Seats neither taken nor offered, never below 0."""
        return max(0, self.limit - self.taken - self.offered)

    def after(self, taken: int) -> SeatFigures:
        """The figures when so many more are taken (fewer, if negative)."""
        return SeatFigures(self.limit, self.taken + taken, self.offered, self.beyond, self.waiting)


@dataclass(frozen=True, slots=True)
class Situation:
    """Everything a decision looks at besides the request and the time.

    Attributes:
        seats: figures of every pool that the request touches, by pool.
        kept_cents: what earlier drops of this term left to pay.
    """

    catalogue: TermCatalogue
    student: Student
    record: Record = Record()
    windows: tuple[Window, ...] = ()
    holds: tuple[Hold, ...] = ()
    held: tuple[Held, ...] = ()
    seats: Mapping[int, SeatFigures] = field(default_factory=dict)
    kept_cents: int = 0

    @property
    def credits(self) -> float:
        """Credits registered; places on waitlists do not count."""
        return sum(h.credits for h in self.held)

    @property
    def credit_limit(self) -> float:
        """The student's own limit, else the one of their standing."""
        if self.student.credit_limit is not None:
            return self.student.credit_limit
        limits = self.catalogue.policy.credit_limits
        return limits.get(self.student.standing, min(limits.values()))
