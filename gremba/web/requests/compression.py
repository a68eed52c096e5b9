"""Compresses responses of more than a kilobyte.

Not those that carry a secret: where somebody else can have a word in what is compressed with it, how
long it comes out tells of the secret (BREACH, 2013, from memory). Nor confirmations: they are small, and in a
rush what is spent on them is missing elsewhere.
"""

from __future__ import annotations

from starlette.datastructures import Headers
from starlette.middleware.gzip import GZipResponder, IdentityResponder
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gremba.web.requests.accepted_codings import accepts

MIN_OCTETS = 1024
_LEVEL = 4

WITH_SECRETS = frozenset(
    {
        "open_session",
        "read_session",
        "change_password",
        "page",
        "make_password_link",
        "make_week_link",
        "link_draft",
        "read_taught_section",
        "insert_permission_codes",
        "take_back_code",
        "list_demo_people",
    }
)
"""Routes whose answers hold tokens, codes or passwords."""

_AS_THEY_ARE = WITH_SECRETS | {"send_changes", "follow_term", "asset"}


class Compression:
    """Compresses responses, except those of routes that opt out (ASGI)."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle a request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def answer(scope: Scope, receive: Receive, compress: Send) -> None:
            forward = compress

            async def choose(message: Message) -> None:
                nonlocal forward
                # The route is known only once it answers.
                if message["type"] == "http.response.start" and _route(scope) in _AS_THEY_ARE:
                    forward = send
                await forward(message)

            await self._app(scope, receive, choose)

        is_accepted = accepts(Headers(scope=scope).get("accept-encoding", ""), "gzip")
        responder = (
            GZipResponder(answer, MIN_OCTETS, compresslevel=_LEVEL)
            if is_accepted
            else IdentityResponder(answer, MIN_OCTETS)
        )
        await responder(scope, receive, send)


def _route(scope: Scope) -> str:
    return str(scope.get("route_name") or getattr(scope.get("route"), "name", ""))
