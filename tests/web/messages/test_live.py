"""What open pages are told over a real stream: the truth, gathered, and nobody else's."""

from __future__ import annotations

import json
import socket
import threading
import unittest
from typing import Any

import httpx

from gremba.web.services import STREAMS_OF_ADDRESS, STREAMS_OF_SESSION
from tests.support.at_once import at_once
from tests.support.campus import TERM, Campus, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon


class Screen(threading.Thread):
    """Follows some sections as an open page does."""

    def __init__(
        self, server: str, numbers: list[str], client: httpx.Client | None = None, student: int = 0
    ) -> None:
        super().__init__(daemon=True)
        self._url = f"{server}/api/terms/{TERM}/stream?numbers={','.join(numbers)}"
        if student:
            self._url += f"&student={student}"
        self._cookies = None if client is None else dict(client.cookies)
        self.changed: set[str] = set()
        self.seats: dict[str, dict[str, Any]] = {}
        self.messages = 0
        self.ended = False
        self.status = 0
        self.start()

    def is_told(self, *kinds: str) -> bool:
        """Whether it was told of these; it begins anew then."""
        if not self.changed.issuperset(kinds):
            return False
        self.changed.clear()
        return True

    def run(self) -> None:
        try:
            with httpx.stream("GET", self._url, timeout=60, cookies=self._cookies) as answer:
                self.status = answer.status_code
                for line in answer.iter_lines():
                    if line.startswith("data: {"):
                        self.messages += 1
                        self.seats.update(json.loads(line[5:]))
                    elif line.startswith("data: ["):
                        self.changed.update(json.loads(line[5:]))
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
        # Whatever changes seats is announced, not only submissions.
        self.campus.run("UPDATE seat_pools SET seat_limit = 9 WHERE id = 1")
        soon(lambda: screen.seats[number]["limit"] == 9)
        self.assertNotIn(other, screen.seats)

    def test_a_student_is_told_of_their_own_and_of_nobody_elses(self) -> None:
        number, full = self.campus.section(seats=9), self.campus.section(seats=0)
        self.campus.run("UPDATE sections SET waitlist_limit = 5")
        server = self.serve()
        who, other, advisor = (self.campus.person(r) for r in ("student", "student", "advisor"))
        self.campus.advised_by(who, advisor)
        mine, theirs, office = (self.campus.client(p, server.url) for p in (who, other, advisor))
        for client in (mine, theirs, office):
            self.addCleanup(client.close)
        own, others = Screen(server.url, [number], mine), Screen(server.url, [number], theirs)
        acting = Screen(server.url, [number], office, student=who.id)
        visitor = Screen(server.url, [number])
        for page in (own, others, acting, visitor):
            soon(lambda page=page: number in page.seats)  # type: ignore[misc]
        cart = f"/api/terms/{TERM}/cart"
        steps = (
            (("cart",), lambda: mine.post(f"{cart}/changes", json={"kind": "add", "text": number})),
            (("cart",), lambda: office.put(f"{cart}/mode", params={"student": who.id}, json={"mode": "all"})),
            (("week",), lambda: send(mine, [f"+{number}"])),
            (("waitlists",), lambda: send(mine, [f"?{full}"])),
            (
                ("waitlists", "messages"),
                lambda: self.campus.run(
                    "UPDATE seat_pools SET seat_limit = 1 WHERE id = %s", int(full) - 40_000
                ),
            ),
            (("clearance",), lambda: self.campus.fee_hold(who)),
            (
                ("clearance",),
                lambda: self.campus.run(
                    "UPDATE windows SET closes_at = closes_at + interval '1 day' WHERE student_term_id = %s",
                    who.row,
                ),
            ),
        )
        for kinds, step in steps:
            with self.subTest(kinds):
                step()
                soon(lambda kinds=kinds: own.is_told(*kinds))  # type: ignore[misc]
                soon(lambda kinds=kinds: acting.is_told(*kinds))  # type: ignore[misc]
        self.assertEqual((others.changed, visitor.changed), (set(), set()))

    def test_another_students_changes_are_not_to_be_had(self) -> None:
        number = self.campus.section(seats=9)
        server = self.serve()
        who, other, advisor = (self.campus.person(r) for r in ("student", "student", "advisor"))
        for asks in (other, advisor):
            with self.campus.client(asks, server.url) as client:
                answer = client.get(
                    f"/api/terms/{TERM}/stream", params={"numbers": number, "student": who.id}
                )
                self.assertEqual(answer.status_code, 404)

    def test_a_session_that_ends_is_told_so_and_no_more(self) -> None:
        number = self.campus.section(seats=9)
        server = self.serve()
        who = self.campus.person()
        with self.campus.client(who, server.url) as client:
            page = Screen(server.url, [number], client)
            soon(lambda: number in page.seats)
            client.delete("/api/session").raise_for_status()
        soon(lambda: page.ended)
        self.assertEqual(page.changed, {"signed out"})

    def test_one_session_and_one_stranger_have_only_so_many(self) -> None:
        number = self.campus.section(seats=9)
        server = self.serve()
        with self.campus.client(self.campus.person(), server.url) as client:
            pages = [Screen(server.url, [number], client) for _ in range(STREAMS_OF_SESSION + 3)]
            soon(lambda: all(page.status for page in pages))
            self.assertEqual(sorted(p.status for p in pages), [200] * STREAMS_OF_SESSION + [429] * 3)
        asked = f"GET /api/terms/{TERM}/stream HTTP/1.1\r\nHost: localhost\r\n\r\n".encode()
        strangers = [
            socket.create_connection(("127.0.0.1", server.port)) for _ in range(STREAMS_OF_ADDRESS + 5)
        ]
        for stranger in strangers:
            self.addCleanup(stranger.close)
            stranger.sendall(asked)
        statuses = [stranger.recv(12)[9:] for stranger in strangers]
        self.assertEqual(statuses.count(b"429"), 5)
        # One that goes makes room for another.
        strangers[statuses.index(b"200")].close()

        def is_let_in() -> bool:
            again = socket.create_connection(("127.0.0.1", server.port))
            self.addCleanup(again.close)
            again.sendall(asked)
            return again.recv(12)[9:] == b"200"

        soon(is_let_in)

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

        at_once(add, range(60))
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
        self.assertTrue(server.stop(), "it had to be killed")
        soon(lambda: screen.ended)
