"""Rushes on a real server: the last seats, one key many times, a process killed in the middle."""

from __future__ import annotations

import threading
import unittest
from collections import Counter
from concurrent.futures import ThreadPoolExecutor

import httpx

from tests.support.campus import TERM, Campus, Somebody, outcome, send
from tests.support.servers import Server, new_database


class Races(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)

    def test_sixty_students_for_ten_seats(self) -> None:
        number = self.campus.section(seats=10)
        people = self.campus.people(60)
        server = Server(self.campus.url)
        self.addCleanup(server.stop)
        clients = [self.campus.client(p, server.url) for p in people]
        barrier = threading.Barrier(60)

        def go(client: httpx.Client) -> httpx.Response:
            with client:
                barrier.wait()
                return send(client, [f"+{number}"])

        with ThreadPoolExecutor(60) as pool:
            answers = list(pool.map(go, clients))
        self.assertEqual(Counter(outcome(a) for a in answers), {"a": 10, "r": 50})
        for answer in answers:
            if outcome(answer) == "r":
                finding = answer.json()["body"]["outcomes"][0]["findings"][0]
                self.assertEqual(finding["code"], "seat.full")
                self.assertEqual(finding["text"], "Full: 10 of 10 seats taken.")
        self.assertEqual(self.campus.value("SELECT taken FROM seat_pools"), 10)
        self.assertEqual(self.campus.disagreements(), [])

    def test_sixty_students_two_processes_and_five_sections_each(self) -> None:
        numbers = [self.campus.section(seats=20, weekdays="MTWRF"[n], starts=9) for n in range(5)]
        people = self.campus.people(60)
        servers = [Server(self.campus.url) for _ in range(2)]
        for server in servers:
            self.addCleanup(server.stop)

        def go(n: int) -> str:
            # Everybody asks in another order, so that locks are wanted crosswise.
            mine = numbers[n % 5 :] + numbers[: n % 5]
            with self.campus.client(people[n], servers[n % 2].url) as client:
                return outcome(send(client, [f"+{m}" for m in mine]))

        with ThreadPoolExecutor(30) as pool:
            answers = list(pool.map(go, range(60)))
        self.assertEqual(sum(a.count("a") for a in answers), 100)
        self.assertEqual(self.campus.disagreements(), [])

    def test_the_same_key_ten_times_at_once_gives_one_confirmation(self) -> None:
        number = self.campus.section(seats=10)
        who = self.campus.person()
        servers = [Server(self.campus.url) for _ in range(2)]
        for server in servers:
            self.addCleanup(server.stop)
        barrier = threading.Barrier(10)

        def go(n: int) -> httpx.Response:
            with self.campus.client(who, servers[n % 2].url) as client:
                barrier.wait()
                return send(client, [f"+{number}"], key="the-same-key")

        with ThreadPoolExecutor(10) as pool:
            answers = list(pool.map(go, range(10)))
        self.assertEqual({outcome(a) for a in answers}, {"a"})
        self.assertEqual(len({a.json()["id"] for a in answers}), 1)
        self.assertEqual(sum(not a.json()["repeated"] for a in answers), 1)
        self.assertEqual(self.campus.value("SELECT count(*) FROM confirmations"), 1)
        self.assertEqual(self.campus.value("SELECT count(*) FROM registrations"), 1)

    def test_killed_in_the_middle_of_a_rush(self) -> None:
        numbers = [self.campus.section(seats=15, weekdays="MTWR"[n], starts=9) for n in range(4)]
        people = self.campus.people(40)
        server = Server(self.campus.url)
        clients = [self.campus.client(p, server.url) for p in people]
        answered: dict[int, str] = {}

        def go(n: int) -> None:
            try:
                answered[n] = outcome(send(clients[n], [f"+{m}" for m in numbers], key=f"key-of-{n}"))
            except httpx.TransportError:
                pass
            if len(answered) == 12:
                server.kill()

        with ThreadPoolExecutor(8) as pool:
            list(pool.map(go, range(40)))
        self.assertLess(len(answered), 40)
        self.assertEqual(self.campus.disagreements(), [])
        # Whoever had an answer has what it said; whoever had none sends the same again.
        again = Server(self.campus.url, port=server.port)
        self.addCleanup(again.stop)
        for n, client in enumerate(clients):
            found = outcome(send(client, [f"+{m}" for m in numbers], key=f"key-of-{n}"))
            self.assertEqual(found, answered.get(n, found))
            client.close()
        self.assertEqual(self.campus.disagreements(), [])
        self.assertEqual(self.campus.value("SELECT sum(taken) FROM seat_pools"), 60)
        self.assertEqual(self.campus.value("SELECT count(*) FROM confirmations"), 40)

    def test_pages_read_while_changes_go_through_tell_of_one_moment(self) -> None:
        numbers = [self.campus.section(seats=50, weekdays="MTWRF"[n], starts=9) for n in range(5)]
        people = self.campus.people(4)
        server = Server(self.campus.url)
        self.addCleanup(server.stop)
        done = threading.Event()

        def change(who: Somebody) -> None:
            with self.campus.client(who, server.url) as client:
                self.assertEqual(outcome(send(client, [f"+{numbers[4]}"])), "a")
                for _ in range(2):
                    self.assertEqual(outcome(send(client, [f"+{m}" for m in numbers[:4]])), "aaaa")
                    for number in numbers[:4]:
                        self.assertEqual(outcome(send(client, [f"-{number}"])), "a")

        def read(who: Somebody) -> list[str]:
            wrong = []
            with self.campus.client(who, server.url) as client:
                while not done.is_set():
                    for page in ("cart", "week", "account"):
                        answer = client.get(f"/api/terms/{TERM}/{page}")
                        if answer.status_code != 200:
                            wrong.append(f"{page}: {answer.status_code} {answer.text}")
                        elif page == "account":
                            told = answer.json()
                            lines = sum(line["charged_cents"] for line in told["lines"])
                            if lines != told["charged_cents"]:
                                wrong.append(f"lines {lines}, in all {told['charged_cents']}")
            return wrong

        with ThreadPoolExecutor(12) as pool:
            readers = [pool.submit(read, who) for who in people for _ in range(2)]
            for changing in [pool.submit(change, who) for who in people]:
                changing.result()
            done.set()
            self.assertEqual([w for reader in readers for w in reader.result()], [])
