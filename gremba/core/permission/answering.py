"""Bounds of an approval: how long it lasts, how many seats the room has, and when a request expires."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from gremba.core.catalogue.calendar import Calendar
from gremba.core.catalogue.term import Section
from gremba.core.permission.policy import Decider, PermissionPolicy
from gremba.core.states import Waiver
from gremba.core.wording import day

MOST_WORDS = 2_000
"""Signs of what one writes to another."""


@dataclass(frozen=True, slots=True)
class RoomFigures:
    """A pool's seats and the capacity of its rooms.

    Attributes:
        capacity: of the smallest room; None where there is none, as online.
        promised: seats that somebody has said yes to beyond the limit, not used yet.
    """

    limit: int
    taken: int
    offered: int = 0
    promised: int = 0
    capacity: int | None = None

    @property
    def left(self) -> int | None:
        """The number of places left in the room; None without a room, never below 0."""
        if self.capacity is None:
            return None
        return max(0, self.capacity - self.taken - self.offered - self.promised)

    def holds(self, many: int = 1) -> bool:
        """Whether the room has places for that many more."""
        return self.left is None or self.left >= many

    @property
    def told(self) -> str:
        """The figures in a sentence."""
        more = [f"{self.taken} taken"]
        if self.offered:
            more.append(f"{self.offered} offered")
        if self.promised:
            more.append(f"{self.promised} promised")
        room = "no room" if self.capacity is None else f"room for {self.capacity}"
        return f"Limit {self.limit}, {room}; {', '.join(more)}."


def goes_to_registrar(room: RoomFigures, route: Collection[str]) -> bool:
    """Whether the registrar has to decide about one more than the limit: the room is full, and the
    registrar was not on the route."""
    return not room.holds() and Decider.REGISTRAR.value not in route


def latest_until(policy: PermissionPolicy, now: datetime) -> datetime:
    """The latest, and default, expiry of an approval given now."""
    return now + timedelta(days=policy.good_days)


def working_days_between(since: date, until: date, calendars: Iterable[Calendar]) -> int:
    """The number of working days between two dates: Mondays to Fridays outside breaks.

    Args:
        since: this day does not count.
        until: this day counts.
        calendars: of the terms whose breaks are meant.
    """
    free = [(b.first, b.last) for calendar in calendars for b in calendar.breaks]
    span = (until - since).days
    # After a month nobody asks whether it was two days or three.
    days = (since + timedelta(days=n) for n in range(1, min(span, 31) + 1))
    return sum(one.weekday() < 5 and not any(first <= one <= last for first, last in free) for one in days)


def why_over(section: Section, held: Iterable[Section], waives: Collection[Waiver], today: date) -> str:
    """Why a request has expired; "" if it has not.

    Args:
        held: what its student is registered for.
        waives: what it asks to have lifted. A late add can be asked for until the section ends: somebody may
            have sat in it from the beginning.
    """
    if section.cancelled:
        return "the section was cancelled"
    if any(one.stands_for_same(section) for one in held):
        return "you have the course now"
    ends = section.session.last if Waiver.LATE_ADD in waives else section.session.add_by
    return f"the last day to add it was {day(ends)}" if today > ends else ""
