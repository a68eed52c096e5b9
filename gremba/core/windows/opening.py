"""Finds the registration window in force at a moment."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


@dataclass(slots=True)
class Window:
    """A time in which a student may register."""

    opens_at: datetime
    closes_at: datetime


class WindowState(StrEnum):
    """The state of a student's window."""

    NONE = "none"
    EARLY = "early"
    OPEN = "open"
    OVER = "over"


@dataclass(frozen=True, slots=True)
class WindowStatus:
    """The state, and the window it is about (the open one, else the next, else the last)."""

    state: WindowState
    window: Window | None = None


def window_status(windows: Iterable[Window], now: datetime) -> WindowStatus:
    """Find the window in force. A window is open from its first moment up to, not at, its end."""
    in_order = sorted(windows, key=lambda w: w.opens_at)
    for window in in_order:
        if window.opens_at <= now < window.closes_at:
            return WindowStatus(WindowState.OPEN, window)
    for window in in_order:
        if now < window.opens_at:
            return WindowStatus(WindowState.EARLY, window)
    if in_order:
        return WindowStatus(WindowState.OVER, in_order[-1])
    return WindowStatus(WindowState.NONE)
