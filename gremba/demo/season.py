"""The demo's calendar: its terms, and the moments the campus clock can be moved to."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from gremba.core.states import TermState

ZONE = ZoneInfo("America/New_York")
"""Stands in for the college's zone; it changes to winter time within the Harvest term."""


def at(day: date, hour: int, minute: int = 0, second: int = 0) -> datetime:
    """A moment on campus."""
    return datetime.combine(day, time(hour, minute, second), ZONE)


@dataclass(frozen=True)
class SessionPlan:
    """A session, its deadlines in days from its first."""

    code: str
    name: str
    first: date
    last: date
    add: int
    drop: int
    withdraw: int
    refunds: tuple[tuple[int, int], ...]

    def row(self) -> dict[str, Any]:
        """The columns of the session's row."""
        return {
            "code": self.code,
            "name": self.name,
            "first_day": self.first,
            "last_day": self.last,
            "add_by": self.first + timedelta(self.add),
            "drop_by": self.first + timedelta(self.drop),
            "withdraw_by": self.first + timedelta(self.withdraw),
            "refund_steps": [
                {"through": (self.first + timedelta(days)).isoformat(), "percent": percent}
                for days, percent in self.refunds
            ],
        }


@dataclass(frozen=True)
class TermPlan:
    """A term with its sessions and its first reference number."""

    code: str
    name: str
    first: date
    last: date
    breaks: tuple[tuple[str, date, date], ...]
    sessions: tuple[SessionPlan, ...]
    numbers_from: int
    state: TermState = TermState.OPEN


_FULL_REFUNDS = ((4, 100), (11, 80), (18, 50), (25, 25))
_HALF_REFUNDS = ((2, 100), (7, 50), (10, 25))


def _sessions(first: date, half_ends: date, second_begins: date, last: date) -> tuple[SessionPlan, ...]:
    return (
        SessionPlan("full", "full term", first, last, 4, 11, 74, _FULL_REFUNDS),
        SessionPlan("first", "first half", first, half_ends, 2, 7, 32, _HALF_REFUNDS),
        SessionPlan("second", "second half", second_begins, last, 2, 7, 32, _HALF_REFUNDS),
        SessionPlan("short", "two weeks", first + timedelta(21), first + timedelta(32), 0, 1, 8, ((0, 100),)),
    )


THAW = TermPlan(
    "thaw-2027",
    "Thaw 2027",
    date(2027, 1, 18),
    date(2027, 5, 7),
    (("spring break", date(2027, 3, 8), date(2027, 3, 12)),),
    _sessions(date(2027, 1, 18), date(2027, 3, 5), date(2027, 3, 15), date(2027, 5, 7)),
    10_000,
)
HIGH_SUMMER = TermPlan(
    "high-summer-2027",
    "High Summer 2027",
    date(2027, 6, 1),
    date(2027, 7, 30),
    (),
    (SessionPlan("full", "full term", date(2027, 6, 1), date(2027, 7, 30), 2, 7, 42, _HALF_REFUNDS),),
    20_000,
)
HARVEST = TermPlan(
    "harvest-2027",
    "Harvest 2027",
    date(2027, 8, 23),
    date(2027, 12, 10),
    (
        ("harvest holiday", date(2027, 9, 6), date(2027, 9, 6)),
        ("autumn break", date(2027, 11, 22), date(2027, 11, 26)),
    ),
    _sessions(date(2027, 8, 23), date(2027, 10, 15), date(2027, 10, 18), date(2027, 12, 10)),
    30_000,
)
TERMS = (THAW, HIGH_SUMMER, HARVEST)

MORNING = at(date(2027, 4, 19), 8, 52)
"""Where the campus clock starts."""

EARLY_WINDOW = at(date(2027, 4, 16), 8)
"""Those who finish in Harvest choose on the Friday before; an offer open on Monday with two
hours left must have been made on Sunday."""

FIRST_WINDOW = at(date(2027, 4, 19), 6)
TOBINS_WINDOW = at(date(2027, 4, 19), 9)
JUNIPERS_WINDOW = at(date(2027, 4, 19), 10)
FIRST_YEARS_WINDOW = at(date(2027, 4, 20), 9)
WINDOWS_CLOSE = at(date(2027, 5, 3), 17)
LATE_WINDOW = (at(date(2027, 8, 9), 8), at(date(2027, 10, 20), 23, 59, 59))
OFFER_MADE = at(date(2027, 4, 18), 10, 52)
OFFER_UNTIL = at(date(2027, 4, 19), 10, 52)


def moments() -> list[tuple[str, datetime]]:
    """The important moments, earliest first."""
    full = HARVEST.sessions[0].row()
    return [
        ("The first morning", MORNING),
        ("Second-years' window opens in 30 seconds", TOBINS_WINDOW - timedelta(seconds=30)),
        ("Juniper's window opens in 30 seconds", JUNIPERS_WINDOW - timedelta(seconds=30)),
        ("An offer lapses in one minute", OFFER_UNTIL - timedelta(minutes=1)),
        ("First-years' window has opened", FIRST_YEARS_WINDOW),
        ("The windows have closed", WINDOWS_CLOSE + timedelta(minutes=1)),
        ("Three days before seats must be paid for", at(date(2027, 8, 10), 17, 5)),
        ("Unpaid seats are lost in one minute", at(date(2027, 8, 13), 16, 59)),
        ("First class day", at(HARVEST.first, 7, 30)),
        ("Last day to drop without a trace", at(full["drop_by"], 12)),
        ("The day after: a drop is a W", at(full["drop_by"] + timedelta(1), 12)),
        ("Last day to withdraw", at(full["withdraw_by"], 12)),
        ("The day after the last withdrawal", at(full["withdraw_by"] + timedelta(1), 12)),
    ]
