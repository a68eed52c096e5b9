"""Settings, read from the environment (``GREMBA_…``)."""

from __future__ import annotations

from email.utils import parseaddr
from typing import Self

from pydantic import SecretStr, field_validator, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from gremba.actions.access.audit_anchor import sender_of
from gremba.actions.messages.mail_server import STANDARD_SENDER, MailServer


class Settings(BaseSettings):
    """The settings of one process.

    Attributes:
        database_url: see :func:`gremba.store.database.connect`.
        demo: people to sign in as are shown, and the campus clock can be moved.
        secure_cookies: cookies go over TLS only; not set where everything is on one machine.
        hosts: the names by which the application is called, with commas between them; "" for any.
        trusted_proxies: addresses, with commas between them, of the proxies in front of it. Only
            what these say of where a request comes from is believed.
        openapi: its description is served at /api/openapi.json.
        payment_secret: shared with the payment service, whose answers are signed with it.
        payment_standin: payments go to the stand-in, which takes its own test cards and no money.
        mail_server: host and port that take mail, such as ``127.0.0.1:2525``; "" keeps it back.
        mail_sender: name and address that mail comes from, such as ``Registrar <registrar@college.example>``.
        mail_reply_to: where answers to mail go; "" for the sender.
        mail_starttls: the connection is encrypted, and the server's certificate is checked.
        mail_certificates: file of the authorities by which it is checked; "" for those of the system.
        audit_anchor: where the last digest of the audit log is sent each night: ``file:/path``,
            ``syslog:`` or ``mail:address``; "" for nowhere.
        mail_user, mail_password: for signing in at the mail server; only with mail_starttls.
        batch_queue_threads: worker threads that process submissions, a process.
        batching_window: seconds that a batch of submissions waits for one more, see :class:`BatchQueue`.
    """

    model_config = SettingsConfigDict(env_prefix="GREMBA_")

    database_url: str
    demo: bool = False
    secure_cookies: bool = True
    hosts: str = ""
    trusted_proxies: str = ""
    openapi: bool = True
    batch_queue_threads: int = 1
    batching_window: float = 0.003
    frontend: str = ""
    payment_secret: str = ""
    mail_server: str = ""
    mail_sender: str = STANDARD_SENDER
    mail_reply_to: str = ""
    mail_starttls: bool = False
    mail_certificates: str = ""
    audit_anchor: str = ""
    mail_user: str = ""
    mail_password: SecretStr = SecretStr("")
    payment_standin: bool = False
    college: str = ""

    @field_validator("mail_server")
    @classmethod
    def _is_host_and_port(cls, value: str) -> str:
        host, _, port = value.rpartition(":")
        if value and not (host and port.isascii() and port.isdigit() and 0 < int(port) < 65_536):
            raise ValueError("name the mail server by host and port, such as mail.college.example:587")
        return value

    @field_validator("mail_sender", "mail_reply_to")
    @classmethod
    def _is_address(cls, value: str) -> str:
        local, at, domain = parseaddr(value)[1].rpartition("@")
        if value and (not (local and at and domain) or not value.isprintable()):
            raise ValueError("name an address, such as Registrar <registrar@college.example>")
        return value

    @model_validator(mode="after")
    def _signs_in_encrypted(self) -> Self:
        if self.mail_user and not self.mail_starttls:
            raise ValueError("a password goes to the mail server with mail_starttls only")
        return self

    @model_validator(mode="after")
    def _anchors_somewhere(self) -> Self:
        sender_of(self.audit_anchor, self.mail)
        return self

    @property
    def mail(self) -> MailServer | None:
        """The mail server; None if mail is not sent."""
        if not self.mail_server:
            return None
        host, _, port = self.mail_server.rpartition(":")
        return MailServer(
            host,
            int(port),
            sender=self.mail_sender or STANDARD_SENDER,
            reply_to=self.mail_reply_to,
            starttls=self.mail_starttls,
            certificates=self.mail_certificates,
            user=self.mail_user,
            password=self.mail_password.get_secret_value(),
        )

    @property
    def names(self) -> tuple[str, ...]:
        """The host names."""
        return tuple(name.strip() for name in self.hosts.split(",") if name.strip())

    @property
    def proxies(self) -> tuple[str, ...]:
        """The trusted proxies."""
        return tuple(name.strip() for name in self.trusted_proxies.split(",") if name.strip())
