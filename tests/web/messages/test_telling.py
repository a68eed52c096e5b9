"""What is kept and spread so that thousands of pages can be told: the same as without."""

from __future__ import annotations

import asyncio
import time
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import Any
from unittest import mock

import orjson
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.store.catalogue import seat_board
from gremba.web.catalogue.seats_told import SeatsTold
from gremba.web.messages import live as module
from gremba.web.messages.live import MAX_PAGES_AT_ONCE, Live, News
from gremba.web.registration.responses import seats_response
from tests.support.world import World

DAYS = (date(2027, 4, 19), date(2027, 8, 1))


def _world() -> World:
    world = World()
    for n in range(4):
        world.section(f"3000{n}", f"LAND {n}10", pool=1 + n // 2)
    return world


class SaidOnce(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(
                st.integers(1, 2), st.integers(0, 9), st.booleans(), st.sampled_from(DAYS), st.booleans()
            ),
            max_size=25,
        )
    )
    def test_what_was_put_into_words_once_is_what_would_be_said_now(
        self, steps: list[tuple[int, int, bool, date, bool]]
    ) -> None:
        """However figures, days and the catalogue change: cross-listed sections, kept seats that are
        released, a catalogue read anew."""
        world = _world()
        term = world.catalogue()
        seats: dict[int, SeatFigures] = {1: SeatFigures(9, 0), 2: SeatFigures(9, 0)}
        words = SeatsTold()
        numbers = sorted(world.sections)
        for pool, taken, kept, today, read_anew in steps:
            parts = (ReservedSeats(1, "program", "Bees", 2, release_on=DAYS[1]),) if kept else ()
            seats = {**seats, pool: replace(seats[pool], taken=taken, reserved_seats=parts)}
            if read_anew:
                waiting = {n: replace(s, waitlist_limit=taken) for n, s in world.sections.items()}
                world.sections = waiting
                term = world.catalogue()
            said = orjson.loads(words.tell(term, ["99999", *numbers], seats, today))
            now = {n: seats_response(term.by_number[n], seats, today).model_dump() for n in numbers}
            self.assertEqual(said, now)


class OneAfterAnother(unittest.TestCase):
    def follow(self, pages: int, changes: int) -> list[list[str]]:
        """So many pages, of which each shows two sections; gives what each was told of after the first
        look, when the seats of one pool changed so often while they were being told."""
        term = _world().catalogue()
        told: list[list[str]] = [[] for _ in range(pages)]

        async def go() -> None:
            live = Live()
            live.begin(asyncio.get_running_loop())
            ready = 0

            async def page(n: int) -> None:
                nonlocal ready
                first = True
                async for news in live.follow(term, ["30000", "30002"]):
                    if news is None:
                        continue
                    if first:
                        first, ready = False, ready + 1
                        self.assertEqual(sorted(news.seats), ["30000", "30002"])
                    else:
                        told[n].append(",".join(news.seats))

            tasks = [asyncio.ensure_future(page(n)) for n in range(pages)]
            async with asyncio.timeout(60):
                while ready < pages:
                    await asyncio.sleep(0.01)
                for _ in range(changes):
                    live.seats_changed({1: SeatFigures(1, 0)})
                    await asyncio.sleep(0.05)
                while not all(told):
                    await asyncio.sleep(0.01)
            live.end()
            await asyncio.gather(*tasks)
            self.assertEqual((live.pages, live._by_pool, live._by_row), (0, {}, {}))

        asyncio.run(go())
        return told

    def test_all_are_told_few_or_many_and_nobody_of_what_they_do_not_show(self) -> None:
        quickly = mock.patch.multiple(module, ROUND=0.2, PAUSE=0.05)
        for pages in (1, MAX_PAGES_AT_ONCE, MAX_PAGES_AT_ONCE + 150):
            with self.subTest(pages=pages), quickly:
                for said in self.follow(pages, changes=4):
                    self.assertEqual(set(said), {"30000"})

    def test_many_are_not_told_in_the_same_moment(self) -> None:
        term = _world().catalogue()

        async def go() -> None:
            live = Live()
            live.begin(asyncio.get_running_loop())
            following = [live.follow(term, ["30000"]) for _ in range(MAX_PAGES_AT_ONCE + 150)]
            for page in following:
                await anext(page)
            live.seats_changed({1: SeatFigures(1, 0)})
            for _ in range(5):
                await asyncio.sleep(0)
            woken = sum(page.is_awake for page in live._open)
            self.assertTrue(0 < woken <= 10, woken)
            async with asyncio.timeout(60):
                while not all(page.is_awake for page in live._open):
                    await asyncio.sleep(0.01)
            for page in following:
                await page.aclose()

        with mock.patch.multiple(module, ROUND=2.0, STEP=0.01, PAUSE=0):
            asyncio.run(go())

    def test_everybody_is_told_within_two_seconds(self) -> None:
        """What is gathered, and a whole round: docs/architecture.md promises it."""
        self.assertLess(seat_board.OFTEN + module.ROUND + module.STEP, 2)

    def test_what_changes_while_a_page_rests_is_told_together_afterwards(self) -> None:
        term = _world().catalogue()

        async def go() -> tuple[list[object], float]:
            live = Live()
            live.begin(asyncio.get_running_loop())
            page = live.follow(term, ["30000", "30002"], row=7)
            await anext(page)
            live.students_changed("week 7")
            told: list[object] = [await anext(page)]
            begun = time.monotonic()
            live.seats_changed({1: SeatFigures(1, 0)})
            live.students_changed("cart 7")
            live.seats_changed({2: SeatFigures(1, 0)})
            async with asyncio.timeout(5):
                told.append(await anext(page))
            rested = time.monotonic() - begun
            await page.aclose()
            return told, rested

        with mock.patch.object(module, "PAUSE", 0.2):
            told, rested = asyncio.run(go())
        self.assertEqual(told, [News([], ["week"]), News(["30000", "30002"], ["cart"])])
        self.assertGreaterEqual(rested, 0.15)

    def test_whoever_opens_is_told_what_has_changed_just_before(self) -> None:
        """The first data of a page are read before its stream opens."""
        term = _world().catalogue()

        async def go(changed: str, recent: float) -> list[object]:
            live = Live(ping=0.1)
            live.begin(asyncio.get_running_loop())
            await anext(live.follow(term, []))
            live.students_changed(changed)
            live.term_changed("another")
            await asyncio.sleep(0.02)
            with mock.patch.object(module, "RECENT", recent):
                page = live.follow(term, ["30000"], row=7)
                async with asyncio.timeout(5):
                    told: list[object] = [await anext(page), await anext(page)]
            await page.aclose()
            return told

        for changed, recent, then in (
            ("cart 7", 5.0, News([], ["cart"])),
            ("cart 8", 5.0, None),
            ("cart 7", 0.001, None),
        ):
            with self.subTest(changed, recent=recent):
                self.assertEqual(asyncio.run(go(changed, recent)), [News(["30000"], []), then])

    def test_what_is_not_recent_any_more_is_not_kept(self) -> None:
        async def go() -> int:
            live = Live()
            live.begin(asyncio.get_running_loop())
            await anext(live.follow(_world().catalogue(), []))
            for row in range(100):
                live.students_changed(f"cart {row}")
                await asyncio.sleep(0.001)
            return len(live._lately)

        with mock.patch.multiple(module, NOTED=10, RECENT=0.005):
            self.assertLess(asyncio.run(go()), 40)

    def test_after_a_session_ended_its_pages_are_told_nothing_more(self) -> None:
        term = _world().catalogue()

        async def go() -> list[object]:
            live = Live()
            live.begin(asyncio.get_running_loop())
            page = live.follow(term, [], session=b"a")
            await anext(page)
            live.session_ended(b"a".hex())
            async with asyncio.timeout(5):
                return [news async for news in page]

        self.assertEqual(asyncio.run(go()), [News([], ["signed out"])])

    def test_who_is_told_nothing_is_asked_whether_they_are_there(self) -> None:
        term = _world().catalogue()

        async def go() -> list[object]:
            live = Live(ping=0.1)
            live.begin(asyncio.get_running_loop())
            page = live.follow(term, ["30000"])
            async with asyncio.timeout(10):
                told: list[object] = [await anext(page) for _ in range(3)]
            await page.aclose()
            # None is left; whoever comes later is asked as well.
            await asyncio.sleep(0.1)
            another = live.follow(term, ["30002"])
            async with asyncio.timeout(10):
                told += [await anext(another) for _ in range(2)]
            await another.aclose()
            return told

        self.assertEqual(asyncio.run(go()), [News(["30000"], []), None, None, News(["30002"], []), None])

    def test_what_is_about_a_term_a_session_or_the_clock_is_told_to_its_pages(self) -> None:
        here, there = _world(), _world()
        terms = [here.catalogue(), replace(there.catalogue(), code="another")]

        async def go() -> list[list[str]]:
            live = Live()
            live.begin(asyncio.get_running_loop())
            following: list[Any] = [
                live.follow(term, [], row, session)
                for term, row, session in ((terms[0], 7, b"a"), (terms[0], 8, b"b"), (terms[1], 7, b"b"))
            ]
            for page in following:
                await anext(page)
            told = []
            tells: tuple[Callable[[], None], ...] = (
                lambda: live.term_changed("another"),
                lambda: live.students_changed("cart 7 99"),
                live.clock_moved,
                lambda: live.session_ended(b"b".hex()),
            )
            for tell in tells:
                tell()
                for _ in range(3):
                    await asyncio.sleep(0)
                told.append(
                    [
                        ",".join(sorted(p.changed))
                        for p in sorted(live._open, key=lambda p: (p.term.code == "another", p.session))
                    ]
                )
                for page in live._open:
                    page.changed.clear()
            for page in following:
                await page.aclose()
            return told

        self.assertEqual(
            asyncio.run(go()),
            [["", "", "term"], ["cart", "", "cart"], ["clock"] * 3, ["", "signed out", "signed out"]],
        )
