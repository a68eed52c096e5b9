"""What open pages are told, over one stream of server-sent events each: seats in sight, what of the
student's own has changed, that the clock was moved, that the session has ended.

Nothing polls. What changes is gathered: a page that is slow to listen is told the latest only, and a
rush does not become a storm.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections import deque
from collections.abc import AsyncIterator, Callable, Collection, Mapping
from dataclasses import dataclass, field
from math import ceil

from gremba.core.catalogue import TermCatalogue
from gremba.core.situation import SeatFigures

PAUSE = 0.5
"""Seconds between two messages to one page, at least."""

MANY = 200
"""So many pages may be told in the same moment. Where more are open they are told one after another:
sendings come in between."""

SPREAD, STEP = 1.0, 0.02
"""Seconds in which all of them are told, and from one handful to the next."""

PAUSE_OF_MANY = 1.4
"""Seconds between two messages to one of many. What the seat board gathers (0.8) and waiting for one's
turn run meanwhile, so that everybody is told within two seconds."""

SIGNED_OUT = "signed out"
CLOCK = "clock"
TERM = "term"


@dataclass(slots=True)
class News:
    """What a page is told at one time.

    Attributes:
        seats: reference numbers of sections whose figures are told.
        changed: kinds of what is another now: "cart", "week", "places", "messages", "clearance",
            "clock", "term"; and "signed out", after which nothing more comes.
    """

    seats: list[str]
    changed: list[str]


class Live:
    """Passes on what has changed to the pages that show it."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._by_pool: dict[int, set[_Page]] = {}
        self._by_row: dict[int, set[_Page]] = {}
        self._open: set[_Page] = set()
        self._in_turn: deque[_Page] = deque()
        self._is_pacing = False

    @property
    def pages(self) -> int:
        """How many are open."""
        return len(self._open)

    def begin(self, loop: asyncio.AbstractEventLoop) -> None:
        """Pages are served by this loop."""
        self._loop = loop

    def seats_changed(self, figures: Mapping[int, SeatFigures]) -> None:
        """The seats of these pools are others now. This and what follows is called from other threads."""
        self._in_loop(self._pass_on_seats, tuple(figures))

    def students_changed(self, payload: str) -> None:
        """What the database announces: a kind, and the rows of the students whose it is."""
        kind, *rows = payload.split()
        self._in_loop(self._pass_on_rows, kind, [int(row) for row in rows])

    def clock_moved(self) -> None:
        """The clock in force shows another time."""
        self._in_loop(self._pass_on_to_all, CLOCK, None)

    def term_changed(self, code: str) -> None:
        """The catalogue of a term was read anew."""
        self._in_loop(self._pass_on_to_all, TERM, code)

    def session_ended(self, digest_hex: str) -> None:
        """A session has ended: its pages are told so, and no more."""
        self._in_loop(self._end_session, bytes.fromhex(digest_hex))

    def missed(self) -> None:
        """Announcements may have been missed: every page looks at everything anew."""
        for kind in ("cart", "week", "places", "messages", "clearance", CLOCK):
            self._in_loop(self._pass_on_to_all, kind, None)

    def _in_loop(self, call: Callable[..., None], *arguments: object) -> None:
        loop = self._loop
        if loop is not None and self._open:
            # The loop may be gone at the very end.
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(call, *arguments)

    def _pass_on_seats(self, pools: Collection[int]) -> None:
        for pool in pools:
            for page in self._by_pool.get(pool, ()):
                page.pools.add(pool)
                self._wake(page)

    def _wake(self, page: _Page) -> None:
        if len(self._open) <= MANY:
            page.wake.set()
        elif not page.in_turn:
            page.in_turn = True
            self._in_turn.append(page)
            if not self._is_pacing:
                self._is_pacing = True
                # Not at once: the others whose turn it is are still being gathered.
                assert self._loop is not None
                self._loop.call_soon(self._wake_some)

    def _wake_some(self) -> None:
        """Wake a handful of those whose turn it is, and the next ones a moment later."""
        for _ in range(max(5, ceil(len(self._open) * STEP / SPREAD))):
            if not self._in_turn:
                self._is_pacing = False
                return
            page = self._in_turn.popleft()
            page.in_turn = False
            page.wake.set()
        assert self._loop is not None
        self._loop.call_later(STEP, self._wake_some)

    def _pass_on_rows(self, kind: str, rows: Collection[int]) -> None:
        for row in rows:
            for page in self._by_row.get(row, ()):
                page.tell(kind)

    def _pass_on_to_all(self, kind: str, term: str | None) -> None:
        for page in self._open:
            if term is None or page.term.code == term:
                page.tell(kind)

    def _end_session(self, digest: bytes) -> None:
        for page in self._open:
            if page.session == digest:
                page.tell(SIGNED_OUT)

    def end(self) -> None:
        """No more is told; every page's stream ends."""
        for page in self._open:
            page.ended = True
            page.wake.set()

    async def follow(
        self,
        term: TermCatalogue,
        numbers: Collection[str],
        row: int | None = None,
        session: bytes = b"",
        ping: float = 15.0,
    ) -> AsyncIterator[News | None]:
        """What a page is told: the seats of all its sections first, then what changes. None where
        there was nothing for so long, to find out whether anybody listens.

        Args:
            row: the student's row of the term whose cart and places the page shows.
            session: the digest of the token of the session that the page is of.
        """
        page = _Page(term, session)
        for number in numbers:
            section = term.by_number.get(number)
            if section is not None:
                page.numbers.setdefault(section.pool, []).append(section.reference_number)
        for pool in page.numbers:
            self._by_pool.setdefault(pool, set()).add(page)
        if row is not None:
            self._by_row.setdefault(row, set()).add(page)
        self._open.add(page)
        try:
            yield News([n for numbers in page.numbers.values() for n in numbers], [])
            while not page.ended:
                try:
                    async with asyncio.timeout(ping):
                        await page.wake.wait()
                except TimeoutError:
                    yield None
                    continue
                page.wake.clear()
                pools, page.pools = page.pools, set()
                changed, page.changed = page.changed, set()
                if pools or changed:
                    seats = [n for pool in sorted(pools) for n in page.numbers[pool]]
                    yield News(seats, sorted(changed))
                    if SIGNED_OUT in changed:
                        return
                    await asyncio.sleep(PAUSE if len(self._open) <= MANY else PAUSE_OF_MANY)
        finally:
            self._open.discard(page)
            for pool in page.numbers:
                _take_out(self._by_pool, pool, page)
            if row is not None:
                _take_out(self._by_row, row, page)


@dataclass(slots=True, eq=False)
class _Page:
    """One that is open."""

    term: TermCatalogue
    session: bytes
    numbers: dict[int, list[str]] = field(default_factory=dict)
    wake: asyncio.Event = field(default_factory=asyncio.Event)
    pools: set[int] = field(default_factory=set)
    changed: set[str] = field(default_factory=set)
    ended: bool = False
    in_turn: bool = False

    def tell(self, kind: str) -> None:
        self.changed.add(kind)
        self.wake.set()


def _take_out(pages: dict[int, set[_Page]], key: int, page: _Page) -> None:
    there = pages[key]
    there.discard(page)
    if not there:
        del pages[key]
