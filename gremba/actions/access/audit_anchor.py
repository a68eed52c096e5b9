"""Sends the audit log's last digest to a second place each night, so that a rewritten log is found out even
if its key was stolen."""

from __future__ import annotations

import os
import syslog
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.messages.mail_server import MailServer, send_now
from gremba.store.access.audit_log import Anchor, claim_anchor, mark_anchor_sent
from gremba.store.database import connected
from gremba.store.long_lived_thread import LongLivedThread

log = structlog.get_logger()

OFTEN = 600.0
"""Seconds between two looks whether a new day has begun."""

TRIED_AGAIN_AFTER = timedelta(minutes=30)

Send = Callable[[str], None]


def sender_of(setting: str, mail: MailServer | None) -> Send | None:
    """The sender the settings describe; None if none is set.

    Args:
        setting: ``file:/path``, ``syslog:`` or ``mail:address``.

    Raises:
        ValueError: it is none of these, or there is no mail server.
    """
    if not setting:
        return None
    kind, _, where = setting.partition(":")
    if kind == "file" and where.startswith("/"):
        return lambda line: _append(where, line)
    if kind == "syslog" and not where:
        return lambda line: syslog.syslog(syslog.LOG_NOTICE | syslog.LOG_AUTH, line)
    if kind == "mail" and "@" in where and mail is not None:
        return lambda line: _mail(mail, where, line)
    raise ValueError("name file:/path, syslog: or, where there is a mail server, mail:address")


def _append(path: str, line: str) -> None:
    descriptor = os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
    with open(descriptor, "a", encoding="utf-8") as file:
        file.write(f"{line}\n")


def _mail(server: MailServer, address: str, line: str) -> None:
    if not send_now(server, address, "The audit log’s last digest", f"{line}\n\nKeep it.\n"):
        raise ConnectionError("the mail was not taken")


def line_of(anchor: Anchor) -> str:
    """The line that is sent."""
    return f"gremba audit log {anchor.day.isoformat()} entry {anchor.last_id} digest {anchor.digest.hex()}"


class AnchorSender(LongLivedThread):
    """Sends the audit log's last digest elsewhere once a day, from one process. The day follows the machine's
    clock, like the log's times, not the campus clock."""

    def __init__(self, database: PooledPostgresqlDatabase, send: Send) -> None:
        super().__init__("audit anchor", OFTEN)
        self._database = database
        self._send = send

    def turn(self) -> None:
        """Send today's digest unless it has been sent."""
        now = datetime.now(UTC)
        with connected(self._database) as database, database.atomic():
            anchor = claim_anchor(database, now, now - TRIED_AGAIN_AFTER)
        if anchor is None:
            return
        try:
            self._send(line_of(anchor))
        except OSError as problem:
            log.error("the audit log's last digest could not be sent", problem=str(problem))
            return
        with connected(self._database) as database:
            mark_anchor_sent(database, anchor.day, now)
