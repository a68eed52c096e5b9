"""Settings, read from the environment (``GREMBA_…``)."""

from __future__ import annotations

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """How one process of the application is set up.

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
    payment_standin: bool = False
    college: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """The hosts, one by one."""
        return tuple(name.strip() for name in self.hosts.split(",") if name.strip())

    @property
    def proxies(self) -> tuple[str, ...]:
        """The trusted proxies, one by one."""
        return tuple(name.strip() for name in self.trusted_proxies.split(",") if name.strip())
