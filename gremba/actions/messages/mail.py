"""Delivers messages from the outbox to college addresses, on a thread of its own.

A mail is claimed for some minutes, then written and handed over while no transaction is open, then
marked as sent. Should the process end before the last it is sent once more when the claim has run
out, under the same Message-ID: never lost, seldom doubled. What is refused for now, or could not be
written, is tried again with growing pauses, for days; what is refused for good is kept with the
reason and shown to the registrar. No mail holds up another for longer than one time-out.
"""

from __future__ import annotations

import smtplib
from collections.abc import Callable
from datetime import datetime, timedelta
from email.message import EmailMessage

import structlog

from gremba.actions.context import ActionContext
from gremba.actions.messages.mail_server import MailServer, RefusedForGood, RefusedForNow, close, hand_over
from gremba.formats.deadline_file import deadline_file
from gremba.store.database import Unavailable, connected
from gremba.store.long_lived_thread import LongLivedThread
from gremba.store.messages.outbox import Outgoing, claim_mail, give_back, mark_refused, mark_sent, put_off

log = structlog.get_logger()

PAUSES = (60, 300, 900, 3600, 4 * 3600)
"""Seconds between one try and the next; from then on the last."""
CLAIMED = timedelta(minutes=10)
"""So long a mail is left to whoever has claimed it; far longer than handing it over can take."""
GIVEN_UP_AFTER = timedelta(days=5)
"""So long a mail is tried that a server refuses for now (common practice: four to five days)."""
AWAY_PAUSE = 30
"""Seconds before a server that does not answer is tried again."""
OFTEN = 2.0
"""Seconds between two looks into the outbox."""


def deliver(
    context: ActionContext,
    server: MailServer,
    is_ending: Callable[[], bool] = lambda: False,
    beat: Callable[[], None] = lambda: None,
) -> int:
    """Send mail that is due; returns how many were sent. Several processes can do so at once: each locks its
    own. Three statements a mail.

    Args:
        beat: called before each mail: it goes on.

    Raises:
        OSError: the server is away, or says nothing; what is due stays so.
    """
    sent = 0
    connection: smtplib.SMTP | None = None
    try:
        while not is_ending():
            beat()
            now = context.clock.now()
            with connected(context.database) as database, database.atomic():
                mail = claim_mail(database, now, now + CLAIMED, timedelta(seconds=PAUSES[-1]))
            if mail is None:
                return sent
            try:
                written = _written(context, server, mail, now)
                if connection is None:
                    connection = server.connect()
                hand_over(connection, written)
            except RefusedForGood as problem:
                with connected(context.database) as database:
                    mark_refused(database, mail.id, now, str(problem))
                log.warning("mail is refused for good", message=mail.id, problem=str(problem))
            except RefusedForNow as problem:
                _put_off(context, mail, now, str(problem))
            except OSError:
                with connected(context.database) as database:
                    give_back(database, mail)
                raise
            else:
                with connected(context.database) as database:
                    mark_sent(database, mail.id, now)
                sent += 1
    finally:
        if connection is not None:
            close(connection)
    return sent


def _put_off(context: ActionContext, mail: Outgoing, now: datetime, problem: str) -> None:
    if now - mail.made_at > GIVEN_UP_AFTER:
        with connected(context.database) as database:
            mark_refused(database, mail.id, now, f"Given up after days: {problem}")
        log.warning("mail is given up", message=mail.id, problem=problem)
        return
    pause = PAUSES[min(mail.tries, len(PAUSES) - 1)]
    with connected(context.database) as database:
        put_off(database, mail.id, now + timedelta(seconds=pause), problem)
    log.info("mail is put off", message=mail.id, seconds=pause, problem=problem)


def _written(context: ActionContext, server: MailServer, message: Outgoing, now: datetime) -> EmailMessage:
    """The mail for a message.

    Raises:
        RefusedForGood: no mail can be made of it, such as for an address that is none.
        RefusedForNow: it failed in a way that nobody foresaw.
    """
    if "@" not in message.address:
        raise RefusedForGood("There is no address.")
    try:
        mail = _compose(context, server, message, now)
        mail.as_bytes()
        return mail
    except (ValueError, UnicodeError) as problem:
        raise RefusedForGood(f"It could not be written: {problem}") from problem
    except Unavailable:
        raise
    except Exception as problem:
        # Such as facts that its words are not made for: no other mail waits for it.
        log.exception("a mail could not be written", message=message.id)
        raise RefusedForNow("It could not be written.") from problem


def _compose(context: ActionContext, server: MailServer, message: Outgoing, now: datetime) -> EmailMessage:
    mail = server.begin_mail(message.address, message.message.title, message.message.body)
    mail["Message-ID"] = f"<message-{message.id}@{server.domain}>"
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
        mail.add_attachment(calendar.encode(), maintype="text", subtype="calendar", filename="classes.ics")
    return mail


class Postman(LongLivedThread):
    """A thread that delivers mail."""

    def __init__(self, context: ActionContext, server: MailServer) -> None:
        super().__init__("postman", OFTEN)
        self._context = context
        self.server = server

    def turn(self) -> None:
        """Deliver what is due."""
        try:
            deliver(self._context, self.server, self.ending.is_set, self.beat)
        except Unavailable:
            raise
        except OSError as problem:
            # A mail server that is away is no trouble of this process.
            log.warning("the mail server is away", problem=str(problem))
            self.ending.wait(AWAY_PAUSE)
