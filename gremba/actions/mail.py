"""Delivering messages to the college address, from the outbox, on a thread of its own.

One mail a transaction: it is marked as sent in the transaction that sent it. Should the process end
between the two it is sent once more, under the same Message-ID: never lost, seldom doubled. What is
refused for now is tried again with growing pauses, for days; what is refused for good is kept with
the reason and shown to the registrar. No mail holds up another for longer than one time-out.
"""

from __future__ import annotations

import smtplib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from email.message import EmailMessage

import structlog

from gremba.actions.context import ActionContext
from gremba.formats.deadline_file import deadline_file
from gremba.store.database import Unavailable, connected
from gremba.store.outbox import Outgoing, mark_refused, mark_sent, next_mail, put_off

log = structlog.get_logger()

SENDER = "Gremba <registration@college.example>"
PAUSES = (60, 300, 900, 3600, 4 * 3600)
"""Seconds between one try and the next; from then on the last."""
GIVEN_UP_AFTER = timedelta(days=5)
"""So long a mail is tried that a server refuses for now (common practice: four to five days)."""
AWAY_PAUSE = 30
"""Seconds before a server that does not answer is tried again."""
OFTEN = 2.0
"""Seconds between two looks into the outbox."""


@dataclass(frozen=True, slots=True)
class MailServer:
    """Where mail goes.

    Attributes:
        patience: seconds after which a server that says nothing counts as away.
    """

    host: str
    port: int
    patience: float = 10.0


class _Lasting(Exception):
    """The mail will never be taken as it is."""


class _ForNow(Exception):
    """This mail is not taken now."""


def deliver(context: ActionContext, server: MailServer, is_ending: Callable[[], bool] = lambda: False) -> int:
    """Send what is due in the outbox, and give how many were sent. Any number of processes may do so
    at once: each takes mails that no other has. Two statements a mail.

    Raises:
        OSError: the server is away, or says nothing; what is due stays so.
    """
    sent = 0
    connection: smtplib.SMTP | None = None
    try:
        while not is_ending():
            with connected(context.database) as database, database.atomic():
                now = context.clock.now()
                mail = next_mail(database, now, timedelta(seconds=PAUSES[-1]))
                if mail is None:
                    return sent
                if connection is None:
                    connection = smtplib.SMTP(server.host, server.port, timeout=server.patience)
                try:
                    _send(connection, _written(context, mail, now))
                    mark_sent(database, mail.id, now)
                    sent += 1
                except _Lasting as problem:
                    mark_refused(database, mail.id, now, str(problem))
                    log.warning("mail is refused for good", message=mail.id, problem=str(problem))
                except _ForNow as problem:
                    _put_off(context, mail, now, str(problem))
    finally:
        if connection is not None:
            _close(connection)
    return sent


def _close(connection: smtplib.SMTP) -> None:
    try:
        connection.quit()
    except (OSError, smtplib.SMTPException):
        connection.close()


def _put_off(context: ActionContext, mail: Outgoing, now: datetime, problem: str) -> None:
    if now - mail.made_at > GIVEN_UP_AFTER:
        mark_refused(context.database, mail.id, now, f"Given up after days: {problem}")
        log.warning("mail is given up", message=mail.id, problem=problem)
        return
    pause = PAUSES[min(mail.tries, len(PAUSES) - 1)]
    put_off(context.database, mail.id, now + timedelta(seconds=pause), problem)
    log.info("mail is put off", message=mail.id, seconds=pause, problem=problem)


def _send(connection: smtplib.SMTP, mail: EmailMessage) -> None:
    """Hand one mail over.

    Raises:
        _Lasting, _ForNow: the server does not take this one (RFC 5321: 5yz for good, 4yz for now).
        OSError: the server is away.
    """
    try:
        connection.send_message(mail)
    except smtplib.SMTPServerDisconnected as problem:
        raise ConnectionError(str(problem)) from problem
    except smtplib.SMTPRecipientsRefused as problem:
        _reset(connection)
        code, said = next(iter(problem.recipients.values()))
        raise _refusal(code, said) from problem
    except smtplib.SMTPResponseException as problem:
        _reset(connection)
        raise _refusal(problem.smtp_code, problem.smtp_error) from problem
    except (smtplib.SMTPNotSupportedError, ValueError) as problem:
        _reset(connection)
        raise _Lasting(str(problem)) from problem
    except smtplib.SMTPException as problem:
        _reset(connection)
        raise _ForNow(str(problem)) from problem


def _reset(connection: smtplib.SMTP) -> None:
    """Let the server forget what it was told of the last mail."""
    try:
        connection.rset()
    except smtplib.SMTPServerDisconnected as problem:
        raise ConnectionError(str(problem)) from problem


def _refusal(code: int, said: bytes | str) -> Exception:
    text = said.decode(errors="replace") if isinstance(said, bytes) else said
    told = f"{code} {' '.join(text.split())}"[:300]
    return _Lasting(told) if 500 <= code < 600 else _ForNow(told)


def _written(context: ActionContext, message: Outgoing, now: datetime) -> EmailMessage:
    """The mail of a message.

    Raises:
        _Lasting: no mail can be made of it, such as for an address that is none.
    """
    if "@" not in message.address:
        raise _Lasting("There is no address.")
    mail = EmailMessage()
    try:
        mail["From"] = SENDER
        mail["To"] = message.address
        # A header is one line, whatever a title holds.
        mail["Subject"] = " ".join(message.message.title.split())
        mail["Message-ID"] = f"<message-{message.id}@gremba.college.example>"
        mail.set_content(message.message.body)
        section = None if message.term is None else context.term(message.term).by_id.get(message.section or 0)
        if message.until is not None and section is not None and message.entry is not None:
            mail.add_attachment(
                deadline_file(message.entry, section, message.until, now),
                maintype="text",
                subtype="calendar",
                filename="deadline.ics",
            )
        calendar = message.facts.get("calendar")
        if isinstance(calendar, str):
            mail.add_attachment(
                calendar.encode(), maintype="text", subtype="calendar", filename="classes.ics"
            )
        mail.as_bytes()
    except (ValueError, UnicodeError) as problem:
        raise _Lasting(f"It could not be written: {problem}") from problem
    return mail


def send_now(server: MailServer, address: str, title: str, body: str) -> bool:
    """Send a mail that is not kept, since it carries a secret; gives whether it was taken."""
    mail = EmailMessage()
    try:
        mail["From"] = SENDER
        mail["To"] = address
        mail["Subject"] = title
        mail.set_content(body)
        # By a name of its own: looking for this machine's takes longer than all the rest.
        with smtplib.SMTP(server.host, server.port, "localhost", server.patience) as connection:
            _send(connection, mail)
    except (_Lasting, _ForNow, OSError, ValueError, smtplib.SMTPException) as problem:
        log.warning("a mail was not taken", problem=str(problem))
        return False
    return True


class Postman(threading.Thread):
    """Delivers what is in the outbox."""

    def __init__(self, context: ActionContext, server: MailServer) -> None:
        super().__init__(name="postman", daemon=True)
        self._context = context
        self.server = server
        self._ending = threading.Event()

    def run(self) -> None:
        """Deliver until :meth:`stop`."""
        pause = OFTEN
        while not self._ending.wait(pause):
            pause = OFTEN
            try:
                deliver(self._context, self.server, self._ending.is_set)
            except Unavailable as problem:
                log.warning("the outbox cannot be read", problem=str(problem).strip())
            except OSError as problem:
                pause = AWAY_PAUSE
                log.warning("the mail server is away", problem=str(problem))
            except Exception:
                pause = AWAY_PAUSE
                log.exception("mail could not be delivered")

    def stop(self) -> None:
        """End the thread."""
        self._ending.set()
        self.join(timeout=3)
