"""Pushes updates to open pages: seats in view, the student's own changes, the clock, an ended session.

Nothing polls. What changes is gathered: a page that is slow to listen is told the latest only, and a
rush does not become a storm.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections import OrderedDict
from collections.abc import AsyncGenerator, Callable, Collection, Mapping
from dataclasses import dataclass, field
from math import ceil

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue

PAUSE = 0.5
"""Seconds between two messages to one page, at least."""

MAX_PAGES_AT_ONCE = 200
"""So many pages may be told in the same moment. Where more are open their seats are told one after
another: submissions come in between."""

ROUND, STEP = 1.15, 0.02
"""Seconds in which each of many has its turn once, and from one handful to the next. With what the seat
board gathers everybody is told within two seconds."""

CATCH_UP = 5
"""Handfuls at most in one step, where steps came late."""

PING = 15.0
"""Seconds in which a page is told something, be it only that somebody is still here: that is how it is
found out whether anybody listens."""

RECENT = 10.0
"""Seconds back of which a page is told when it opens: its first data may be as old."""

NOTED = 20_000
"""So many recent changes are kept before those are thrown away that are not recent any more."""

OWN = ("cart", "week", "waitlists", "messages", "clearance", "account", "requests")
"""Kinds of changes that are one student's."""

SIGNED_OUT = "signed out"
CLOCK = "clock"
TERM = "term"


@dataclass(slots=True)
class News:
    """What one event tells a page.

    Attributes:
        seats: reference numbers of sections whose figures are told.
        changed: kinds of what is another now: "cart", "week", "waitlists", "messages", "clearance",
            "clock", "term"; and "signed out", after which nothing more comes.
    """

    seats: list[str]
    changed: list[str]


class Live:
    """Tells open pages what has changed."""

    def __init__(self, ping: float = PING) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._ping = ping
        self._by_pool: dict[int, set[_Page]] = {}
        self._by_row: dict[int, set[_Page]] = {}
        # Whose turn is next comes first.
        self._open: OrderedDict[_Page, None] = OrderedDict()
        # How often seats have changed, and at which of these times each pool last did.
        self._times = 0
        self._changed_at: dict[int, int] = {}
        self._left_of_round = 0
        self._stepped_at = 0.0
        self._is_pacing = False
        self._is_pinging = False
        # When a kind last changed, by the student's row or the term that it is about; None for all.
        self._lately: dict[tuple[str, int | str | None], float] = {}
        self._thrown_away_at = NOTED
        self._has_been_open = False

    @property
    def pages(self) -> int:
        """The number of open pages."""
        return len(self._open)

    def begin(self, loop: asyncio.AbstractEventLoop) -> None:
        """Attach to the event loop that serves pages."""
        self._loop = loop

    def seats_changed(self, figures: Mapping[int, SeatFigures]) -> None:
        """Note that the seats of these pools have changed. This and the following methods are called from
        other threads."""
        self._in_loop(self._pass_on_seats, tuple(figures))

    def students_changed(self, payload: str) -> None:
        """Note an announcement of the database: a kind, and the ids of the students' term rows."""
        kind, *rows = payload.split()
        self._in_loop(self._pass_on_rows, kind, [int(row) for row in rows])

    def clock_moved(self) -> None:
        """Note that the campus clock was set."""
        self._in_loop(self._pass_on_to_all, CLOCK, None)

    def term_changed(self, code: str) -> None:
        """Note that a term's catalogue was reloaded."""
        self._in_loop(self._pass_on_to_all, TERM, code)

    def session_ended(self, digest_hex: str) -> None:
        """Note that a session has ended: its pages are told, and nothing more."""
        self._in_loop(self._end_session, bytes.fromhex(digest_hex))

    def missed(self) -> None:
        """Note that announcements may have been missed: every page reloads everything."""
        for kind in (*OWN, CLOCK):
            self._in_loop(self._pass_on_to_all, kind, None)

    def _in_loop(self, call: Callable[..., None], *arguments: object) -> None:
        loop = self._loop
        if loop is not None:
            # The loop may be gone at the very end.
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(call, *arguments)

    def _pass_on_seats(self, pools: Collection[int]) -> None:
        self._times += 1
        self._changed_at.update(dict.fromkeys(pools, self._times))
        if len(self._open) <= MAX_PAGES_AT_ONCE:
            for pool in pools:
                for page in self._by_pool.get(pool, ()):
                    self._wake(page)
        else:
            self._left_of_round = len(self._open)
            if not self._is_pacing:
                self._is_pacing = True
                self._stepped_at = self._now() - STEP
                self._step()

    def _step(self) -> None:
        """Wakes the next pages, as many as the time since the last step allows, until all have been woken
        since seats last changed."""
        now = self._now()
        late = min((now - self._stepped_at) / STEP, CATCH_UP)
        self._stepped_at = now
        for _ in range(ceil(len(self._open) * STEP / ROUND * late)):
            if self._left_of_round <= 0:
                break
            self._left_of_round -= 1
            page = next(iter(self._open))
            self._open.move_to_end(page)
            if page.has_seats(self._changed_at):
                self._wake(page)
        self._is_pacing = self._left_of_round > 0 and bool(self._open)
        if not self._is_pacing:
            return
        assert self._loop is not None
        self._loop.call_later(STEP, self._step)

    def _wake(self, page: _Page) -> None:
        """Wakes a page now, or after its pause."""
        if self._now() >= page.rests_until:
            page.wake()
        elif not page.is_waiting_to_wake:
            page.is_waiting_to_wake = True
            assert self._loop is not None
            self._loop.call_at(page.rests_until, page.wake)

    def _ping_all(self) -> None:
        before = self._now() - self._ping
        for page in self._open:
            if page.told_at <= before:
                page.is_pinged = True
                page.wake()
        self._is_pinging = bool(self._open)
        if self._is_pinging:
            assert self._loop is not None
            self._loop.call_later(self._ping / 4, self._ping_all)

    def _now(self) -> float:
        assert self._loop is not None
        return self._loop.time()

    def _pass_on_rows(self, kind: str, rows: Collection[int]) -> None:
        for row in rows:
            self._note(kind, row)
            for page in self._by_row.get(row, ()):
                self._tell(page, kind)

    def _pass_on_to_all(self, kind: str, term: str | None) -> None:
        self._note(kind, term)
        for page in self._open:
            if term is None or page.term.code == term:
                self._tell(page, kind)

    def _note(self, kind: str, about: int | str | None) -> None:
        if not self._has_been_open:
            # A server that begins looks at everything anew: that is no change.
            return
        now = self._now()
        self._lately[kind, about] = now
        if len(self._lately) > self._thrown_away_at:
            self._lately = {key: at for key, at in self._lately.items() if at > now - RECENT}
            self._thrown_away_at = max(NOTED, 2 * len(self._lately))

    def _changed_lately(self, page: _Page, row: int | None) -> list[str]:
        """What may have changed since the page read its first data."""
        looked_at: list[tuple[str, int | str | None]] = [(CLOCK, None), (TERM, page.term.code)]
        if row is not None:
            looked_at += [(kind, about) for kind in OWN for about in (row, None)]
        since = self._now() - RECENT
        return sorted({key[0] for key in looked_at if self._lately.get(key, since) > since})

    def _end_session(self, digest: bytes) -> None:
        for page in self._open:
            if page.session == digest:
                self._tell(page, SIGNED_OUT)

    def _tell(self, page: _Page, kind: str) -> None:
        page.changed.add(kind)
        self._wake(page)

    def end(self) -> None:
        """End the streams of all pages."""
        for page in self._open:
            page.ended = True
            page.wake()

    async def follow(
        self,
        term: TermCatalogue,
        numbers: Collection[str],
        row: int | None = None,
        session: bytes = b"",
    ) -> AsyncGenerator[News | None, None]:
        """Yields what a page is told: first the seats of all its sections, then recent changes, then changes
        as they happen. Yields None after a quiet period, to find out whether the client is still there.

        Args:
            row: the student's row of the term whose cart and waitlists the page shows.
            session: the digest of the token of the session that the page is of.
        """
        assert self._loop is not None
        page = _Page(self._loop, term, session)
        for number in numbers:
            section = term.by_number.get(number)
            if section is not None:
                page.numbers.setdefault(section.pool, []).append(section.reference_number)
        for pool in page.numbers:
            self._by_pool.setdefault(pool, set()).add(page)
        if row is not None:
            self._by_row.setdefault(row, set()).add(page)
        self._open[page] = None
        self._has_been_open = True
        page.seen = self._times
        page.told_at = self._now()
        if not self._is_pinging:
            self._ping_all()
        try:
            lately = self._changed_lately(page, row)
            yield News([n for numbers in page.numbers.values() for n in numbers], [])
            if lately:
                yield News([], lately)
            while not page.ended:
                await page.woken()
                seats = page.take_seats(self._changed_at, self._times)
                changed, page.changed = page.changed, set()
                pinged, page.is_pinged = page.is_pinged, False
                if seats or changed or pinged:
                    page.told_at = self._now()
                    page.rests_until = page.told_at + PAUSE
                    yield News(seats, sorted(changed)) if seats or changed else None
                    if SIGNED_OUT in changed:
                        return
        finally:
            del self._open[page]
            for pool in page.numbers:
                _take_out(self._by_pool, pool, page)
            if row is not None:
                _take_out(self._by_row, row, page)


@dataclass(slots=True, eq=False)
class _Page:
    """An open page.

    Attributes:
        numbers: what it shows, by pool.
        seen: of the times that seats changed, the last that it was told of.
        told_at, rests_until: by the loop's clock.
    """

    loop: asyncio.AbstractEventLoop
    term: TermCatalogue
    session: bytes
    numbers: dict[int, list[str]] = field(default_factory=dict)
    seen: int = 0
    changed: set[str] = field(default_factory=set)
    told_at: float = 0.0
    rests_until: float = 0.0
    ended: bool = False
    is_awake: bool = False
    is_pinged: bool = False
    is_waiting_to_wake: bool = False
    _waiting: asyncio.Future[None] | None = None

    def wake(self) -> None:
        """Let it continue, or not wait the next time."""
        self.is_awake = True
        self.is_waiting_to_wake = False
        if self._waiting is not None and not self._waiting.done():
            self._waiting.set_result(None)

    async def woken(self) -> None:
        """Wait to be woken. An asyncio event with a timeout does the same and takes three times as long as
        sending."""
        if not self.is_awake:
            self._waiting = self.loop.create_future()
            await self._waiting
            self._waiting = None
        self.is_awake = False

    def has_seats(self, changed_at: Mapping[int, int]) -> bool:
        """Whether seats of its sections have changed since it was last told."""
        return any(changed_at.get(pool, 0) > self.seen for pool in self.numbers)

    def take_seats(self, changed_at: Mapping[int, int], times: int) -> list[str]:
        """The sections whose seats have changed, to be told now."""
        seen, self.seen = self.seen, times
        if seen == times:
            return []
        fresh = (own for pool, own in self.numbers.items() if changed_at.get(pool, 0) > seen)
        return [number for own in fresh for number in own]


def _take_out(pages: dict[int, set[_Page]], key: int, page: _Page) -> None:
    there = pages[key]
    there.discard(page)
    if not there:
        del pages[key]
