"""Hashes and verifies passwords on threads of their own.

Verifying is costly by intent: about twenty milliseconds of a core and 19 MiB. It never holds a
database connection or one of the threads that serve everything else, and its queue has an end.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import secrets
import threading
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind

_hasher = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)
_hash_of_nobody = _hasher.hash(secrets.token_hex(16))

MAX_WAITING_ATTEMPTS = 400
"""Attempts that may wait in a process: about as many as are verified within eight seconds."""

MOST_OF_ADDRESS = 100
"""Of these from one address, but for browsers that are known."""


def hash_password(password: str) -> str:
    """An Argon2id hash with its salt."""
    return _hasher.hash(password)


class Verifier:
    """Verifies passwords, one at a time in order of arrival."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, "passwords", initializer=_give_way)
        self._waiting = 0
        self._of_address: dict[str, int] = {}

    @asynccontextmanager
    async def place_in_queue(self, address: str, is_known: bool) -> AsyncIterator[None]:
        """Take a place in the queue.

        Raises:
            Problem: too many wait, in all or from this address.
        """
        own = self._of_address.get(address, 0)
        if self._waiting >= MAX_WAITING_ATTEMPTS or (own >= MOST_OF_ADDRESS and not is_known):
            raise Problem(
                ProblemKind.SIGN_IN_BUSY,
                "Try again in a few seconds. Nothing is lost meanwhile: carts and places are kept.",
                retry_after=5,
            )
        self._waiting += 1
        self._of_address[address] = own + 1
        try:
            yield
        finally:
            self._waiting -= 1
            self._of_address[address] -= 1
            if not self._of_address[address]:
                del self._of_address[address]

    async def is_right(self, hashed: str | None, password: str) -> bool:
        """Whether a password matches a hash. It takes as long without a hash, so that timing does not
        reveal user names."""
        loop = asyncio.get_running_loop()
        right = await loop.run_in_executor(self._pool, _verify, hashed or _hash_of_nobody, password)
        return right and hashed is not None

    def stop(self) -> None:
        """End the thread; passwords still waiting are not verified."""
        self._pool.shutdown(wait=False, cancel_futures=True)


def _give_way() -> None:
    """Lowers the thread's priority on Linux: registering goes before signing in."""
    with contextlib.suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 5)


def _verify(hashed: str, password: str) -> bool:
    try:
        return _hasher.verify(hashed, password)
    except (Argon2Error, InvalidHashError):
        return False
