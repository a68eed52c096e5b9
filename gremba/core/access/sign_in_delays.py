"""How long sign-in is delayed after failed attempts.

Nobody is locked out: the delay grows with the failures of one account from one origin (an address, or
a browser that the person has used before), so guessing becomes slow and whoever it is about goes on
from anywhere else. See OWASP, Authentication and Credential Stuffing Prevention cheat sheets (from
memory).
"""

from __future__ import annotations

from datetime import datetime, timedelta

FREE = 5
"""Failures before any delay, where nothing else is unusual."""

LONGEST = timedelta(minutes=15)

GUESSED = 50
"""Failures of an account within a day, from wherever, at which it is being guessed."""

SPRAYING = 100
"""Failures of an origin within fifteen minutes, at whatever accounts, at which it is trying out."""

WITHIN = timedelta(days=1)
SPRAYING_WITHIN = timedelta(minutes=15)


def delay_after(failures: int, is_unusual: bool) -> timedelta:
    """The delay before the next attempt after that many failures: one second, doubled each time, up to
    fifteen minutes. For an unusual origin it starts with the second attempt; the first attempt is never
    delayed."""
    free = 1 if is_unusual else FREE
    if failures < free:
        return timedelta(0)
    return min(timedelta(seconds=2 ** min(failures - free, 12)), LONGEST)


def seconds_left(failures: int, last_failed_at: datetime | None, is_unusual: bool, now: datetime) -> float:
    """Seconds until the next attempt is accepted; 0 for now."""
    if last_failed_at is None:
        return 0.0
    until = last_failed_at + delay_after(failures, is_unusual)
    return max(0.0, (until - now).total_seconds())
