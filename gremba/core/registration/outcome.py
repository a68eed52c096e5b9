"""The outcome of a decision: each change's result, and the figures before and after."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import StrEnum

from gremba.core.account.charges import ChargeEvent
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change
from gremba.core.registration.findings import Finding
from gremba.core.registration.situation import Registration
from gremba.core.waitlists.entry import WaitlistEntry


class Result(StrEnum):
    """The result of a change."""

    ACCEPTED = "accepted"
    WAITING = "waiting"
    REFUSED = "refused"


@dataclass(slots=True)
class Seat:
    """A seat that an accepted change takes.

    Attributes:
        reserved_seats: the reserved seats of the pool that it is taken from; None for an open seat.
        beyond: it lies beyond the pool's limit, by consent.
        permission_codes: ids of the permission codes and grants used up by it.
    """

    section: Section
    credits: float
    grading: str
    reserved_seats: int | None
    beyond: bool
    permission_codes: tuple[int, ...] = ()


@dataclass(slots=True)
class DroppedSeat:
    """A seat that an accepted change gives up.

    Attributes:
        withdrawn: it leaves a W on the record.
        retained_cents: what stays to be paid for it in all.
        refund_cents: what comes back of it.
    """

    held: Registration
    withdrawn: bool
    retained_cents: int
    refund_cents: int


@dataclass(slots=True)
class Adjusted:
    """A registration that an accepted change adjusts.

    Attributes:
        held: as it is then.
        refund_cents: what comes back because fewer credits are taken.
    """

    held: Registration
    refund_cents: int


@dataclass(slots=True)
class NewWaitlistEntry:
    """A waitlist entry that an accepted change makes.

    Attributes:
        in_exchange: the registered section to be given up for the seat, when it comes.
        chosen_linked_sections: linked sections named for it.
    """

    section: Section
    credits: float
    grading: str
    permission_code: str
    in_exchange: Section | None
    chosen_linked_sections: tuple[Section, ...]


@dataclass(slots=True)
class Outcome:
    """A change, its result, and every relevant finding.

    Attributes:
        section: the section that the change names; None if it is unknown.
        grading: the grading basis it would have, or has had.
        takes: for an add or swap that goes through.
        drops: for a drop or swap that goes through: the sections given up, those included
            that go along.
        adjusted: for an adjustment that goes through.
        waits: for a wait that goes through.
        original: where a next choice was taken, the section that was wished for first.
    """

    change: Change
    section: Section | None
    credits: float
    grading: str
    result: Result
    findings: tuple[Finding, ...]
    takes: Seat | None = None
    drops: tuple[DroppedSeat, ...] = ()
    adjusted: Adjusted | None = None
    waits: NewWaitlistEntry | None = None
    original: Section | None = None

    @property
    def withdrawn(self) -> bool:
        """Whether it leaves a W on the record."""
        return any(g.withdrawn for g in self.drops)

    @property
    def refund_cents(self) -> int:
        """The refund for what is dropped or reduced."""
        back = sum(g.refund_cents for g in self.drops)
        return back + (self.adjusted.refund_cents if self.adjusted else 0)


@dataclass(slots=True)
class Figures:
    """The student's credits, load, and charges, before or after."""

    credits: float
    load: str
    full_time: bool
    charge_cents: int


@dataclass(slots=True)
class Decision:
    """The outcome of every change in the order of the request, and the figures."""

    outcomes: tuple[Outcome, ...]
    before: Figures
    after: Figures
    held: tuple[Registration, ...]
    """The sections the student would be registered for."""
    leaves: tuple[WaitlistEntry, ...] = ()
    """Places that end because their course is had, or with the section that they would give up."""
    loosened: tuple[WaitlistEntry, ...] = ()
    charged: tuple[ChargeEvent, ...] = ()
    """What of it changes the charges, in the order in which the history has it."""
    """Places that stay without giving anything up, since what they would give up has gone."""

    def move_seats(self, seats: dict[int, SeatFigures], only: Collection[int] | None = None) -> None:
        """Update figures as writing this will: first what is given up, then what is taken or waited for.

        Args:
            only: the pools that matter; None for all.
        """
        gone = [g.held for o in self.outcomes for g in o.drops]
        moves = [(h.section.pool, -1, h.reserved_seats) for h in gone]
        moves += [(o.takes.section.pool, 1, o.takes.reserved_seats) for o in self.outcomes if o.takes]
        for pool, by, reserved_seats in moves:
            if only is None or pool in only:
                seats[pool] = seats[pool].after(by, reserved_seats)
        for pool in [o.waits.section.pool for o in self.outcomes if o.waits]:
            if only is None or pool in only:
                seats[pool] = replace(seats[pool], waiting=seats[pool].waiting + 1)
