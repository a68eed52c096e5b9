"""Live seats: what open screens are told as server-sent events.

A screen names the sections it shows. It is told their figures at once and then whatever changes,
gathered: one that is slow to listen is told the latest only, and a rush does not become a storm.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator, Collection, Mapping

from gremba.core.catalogue import TermCatalogue
from gremba.core.situation import SeatFigures

PAUSE = 0.5
"""Seconds between two messages to one screen, at least."""


class LiveSeats:
    """Passes changed figures on to the screens that show them."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: dict[int, set[_Listener]] = {}
        self._open: set[_Listener] = set()

    def begin(self, loop: asyncio.AbstractEventLoop) -> None:
        """Screens are served by this loop."""
        self._loop = loop

    def changed(self, figures: Mapping[int, SeatFigures]) -> None:
        """These pools have changed; called from the thread that reads them."""
        loop = self._loop
        if loop is not None and self._open:
            # The loop may be gone at the very end.
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(self._pass_on, tuple(figures))

    def _pass_on(self, pools: Collection[int]) -> None:
        for pool in pools:
            for listener in self._listeners.get(pool, ()):
                listener.changed.add(pool)
                listener.wake.set()

    def end(self) -> None:
        """No more is told; every screen's stream ends."""
        for listener in self._open:
            listener.ended = True
            listener.wake.set()

    async def listen(
        self, term: TermCatalogue, numbers: Collection[str]
    ) -> AsyncIterator[list[str]]:
        """The sections whose figures are to be told: all of them first, then those changed."""
        sections = [term.by_number[n] for n in numbers if n in term.by_number]
        by_pool: dict[int, list[str]] = {}
        for section in sections:
            by_pool.setdefault(section.pool, []).append(section.reference_number)
        listener = _Listener()
        for pool in by_pool:
            self._listeners.setdefault(pool, set()).add(listener)
        self._open.add(listener)
        try:
            yield [s.reference_number for s in sections]
            while not listener.ended:
                await listener.wake.wait()
                listener.wake.clear()
                changed, listener.changed = listener.changed, set()
                if changed:
                    yield [n for pool in sorted(changed) for n in by_pool[pool]]
                    await asyncio.sleep(PAUSE)
        finally:
            self._open.discard(listener)
            for pool in by_pool:
                self._listeners[pool].discard(listener)


class _Listener:
    """One open screen."""

    def __init__(self) -> None:
        self.wake = asyncio.Event()
        self.changed: set[int] = set()
        self.ended = False
