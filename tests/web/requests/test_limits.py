"""Limits by themselves: whose turn it is, and where there is an end."""

from __future__ import annotations

import asyncio
import unittest
from collections import Counter
from typing import Any
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st
from starlette.requests import HTTPConnection

from gremba.web.access.cookies import session_cookie
from gremba.web.requests import limits
from gremba.web.requests import turns as turns_module
from gremba.web.requests.limits import RateLimit, Slots, address_of
from gremba.web.requests.turns import (
    OF_ADDRESS,
    OF_PERSON,
    READ_AHEAD,
    WAITING_OF_ADDRESS,
    WAITING_OF_PERSON,
    Turns,
)


class Rates(unittest.TestCase):
    def test_so_many_at_once_and_then_one_after_another(self) -> None:
        now = [0.0]
        limit = RateLimit(6, clock=lambda: now[0])
        self.assertEqual([limit.take("a") for _ in range(6)], [0] * 6)
        self.assertEqual(limit.take("a"), 10)
        self.assertEqual(limit.take("b"), 0)
        now[0] += 9.5
        self.assertAlmostEqual(limit.take("a"), 0.5)
        now[0] += 0.5
        self.assertEqual((limit.take("a"), limit.take("a")), (0, 10))

    @given(st.integers(1, 60), st.lists(st.floats(0, 20), min_size=1, max_size=200))
    def test_never_more_than_twice_as_many_in_a_minute(self, a_minute: int, pauses: list[float]) -> None:
        """All at once, and as many again as come back within the minute."""
        now = [0.0]
        limit = RateLimit(a_minute, clock=lambda: now[0])
        taken = []
        for pause in pauses:
            now[0] += pause
            if limit.take("a") == 0:
                taken.append(now[0])
        for at in taken:
            self.assertLessEqual(sum(at <= other < at + 60 for other in taken), 2 * a_minute)

    def test_strangers_without_end_do_not_fill_the_memory(self) -> None:
        with mock.patch.object(limits, "_MOST_KNOWN", 10):
            limit = RateLimit(1, clock=lambda: 0.0)
            for stranger in range(50):
                self.assertEqual(limit.take(stranger), 0)
            self.assertEqual(len(limit._full_at), 10)
            self.assertGreater(limit.take(49), 0)

    def test_slots_are_given_back(self) -> None:
        slots = Slots(2)
        self.assertEqual([slots.take("a") for _ in range(3)], [True, True, False])
        self.assertTrue(slots.take("b"))
        slots.give_back("a")
        self.assertEqual([slots.take("a"), slots.take("a")], [True, False])

    def test_an_ipv6_household_is_one_address(self) -> None:
        def of(host: str) -> str:
            return address_of(HTTPConnection({"type": "http", "client": (host, 1), "headers": []}))

        self.assertEqual(of("2001:db8:1:2::7"), of("2001:db8:1:2:ffff::1"))
        self.assertNotEqual(of("2001:db8:1:2::7"), of("2001:db8:1:3::7"))
        self.assertEqual(of("::ffff:192.0.2.7"), "192.0.2.7")
        self.assertEqual(of("192.0.2.7"), "192.0.2.7")
        self.assertEqual(of("not an address"), "unknown")


class InTurn(unittest.TestCase):
    """Requests of one session, on an application that answers when it is told to."""

    def setUp(self) -> None:
        self.known = {"greedy": 1, "greedy too": 1, "other": 2, "one": 3}
        self.at_work: Counter[str] = Counter()
        self.most: Counter[str] = Counter()
        self.statuses: Counter[int] = Counter()

    async def whose(self, token: str) -> int | None:
        """Who has that session."""
        return self.known.get(token)

    async def app(self, scope: dict[str, object], receive: object, send: object) -> None:
        """Works for a moment."""
        who = str(scope["headers"])
        self.at_work[who] += 1
        self.most[who] = max(self.most[who], self.at_work[who])
        try:
            await asyncio.sleep(0.001)
        finally:
            self.at_work[who] -= 1
        self.statuses[200] += 1

    def ask(
        self, turns: Turns, session: str, path: str = "/api/cart", receive: object = None
    ) -> asyncio.Task[None]:
        """One request, without a body unless what is received is given."""

        async def nothing() -> dict[str, object]:
            return {"type": "http.request", "body": b"", "more_body": False}

        async def send(message: dict[str, object]) -> None:
            if message["type"] == "http.response.start":
                self.statuses[int(str(message["status"]))] += 1

        scope = {
            "type": "http",
            "path": path,
            "method": "GET",
            "client": ("127.0.0.1", 1),
            "headers": [(b"cookie", f"gremba_session={session}".encode())],
        }
        return asyncio.ensure_future(turns(scope, receive or nothing, send))  # type: ignore[arg-type]

    def test_so_many_at_a_time_and_all_are_answered_up_to_an_end(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]
            many = OF_PERSON + WAITING_OF_PERSON + 7
            await asyncio.gather(
                *[self.ask(turns, "greedy") for _ in range(many)],
                *[self.ask(turns, "other") for _ in range(3)],
            )
            self.assertEqual((turns._at_work, turns._waiting), ({}, {}))

        asyncio.run(go())
        self.assertEqual(max(self.most.values()), OF_PERSON)
        self.assertEqual(self.statuses, {200: OF_PERSON + WAITING_OF_PERSON + 3, 429: 7})

    def test_sessions_of_one_person_are_one_visitor(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]
            asked = [self.ask(turns, ("greedy", "greedy too")[n % 2]) for n in range(OF_PERSON * 3)]
            await asyncio.sleep(0)
            self.assertEqual(turns._at_work, {"person 1": OF_PERSON})
            await asyncio.gather(*asked)

        asyncio.run(go())

    def test_whoever_gives_up_while_waiting_leaves_no_turn_behind(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]
            asked = [self.ask(turns, "one") for _ in range(40)]
            await asyncio.sleep(0)
            for task in asked[OF_PERSON::2]:
                task.cancel()
            await asyncio.gather(*asked, return_exceptions=True)
            self.assertEqual((turns._at_work, turns._waiting), ({}, {}))
            await asyncio.wait_for(self.ask(turns, "one"), 30)

        asyncio.run(go())

    def test_tokens_that_are_made_up_are_one_visitor(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]
            asked = [self.ask(turns, f"made-up-{n}") for n in range(OF_ADDRESS + WAITING_OF_ADDRESS + 9)]
            await asyncio.gather(*asked)

        asyncio.run(go())
        self.assertEqual(self.statuses[429], 9)

    def test_bodies_that_do_not_come_hold_up_nobody(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]

            def one_octet() -> Any:
                left = [b"{"]

                async def receive() -> dict[str, object]:
                    if not left:
                        await asyncio.Event().wait()
                    return {"type": "http.request", "body": left.pop(), "more_body": True}

                return receive

            slow = [self.ask(turns, "nobody", receive=one_octet()) for _ in range(420)]
            await asyncio.sleep(0.1)
            await asyncio.wait_for(self.ask(turns, "nobody"), 30)
            for task in slow:
                task.cancel()
            await asyncio.gather(*slow, return_exceptions=True)
            self.assertEqual((turns._at_work, turns._waiting), ({}, {}))

        asyncio.run(go())
        self.assertEqual(self.statuses[200], 1)

    def test_a_long_body_that_stops_gives_its_turn_back(self) -> None:
        async def go() -> None:
            seen: list[str] = []

            async def reading(scope: object, receive: Any, send: object) -> None:
                while (message := await receive()).get("more_body"):
                    pass
                seen.append(message["type"])

            turns = Turns(reading, session_cookie(False), self.whose)
            pieces = [b"x" * READ_AHEAD, b"x" * READ_AHEAD]

            async def stops() -> dict[str, object]:
                if not pieces:
                    await asyncio.Event().wait()
                return {"type": "http.request", "body": pieces.pop(), "more_body": True}

            with mock.patch.object(turns_module, "NEXT_PIECE_WITHIN", 0.05):
                await asyncio.wait_for(self.ask(turns, "one", receive=stops), 30)
            self.assertEqual((seen, turns._at_work), (["http.disconnect"], {}))

        asyncio.run(go())

    def test_a_body_is_given_on_whole(self) -> None:
        async def go() -> None:
            for size in (0, 10, READ_AHEAD - 1, READ_AHEAD, 3 * READ_AHEAD + 7):
                came: list[bytes] = []

                async def reading(
                    scope: object, receive: Any, send: object, came: list[bytes] = came
                ) -> None:
                    more = True
                    while more:
                        message = await receive()
                        came.append(message["body"])
                        more = message["more_body"]

                body = bytes(n % 251 for n in range(size))
                pieces = [body[n : n + 10_000] for n in range(0, size, 10_000)] or [b""]

                async def sending(pieces: list[bytes] = pieces) -> dict[str, object]:
                    return {"type": "http.request", "body": pieces.pop(0), "more_body": bool(pieces)}

                turns = Turns(reading, session_cookie(False), self.whose)
                await self.ask(turns, "one", receive=sending)
                self.assertEqual(b"".join(came), body)

        asyncio.run(go())

    def test_streams_take_no_turn(self) -> None:
        async def go() -> None:
            turns = Turns(self.app, session_cookie(False), self.whose)  # type: ignore[arg-type]
            await asyncio.gather(*[self.ask(turns, "one", "/api/terms/x/stream") for _ in range(20)])

        asyncio.run(go())
        self.assertGreater(max(self.most.values()), OF_PERSON)
