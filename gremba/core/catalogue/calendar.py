"""Terms, sessions and class days; when meetings take place and when two of them conflict.

Times of day are local to the term's zone and counted in minutes since midnight, so that a
daylight-saving change never moves a class. Days are also kept as bit masks (bit *k* is the
term's *k*-th day), which makes "is there a date on which both meet" a single ``&``.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from functools import cached_property
from zoneinfo import ZoneInfo

WEEKDAY_LETTERS = "MTWRFSU"
"""Monday to Sunday; R is Thursday, so TR is Tuesday and Thursday (common practice)."""

MINUTES_A_DAY = 24 * 60


def parse_weekdays(letters: str) -> tuple[int, ...]:
    """Turn ``"TR"`` into ``(1, 3)`` (ISO 8601 order, Monday is 0).

    Raises:
        ValueError: a letter is unknown or stands twice.
    """
    days = []
    for letter in letters:
        day = WEEKDAY_LETTERS.find(letter)
        if day < 0:
            raise ValueError(f"{letter!r} is no weekday; use the letters {WEEKDAY_LETTERS}")
        if day in days:
            raise ValueError(f"{letter!r} stands twice in {letters!r}")
        days.append(day)
    return tuple(sorted(days))


@dataclass(frozen=True, slots=True)
class Break:
    """Days without classes, first and last included."""

    first: date
    last: date
    name: str


@dataclass(frozen=True, slots=True)
class RefundStep:
    """Up to and including ``through``, ``percent`` of a section's charge is refunded."""

    through: date
    percent: int


@dataclass(frozen=True, slots=True)
class TermSession:
    """A part of the term in which sections run, with its own deadlines.

    Each deadline is a date and holds to the end of that day in the term's zone.
    """

    code: str
    name: str
    first: date
    last: date
    add_by: date
    drop_by: date
    withdraw_by: date
    refund_steps: tuple[RefundStep, ...] = ()

    def refund_percent(self, on: date) -> int:
        """The percentage that a drop on that date refunds; 0 after the last step."""
        step = self.refund_step(on)
        return 0 if step is None else step.percent

    def refund_step(self, on: date) -> RefundStep | None:
        """The refund step of a drop on that date; None after the last."""
        return next((step for step in self.refund_steps if on <= step.through), None)


@dataclass(frozen=True)
class Calendar:
    """The days of one term."""

    zone: ZoneInfo
    first: date
    last: date
    breaks: tuple[Break, ...] = ()
    sessions: dict[str, TermSession] = field(default_factory=dict)

    @cached_property
    def _open_days(self) -> int:
        mask = 0
        for offset in range((self.last - self.first).days + 1):
            day = self.first + timedelta(days=offset)
            if not any(b.first <= day <= b.last for b in self.breaks):
                mask |= 1 << offset
        return mask

    def class_days(self, weekdays: Iterable[int], first: date, last: date) -> int:
        """The days, as a bit mask, on which a weekly pattern meets between two dates.

        Breaks are left out, and so is whatever lies outside the term.
        """
        mask = 0
        start = max(first, self.first)
        for weekday in weekdays:
            day = start + timedelta(days=(weekday - start.weekday()) % 7)
            while day <= last and day <= self.last:
                mask |= 1 << (day - self.first).days
                day += timedelta(days=7)
        return mask & self._open_days

    def dates(self, mask: int) -> Iterator[date]:
        """The dates of a bit mask of term days, in order."""
        while mask:
            lowest = mask & -mask
            yield self.first + timedelta(days=lowest.bit_length() - 1)
            mask ^= lowest

    @cached_property
    def _weekday_masks(self) -> tuple[int, ...]:
        every = (1 << ((self.last - self.first).days + 1)) - 1
        masks = []
        for weekday in range(7):
            week_by_week = sum(1 << n for n in range(0, every.bit_length() + 7, 7))
            masks.append((week_by_week << ((weekday - self.first.weekday()) % 7)) & every)
        return tuple(masks)

    def span(self, mask: int) -> tuple[date, date]:
        """The first and the last date of a non-empty mask."""
        lowest = (mask & -mask).bit_length() - 1
        return (
            self.first + timedelta(days=lowest),
            self.first + timedelta(days=mask.bit_length() - 1),
        )

    def weekdays_of(self, mask: int) -> list[int]:
        """The weekdays of a mask's dates; Monday is 0."""
        return [n for n, days in enumerate(self._weekday_masks) if days & mask]

    def local_date(self, moment: datetime) -> date:
        """The campus date at that moment."""
        return moment.astimezone(self.zone).date()

    @cached_property
    def last_add_by(self) -> date:
        """The latest add deadline of all sessions; after it, only drops are possible."""
        return max((b.add_by for b in self.sessions.values()), default=self.last)

    @cached_property
    def first_end(self) -> date:
        """The first day on which a session's add period or the term ends. Through that day, sections of
        every session can be added."""
        return min([self.last, *(b.add_by for b in self.sessions.values())])


@dataclass(frozen=True, slots=True)
class Meeting:
    """When and where a section meets.

    Attributes:
        weekdays: Monday is 0.
        start: minutes since midnight, included.
        end: minutes since midnight, not included: 10:50 and 10:50 touch and do not clash.
        first: first date on which it may meet.
        last: last date on which it may meet.
        days: the class days themselves, as a bit mask of the term's days.
        campus: code of the campus, or ``""`` online.
        room: name of the room, or ``""``.
    """

    weekdays: tuple[int, ...]
    start: int
    end: int
    first: date
    last: date
    days: int
    campus: str = ""
    room: str = ""

    @staticmethod
    def in_term(
        calendar: Calendar,
        weekdays: str,
        start: time,
        end: time,
        first: date,
        last: date,
        campus: str = "",
        room: str = "",
    ) -> Meeting:
        """Create a meeting and compute its class days in a term.

        Raises:
            ValueError: it ends before it starts, or a weekday is unknown.
        """
        begin, finish = _minutes(start), _minutes(end)
        if finish <= begin:
            raise ValueError(f"a meeting from {start:%H:%M} to {end:%H:%M} has no length")
        days = parse_weekdays(weekdays)
        return Meeting(days, begin, finish, first, last, calendar.class_days(days, first, last), campus, room)


def _minutes(moment: time) -> int:
    return moment.hour * 60 + moment.minute


def week_mask(meetings: Iterable[Meeting]) -> int:
    """The minutes of a week that the meetings cover, whatever their dates.

    Two sections whose masks share no bit cannot clash; only the others need their dates read.
    """
    mask = 0
    for meeting in meetings:
        minutes = ((1 << (meeting.end - meeting.start)) - 1) << meeting.start
        for weekday in meeting.weekdays:
            mask |= minutes << (weekday * MINUTES_A_DAY)
    return mask


@dataclass(frozen=True, slots=True)
class Clash:
    """Two meetings that overlap, and the days (a mask of term days) on which they do."""

    one: Meeting
    other: Meeting
    days: int


def find_clash(one: Iterable[Meeting], other: Iterable[Meeting]) -> Clash | None:
    """The first pair of meetings, one from each side, that overlap on some date; None if none do.

    Two meetings clash when both have a class on some date and their half-open hours overlap.
    """
    others = tuple(other)
    for mine in one:
        for theirs in others:
            shared = mine.days & theirs.days
            if shared and mine.start < theirs.end and theirs.start < mine.end:
                return Clash(mine, theirs, shared)
    return None
