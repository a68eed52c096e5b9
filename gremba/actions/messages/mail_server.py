"""Connects to the college's mail server and hands messages to it."""

from __future__ import annotations

import smtplib
import ssl
from dataclasses import dataclass
from email.message import EmailMessage
from email.utils import parseaddr

import structlog

log = structlog.get_logger()

STANDARD_SENDER = "Gremba <registration@college.example>"


@dataclass(frozen=True, slots=True)
class MailServer:
    """The mail server and the sender's address.

    Attributes:
        patience: seconds after which a server that says nothing counts as away.
        sender: name and address that mail comes from.
        reply_to: where answers go; "" for the sender.
        starttls: the connection is encrypted before anything is said (RFC 3207), and the server's
            certificate is checked.
        certificates: file of the authorities by which it is checked; "" for those of the system.
        user, password: for signing in; "" where the server asks for nobody.
    """

    host: str
    port: int
    patience: float = 10.0
    sender: str = STANDARD_SENDER
    reply_to: str = ""
    starttls: bool = False
    certificates: str = ""
    user: str = ""
    password: str = ""

    @property
    def domain(self) -> str:
        """The sender's domain, for message ids."""
        return parseaddr(self.sender)[1].rpartition("@")[2]

    def connect(self) -> smtplib.SMTP:
        """Connect, with TLS and sign-in as set.

        Raises:
            OSError: the server is away, says nothing, has no STARTTLS, a certificate that is not
                believed, or does not take the user.
        """
        # By a name of its own: looking for this machine's takes longer than all the rest.
        connection = smtplib.SMTP(self.host, self.port, "localhost", self.patience)
        try:
            if self.starttls:
                connection.starttls(context=ssl.create_default_context(cafile=self.certificates or None))
            if self.user:
                connection.login(self.user, self.password)
        except smtplib.SMTPException as problem:
            connection.close()
            raise ConnectionError(f"the mail server does not let us in: {problem}") from problem
        except OSError:
            connection.close()
            raise
        return connection

    def begin_mail(self, address: str, title: str, body: str) -> EmailMessage:
        """A mail with its headers.

        Raises:
            ValueError, UnicodeError: no mail can be made of it.
        """
        mail = EmailMessage()
        mail["From"] = self.sender
        if self.reply_to:
            mail["Reply-To"] = self.reply_to
        mail["To"] = address
        # A header is one line, whatever a title holds.
        mail["Subject"] = " ".join(title.split())
        mail.set_content(body)
        return mail


class RefusedForGood(Exception):
    """The mail server rejected the mail permanently."""


class RefusedForNow(Exception):
    """The mail server rejected the mail for now."""


def hand_over(connection: smtplib.SMTP, mail: EmailMessage) -> None:
    """Send one mail.

    Raises:
        RefusedForGood, RefusedForNow: the server does not take this one (RFC 5321: 5yz for good, 4yz for
            now).
        OSError: the server is away.
    """
    try:
        connection.send_message(mail)
    except smtplib.SMTPServerDisconnected as problem:
        raise ConnectionError(str(problem)) from problem
    # The library itself lets the server forget a mail that was refused.
    except smtplib.SMTPRecipientsRefused as problem:
        code, said = next(iter(problem.recipients.values()))
        raise _refusal(code, said) from problem
    except smtplib.SMTPResponseException as problem:
        raise _refusal(problem.smtp_code, problem.smtp_error) from problem
    except (smtplib.SMTPNotSupportedError, ValueError) as problem:
        raise RefusedForGood(str(problem)) from problem
    except smtplib.SMTPException as problem:
        raise RefusedForNow(str(problem)) from problem


def _refusal(code: int, said: bytes | str) -> Exception:
    text = said.decode(errors="replace") if isinstance(said, bytes) else said
    told = f"{code} {' '.join(text.split())}"[:300]
    return RefusedForGood(told) if 500 <= code < 600 else RefusedForNow(told)


def send_now(server: MailServer, address: str, title: str, body: str) -> bool:
    """Send a mail that is not stored because it carries a secret; returns whether it was accepted."""
    connection: smtplib.SMTP | None = None
    try:
        mail = server.begin_mail(address, title, body)
        connection = server.connect()
        hand_over(connection, mail)
    except (RefusedForGood, RefusedForNow, OSError, ValueError, smtplib.SMTPException) as problem:
        log.warning("a mail was not taken", problem=str(problem))
        return False
    finally:
        if connection is not None:
            close(connection)
    return True


def close(connection: smtplib.SMTP) -> None:
    """End the connection, politely if possible."""
    try:
        connection.quit()
    except (OSError, smtplib.SMTPException):
        connection.close()
