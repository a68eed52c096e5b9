"""Waiting for what another process or thread brings about."""

from __future__ import annotations

import time
from collections.abc import Callable


def soon(what: Callable[[], bool], within: float = 60.0) -> float:
    """Wait until it is so; gives the seconds that it took. The limit only ends what will never be: it
    is no measure of speed.

    Raises:
        AssertionError: it does not come about.
    """
    begun = time.monotonic()
    while not what():
        if time.monotonic() - begun > within:
            raise AssertionError("it did not come about")
        time.sleep(0.02)
    return time.monotonic() - begun
