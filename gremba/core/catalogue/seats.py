"""The seats of a section: how many are taken, offered and reserved."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from gremba.core.students.student import Student


@dataclass(frozen=True, slots=True)
class ReservedSeats:
    """Seats of a pool reserved for a group until a date.

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
        """Reserved seats not taken yet."""
        return max(0, self.seats - self.used)

    def is_in_force(self, on: date) -> bool:
        """Whether they are still reserved on that day."""
        return self.release_on is None or on < self.release_on

    def is_for(self, student: Student) -> bool:
        """Whether the student belongs to the group."""
        return str(getattr(student, self.kind)) == self.value


@dataclass(slots=True)
class SeatFigures:
    """A seat pool's current figures.

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
        """Whether that many students could each have an unreserved seat, with nobody waiting."""
        free = self.limit - self.taken - self.offered
        return free >= many and not self.waiting and not self.reserved_seats

    def reserved(self, on: date) -> int:
        """The seats left that are reserved on that day."""
        return min(self.left, sum(p.left for p in self.reserved_seats if p.is_in_force(on)))

    def offering(self, many: int, reserved_seats: int | None = None) -> SeatFigures:
        """The figures with that many more offered (or fewer), of reserved or open seats."""
        reserved = tuple(
            replace(p, used=p.used + many) if p.id == reserved_seats else p for p in self.reserved_seats
        )
        return replace(self, offered=max(0, self.offered + many), reserved_seats=reserved)

    def after(self, taken: int, reserved_seats: int | None = None) -> SeatFigures:
        """The figures with that many more taken (or fewer), of reserved or open seats."""
        reserved = self.reserved_seats
        if reserved_seats is not None:
            reserved = tuple(
                replace(p, used=p.used + taken) if p.id == reserved_seats else p for p in reserved
            )
        total = self.taken + taken
        over = max(0, total + self.offered - self.limit)
        beyond = max(self.beyond, over) if taken > 0 else min(self.beyond, over)
        return SeatFigures(self.limit, total, self.offered, beyond, self.waiting, reserved)
