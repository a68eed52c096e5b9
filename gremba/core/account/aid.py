"""Financial aid: the share of a term completed, by calendar days."""

from __future__ import annotations

from datetime import date, timedelta

from gremba.core.catalogue.calendar import Calendar

NO_MORE_TO_EARN = 0.6
"""Past this share of the term all aid is earned (34 CFR 668.22(e)(2), from memory)."""

LONG_BREAK = 5
"""Breaks of so many days in a row, or more, are left out of the reckoning."""


def share_completed(calendar: Calendar, on: date) -> float:
    """The share of the term completed at the end of a day, from 0 to 1.

    Calendar days completed divided by calendar days in the term, scheduled breaks of five or
    more consecutive days left out of both (34 CFR 668.22(f)(2), from memory). A weekend that
    touches a break is part of it.
    """
    days = [calendar.first + timedelta(n) for n in range((calendar.last - calendar.first).days + 1)]
    left_out = _long_breaks(calendar)
    counted = [d for d in days if d not in left_out]
    return sum(d <= on for d in counted) / len(counted)


def _long_breaks(calendar: Calendar) -> set[date]:
    left_out: set[date] = set()
    for found in calendar.breaks:
        first, last = found.first, found.last
        while (first - timedelta(1)).weekday() > 4:
            first -= timedelta(1)
        while (last + timedelta(1)).weekday() > 4:
            last += timedelta(1)
        length = (last - first).days + 1
        if length >= LONG_BREAK:
            left_out |= {first + timedelta(n) for n in range(length)}
    return left_out
