"""Parses values that clients send."""

from __future__ import annotations

from datetime import datetime

from gremba.core.catalogue.term import TermCatalogue


def known_id(number: int) -> int:
    """Validates an id; one outside the column's range belongs to nobody."""
    return number if 0 < number < 2**31 else 0


def campus_time(moment: datetime | None, term: TermCatalogue | None) -> datetime | None:
    """Adds the term's zone to a time without one."""
    if moment is None or moment.tzinfo is not None or term is None:
        return moment
    return moment.replace(tzinfo=term.calendar.zone)
