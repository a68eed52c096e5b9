"""Prepares a database for serving; refuses one that is not ours."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

import peewee
from playhouse.pool import PooledPostgresqlDatabase

from gremba.demo.build import build_demo
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.installation import Installation, InstallationKind, look_at, migrate
from gremba.store.queries import take_lock

Say = Callable[[str], None]


class NotServed(Exception):
    """A database is not served as requested; the text says why, and what to do."""


class Preparation(StrEnum):
    """What to do with a database before serving it."""

    SERVE = "serve it, with newer migrations if there are"
    FILL = "fill it with the demo"
    MAKE_ANEW = "make the demo in it anew"


def preparation_for(found: Installation, demo: bool | None, fresh: bool) -> Preparation:
    """Decide what to do with a database before serving it.

    Args:
        demo: whether the demo is asked for, or no demo, by name; None for neither.
        fresh: the demo's data are wanted anew.

    Raises:
        NotServed: nothing is; the database stays as it is.
    """
    if found.kind is InstallationKind.FOREIGN:
        shown = ", ".join(found.tables[:3]) + (" and others" if len(found.tables) > 3 else "")
        raise NotServed(
            f"This database holds tables that are not Gremba's ({shown}). Nothing was done to it. "
            "Name an empty one."
        )
    if found.kind is InstallationKind.EMPTY:
        if demo is None:
            raise NotServed(
                "This database is empty. Say --demo to fill it with the demo's invented college, whose "
                "password everybody knows, or --no-demo to begin with a college of your own."
            )
        return Preparation.FILL if demo else Preparation.SERVE
    if found.unknown:
        raise NotServed(
            "This database was set up by a newer version of Gremba (it holds "
            f"{found.unknown[-1]}). Serve it with that version; nothing was done to it."
        )
    if found.is_demo:
        return _preparation_for_demo(found, demo, fresh)
    if found.missing:
        raise NotServed(_damaged(found))
    if fresh or demo:
        if found.has_people or fresh:
            raise NotServed(
                "This database holds a college's own data. It is never filled with the demo nor made "
                "anew. Leave out --demo and --fresh, or name another database."
            )
        return Preparation.FILL
    return Preparation.SERVE


def _preparation_for_demo(found: Installation, demo: bool | None, fresh: bool) -> Preparation:
    if demo is False:
        raise NotServed(
            "This database holds the demo, whose password everybody knows. Name an empty database for "
            "a college of your own, or leave out --no-demo."
        )
    is_whole = found.is_complete and not found.missing
    if is_whole and not fresh:
        return Preparation.SERVE
    if found.strange:
        raise NotServed(
            f"Beside the demo this database holds {', '.join(found.strange[:3])}, which is not "
            "Gremba's, so it is not made anew. Nothing was done to it. Name an empty one."
        )
    return Preparation.MAKE_ANEW


def _damaged(found: Installation) -> str:
    shown = ", ".join(found.missing[:3]) + (" and others" if len(found.missing) > 3 else "")
    return (
        f"This database lacks what Gremba has put there ({shown}), so it is not served. Restore it "
        "from a copy, or find out what took it away; nothing was done to it."
    )


def prepare(database: PooledPostgresqlDatabase, *, demo: bool | None, fresh: bool, say: Say) -> bool:
    """Prepare a database; returns whether it holds the demo.

    Raises:
        NotServed: it is not served as it is asked for.
    """
    with connected(database):
        found = look_at(database)
    step = preparation_for(found, demo, fresh)
    if step is Preparation.MAKE_ANEW and not fresh:
        say("The demo in this database was never finished, is damaged, or is too old: it is made anew.")
    if step is not Preparation.SERVE:
        build_demo(database, say)
    else:
        for name in migrate(database):
            say(f"Brought the tables up to date: {name}")
    with connected(database):
        return look_at(database).is_demo


AT_LEAST = 12
"""Connections that one worker cannot do without: its own threads', and a few for requests."""


def check_room(database: PooledPostgresqlDatabase, workers: int) -> None:
    """Check that the server has connections for that many workers.

    Raises:
        NotServed: it has not, as where another server is at it already.
    """
    with connected(database):
        [(most, used)] = fetch_sql(
            database,
            "SELECT current_setting('max_connections')::int "
            "- current_setting('superuser_reserved_connections')::int, count(*) FROM pg_stat_activity "
            "WHERE backend_type = 'client backend' AND pid <> pg_backend_pid()",
        )
    if most - used < AT_LEAST * workers:
        raise NotServed(
            f"The database's server takes {most} connections, and {used} are in use: too few are left for "
            f"{workers} workers. Is another server at it already? Stop that one, start with fewer "
            "--workers, or raise max_connections."
        )


def prepare_at(url: str, *, demo: bool | None, fresh: bool, say: Say) -> bool:
    """The same for an address. Of two at once, the second waits and uses what the first has made.

    Raises:
        NotServed: see :func:`prepare`; or the database does not let this role do what is needed.
    """
    database, gate = connect(url), connect(url, most_connections=1)
    try:
        with connected(gate):
            take_lock(gate, _PREPARING)
            return prepare(database, demo=demo, fresh=fresh, say=say)
    except peewee.ProgrammingError as problem:
        raise NotServed(
            f"The database does not let this role do what is needed ({str(problem).splitlines()[0]}). "
            "Name the role that owns it, or an empty database in which the role may make tables."
        ) from None
    finally:
        database.close_all()
        gate.close_all()


_PREPARING = 0x70726570


def holds_demo(url: str) -> bool:
    """Whether a database is marked as demo."""
    database = connect(url)
    try:
        with connected(database):
            return look_at(database).is_demo
    finally:
        database.close_all()
