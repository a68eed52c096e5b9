"""The facts a decision rests on: one student, one term, at one moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from gremba.core.account.charges import ChargeEvent, ChargeKind
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.changes import Change, Kind
from gremba.core.states import ClearanceKind
from gremba.core.students.student import Hold, Student
from gremba.core.students.transcript import Record
from gremba.core.waitlists.entry import WaitlistEntry
from gremba.core.windows.opening import Window


@dataclass(slots=True)
class Registration:
    """A section the student is registered for.

    Attributes:
        reserved_seats: the reserved seats of the pool that the seat was taken from; None for an open seat.
        registered_on: the college's own date of it; None where it is not known.
    """

    section: Section
    credits: float
    grading: str = "standard"
    reserved_seats: int | None = None
    registered_on: date | None = None


def earned_of(record: Record, catalogue: TermCatalogue) -> float:
    """Credits earned on a record; see :attr:`Situation.credits_earned`."""
    courses = catalogue.courses
    earned: dict[object, float] = {}
    for index, attempt in enumerate(record.attempts):
        if record.scale.earns_credit(attempt.grade):
            course = courses.get(attempt.course)
            key: object = attempt.course if course is None else course.same_as
            if course is not None and course.earns_each_time:
                key = index
            earned[key] = max(earned.get(key, 0.0), attempt.credits)
    return sum(earned.values())


@dataclass(slots=True)
class Situation:
    """Everything a decision looks at besides the request and the time.

    Attributes:
        seats: figures of every pool that the request touches, by pool.
        past: everything that has happened to registrations of this term, where there was more than
            registering for what is held.
        clearance_open: what the student has still to do before registering.
        permission_codes: the permission codes that the request names and that exist, by code.
        grants: what somebody has said yes to for this student and what is not used yet, by the id of the
            section: no code need be named for it.
        waitlist_entries: the student's places on waitlists.
        seat_held_for: ids of sections of which a seat is held for the student.
    """

    catalogue: TermCatalogue
    student: Student
    record: Record = Record()
    windows: tuple[Window, ...] = ()
    holds: tuple[Hold, ...] = ()
    held: tuple[Registration, ...] = ()
    seats: Mapping[int, SeatFigures] = field(default_factory=dict)
    past: tuple[ChargeEvent, ...] = ()
    clearance_open: tuple[ClearanceKind, ...] = ()
    permission_codes: Mapping[str, PermissionCode] = field(default_factory=dict)
    grants: Mapping[int, tuple[PermissionCode, ...]] = field(default_factory=dict)
    waitlist_entries: tuple[WaitlistEntry, ...] = ()
    seat_held_for: frozenset[int] = frozenset()
    _earned: float | None = field(default=None, init=False, repr=False, compare=False)

    @property
    def credits(self) -> float:
        """Registered credits; waitlisted sections do not count."""
        return sum(h.credits for h in self.held)

    @property
    def charge_events(self) -> tuple[ChargeEvent, ...]:
        """The history of the registrations, as far as charges depend on it."""
        if self.past:
            return self.past
        registered = ChargeKind.REGISTERED
        return tuple(
            [ChargeEvent(registered, h.section, h.credits, h.grading, h.registered_on) for h in self.held]
        )

    def entries_touched_by(self, change: Change) -> list[WaitlistEntry]:
        """The waitlist entries that would give up what a change drops."""
        number = {Kind.DROP: change.number, Kind.SWAP: change.in_exchange}.get(change.kind)
        return [
            p for p in self.waitlist_entries if p.in_exchange and p.in_exchange.reference_number == number
        ]

    @property
    def class_standing(self) -> str:
        """The class standing by credits earned."""
        return self.catalogue.policy.class_standing(self.credits_earned)

    @property
    def credits_earned(self) -> float:
        """Credits earned before this term. A course counts once under any number, with the larger credits,
        unless it earns them each time."""
        if self._earned is None:
            self._earned = earned_of(self.record, self.catalogue)
        return self._earned

    @property
    def credit_limit(self) -> float:
        """The student's own limit, or their standing's."""
        if self.student.credit_limit is not None:
            return self.student.credit_limit
        limits = self.catalogue.policy.credit_limits
        return limits.get(self.student.standing, min(limits.values()))
