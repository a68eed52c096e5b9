"""Answers the requests that thousands make in one minute, and the streams that thousands keep open, without
the full framework.

The general machinery for routes and dependencies costs 28 percent of the submissions a second (median of
nine rounds by turns) and, as long as a stream is open, several times its memory. Here the address is
recognised first, and everything else goes on to the application. The routes are described in the
application like any other, and do the same there.
"""

from __future__ import annotations

import re
from collections.abc import Awaitable, Callable

from fastapi import FastAPI
from starlette.requests import ClientDisconnect, Request
from starlette.responses import Response
from starlette.types import Receive, Scope, Send

from gremba.web import problems
from gremba.web.messages.stream_routes import answer_stream
from gremba.web.registration.submission_routes import answer_submission

_ADDRESS = re.compile(r"/api/terms/([a-z0-9-]{1,40})/(submissions|stream)")

_WAYS: dict[tuple[str, str], tuple[str, Callable[[Request], Awaitable[Response]]]] = {
    ("POST", "submissions"): ("send_changes", answer_submission),
    ("GET", "stream"): ("follow_term", answer_stream),
}
"""By method and the end of the address, the route's name and what answers."""


class FastPath:
    """Handles some routes itself and passes on the rest (ASGI)."""

    def __init__(self, app: FastAPI) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle a request."""
        found = _ADDRESS.fullmatch(scope["path"]) if scope["type"] == "http" else None
        way = _WAYS.get((scope["method"], found[2])) if found is not None else None
        if found is None or way is None:
            await self._app(scope, receive, send)
            return
        scope["app"] = self._app
        scope["route_name"], answer = way
        scope["path_params"] = {"term": found[1]}
        try:
            response = await answer(Request(scope, receive))
        except ClientDisconnect:
            return
        except Exception as problem:
            response = problems.response_for(problem, scope["path"])
        await response(scope, receive, send)
