"""Answers of more than a kilobyte are compressed on their way.

Not those that carry a secret: where somebody else can have a word in what is compressed with it, how
long it comes out tells of the secret (BREACH, 2013, from memory). Nor confirmations: they are small, and in a
rush what is spent on them is missing elsewhere.
"""

from __future__ import annotations

import gzip

from starlette.types import ASGIApp, Message, Receive, Scope, Send

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
    """Compresses what the rest answers (ASGI)."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        accepts = any(
            name == b"accept-encoding" and b"gzip" in value for name, value in scope.get("headers", ())
        )
        if scope["type"] != "http" or not accepts:
            await self._app(scope, receive, send)
            return
        begin: Message | None = None

        async def send_compressed(message: Message) -> None:
            nonlocal begin
            if message["type"] == "http.response.start":
                begin = message
                return
            if begin is not None:
                if not message.get("more_body") and _is_worth_it(scope, begin, message):
                    message = {**message, "body": gzip.compress(message["body"], _LEVEL, mtime=0)}
                    begin = _compressed(begin, len(message["body"]))
                await send(begin)
                begin = None
            await send(message)

        await self._app(scope, receive, send_compressed)


def _is_worth_it(scope: Scope, begin: Message, message: Message) -> bool:
    route = scope.get("route_name") or getattr(scope.get("route"), "name", "")
    if route in _AS_THEY_ARE or len(message.get("body", b"")) < MIN_OCTETS:
        return False
    headers = dict(begin["headers"])
    kind = headers.get(b"content-type", b"")
    return b"content-encoding" not in headers and (
        kind.startswith((b"application/json", b"application/problem+json", b"text/"))
    )


def _compressed(begin: Message, length: int) -> Message:
    headers = [(n, v) for n, v in begin["headers"] if n not in (b"content-length", b"vary")]
    headers += [
        (b"content-length", str(length).encode()),
        (b"content-encoding", b"gzip"),
        (b"vary", b"Accept-Encoding"),
    ]
    return {**begin, "headers": headers}
