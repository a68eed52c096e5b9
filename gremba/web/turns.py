"""Whoever asks much at once waits for their own: so many requests of one visitor are worked on at a
time, and the rest take their turn.

Without it one tab in a loop keeps every thread of a process busy for itself.
"""

from __future__ import annotations

import asyncio
from collections import deque
from collections.abc import Awaitable, Callable

from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Receive, Scope, Send

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.web.cookies import Cookie
from gremba.web.limits import address_of
from gremba.web.problems import respond

OF_SESSION = 4
"""Requests of one session at a time. A browser has no more than six connections to a server."""

OF_ADDRESS = 32
"""Requests of those who are not signed in, an address: a whole lab or campus may share one."""

WAITING = 100
"""Requests of one visitor that may wait for their turn."""


class Turns:
    """Lets requests to the API through in turn (ASGI). Streams are no work and are not counted.

    Args:
        is_open: whether there is a session of that token. Where there is none the request counts for
            the address that it comes from: tokens made up would be visitors without end.
    """

    def __init__(self, app: ASGIApp, cookie: Cookie, is_open: Callable[[str], Awaitable[bool]]) -> None:
        self._app = app
        self._cookie = cookie
        self._is_open = is_open
        self._at_work: dict[str, int] = {}
        self._waiting: dict[str, deque[asyncio.Future[None]]] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request, when it is its turn."""
        if (
            scope["type"] != "http"
            or not scope["path"].startswith("/api/")
            or scope["path"].endswith("/stream")
        ):
            await self._app(scope, receive, send)
            return
        connection = HTTPConnection(scope)
        token = self._cookie.read(connection)
        try:
            is_signed_in = bool(token) and await self._is_open(token)
        except Problem as problem:
            await respond(problem)(scope, receive, send)
            return
        visitor = f"session {token}" if is_signed_in else f"address {address_of(connection)}"
        if not await self._begin(visitor, OF_SESSION if is_signed_in else OF_ADDRESS):
            await respond(_too_many())(scope, receive, send)
            return
        try:
            await self._app(scope, receive, send)
        finally:
            self._end(visitor)

    async def _begin(self, visitor: str, most: int) -> bool:
        """Wait for a turn; False if too many wait already."""
        if self._at_work.get(visitor, 0) < most:
            self._at_work[visitor] = self._at_work.get(visitor, 0) + 1
            return True
        waiting = self._waiting.setdefault(visitor, deque())
        if len(waiting) >= WAITING:
            return False
        turn: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        waiting.append(turn)
        try:
            await turn
        except asyncio.CancelledError:
            if turn.done() and not turn.cancelled():
                # The turn had been given just then: it goes to the next.
                self._end(visitor)
            elif turn in waiting:
                waiting.remove(turn)
            raise
        return True

    def _end(self, visitor: str) -> None:
        """Give the turn on, or back."""
        waiting = self._waiting.get(visitor)
        while waiting:
            turn = waiting.popleft()
            if not waiting:
                del self._waiting[visitor]
            if not turn.done():
                turn.set_result(None)
                return
        self._waiting.pop(visitor, None)
        left = self._at_work[visitor] - 1
        if left:
            self._at_work[visitor] = left
        else:
            del self._at_work[visitor]


def _too_many() -> Problem:
    return Problem(
        ProblemKind.TOO_MANY_REQUESTS,
        "Wait a few seconds, then load the page again. Your cart is kept.",
        retry_after=5,
    )
