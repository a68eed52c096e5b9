"""Delivering messages to the college address: from the outbox, tried again until it is done.

A message is marked as sent in the transaction that sent it. Should the process end between the
two it is sent once more, under the same Message-ID: never lost, seldom doubled.
"""

from __future__ import annotations

import smtplib
from dataclasses import dataclass
from datetime import datetime
from email.message import EmailMessage
from typing import Any

import structlog

from gremba.actions.desk import Desk
from gremba.formats.deadline_file import deadline_file
from gremba.store.database import connected, rows, run

log = structlog.get_logger()

SENDER = "Gremba <registration@college.example>"
AT_A_TIME = 50
MOST_TRIES = 200

_NEXT = """
SELECT m.id, m.title, m.body, m.until, p.email, m.place_id, w.section_id, t.code
FROM messages m JOIN student_terms st ON st.id = m.student_term_id
JOIN persons p ON p.id = st.student_id JOIN terms t ON t.id = st.term_id
LEFT JOIN places w ON w.id = m.place_id
WHERE m.mailed_at IS NULL AND m.tries < %s ORDER BY m.tries, m.id LIMIT %s
FOR UPDATE OF m SKIP LOCKED
"""


@dataclass(frozen=True, slots=True)
class MailServer:
    """Where mail goes."""

    host: str
    port: int


def deliver(desk: Desk, server: MailServer) -> int:
    """Send what is in the outbox, and give how many were sent. Any number of processes may do so
    at once: each takes messages that no other has. Two statements, and one a message."""
    sent = 0
    with connected(desk.database) as database, database.atomic():
        found = rows(database, _NEXT, (MOST_TRIES, AT_A_TIME))
        if not found:
            return 0
        now = desk.clock.now()
        try:
            with smtplib.SMTP(server.host, server.port, timeout=10) as connection:
                for row in found:
                    connection.send_message(_mail(desk, row, now))
                    run(database, "UPDATE messages SET mailed_at = %s WHERE id = %s", (now, row[0]))
                    sent += 1
        except (OSError, smtplib.SMTPException) as problem:
            log.warning("mail could not be sent", problem=str(problem))
            run(
                database,
                "UPDATE messages SET tries = tries + 1 WHERE id = ANY(%s)",
                ([row[0] for row in found[sent:]],),
            )
    return sent


def _mail(desk: Desk, row: tuple[Any, ...], now: datetime) -> EmailMessage:
    message_id, title, body, until, address, place, section_id, code = row
    mail = EmailMessage()
    mail["From"] = SENDER
    mail["To"] = address
    mail["Subject"] = title
    mail["Message-ID"] = f"<message-{message_id}@gremba.college.example>"
    mail.set_content(body)
    section = desk.term(code).by_id.get(section_id) if section_id else None
    if until is not None and section is not None:
        mail.add_attachment(
            deadline_file(place, section, until, now),
            maintype="text", subtype="calendar", filename="deadline.ics",
        )  # fmt: skip
    return mail
