"""Mail: a server that is away, one that says nothing, bad mailboxes, odd titles. Every good mail
arrives, once."""

from __future__ import annotations

import email
import shutil
import smtplib
import socket
import ssl
import subprocess
import tempfile
import threading
import time
import unittest
from collections import Counter
from collections.abc import Callable
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from email.message import EmailMessage
from email.policy import default
from itertools import pairwise
from pathlib import Path
from typing import Any
from unittest import mock

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, AuthResult, Envelope, LoginPassword, Session
from pydantic import ValidationError

from gremba.actions.messages.mail import CLAIMED, GIVEN_UP_AFTER, PAUSES, Postman, deliver
from gremba.actions.messages.mail_server import (
    MailServer,
    RefusedForGood,
    RefusedForNow,
    hand_over,
    send_now,
)
from gremba.core.messages import MessageKind, message_of
from gremba.demo.morning import SetClock
from gremba.settings import Settings
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.messages.inbox import put_gathered_mail
from tests.support.campus import Campus
from tests.support.servers import new_database
from tests.support.waitlists import OnWaitlists

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


class Outbox(unittest.TestCase):
    """Messages that are due, and a server that takes them."""

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

    def soon(self, what: Callable[[], bool]) -> None:
        for _ in range(200):
            if what():
                return
            time.sleep(0.05)
        raise AssertionError("it did not come about")


class Mail(Outbox):
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

    def test_one_that_cannot_be_written_holds_up_no_other(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(3))
        # Facts that the words of the message are not made for.
        self.campus.run("UPDATE messages SET facts = '[]' WHERE id = 2")
        self.assertEqual(deliver(self.context, self.server), 2)
        self.assertEqual(self.states(), (2, 0, 1))
        self.assertEqual(len(box.taken), 2)
        self.assertEqual(
            self.campus.value("SELECT mail_problem FROM messages WHERE id = 2"), "It could not be written."
        )
        self.clock.time += timedelta(seconds=PAUSES[0])
        self.assertEqual(deliver(self.context, self.server), 0)
        self.assertEqual(self.campus.value("SELECT tries FROM messages WHERE id = 2"), 2)

    def test_no_transaction_is_open_while_the_server_is_spoken_to(self) -> None:
        box = self.open_postbox()
        other = connect(self.campus.url)
        self.addCleanup(other.close_all)
        take, seen = box.handle_DATA, []
        is_open = (
            "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() "
            "AND pid <> pg_backend_pid() AND xact_start IS NOT NULL"
        )

        async def look(server: SMTP, session: Session, envelope: Envelope) -> str:
            with connected(other):
                seen.append(fetch_sql(other, is_open)[0][0])
            return await take(server, session, envelope)

        box.handle_DATA = look  # type: ignore[method-assign]
        self.leave(*self.good(2))
        self.assertEqual(deliver(self.context, self.server), 2)
        self.assertEqual(seen, [0, 0])

    def test_one_whose_process_died_is_sent_when_its_claim_has_run_out(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(1))
        died = mock.patch("gremba.actions.messages.mail.mark_sent", side_effect=SystemExit)
        with died, self.assertRaises(SystemExit):
            deliver(self.context, self.server)
        self.assertEqual(deliver(self.context, self.server), 0)
        self.clock.time += CLAIMED
        self.assertEqual(deliver(self.context, self.server), 1)
        # The same mail once more, and it says so.
        self.assertEqual(len({m["Message-ID"] for m in box.taken}), 1)
        self.assertEqual(self.states(), (1, 0, 0))

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

    def test_sender_and_answers_are_those_of_the_settings(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(1))
        server = replace(
            self.server, sender="The Registrar <office@hill.example>", reply_to="ask@hill.example"
        )
        self.assertEqual(deliver(self.context, server), 1)
        self.assertTrue(send_now(server, "student@college.example", "Set your password", "By this link."))
        for mail in box.taken:
            self.assertEqual(
                (mail["From"], mail["Reply-To"]),
                ("The Registrar <office@hill.example>", "ask@hill.example"),
            )
        self.assertTrue(box.taken[0]["Message-ID"].endswith("@hill.example>"))


class Gathered(Outbox):
    """What comes soon after another of its kind about the same section goes out together, once an hour."""

    def come(self, person: int, number: str = "30412") -> None:
        told = message_of(
            MessageKind.REQUEST_CAME,
            student="Wren",
            section="LAND 101",
            number=number,
            lifted="seats",
            words="?",
        )
        with connected(self.campus.database), self.campus.database.atomic():
            put_gathered_mail(
                self.campus.database,
                [person],
                told,
                self.clock.time,
                timedelta(hours=1),
                timedelta(minutes=10),
            )

    def due(self) -> list[tuple[int, int | None]]:
        """Of each mail how many minutes after the first it is due, and how many others it counts."""
        with connected(self.campus.database):
            rows = fetch_sql(
                self.campus.database,
                "SELECT extract(epoch FROM coalesce(mail_after, made_at) - min(made_at) OVER ())::int / 60, "
                "(facts ->> 'others')::int FROM messages ORDER BY id",
            )
        return [(row[0], row[1]) for row in rows]

    def test_the_first_at_once_the_others_an_hour_later_and_those_after_them_an_hour_after_that(self) -> None:
        who, begun = self.campus.person().id, self.clock.time
        for minutes in (0, 10, 20, 39, 40, 59):
            self.clock.time = begun + timedelta(minutes=minutes)
            self.come(who)
        # From forty minutes on the second may be on its way.
        self.assertEqual(self.due(), [(0, None), (60, 2), (120, 1)])
        self.clock.time = begun + timedelta(minutes=181)
        self.come(who)
        self.assertEqual(self.due()[3:], [(181, None)])

    def test_another_person_or_section_is_told_at_once(self) -> None:
        one, other = self.campus.person().id, self.campus.person().id
        self.come(one)
        self.come(other)
        self.come(one, number="30413")
        self.assertEqual(self.due(), [(0, None)] * 3)


class Refused(unittest.TestCase):
    """A server's answer says whether another try is of use (RFC 5321, 4.2.1)."""

    def hand_over(self, problem: Exception) -> None:
        connection = mock.Mock(spec=smtplib.SMTP)
        connection.send_message.side_effect = problem
        hand_over(connection, EmailMessage())

    def test_codes(self) -> None:
        for code, told in (
            (421, RefusedForNow),
            (499, RefusedForNow),
            (500, RefusedForGood),
            (599, RefusedForGood),
        ):
            for problem in (
                smtplib.SMTPDataError(code, b"No\n mail"),
                smtplib.SMTPSenderRefused(code, b"No mail", "a@b"),
                smtplib.SMTPRecipientsRefused({"a@b": (code, b"No mail")}),
            ):
                with self.subTest(code=code, problem=type(problem)), self.assertRaises(told) as raised:
                    self.hand_over(problem)
                self.assertEqual(str(raised.exception), f"{code} No mail")

    def test_what_is_no_answer(self) -> None:
        for problem, told in (
            (smtplib.SMTPNotSupportedError("SMTPUTF8"), RefusedForGood),
            (ValueError("an address that is none"), RefusedForGood),
            (smtplib.SMTPException("?"), RefusedForNow),
            (smtplib.SMTPServerDisconnected("gone"), ConnectionError),
        ):
            with self.subTest(problem=problem), self.assertRaises(told):
                self.hand_over(problem)


class Deadlines(OnWaitlists):
    def test_an_offer_carries_its_deadline_for_the_calendar_and_other_mail_none(self) -> None:
        number = self.section(seats=1)
        one, two = self.campus.people(2)
        self.send(one, f"+{number}")
        self.send(two, f"?{number}")
        self.send(one, f"-{number}", f"+{self.section(seats=5)}")
        self.sweep()
        self.campus.run("UPDATE persons SET email = 'two@college.example' WHERE id = %s", two.id)
        box, port = Postbox(), free_port()
        controller = Controller(box, hostname="127.0.0.1", port=port)
        controller.start()
        self.addCleanup(controller.stop)
        server = MailServer("127.0.0.1", port, patience=0.5)
        self.campus.run(
            "INSERT INTO messages (student_term_id, kind, facts, made_at) VALUES (%s, 'closed', "
            "json_build_object('section', 'LAND 101', 'number', %s::text), %s)",
            two.row,
            number,
            self.clock.time,
        )
        self.assertEqual(deliver(self.context, server), 2)
        files = [[part.get_filename() for part in mail.iter_attachments()] for mail in box.taken]
        self.assertEqual(sorted(files), [[], ["deadline.ics"]])
        (calendar,) = [part for mail in box.taken for part in mail.iter_attachments()]
        self.assertIn("BEGIN:VEVENT", calendar.get_content())


class SignedIn(Outbox):
    """A server that takes mail over an encrypted connection and from whoever has signed in only."""

    def open_postbox(self) -> Postbox:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        certificate, key = str(folder / "certificate.pem"), str(folder / "key.pem")
        subprocess.run(
            [
                *("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"),
                *("-subj", "/CN=127.0.0.1", "-addext", "subjectAltName=IP:127.0.0.1"),
                *("-keyout", key, "-out", certificate),
            ],
            check=True,
            capture_output=True,
        )
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(certificate, key)
        box = Postbox()

        def let_in(server: Any, session: Any, envelope: Any, mechanism: str, data: Any) -> AuthResult:
            is_right = isinstance(data, LoginPassword) and (data.login, data.password) == (
                b"gremba",
                b"secret",
            )
            return AuthResult(success=is_right)

        controller = Controller(
            box,
            hostname="127.0.0.1",
            port=self.port,
            tls_context=context,
            require_starttls=True,
            authenticator=let_in,
            auth_required=True,
        )
        controller.start()
        self.addCleanup(controller.stop)
        self.server = replace(
            self.server, starttls=True, certificates=certificate, user="gremba", password="secret"
        )
        return box

    def test_mail_goes_out(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(2))
        self.assertEqual(deliver(self.context, self.server), 2)
        self.assertTrue(send_now(self.server, "student@college.example", "Set your password", "A link."))
        self.assertEqual(len(box.taken), 3)

    def test_a_wrong_password_or_a_certificate_not_believed_keeps_mail_waiting(self) -> None:
        box = self.open_postbox()
        self.leave(*self.good(2))
        for wrong in (replace(self.server, password="other"), replace(self.server, certificates="")):
            with self.subTest(wrong=wrong):
                self.assertRaises(OSError, deliver, self.context, wrong)
                self.assertFalse(send_now(wrong, "student@college.example", "Set your password", "A link."))
        self.assertEqual(box.taken, [])
        self.assertEqual(self.states(), (0, 0, 2))
        self.assertEqual(deliver(self.context, self.server), 2)


class MailSettings(unittest.TestCase):
    """What is set is how a server is reached; what makes no sense is refused with the reason."""

    def settings(self, **values: str) -> Settings:
        return Settings(database_url="postgresql:///none", **values)  # type: ignore[arg-type]

    def test_a_whole_one(self) -> None:
        found = self.settings(
            mail_server="mail.hill.example:587",
            mail_sender="Registrar <office@hill.example>",
            mail_reply_to="ask@hill.example",
            mail_starttls="true",
            mail_user="gremba",
            mail_password="hush-hush",
        )
        self.assertNotIn("hush-hush", repr(found))
        self.assertEqual(
            found.mail,
            MailServer(
                "mail.hill.example",
                587,
                sender="Registrar <office@hill.example>",
                reply_to="ask@hill.example",
                starttls=True,
                user="gremba",
                password="hush-hush",
            ),
        )

    def test_none(self) -> None:
        self.assertIsNone(self.settings().mail)

    def test_what_makes_no_sense(self) -> None:
        for wrong in (
            {"mail_server": "mail.hill.example"},
            {"mail_server": ":25"},
            {"mail_server": "mail:70000"},
            {"mail_server": "mail:x"},
            {"mail_sender": "The Registrar"},
            {"mail_reply_to": "a@b\r\nBcc: c@d"},
            {"mail_server": "mail:25", "mail_user": "gremba", "mail_password": "secret"},
        ):
            with self.subTest(wrong=wrong), self.assertRaises(ValidationError):
                self.settings(**wrong)
