"""The short way for sendings: the one request that thousands make in the same minute.

The general machinery for routes and dependencies costs several times what such a request needs.
Here the address is recognised before it, and everything else goes on to the application. The
route is described in the application like any other, and does the same there.
"""

from __future__ import annotations

import re

from fastapi import FastAPI
from starlette.requests import ClientDisconnect, Request
from starlette.responses import Response
from starlette.types import Receive, Scope, Send

from gremba.web import problems
from gremba.web.routes.sendings import answer_sending

_ADDRESS = re.compile(r"/api/terms/([a-z0-9-]{1,40})/sendings")


class ShortWay:
    """Answers sendings itself and passes on the rest (ASGI)."""

    def __init__(self, app: FastAPI) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http" or scope["method"] != "POST":
            await self._app(scope, receive, send)
            return
        found = _ADDRESS.fullmatch(scope["path"])
        if found is None:
            await self._app(scope, receive, send)
            return
        scope["app"] = self._app
        scope["route_name"] = "send_changes"
        scope["path_params"] = {"term": found[1]}
        try:
            response: Response = await answer_sending(Request(scope, receive))
        except ClientDisconnect:
            return
        except Exception as problem:
            response = problems.response_for(problem, scope["path"])
        await response(scope, receive, send)
