"""Limits how many requests of one visitor are worked on at a time; the rest wait for their turn.

Without it one tab in a loop keeps every thread of a process busy for itself. A turn is taken when the
body has arrived, so that a client which sends its bodies slowly, or never, holds up nobody.
"""

from __future__ import annotations

import asyncio
from collections import deque
from collections.abc import Awaitable, Callable

from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.web.access.cookies import Cookie
from gremba.web.problems import respond
from gremba.web.requests.limits import address_of

OF_PERSON = 4
"""Requests of one person at a time, in however many sessions."""

OF_ADDRESS = 32
"""Requests of those who are not signed in, an address: a whole lab or campus may share one."""

WAITING_OF_PERSON = 100
"""Requests of one person that may wait for their turn."""

WAITING_OF_ADDRESS = 2_000
"""Requests of an address that may: a whole campus behind one address is not one visitor."""

READ_AHEAD = 64 * 1024
"""Bytes of a body that are read before a turn is taken; of a longer one the rest is read within it."""

NEXT_PIECE_WITHIN = 5.0
"""Seconds for the next piece of a body that is read within a turn; after that the turn is given back."""


class Turns:
    """Limits how many API requests one client may have in progress; the rest are queued. Streams are not
    counted (ASGI).

    Args:
        whose: the id of the person whose session that token opens. Where there is none the request counts
            for the address that it comes from: tokens made up would be visitors without end.
    """

    def __init__(self, app: ASGIApp, cookie: Cookie, whose: Callable[[str], Awaitable[int | None]]) -> None:
        self._app = app
        self._cookie = cookie
        self._whose = whose
        self._at_work: dict[str, int] = {}
        self._waiting: dict[str, deque[asyncio.Future[None]]] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle a request when its turn comes."""
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
            person = await self._whose(token) if token else None
        except Problem as problem:
            await respond(problem)(scope, receive, send)
            return
        ahead = await _read_ahead(receive)
        if ahead[-1]["type"] == "http.disconnect":
            return
        if person is not None:
            visitor, most, most_waiting = f"person {person}", OF_PERSON, WAITING_OF_PERSON
        else:
            visitor, most, most_waiting = f"address {address_of(connection)}", OF_ADDRESS, WAITING_OF_ADDRESS
        if not await self._begin(visitor, most, most_waiting):
            await respond(_too_many())(scope, receive, send)
            return
        try:
            await self._app(scope, _replayed(ahead, receive), send)
        finally:
            self._end(visitor)

    async def _begin(self, visitor: str, most: int, most_waiting: int) -> bool:
        """Waits for a turn; False if too many are waiting."""
        if self._at_work.get(visitor, 0) < most:
            self._at_work[visitor] = self._at_work.get(visitor, 0) + 1
            return True
        waiting = self._waiting.setdefault(visitor, deque())
        if len(waiting) >= most_waiting:
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
        """Passes the turn on, or releases it."""
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


async def _read_ahead(receive: Receive) -> list[Message]:
    """The part of the body read before taking a turn; all of it if it is short."""
    ahead = [await receive()]
    octets = 0
    while ahead[-1]["type"] == "http.request" and ahead[-1].get("more_body", False):
        octets += len(ahead[-1].get("body", b""))
        if octets > READ_AHEAD:
            break
        ahead.append(await receive())
    return ahead


def _replayed(ahead: list[Message], receive: Receive) -> Receive:
    """Replays what was read ahead, then receives the rest."""
    left = deque(ahead)
    is_whole = not ahead[-1].get("more_body", False)

    async def replay() -> Message:
        nonlocal is_whole
        if left:
            return left.popleft()
        if is_whole:
            # Only that the client has gone is still to come.
            return await receive()
        try:
            message = await asyncio.wait_for(receive(), NEXT_PIECE_WITHIN)
        except TimeoutError:
            return {"type": "http.disconnect"}
        is_whole = not message.get("more_body", False)
        return message

    return replay


def _too_many() -> Problem:
    return Problem(
        ProblemKind.TOO_MANY_REQUESTS,
        "Wait a few seconds, then load the page again. Your cart is kept.",
        retry_after=5,
    )
