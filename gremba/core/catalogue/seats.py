"""The seats of a section: how many are taken, offered and reserved."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from gremba.core.students.student import Student


@dataclass(frozen=True, slots=True)
class ReservedSeats:
    """Seats of a pool that are kept for a group until a date.

    Attributes:
        kind: "cohort", "program", "campus" or "residence".
        used: seats of these that members of the group have, or are offered.
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
        """Seats of these not taken yet."""
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
        reserved_seats: of its seats.
    """

    limit: int
    taken: int
    offered: int = 0
    beyond: int = 0
    waiting: int = 0
    reserved_seats: tuple[ReservedSeats, ...] = ()

    @property
    def left(self) -> int:
        """Seats neither taken nor offered, never below 0."""
        return max(0, self.limit - self.taken - self.offered)

    def has_open_for(self, many: int) -> bool:
        """Whether so many could each have a seat that is open to all, with nobody waiting for it."""
        free = self.limit - self.taken - self.offered
        return free >= many and not self.waiting and not self.reserved_seats

    def reserved(self, on: date) -> int:
        """Of the seats left, those that are kept for some group on that day."""
        return min(self.left, sum(p.left for p in self.reserved_seats if p.is_in_force(on)))

    def offering(self, many: int, reserved_seats: int | None = None) -> SeatFigures:
        """The figures when so many more are offered to those who wait (fewer, if negative), of a
        reserved seats or open."""
        reserved = tuple(
            replace(p, used=p.used + many) if p.id == reserved_seats else p for p in self.reserved_seats
        )
        return replace(self, offered=max(0, self.offered + many), reserved_seats=reserved)

    def after(self, taken: int, reserved_seats: int | None = None) -> SeatFigures:
        """The figures when so many more are taken (fewer, if negative), of reserved seats or open."""
        reserved = self.reserved_seats
        if reserved_seats is not None:
            reserved = tuple(
                replace(p, used=p.used + taken) if p.id == reserved_seats else p for p in reserved
            )
        total = self.taken + taken
        over = max(0, total + self.offered - self.limit)
        beyond = max(self.beyond, over) if taken > 0 else min(self.beyond, over)
        return SeatFigures(self.limit, total, self.offered, beyond, self.waiting, reserved)
