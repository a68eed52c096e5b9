"""Bounds connections: how many there are, and how long one may wait for a request."""

from __future__ import annotations

import asyncio
from collections import Counter
from http import HTTPStatus
from typing import Any

import structlog
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.web.problems import MEDIA_TYPE, document_of

log = structlog.get_logger()

HEAD_WITHIN = 10.0
"""Seconds for a request's head to come whole, from the connection's or the last answer's end."""

BODY_WITHIN = 30.0
"""Seconds for its body after that; half a megabyte on a slow phone takes about ten."""

ENOUGH = 32 * 1024
"""Bytes of a body a second: whoever sends so many has longer, for a large folder on a slow line. How many
there may be in all is bounded elsewhere."""

MOST_HEAD = 64 * 1024
"""Bytes of a head, beside what one reading of the socket brings."""

MAX_CONNECTIONS = 12_000
"""Connections of a process. Each open page has one for its stream."""

MOST_OF_ADDRESS = 8_000
"""Connections from one address, which a whole campus may share; there is room beside it. Those of a
trusted proxy are not counted: it carries everybody."""

SLOW_READER = 60.0
"""Seconds in which somebody must have read something of an answer."""


LEAVES_WITHIN = 2.0
"""Seconds for reading the last answer of a connection that is ended."""


def _answer(problem: Problem) -> bytes:
    """A complete HTTP response, for clients that do not reach the application."""
    document = document_of(problem)
    body = document.model_dump_json().encode()
    lines = [
        f"HTTP/1.1 {document.status} {HTTPStatus(document.status).phrase}",
        f"Content-Type: {MEDIA_TYPE}",
        f"Content-Length: {len(body)}",
        "Cache-Control: no-store",
        "Connection: close",
        *([f"Retry-After: {problem.retry_after}"] if problem.retry_after is not None else []),
    ]
    return "\r\n".join([*lines, "", ""]).encode() + body


_SEND_AGAIN = "Nothing was changed. Send it again; sending the same request again is safe."
_TOO_SLOW = _answer(Problem(ProblemKind.TOO_SLOW, _SEND_AGAIN))
_FORGET = "Delete the cookies of this address, and load the page again."
_HEAD_TOO_LONG = _answer(Problem(ProblemKind.HEAD_TOO_LONG, _FORGET))
_CLOSE_SOME = "Close pages that you do not need, and try again."
_TOO_MANY = _answer(Problem(ProblemKind.TOO_MANY_CONNECTIONS, _CLOSE_SOME, retry_after=10))


class PatientButNotForEver(HttpToolsProtocol):
    """Uvicorn's HTTP protocol with timeouts and limits."""

    _of_address: Counter[str] = Counter()
    _told_at = 0.0
    _deadline: asyncio.TimerHandle | None = None
    _unread: asyncio.TimerHandle | None = None
    _address = ""
    _head_bytes = 0
    _in_head = True
    _body_from = 0.0
    _body_bytes = 0

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Accept a connection, or close it at once if there are too many."""
        super().connection_made(transport)  # type: ignore[arg-type]
        self._address = self.client[0] if self.client else ""
        # Those whom the server believes what they say of where a request comes from.
        proxies = self.config.forwarded_allow_ips or ()
        self._of_address[self._address] += 1
        own = self._of_address[self._address]
        if len(self.connections) > MAX_CONNECTIONS or (
            own > MOST_OF_ADDRESS and self._address not in proxies
        ):
            self._tell_at_most_once_a_second(own)
            self._answer_and_leave(_TOO_MANY)
            return
        self._expect_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """Stop counting the connection."""
        self._clear()
        if self._unread is not None:
            self._unread.cancel()
        self._of_address[self._address] -= 1
        if not self._of_address[self._address]:
            del self._of_address[self._address]
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Parse data, unless the head is over its limit."""
        if self._in_head:
            if self._head_bytes > MOST_HEAD:
                self._answer_and_leave(_HEAD_TOO_LONG)
                return
            self._head_bytes += len(data)
        super().data_received(data)

    def on_headers_complete(self) -> None:
        """Start the body's timeout."""
        self._clear()
        self._in_head = False
        self._head_bytes = 0
        self._body_from = self.loop.time()
        self._body_bytes = 0
        self._deadline = self.loop.call_later(BODY_WITHIN, self._body_is_due)
        super().on_headers_complete()

    def on_body(self, body: bytes) -> None:
        """Count the body's bytes."""
        self._body_bytes += len(body)
        super().on_body(body)

    def on_message_complete(self) -> None:
        """Stop the body's timeout; if the request has been answered already, wait for the next one."""
        self._clear()
        self._in_head = True
        super().on_message_complete()
        self._expect_head_if_answered()

    def on_response_complete(self) -> None:
        """Wait for the next request, unless the rest of this one's body is still on its way: it may be
        refused early."""
        super().on_response_complete()
        self._expect_head_if_answered()

    def pause_writing(self) -> None:
        """Start watching whether the client reads."""
        super().pause_writing()
        self._watch_reading()

    def resume_writing(self) -> None:
        """Stop watching: the client reads."""
        super().resume_writing()
        if self._unread is not None:
            self._unread.cancel()
            self._unread = None

    def _watch_reading(self, before: int | None = None) -> None:
        """Checks regularly that the write buffer shrinks, and aborts if it does not. A slow reader is not cut
        off."""
        transport: Any = self.transport
        left = transport.get_write_buffer_size()
        if before is not None and left >= before:
            self._give_up()
            return
        self._unread = self.loop.call_later(SLOW_READER, self._watch_reading, left)

    def _tell_at_most_once_a_second(self, own: int) -> None:
        now = self.loop.time()
        if now - PatientButNotForEver._told_at >= 1:
            PatientButNotForEver._told_at = now
            log.warning("too many connections", open=len(self.connections), of_address=own)

    def _expect_head_if_answered(self) -> None:
        if self._in_head and self.cycle.response_complete and not self.transport.is_closing():
            self._expect_head()

    def _expect_head(self) -> None:
        self._clear()
        self._deadline = self.loop.call_later(HEAD_WITHIN, self._head_is_due)

    def _head_is_due(self) -> None:
        """Aborts; answers 408 if a head has begun."""
        if self._head_bytes:
            self._answer_and_leave(_TOO_SLOW)
        else:
            self._give_up()

    def _body_is_due(self) -> None:
        """Answers 408, or extends the timeout by what has arrived since."""
        until = self._body_from + BODY_WITHIN + self._body_bytes / ENOUGH
        if until <= self.loop.time():
            self._answer_and_leave(_TOO_SLOW)
        else:
            self._deadline = self.loop.call_at(until, self._body_is_due)

    def _clear(self) -> None:
        if self._deadline is not None:
            self._deadline.cancel()
            self._deadline = None

    def _answer_and_leave(self, answer: bytes) -> None:
        """Answers and closes, unless that would land inside another response or be a second one."""
        self._clear()
        if self.transport.is_closing():
            return
        if not self._may_answer():
            self._give_up()
            return
        self.transport.write(answer)
        # In order, so that it arrives; but no longer than anybody takes to read so little.
        self.transport.close()
        self.loop.call_later(LEAVES_WITHIN, self._give_up)

    def _may_answer(self) -> bool:
        """Whether all earlier requests have complete responses and the current one has none."""
        if self.cycle is None:
            return True
        if self._in_head:
            return self.cycle.response_complete
        return not self.pipeline and not self.cycle.response_started

    def _give_up(self) -> None:
        # Not closed in order: that would wait for what is never read.
        transport: Any = self.transport
        transport.abort()
