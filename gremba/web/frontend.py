"""Serving the built front end, and the headers that keep everything else out."""

from __future__ import annotations

import secrets
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gremba.actions.problem import Problem
from gremba.web.problems import respond

MOST_BYTES = 512 * 1024
_NONCE = "GREMBA_NONCE"

_HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"x-frame-options", b"DENY"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"permissions-policy", b"camera=(), geolocation=(), microphone=()"),
]


def _policy(nonce: str) -> str:
    return (
        "default-src 'none'; script-src 'self'; connect-src 'self'; img-src 'self' data:; "
        f"font-src 'self'; style-src 'self' 'nonce-{nonce}'; base-uri 'none'; "
        "form-action 'self'; frame-ancestors 'none'"
    )


class SafetyHeaders:
    """Adds the headers to every response, and turns away requests that are too large."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request (ASGI)."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message["headers"], *_HEADERS]
            await send(message)

        taken = 0

        async def receive_at_most() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > MOST_BYTES:
                raise _too_large()
            return message

        length = dict(scope["headers"]).get(b"content-length", b"0")
        if length.isdigit() and int(length) > MOST_BYTES:
            await respond(_too_large())(scope, receive, send_with_headers)
            return
        await self._app(scope, receive_at_most, send_with_headers)


def _too_large() -> Problem:
    return Problem(
        "too-large",
        "That is too much at once",
        "Paste fewer lines; what you had is kept in the field.",
        413,
    )


def install(app: FastAPI, built: Path) -> None:
    """Serve the built pages at every address that is not the API's."""

    @app.get("/assets/{name}", include_in_schema=False)
    async def asset(name: str) -> Response:
        path = built / "assets" / name
        if path.parent != built / "assets" or not path.is_file():
            raise HTTPException(404)
        return FileResponse(path, headers={"Cache-Control": "public, max-age=31536000, immutable"})

    @app.get("/{path:path}", include_in_schema=False)
    async def page(request: Request, path: str) -> Response:
        if path.startswith(("api/", "assets/")):
            raise HTTPException(404)
        if path == "icon.svg":
            return FileResponse(built / "icon.svg", headers={"Cache-Control": "max-age=86400"})
        nonce = secrets.token_urlsafe(16)
        text = (built / "index.html").read_text().replace(_NONCE, nonce)
        return HTMLResponse(
            text,
            headers={"Content-Security-Policy": _policy(nonce), "Cache-Control": "no-store"},
        )
