"""A stream of server-sent events (WHATWG HTML, 9.2) as a response, lean enough for thousands at a time."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable

from starlette.responses import Response
from starlette.types import Receive, Scope, Send

MEDIA_TYPE = "text/event-stream"

HEADERS = {
    "Content-Type": f"{MEDIA_TYPE}; charset=utf-8",
    "Cache-Control": "no-store",
    # Proxies that gather answers before they pass them on would hold everything back.
    "X-Accel-Buffering": "no",
}

PING = b": still here\n\n"


def event(name: str, data: bytes) -> bytes:
    """Formats a server-sent event; JSON has no line breaks."""
    return b"event: " + name.encode() + b"\ndata: " + data + b"\n\n"


class EventStream(Response):
    """Sends events until they end or the client disconnects.

    Args:
        events: written as they are.
        at_end: called when it is over, however it ended.
    """

    def __init__(self, events: AsyncIterator[bytes], at_end: Callable[[], None]) -> None:
        super().__init__(headers=HEADERS)
        del self.headers["content-length"]
        self._events = events
        self._at_end = at_end

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle a request."""
        writing = asyncio.ensure_future(self._write(send))
        listening = asyncio.ensure_future(_until_gone(receive))
        try:
            await asyncio.wait((writing, listening), return_when=asyncio.FIRST_COMPLETED)
        finally:
            for task in (writing, listening):
                task.cancel()
            await asyncio.gather(writing, listening, return_exceptions=True)
            self._at_end()

    async def _write(self, send: Send) -> None:
        await send({"type": "http.response.start", "status": 200, "headers": self.raw_headers})
        async for piece in self._events:
            await send({"type": "http.response.body", "body": piece, "more_body": True})
        await send({"type": "http.response.body", "body": b"", "more_body": False})


async def _until_gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass
