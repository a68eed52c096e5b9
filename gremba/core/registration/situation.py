"""The facts a decision rests on: one student, one term, as of one moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from enum import StrEnum

from gremba.core.account.charges import ChargeEvent, ChargeKind
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.changes import Change, Kind
from gremba.core.states import ClearedBy
from gremba.core.students.transcript import Record


@dataclass(slots=True)
class Student:
    """Who the student is.

    Attributes:
        credit_limit: a limit of their own that an advisor has set; None for the standing's.
        rate_class: by which the tariff charges.
        advisor: the advisor's name, or "".
        receives_aid: whether the load counts for financial aid.
    """

    id: int
    name: str
    program: str = ""
    cohort: str = ""
    campus: str = ""
    standing: str = "good"
    credit_limit: float | None = None
    residence: str = ""
    rate_class: str = ""
    advisor: str = ""
    receives_aid: bool = False


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
    cleared_by: ClearedBy = ClearedBy.OFFICE
    amount_cents: int | None = None
    id: int = 0


class ClearanceKind(StrEnum):
    """What everybody has to have done before registering for a term."""

    AGREEMENT = "agreement"
    DETAILS = "details"
    SURVEY = "survey"
    ORIENTATION = "orientation"
    RELEASE = "release"


@dataclass(frozen=True, slots=True)
class Consent:
    """What somebody lets one student, or whoever has its code, do in one section, once.

    Attributes:
        section: id of the section it is for.
        student: id of the one student it is for; None for anybody.
        waives: what it lifts, see :class:`Waiver`.
        used: it has been used already.
        also: ids of others that are used up with it, where several people have said yes to different things.
    """

    id: int
    code: str
    section: int
    waives: frozenset[str]
    by: str
    student: int | None = None
    expires_at: datetime | None = None
    used: bool = False
    also: tuple[int, ...] = ()


@dataclass(slots=True)
class Window:
    """A time in which a student may register."""

    opens_at: datetime
    closes_at: datetime


@dataclass(frozen=True, slots=True)
class WaitlistEntry:
    """A student's entry on a waitlist.

    Attributes:
        offered: a seat is held for the student.
        in_exchange: the registered section that is given up in the step that gives the seat.
    """

    id: int
    section: Section
    offered: bool = False
    in_exchange: Section | None = None


@dataclass(slots=True)
class Registration:
    """A section the student is registered for.

    Attributes:
        reserved_block: the reserved block of the pool that the seat was taken from; None for an open seat.
        registered_on: the college's own date of it; None where it is not known.
    """

    section: Section
    credits: float
    grading: str = "standard"
    reserved_block: int | None = None
    registered_on: date | None = None


@dataclass(frozen=True, slots=True)
class ReservedBlock:
    """Seats of a pool that are kept for a group until a date.

    Attributes:
        kind: "cohort", "program", "campus" or "residence".
        used: seats of the block that members of the group have, or are offered.
        release_on: the first day on which what is left is open to all; None for never.
    """

    id: int
    kind: str
    value: str
    seats: int
    used: int = 0
    release_on: date | None = None

    @property
    def left(self) -> int:
        """Seats of the block not taken yet."""
        return max(0, self.seats - self.used)

    def is_in_force(self, on: date) -> bool:
        """Whether it is still kept on that day."""
        return self.release_on is None or on < self.release_on

    def is_for(self, student: Student) -> bool:
        """Whether the student belongs to the group."""
        return str(getattr(student, self.kind)) == self.value


@dataclass(slots=True)
class SeatFigures:
    """A seat pool at this moment.

    Attributes:
        beyond: seats that were given beyond the limit, by consent or before it was lowered.
        waiting: students on the waitlist without an offer.
        reserved_blocks: of its seats.
    """

    limit: int
    taken: int
    offered: int = 0
    beyond: int = 0
    waiting: int = 0
    reserved_blocks: tuple[ReservedBlock, ...] = ()

    @property
    def left(self) -> int:
        """Seats neither taken nor offered, never below 0."""
        return max(0, self.limit - self.taken - self.offered)

    def has_open_for(self, many: int) -> bool:
        """Whether so many could each have a seat that is open to all, with nobody waiting for it."""
        free = self.limit - self.taken - self.offered
        return free >= many and not self.waiting and not self.reserved_blocks

    def reserved(self, on: date) -> int:
        """Of the seats left, those that are kept for some group on that day."""
        return min(self.left, sum(p.left for p in self.reserved_blocks if p.is_in_force(on)))

    def offering(self, many: int, reserved_block: int | None = None) -> SeatFigures:
        """The figures when so many more are offered to those who wait (fewer, if negative), of a
        reserved block or open."""
        blocks = tuple(
            replace(p, used=p.used + many) if p.id == reserved_block else p for p in self.reserved_blocks
        )
        return replace(self, offered=max(0, self.offered + many), reserved_blocks=blocks)

    def after(self, taken: int, reserved_block: int | None = None) -> SeatFigures:
        """The figures when so many more are taken (fewer, if negative), of a reserved block or open."""
        blocks = self.reserved_blocks
        if reserved_block is not None:
            blocks = tuple(replace(p, used=p.used + taken) if p.id == reserved_block else p for p in blocks)
        total = self.taken + taken
        over = max(0, total + self.offered - self.limit)
        beyond = max(self.beyond, over) if taken > 0 else min(self.beyond, over)
        return SeatFigures(self.limit, total, self.offered, beyond, self.waiting, blocks)


def earned_of(record: Record, catalogue: TermCatalogue) -> float:
    """Credits that a record has earned; see :attr:`Situation.credits_earned`."""
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
        consents: the consent codes that the request names and that exist, by code.
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
    consents: Mapping[str, Consent] = field(default_factory=dict)
    grants: Mapping[int, tuple[Consent, ...]] = field(default_factory=dict)
    waitlist_entries: tuple[WaitlistEntry, ...] = ()
    seat_held_for: frozenset[int] = frozenset()
    _earned: float | None = field(default=None, init=False, repr=False, compare=False)

    @property
    def credits(self) -> float:
        """Credits registered; places on waitlists do not count."""
        return sum(h.credits for h in self.held)

    @property
    def charge_events(self) -> tuple[ChargeEvent, ...]:
        """The history of the registrations, as far as it matters for what they cost."""
        if self.past:
            return self.past
        registered = ChargeKind.REGISTERED
        return tuple(
            [ChargeEvent(registered, h.section, h.credits, h.grading, h.registered_on) for h in self.held]
        )

    def entries_touched_by(self, change: Change) -> list[WaitlistEntry]:
        """The places that would give up what a change gives up."""
        number = {Kind.DROP: change.number, Kind.SWAP: change.in_exchange}.get(change.kind)
        return [
            p for p in self.waitlist_entries if p.in_exchange and p.in_exchange.reference_number == number
        ]

    @property
    def class_standing(self) -> str:
        """The class standing, by credits earned."""
        return self.catalogue.policy.class_standing(self.credits_earned)

    @property
    def credits_earned(self) -> float:
        """Credits earned before this term. A course counts once under whatever number, with the
        larger credits, unless it earns them each time it is taken."""
        if self._earned is None:
            self._earned = earned_of(self.record, self.catalogue)
        return self._earned

    @property
    def credit_limit(self) -> float:
        """The student's own limit, else the one of their standing."""
        if self.student.credit_limit is not None:
            return self.student.credit_limit
        limits = self.catalogue.policy.credit_limits
        return limits.get(self.student.standing, min(limits.values()))
