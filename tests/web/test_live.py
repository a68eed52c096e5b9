"""Live seats over a real stream: the truth within two seconds, under a rush too."""

from __future__ import annotations

import json
import threading
import time
import unittest
from collections.abc import Callable
from typing import Any

import httpx

from tests.support.campus import TERM, Campus, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon


class Screen(threading.Thread):
    """Follows some sections as an open page does."""

    def __init__(self, server: str, numbers: list[str]) -> None:
        super().__init__(daemon=True)
        self._url = f"{server}/api/terms/{TERM}/seats?numbers={','.join(numbers)}"
        self.seats: dict[str, dict[str, Any]] = {}
        self.messages = 0
        self.ended = False
        self.start()

    def run(self) -> None:
        try:
            with httpx.stream("GET", self._url, timeout=60) as answer:
                for line in answer.iter_lines():
                    if line.startswith("data:") and line[5:].strip().startswith("{"):
                        self.messages += 1
                        self.seats.update(json.loads(line[5:]))
        except httpx.TransportError:
            pass
        self.ended = True


class Live(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)

    def serve(self) -> Server:
        server = Server(self.campus.url)
        self.addCleanup(server.stop)
        return server

    def test_a_screen_is_told_at_once_and_then_of_every_change(self) -> None:
        number, other = self.campus.section(seats=3), self.campus.section(seats=3)
        server = self.serve()
        screen = Screen(server.url, [number, "99999"])
        soon(lambda: number in screen.seats)
        self.assertEqual(screen.seats, {number: screen.seats[number]})
        self.assertEqual(screen.seats[number]["left"], 3)
        student = self.campus.person()
        with self.campus.client(student, server.url) as client:
            send(client, [f"+{number}", f"+{other}"])
        soon(lambda: screen.seats[number]["left"] == 2)
        # Whatever changes seats is announced, not only sendings.
        self.campus.run("UPDATE seat_pools SET seat_limit = 9 WHERE id = 1")
        soon(lambda: screen.seats[number]["limit"] == 9)
        self.assertNotIn(other, screen.seats)

    def test_under_a_rush_screens_agree_with_the_tables_and_messages_are_gathered(self) -> None:
        numbers = [self.campus.section(seats=40) for _ in range(5)]
        server = self.serve()
        screens = [Screen(server.url, numbers) for _ in range(4)]
        for screen in screens:
            soon(lambda screen=screen: len(screen.seats) == 5)  # type: ignore[misc]
        students = self.campus.people(60)

        def add(who: int) -> None:
            with self.campus.client(students[who], server.url) as client:
                send(client, [f"+{n}" for n in numbers])

        threads = [threading.Thread(target=add, args=(n,)) for n in range(60)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        for screen in screens:
            soon(lambda screen=screen: all(s["left"] == 0 for s in screen.seats.values()))  # type: ignore[misc]
            # 300 seats were asked for and 200 taken; nobody was told of each.
            self.assertLess(screen.messages, 60)
        self.assertEqual(self.campus.disagreements(), [])

    def test_an_open_stream_does_not_hold_up_the_end(self) -> None:
        number = self.campus.section(seats=3)
        server = self.serve()
        screen = Screen(server.url, [number])
        soon(lambda: number in screen.seats)
        begun = time.monotonic()
        server.stop()
        self.assertLess(time.monotonic() - begun, 10)
        soon(lambda: screen.ended)
