"""Formats times, days, money and lists in sentences."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from gremba.core.catalogue.calendar import WEEKDAY_LETTERS, Meeting

MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def clock_time(minutes: int) -> str:
    """Minutes since midnight as ``09:05``."""
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def sentence_case(text: str) -> str:
    """The text with its first letter as a sentence begins."""
    return text[:1].upper() + text[1:]


def day(when: date) -> str:
    """``23 August``."""
    return f"{when.day} {MONTHS[when.month - 1]}"


def moment(when: datetime) -> str:
    """``Monday 19 April at 09:00``; the moment must already be in the term's zone."""
    return f"{WEEKDAYS[when.weekday()]} {day(when.date())} at {when:%H:%M}"


def pattern(meeting: Meeting) -> str:
    """``MW 10:00–11:15``."""
    letters = "".join(WEEKDAY_LETTERS[d] for d in meeting.weekdays)
    return f"{letters} {clock_time(meeting.start)}–{clock_time(meeting.end)}"


def times_text(meetings: Sequence[Meeting]) -> str:
    """``MW 10:00–11:15``, or that there are no set times."""
    return ", ".join(pattern(m) for m in meetings) or "no set times"


def amount(cents: int) -> str:
    """``1,240.00``."""
    return f"{cents / 100:,.2f}"


def credits_text(credits: float) -> str:
    """``1 credit``, ``3 credits``, ``1.5 credits``."""
    return f"{credits:g} credit" if credits == 1 else f"{credits:g} credits"


def counted(number: int, one: str, many: str) -> str:
    """``1 seat`` or ``1,200 seats``."""
    return f"{number:,} {one if number == 1 else many}"


def listed(items: Sequence[str], last: str = "and") -> str:
    """``a``, ``a and b``, ``a, b and c``."""
    if len(items) < 2:
        return "".join(items)
    return f"{', '.join(items[:-1])} {last} {items[-1]}"


def duration(seconds: float) -> str:
    """``3 days``, ``2 hours 5 minutes``, ``8 minutes``, ``less than a minute``."""
    minutes = int(seconds // 60)
    if minutes < 1:
        return "less than a minute"
    if minutes < 60:
        return counted(minutes, "minute", "minutes")
    hours, rest = divmod(minutes, 60)
    if hours < 48:
        text = counted(hours, "hour", "hours")
        return f"{text} {counted(rest, 'minute', 'minutes')}" if rest else text
    return counted(hours // 24, "day", "days")
