"""Rate limits by person and address."""

from __future__ import annotations

import ipaddress
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable

from starlette.requests import HTTPConnection

_MOST_KNOWN = 50_000


def address_of(connection: HTTPConnection) -> str:
    """The client address for limits; for IPv6, the /64 network."""
    host = connection.client.host if connection.client else ""
    try:
        address = ipaddress.ip_address(host)
    except ValueError:
        return "unknown"
    if isinstance(address, ipaddress.IPv6Address):
        if address.ipv4_mapped is not None:
            return str(address.ipv4_mapped)
        return str(ipaddress.ip_network((int(address) >> 64 << 64, 64)).network_address)
    return str(address)


class RateLimit:
    """Limits the rate per key (a token bucket).

    Args:
        a_minute: how many.
        clock: seconds that only grow.
    """

    def __init__(self, a_minute: int, clock: Callable[[], float] = time.monotonic) -> None:
        self._most = a_minute
        self._each = 60 / a_minute
        self._clock = clock
        # By key, the moment at which all of its tokens are back: with those it took long ago, none
        # of it need be known, and the first in order is mostly the one to forget.
        self._full_at: OrderedDict[Hashable, float] = OrderedDict()
        self._lock = threading.Lock()

    def take(self, key: Hashable) -> float:
        """Take a token; returns 0, or the seconds until there is one."""
        with self._lock:
            now = self._clock()
            full_at = max(self._full_at.get(key, now), now) + self._each
            waits = full_at - now - self._most * self._each
            if waits > 1e-9:
                return waits
            self._full_at[key] = full_at
            self._full_at.move_to_end(key)
            while len(self._full_at) > _MOST_KNOWN:
                self._full_at.popitem(last=False)
            return 0.0


class Slots:
    """Limits how many are in progress per key."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._taken: dict[Hashable, int] = {}

    def take(self, key: Hashable) -> bool:
        """Take a slot; returns whether there was one."""
        taken = self._taken.get(key, 0)
        if taken >= self._most:
            return False
        self._taken[key] = taken + 1
        return True

    def give_back(self, key: Hashable) -> None:
        """Release a slot."""
        left = self._taken[key] - 1
        if left:
            self._taken[key] = left
        else:
            del self._taken[key]
