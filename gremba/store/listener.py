"""Listens to the database's notifications on a connection of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import psycopg
import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import Unavailable
from gremba.store.long_lived_thread import LongLivedThread

log = structlog.get_logger()


class Listener(LongLivedThread):
    """Calls a function for each notification on its channel. A turn lasts as long as its connection.

    After a lost connection it connects again and calls ``missed``, since something may have
    been announced meanwhile.
    """

    def __init__(
        self,
        database: PooledPostgresqlDatabase,
        channels: Mapping[str, Callable[[str], None]],
        missed: Callable[[], None],
    ) -> None:
        super().__init__("listener", often=0.0)
        self._options = {"dbname": database.database, **_connect_options(database)}
        self._channels = channels
        self._missed = missed

    def turn(self) -> None:
        """Listen until the connection is lost, or :meth:`stop`."""
        with psycopg.connect(**self._options, autocommit=True) as connection:
            for channel in self._channels:
                connection.execute(f'LISTEN "{channel}"')
            self._missed()
            while not self.ending.is_set():
                self.beat()
                for told in connection.notifies(timeout=0.5):
                    try:
                        self._channels[told.channel](told.payload)
                    except Unavailable:
                        raise
                    except Exception:
                        log.exception("a notification could not be followed", channel=told.channel)


def _connect_options(database: PooledPostgresqlDatabase) -> dict[str, object]:
    taken = {"user", "password", "host", "port", "connect_timeout", "sslmode"}
    return {k: v for k, v in database.connect_params.items() if k in taken}
