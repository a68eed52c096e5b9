"""Connections that bring nothing, never end, or are too many: on the server's protocol, with shorter
deadlines."""

from __future__ import annotations

import asyncio
import json
import unittest
from collections import Counter
from collections.abc import Awaitable, Callable
from unittest import mock

from uvicorn.server import ServerState

from gremba.launch.workers import server_config
from gremba.settings import Settings
from gremba.web.requests import connections
from gremba.web.requests.connections import PatientButNotForEver

WHOLE = b"GET / HTTP/1.1\r\nHost: localhost\r\n\r\n"
Opened = Callable[[bytes], Awaitable[tuple[asyncio.StreamReader, asyncio.StreamWriter]]]


PIECES, PIECE = 300, 100_000
_handed_over: Counter[object] = Counter()
"""Pieces of the answer that the server took, by the query of the request."""

Receive = Callable[[], Awaitable[dict[str, object]]]
Send = Callable[[dict[str, object]], Awaitable[None]]


async def _app(scope: dict[str, object], receive: Receive, send: Send) -> None:
    """Answers at length, when the request is whole; PUT in short, before its body, and DELETE never."""
    if scope["type"] != "http":
        return
    if scope["method"] == "DELETE":
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"begun", "more_body": True})
        await asyncio.sleep(60)
    if scope["method"] == "PUT":
        await send({"type": "http.response.start", "status": 413, "headers": [(b"content-length", b"0")]})
        await send({"type": "http.response.body"})
        return
    received = 0
    while (message := await receive())["type"] == "http.request":
        body = message["body"]
        assert isinstance(body, bytes)
        received += len(body)
        if not message["more_body"]:
            break
    length = str(PIECES * PIECE).encode()
    headers = [(b"content-length", length), (b"x-received", str(received).encode())]
    await send({"type": "http.response.start", "status": 200, "headers": headers})
    for _ in range(PIECES):
        await send({"type": "http.response.body", "body": b"x" * PIECE, "more_body": True})
        _handed_over[scope["query_string"]] += 1
    await send({"type": "http.response.body"})


def make_app() -> object:
    """What the server is to serve."""
    return _app


class Connections(unittest.TestCase):
    def served(self, test: Callable[[Opened], Awaitable[None]], proxies: str = "") -> None:
        """Run a test on a server of its own; what it gives opens a connection and says something."""
        settings = Settings(database_url="postgresql://nowhere/none", trusted_proxies=proxies)

        async def go() -> None:
            config = server_config(settings, f"{__name__}:make_app", "127.0.0.1", 0)
            config.load()
            state = ServerState()
            server = await asyncio.get_running_loop().create_server(
                lambda: PatientButNotForEver(config, state, {}), "127.0.0.1", 0
            )
            port = server.sockets[0].getsockname()[1]
            writers = []

            async def open_one(told: bytes) -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
                reader, writer = await asyncio.open_connection("127.0.0.1", port)
                writers.append(writer)
                writer.write(told)
                return reader, writer

            try:
                # It is a server, and answers.
                reader, _ = await open_one(WHOLE)
                self.assertEqual(await reader.read(12), b"HTTP/1.1 200")
                writers.pop().close()
                while PatientButNotForEver._of_address:
                    await asyncio.sleep(0.01)
                await test(open_one)
            finally:
                for writer in writers:
                    writer.close()
                server.close()
            # Whatever became of them, none is counted any more.
            async with asyncio.timeout(60):
                while PatientButNotForEver._of_address != Counter():
                    await asyncio.sleep(0.01)

        asyncio.run(go())

    async def told(self, reader: asyncio.StreamReader) -> bytes:
        """All that it says until it ends."""
        try:
            return await asyncio.wait_for(reader.read(1 << 20), 60)
        except ConnectionResetError:
            return b"reset"

    async def ends(self, reader: asyncio.StreamReader) -> None:
        """The other side ends it, which is read as nothing or as a reset."""
        try:
            while await asyncio.wait_for(reader.read(1 << 20), 60):
                pass
        except ConnectionResetError:
            pass

    def test_what_does_not_come_whole_is_not_waited_for(self) -> None:
        async def test(open_one: Opened) -> None:
            head = b"GET / HTTP/1.1\r\nHost: localhost\r\nX-A"
            body = b"POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 500\r\n\r\nx"
            for told, said in ((b"", b""), (head, b"HTTP/1.1 408 "), (body, b"HTTP/1.1 408 ")):
                reader, _ = await open_one(told)
                answer = await self.told(reader)
                self.assertEqual(answer[:13], said)
                if said:
                    document = json.loads(answer.partition(b"\r\n\r\n")[2])
                    self.assertEqual((document["type"], document["status"]), ("/problems/too-slow", 408))
                    self.assertIn(b"\r\nConnection: close\r\n", answer)

        with mock.patch.multiple(connections, HEAD_WITHIN=0.2, BODY_WITHIN=0.2):
            self.served(test)

    def test_a_drop_now_and_then_keeps_no_connection_open(self) -> None:
        async def test(open_one: Opened) -> None:
            reader, writer = await open_one(b"GET / HTTP/1.1\r\n")
            ended = asyncio.ensure_future(self.ends(reader))
            async with asyncio.timeout(60):
                while not ended.done():
                    writer.write(b"X: y\r\n")
                    await asyncio.sleep(0.05)

        with mock.patch.object(connections, "HEAD_WITHIN", 0.5):
            self.served(test)

    def test_a_body_that_keeps_coming_is_waited_for_and_one_that_drips_is_not(self) -> None:
        async def test(open_one: Opened) -> None:
            head = b"POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 40000\r\n\r\n"
            steady, writer = await open_one(head)
            for _ in range(40):
                writer.write(b"x" * 1000)
                await asyncio.sleep(0.02)
            answer = await asyncio.wait_for(steady.readuntil(b"\r\n\r\n"), 60)
            self.assertTrue(answer.startswith(b"HTTP/1.1 200"))
            self.assertIn(b"\r\nx-received: 40000\r\n", answer)
            dripping, writer = await open_one(head)
            ended = asyncio.ensure_future(self.ends(dripping))
            async with asyncio.timeout(60):
                while not ended.done():
                    writer.write(b"x")
                    await asyncio.sleep(0.05)

        # The first takes longer than it would have if it brought nothing.
        with mock.patch.multiple(connections, BODY_WITHIN=0.2, ENOUGH=2_000):
            self.served(test)

    def test_a_head_without_end_is_cut_off(self) -> None:
        async def test(open_one: Opened) -> None:
            reader, writer = await open_one(b"GET / HTTP/1.1\r\n")
            for n in range(66):
                writer.write(b"X-%d: %s\r\n" % (n, b"y" * 1000))
                await writer.drain()
                await asyncio.sleep(0.002)
            writer.write(b"X: y\r\n")
            self.assertIn(b"431 Request Header Fields Too Large", await self.told(reader))
            _, writer = await open_one(b"GET / HTTP/1.1\r\n")
            with self.assertRaises(OSError):
                for n in range(20_000):
                    writer.write(b"X-%d: %s\r\n" % (n, b"y" * 1000))
                    await writer.drain()

        self.served(test)

    def test_a_body_that_comes_after_its_answer_is_no_head(self) -> None:
        size = 4 * connections.MOST_HEAD
        put = b"PUT / HTTP/1.1\r\nHost: localhost\r\nContent-Length: %d\r\n\r\n" % size

        async def in_pieces(writer: asyncio.StreamWriter) -> None:
            for _ in range(size // 8192):
                writer.write(b"x" * 8192)
                await writer.drain()
                await asyncio.sleep(0.01)

        async def test(open_one: Opened) -> None:
            reader, writer = await open_one(put)
            self.assertEqual((await reader.readuntil(b"\r\n\r\n"))[:13], b"HTTP/1.1 413 ")
            await in_pieces(writer)
            writer.write(put)
            self.assertEqual((await reader.readuntil(b"\r\n\r\n"))[:13], b"HTTP/1.1 413 ")
            # A body that then stays away ends the connection, without a second answer.
            self.assertEqual(await self.told(reader), b"")
            # The next head has its time from the body's end.
            reader, writer = await open_one(put)
            await reader.readuntil(b"\r\n\r\n")
            await in_pieces(writer)
            writer.write(b"GET")
            self.assertIn(b"HTTP/1.1 408 ", await self.told(reader))

        with mock.patch.multiple(connections, HEAD_WITHIN=0.2, BODY_WITHIN=0.6):
            self.served(test)

    def test_a_head_without_end_behind_an_answer_that_goes_on_is_cut_off(self) -> None:
        async def test(open_one: Opened) -> None:
            reader, writer = await open_one(WHOLE.replace(b"GET", b"DELETE"))
            await reader.readuntil(b"begun")
            writer.write(b"GET / HTTP/1.1\r\n")
            with self.assertRaises(OSError):
                for n in range(20_000):
                    writer.write(b"X-%d: %s\r\n" % (n, b"y" * 1000))
                    await writer.drain()
            # Nothing stands within the answer that was on its way.
            self.assertNotIn(b"431", await self.told(reader))

        self.served(test)

    def test_whoever_does_not_read_is_let_go_and_whoever_does_is_not(self) -> None:
        async def test(open_one: Opened) -> None:
            unread, _ = await open_one(WHOLE)
            read, _ = await open_one(WHOLE)
            sent = 0
            while piece := await asyncio.wait_for(read.read(1 << 20), 60):
                sent += len(piece)
                if sent >= PIECES * PIECE:
                    break
            self.assertGreaterEqual(sent, PIECES * PIECE)
            await asyncio.sleep(1)
            left = 0
            try:
                while piece := await asyncio.wait_for(unread.read(1 << 20), 60):
                    left += len(piece)
            except ConnectionResetError:
                pass
            self.assertLess(left, PIECES * PIECE)

        with mock.patch.object(connections, "SLOW_READER", 0.5):
            self.served(test)

    def test_an_answer_is_made_as_it_is_read(self) -> None:
        async def test(open_one: Opened) -> None:
            reader, _ = await open_one(WHOLE.replace(b"/ ", b"/?later "))
            before = 0
            while not before or before != _handed_over[b"later"]:
                before = _handed_over[b"later"]
                await asyncio.sleep(0.2)
            self.assertLess(before, PIECES)
            await reader.readuntil(b"\r\n\r\n")
            self.assertEqual(
                len(await asyncio.wait_for(reader.readexactly(PIECES * PIECE), 60)), PIECES * PIECE
            )

        self.served(test)

    def test_so_many_and_no_more_but_of_a_proxy_that_carries_everybody(self) -> None:
        async def three_of_five(open_one: Opened) -> None:
            await some_of_five(open_one, 3)

        async def all_of_five(open_one: Opened) -> None:
            await some_of_five(open_one, 5)

        async def some_of_five(open_one: Opened, many: int) -> None:
            opened = [await open_one(WHOLE[:8]) for _ in range(5)]
            for reader, _ in opened[many:]:
                answer = await self.told(reader)
                self.assertIn(b"503 Service Unavailable\r\n", answer)
                self.assertIn(b"\r\nRetry-After: 10\r\n", answer)
            for reader, writer in opened[:many]:
                writer.write(WHOLE[8:])
                self.assertEqual(await asyncio.wait_for(reader.read(12), 60), b"HTTP/1.1 200")

        with mock.patch.object(connections, "MOST_OF_ADDRESS", 3):
            self.served(three_of_five)
            self.served(all_of_five, proxies="127.0.0.1")
        with mock.patch.object(connections, "MAX_CONNECTIONS", 3):
            self.served(three_of_five, proxies="127.0.0.1")
