"""Mail: a server that is away, one that says nothing, bad mailboxes, odd titles. Every good mail
arrives, once."""

from __future__ import annotations

import email
import socket
import threading
import time
import unittest
from collections import Counter
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from email.policy import default
from itertools import pairwise

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from gremba.actions.mail import GIVEN_UP_AFTER, PAUSES, MailServer, Postman, deliver
from gremba.demo.morning import SetClock
from tests.support.campus import Campus
from tests.support.servers import new_database

BAD, BUSY = "gone@college.example", "busy@college.example"


class Postbox:
    """A mail server with one mailbox that is gone and one that is busy for now."""

    def __init__(self) -> None:
        self.taken: list[email.message.EmailMessage] = []
        self.busy = True

    async def handle_RCPT(
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        if address == BAD:
            return "550 There is no such mailbox"
        if address == BUSY and self.busy:
            return "450 Try again later"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        self.taken.append(email.message_from_bytes(envelope.content or b"", policy=default))  # type: ignore[arg-type]
        return "250 Kept"


def free_port() -> int:
    with closing(socket.socket()) as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


class Mail(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.context = self.campus.context()
        self.clock = SetClock(datetime.now(UTC))
        self.context.clock = self.clock
        self.port = free_port()
        self.server = MailServer("127.0.0.1", self.port, patience=0.5)

    def open_postbox(self) -> Postbox:
        box = Postbox()
        controller = Controller(box, hostname="127.0.0.1", port=self.port)
        controller.start()
        self.addCleanup(controller.stop)
        return box

    def leave(self, *addresses: str, section: str = "LAND 101") -> None:
        for address in addresses:
            who = self.campus.person()
            self.campus.run("UPDATE persons SET email = %s WHERE id = %s", address, who.id)
            self.campus.run(
                "INSERT INTO messages (student_term_id, kind, facts, made_at) VALUES (%s, 'closed', "
                "json_build_object('section', %s::text, 'number', '30412'), %s)",
                who.row,
                section,
                self.clock.time,
            )

    def states(self) -> tuple[int, int, int]:
        """Mailed, refused for good, still to be mailed."""
        return tuple(
            int(self.campus.value(f"SELECT count(*) FROM messages WHERE {which}"))
            for which in (  # type: ignore[return-value]
                "mailed_at IS NOT NULL",
                "mail_refused_at IS NOT NULL",
                "mailed_at IS NULL AND mail_refused_at IS NULL",
            )
        )

    def good(self, many: int) -> list[str]:
        return [f"student{n}@college.example" for n in range(many)]

    def test_a_server_away_for_an_hour_loses_and_doubles_nothing(self) -> None:
        self.leave(*self.good(10))
        for _ in range(30):
            self.clock.time += timedelta(minutes=2)
            with self.assertRaises(OSError):
                deliver(self.context, self.server)
        self.assertEqual(self.states(), (0, 0, 10))
        box = self.open_postbox()
        self.assertEqual(deliver(self.context, self.server), 10)
        self.assertEqual(deliver(self.context, self.server), 0)
        self.assertEqual(Counter(m["To"] for m in box.taken), Counter(self.good(10)))
        self.assertEqual(len({m["Message-ID"] for m in box.taken}), 10)

    def test_one_bad_mailbox_among_ten_is_kept_with_the_reason_and_stops_no_other(self) -> None:
        box = self.open_postbox()
        addresses = self.good(9)
        self.leave(*addresses[:4], BAD, *addresses[4:])
        self.assertEqual(deliver(self.context, self.server), 9)
        self.assertEqual(self.states(), (9, 1, 0))
        self.assertEqual({m["To"] for m in box.taken}, set(addresses))
        self.assertEqual(
            self.campus.value("SELECT mail_problem FROM messages WHERE mailed_at IS NULL"),
            "550 There is no such mailbox",
        )
        self.clock.time += timedelta(days=9)
        self.assertEqual(deliver(self.context, self.server), 0)

    def test_what_is_refused_for_now_is_tried_with_growing_pauses_for_days(self) -> None:
        box = self.open_postbox()
        self.leave(BUSY)
        made = self.clock.time
        tried = []
        for _ in range(7 * 24 * 6):
            before = self.campus.value("SELECT tries FROM messages")
            deliver(self.context, self.server)
            if self.campus.value("SELECT tries FROM messages") != before:
                tried.append((self.clock.time - made).total_seconds())
            self.clock.time += timedelta(minutes=10)
        pauses = [b - a for a, b in pairwise(tried)]
        self.assertEqual(pauses, sorted(pauses))
        self.assertLessEqual(max(pauses), PAUSES[-1] + 600)
        self.assertGreater(tried[-1], GIVEN_UP_AFTER.total_seconds() - PAUSES[-1] - 600)
        self.assertEqual(self.states(), (0, 1, 0))
        self.assertIn("Given up after days: 450", self.campus.value("SELECT mail_problem FROM messages"))
        self.assertEqual(box.taken, [])

    def test_what_was_busy_arrives_when_it_is_not(self) -> None:
        box = self.open_postbox()
        self.leave(BUSY, *self.good(1))
        self.assertEqual(deliver(self.context, self.server), 1)
        box.busy = False
        self.assertEqual(deliver(self.context, self.server), 0, "not before its pause is over")
        self.clock.time += timedelta(seconds=PAUSES[0])
        self.assertEqual(deliver(self.context, self.server), 1)
        self.assertEqual(self.states(), (2, 0, 0))

    def test_a_clock_that_goes_back_keeps_no_mail_waiting(self) -> None:
        box = self.open_postbox()
        self.leave(BUSY)
        deliver(self.context, self.server)
        self.clock.time -= timedelta(days=2)
        box.busy = False
        self.assertEqual(deliver(self.context, self.server), 1)

    def test_titles_with_line_breaks_and_addresses_that_are_none(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(1), section="LAND\r\nBcc: everybody@college.example\nin clay")
        self.leave("nobody at home\r\nX: y", "", *self.good(2)[1:], section="Täglich frisch: 漢字")
        self.assertEqual(deliver(self.context, self.server), 2)
        self.assertEqual(
            [" ".join(m["Subject"].split()) for m in box.taken],
            [
                "The waitlist for LAND Bcc: everybody@college.example in clay has closed",
                "The waitlist for Täglich frisch: 漢字 has closed",
            ],
        )
        self.assertTrue(all(m["Bcc"] is None for m in box.taken))
        self.assertEqual(self.states(), (2, 2, 0))

    def test_a_server_that_says_nothing_is_left_after_a_moment_and_nothing_is_counted(self) -> None:
        self.leave(*self.good(3))
        with closing(socket.socket()) as silent:
            silent.bind(("127.0.0.1", self.port))
            silent.listen()
            with self.assertRaises(OSError):
                deliver(self.context, self.server)
        self.assertEqual(self.states(), (0, 0, 3))
        self.assertEqual(self.campus.value("SELECT sum(tries) FROM messages"), 0)

    def test_two_postmen_send_each_mail_once(self) -> None:
        self.leave(*self.good(40))
        box = self.open_postbox()
        postmen = [Postman(self.context, self.server) for _ in range(2)]
        for postman in postmen:
            postman.start()
        self.soon(lambda: self.states() == (40, 0, 0))
        for postman in postmen:
            postman.stop()
        self.assertEqual(Counter(m["To"] for m in box.taken), Counter(self.good(40)))

    def test_a_server_that_goes_away_in_the_middle(self) -> None:
        self.leave(*self.good(5))
        box = Postbox()
        controller = Controller(box, hostname="127.0.0.1", port=self.port)
        controller.start()
        take = box.handle_DATA
        stopping = threading.Thread(target=controller.stop)

        async def once(server: SMTP, session: Session, envelope: Envelope) -> str:
            if len(box.taken) == 2:
                stopping.start()
                time.sleep(0.2)
                return "421 Closing down"
            return await take(server, session, envelope)

        box.handle_DATA = once  # type: ignore[method-assign]
        try:
            deliver(self.context, self.server)
        except OSError:
            pass
        self.assertEqual(self.states()[0], 2)
        # Only then its port is free again.
        stopping.join(timeout=30)
        self.clock.time += timedelta(hours=1)
        again = self.open_postbox()
        deliver(self.context, self.server)
        self.assertEqual(self.states(), (5, 0, 0))
        self.assertEqual(len(box.taken) + len(again.taken), 5)

    def soon(self, what: Callable[[], bool]) -> None:
        for _ in range(200):
            if what():
                return
            time.sleep(0.05)
        raise AssertionError("it did not come about")
