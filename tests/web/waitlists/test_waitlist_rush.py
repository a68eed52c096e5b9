"""Waitlists in a rush: many threads, a server killed in the middle, and every mail sent."""

from __future__ import annotations

import random
import tempfile
import threading
import time
import unittest
from pathlib import Path

import httpx

from gremba.launch.serve import free_port
from gremba.standins.mail import MailStandIn
from gremba.store.database import connected, fetch_sql
from tests.store.waitlists.test_waitlist_machine import NEVER
from tests.support.campus import TERM, Campus, send
from tests.support.servers import Server, new_database
from tests.support.soon import soon

STUDENTS, SECTIONS, ACTIONS, THREADS, KILLS = 200, 20, 2_000, 12, 3


class Rush(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.numbers = [self.campus.section(seats=4) for _ in range(SECTIONS)]
        self.campus.run(
            "UPDATE sections SET waitlist_limit = 8, "
            "waitlist_way = CASE WHEN mod(id, 3) = 0 THEN 'automatic' ELSE 'offer' END"
        )
        self.campus.run("UPDATE terms SET policy = policy || '{\"may_leave_by_dropping\": true}'")
        self.people = self.campus.people(STUDENTS)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.mail = MailStandIn(self.folder, free_port())
        self.mail.start()
        self.addCleanup(self.mail.stop)
        self.port = free_port()
        self.server = self.serve()

    def serve(self) -> Server:
        server = Server(self.campus.url, port=self.port, mail=self.mail.address)
        self.addCleanup(server.stop)
        return server

    def act(self, seed: int, done: list[int]) -> None:
        """One person after another does something; while the server is away it is tried anew."""
        rng = random.Random(seed)
        clients: dict[int, httpx.Client] = {}
        had: dict[int, list[str]] = {}
        mine = self.people[seed * STUDENTS // THREADS : (seed + 1) * STUDENTS // THREADS]
        # What had an answer counts, however long the server is away: so much happens on any machine.
        while len(done) < ACTIONS:
            who = rng.choice(mine)
            client = clients.get(who.id) or self.campus.client(who, self.server.url)
            clients[who.id] = client
            number, other = rng.sample(self.numbers, 2)
            own = had.setdefault(who.id, [])
            try:
                what = rng.randrange(8)
                if what < 3 or not own:
                    own += [number, other]
                    send(client, [f"+?{number}", f"+?{other}"])
                elif what == 3:
                    send(client, [f"{rng.choice(own)}?{number}"])
                elif what < 6:
                    send(client, [f"-{rng.choice(own)}"])
                else:
                    self.answer(client, rng)
                done.append(seed)
            except httpx.TransportError:
                time.sleep(0.3)
        for client in clients.values():
            client.close()

    def answer(self, client: httpx.Client, rng: random.Random) -> None:
        found = client.get(f"/api/terms/{TERM}/waitlist-entries").json().get("entries", [])
        for entry in found:
            if entry["state"] == "offered":
                if rng.random() < 0.7:
                    client.post(f"/api/waitlist-entries/{entry['id']}/acceptance", json={})
                else:
                    client.post(f"/api/waitlist-entries/{entry['id']}/refusal")
            elif entry["state"] == "waiting" and rng.random() < 0.2:
                client.delete(f"/api/waitlist-entries/{entry['id']}")

    def test_two_thousand_actions_and_three_kills(self) -> None:
        done: list[int] = []
        threads = [threading.Thread(target=self.act, args=(n, done)) for n in range(THREADS)]
        for thread in threads:
            thread.start()
        for kill in range(1, KILLS + 1):
            while len(done) < kill * ACTIONS // (KILLS + 1):
                time.sleep(0.02)
            self.server.kill()
            self.server = self.serve()
        for thread in threads:
            thread.join()
        # What a killed process had claimed is free when the claim's ten minutes have passed.
        self.campus.run("UPDATE messages SET mail_after = now() WHERE mailed_at IS NULL")
        soon(self.is_settled, within=300)
        with connected(self.campus.database) as database:
            for what, sql in NEVER.items():
                self.assertEqual(fetch_sql(database, sql), [], what)
            offers = fetch_sql(database, "SELECT count(*) FROM waitlist_events WHERE what = 'offered'")[0][0]
            messages = [row[0] for row in fetch_sql(database, "SELECT id FROM messages ORDER BY id")]
        self.assertEqual(self.campus.disagreements(), [])
        self.assertGreater(offers, 20, "the rush was none")
        # Once on the page, and by mail at least once: the folder keeps one file a message.
        self.assertEqual(
            sorted(p.stem for p in self.folder.iterdir()), sorted(f"message-{n}" for n in messages)
        )

    def is_settled(self) -> bool:
        """Whether every seat that somebody waits for has gone to them, and every mail is sent."""
        left = self.campus.value(_LEFT)
        return bool(left == [0, 0, 0])


_LEFT = """
SELECT ARRAY[
    (SELECT count(*) FROM freed_seats), (SELECT count(*) FROM messages WHERE mailed_at IS NULL),
    (SELECT count(*) FROM seat_pools p WHERE p.taken + p.offered < p.seat_limit AND EXISTS (
        SELECT 1 FROM waitlist_entries w JOIN sections s ON s.id = w.section_id
        WHERE w.pool_id = p.id AND w.state = 'waiting'
            AND (s.waitlist_way = 'offer' OR w.passed_why = '')))]
"""
"""Notes of freed seats, mails to send, and seats that lie idle though somebody waits for them."""
