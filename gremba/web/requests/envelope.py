"""Adds security headers, rejects malformed requests, and logs writes to the audit log."""

from __future__ import annotations

import secrets
from collections.abc import Collection, MutableMapping
from datetime import UTC, datetime
from typing import Any

import structlog
from fastapi import FastAPI
from starlette.exceptions import HTTPException
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.permission.attachments import MOST_OCTETS
from gremba.core.states import AuditKind
from gremba.store.access.audit_log import Entry
from gremba.web.problems import respond, too_large
from gremba.web.requests.limits import address_of

MOST_BYTES = 512 * 1024
MOST_BYTES_OF_A_FILE = MOST_OCTETS + 64 * 1024
"""Somewhat more than may be attached, so that what is a little too large is told what to do."""

MOST_BYTES_OF_A_FOLDER = 64 << 20
"""Of an exchange folder that is sent; larger ones are taken over from the command line."""

ONLY_LOOKED = frozenset(
    {"preview_windows", "preview_nonpayment_drop", "read_nonpayment_results", "look_at_password_link"}
)
"""Routes that change nothing although they are sent a body."""

TAKEN_ALONG = frozenset({"download_folder", "download_rosters", "download_registrations", "download_record"})
"""Routes that change nothing and are put on record all the same: what they give leaves the application."""

_HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"x-frame-options", b"DENY"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"permissions-policy", b"camera=(), geolocation=(), microphone=()"),
]
_ONLY_TLS = (b"strict-transport-security", b"max-age=31536000")
"""For a year, by the names that it is reached by."""

_NO_STORE = (b"cache-control", b"no-store")
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})


class Envelope:
    """The outermost middleware: request ids, headers, limits, and the audit log (ASGI).

    Args:
        app: the application, for the services of its process.
        inner: what answers.
        hosts: the names by which this server is called; none for any.
        over_tls: browsers reach it over TLS, and are told to do so from then on (RFC 6797).
    """

    def __init__(
        self, app: FastAPI, inner: ASGIApp, hosts: Collection[str], *, over_tls: bool = False
    ) -> None:
        self._app = app
        self._inner = inner
        self._headers = [*_HEADERS, _ONLY_TLS] if over_tls else _HEADERS
        self._hosts = frozenset(name.casefold() for name in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle a request."""
        if scope["type"] != "http":
            await self._inner(scope, receive, send)
            return
        # As GET, and the server leaves the body out of the answer.
        is_head = scope["method"] == "HEAD"
        scope = {**scope, "method": "GET"} if is_head else scope
        state = scope.setdefault("state", {})
        request_id = state["request_id"] = secrets.token_hex(8)
        # Each request is a task of its own, so nothing of another's is bound.
        structlog.contextvars.bind_contextvars(request=request_id)
        is_api = scope["path"].startswith("/api/")
        status = 0
        taken = 0

        async def send_with_headers(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                headers = [*message["headers"], *self._headers, (b"x-request-id", request_id.encode())]
                if is_api and all(name != b"cache-control" for name, _ in message["headers"]):
                    headers.append(_NO_STORE)
                message["headers"] = headers
            await send(message)

        async def receive_at_most() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > _most_of(scope):
                # Of the kind that nothing on the way turns into another.
                raise HTTPException(413)
            return message

        problem = self._unwanted(scope, is_head)
        if problem is None:
            await self._inner(scope, receive_at_most, send_with_headers)
        else:
            await respond(problem)(scope, receive, send_with_headers)
        self._note(scope, state, status)

    def _unwanted(self, scope: Scope, is_head: bool) -> Problem | None:
        """Why a request is rejected before any work is done; None if it is not."""
        length = host = b""
        for name, value in scope["headers"]:
            if name == b"content-length":
                length = value
            elif name == b"host":
                host = value
        if length.isdigit() and (len(length) > 12 or int(length) > _most_of(scope)):
            return too_large()
        if self._hosts and _without_port(host) not in self._hosts:
            return _wrong_host()
        if any(c < " " for c in scope["path"]):
            return Problem(ProblemKind.NOT_FOUND, "Check the address.")
        if is_head and scope["path"].endswith("/stream"):
            return Problem(ProblemKind.METHOD, "A stream is read with GET.")
        return None

    def _note(self, scope: Scope, state: MutableMapping[str, Any], status: int) -> None:
        """Writes the request to the audit log if it belongs there."""
        services = getattr(self._app.state, "services", None)
        if services is None:
            return
        route = str(scope.get("route_name") or getattr(scope.get("route"), "name", ""))
        session = state.get("session")
        act = _act_of(route, scope["method"], status, session, state.get("about"))
        if state.get("was_refused"):
            act = AuditKind.REFUSED
        if act is None or state.get("only_looked"):
            return
        services.record.note(
            Entry(
                datetime.now(UTC),
                act,
                session.person.id if session is not None else None,
                str(state.get("account", ""))[:200],
                state.get("about") or _named_student(scope),
                address_of(HTTPConnection(scope)),
                state["request_id"],
                state.get("detail") or _in_words(route or scope["path"][:100], status),
            )
        )


def _in_words(route: str, status: int) -> str:
    """The operation in words for the audit log: ``place fee hold``, ``read record (403)``."""
    words = route.replace("_", " ")
    return words if status < 300 else f"{words} ({status})"


def _most_of(scope: Scope) -> int:
    """The size limit of the request, in bytes."""
    if scope["method"] == "POST" and scope["path"] == "/api/exchange/folder":
        return MOST_BYTES_OF_A_FOLDER
    is_file = scope["method"] == "POST" and scope["path"].startswith("/api/requests/")
    return MOST_BYTES_OF_A_FILE if is_file and scope["path"].endswith("/files") else MOST_BYTES


def _act_of(route: str, method: str, status: int, session: Any, about: Any) -> AuditKind | None:
    if route == "open_session":
        if status == 200:
            return AuditKind.SIGNED_IN
        return {401: AuditKind.SIGN_IN_FAILED, 429: AuditKind.SIGN_IN_PUT_OFF}.get(status)
    if route == "take_payment_answer" and status == 403:
        return AuditKind.PAYMENT_FORGED
    if status == 403:
        return AuditKind.REFUSED
    if status == 429:
        return AuditKind.LIMIT_MET
    if route == "report_failed_page" and status < 300:
        return AuditKind.PAGE_FAILED
    if (
        session is None
        or status >= 300
        or (method in _SAFE and route not in TAKEN_ALONG)
        or route in ONLY_LOOKED
    ):
        return None
    if route in ("close_session", "close_other_sessions"):
        return AuditKind.SIGNED_OUT
    role = session.person.role
    if role == "student":
        return None
    acts_for = role == "advisor" or (role == "registrar" and about is not None)
    return AuditKind.ACTED_FOR if acts_for else AuditKind.OFFICE_ACT


def _named_student(scope: Scope) -> int | None:
    named = str(scope.get("path_params", {}).get("student", ""))
    return int(named) if named.isascii() and named.isdigit() and len(named) < 10 else None


def _without_port(host: bytes) -> str:
    name = host.decode("latin-1").casefold()
    if name.startswith("["):
        return name.partition("]")[0] + "]"
    return name.partition(":")[0]


def _wrong_host() -> Problem:
    return Problem(ProblemKind.WRONG_HOST, "Use the address that your college has told you.")
