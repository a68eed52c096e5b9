"""Listening to what the database announces, on a connection of its own."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping

import psycopg
import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import Unavailable

log = structlog.get_logger()


class Listener(threading.Thread):
    """Calls a function for every notification on its channel.

    After a lost connection it connects again and calls ``missed``, since something may have
    been announced meanwhile.
    """

    def __init__(
        self,
        database: PooledPostgresqlDatabase,
        channels: Mapping[str, Callable[[str], None]],
        missed: Callable[[], None],
    ) -> None:
        super().__init__(name="listener", daemon=True)
        self._options = {"dbname": database.database, **_connect_options(database)}
        self._channels = channels
        self._missed = missed
        self._ending = threading.Event()

    def run(self) -> None:
        """Listen until :meth:`stop`."""
        while not self._ending.is_set():
            try:
                self._listen()
            except Unavailable as problem:
                log.warning("listener lost the database", problem=str(problem).strip())
                time.sleep(1)

    def _listen(self) -> None:
        with psycopg.connect(**self._options, autocommit=True) as connection:
            for channel in self._channels:
                connection.execute(f'LISTEN "{channel}"')
            self._missed()
            while not self._ending.is_set():
                for told in connection.notifies(timeout=0.5):
                    try:
                        self._channels[told.channel](told.payload)
                    except Unavailable:
                        raise
                    except Exception:
                        log.exception("a notification could not be followed", channel=told.channel)

    def stop(self) -> None:
        """End the thread."""
        self._ending.set()
        self.join(timeout=3)


def _connect_options(database: PooledPostgresqlDatabase) -> dict[str, object]:
    taken = {"user", "password", "host", "port", "connect_timeout", "sslmode"}
    return {k: v for k, v in database.connect_params.items() if k in taken}
