"""Serving the application until somebody stops it."""

from __future__ import annotations

import os
import secrets
import socket
import threading
from collections.abc import Callable
from pathlib import Path

import uvicorn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.demo.build import build_demo
from gremba.demo.cast import CAST, OFFICES, PASSWORD
from gremba.launch.cluster import Cluster
from gremba.standins.clock import has_campus_clock, keep_campus_time, resume_campus_clock
from gremba.standins.mail import MailStandIn
from gremba.store.database import Unavailable, connect, connected, migrate, rows

ROOT = Path(__file__).parents[2]
LOCAL = ROOT / ".local"
BUILT = ROOT / "frontend" / "dist"
DEMO, PLAIN, MAKING = "gremba_demo", "gremba", "gremba_making"
Say = Callable[[str], None]


def prepare_private(cluster: Cluster, *, demo: bool, fresh: bool, say: Say) -> str:
    """Have the database ready in the private cluster; gives its address.

    The demo is made under another name and put in place when it is complete, so that one
    half-made is never served.
    """
    name = DEMO if demo else PLAIN
    if demo and (fresh or DEMO not in cluster.databases()):
        cluster.create(MAKING, anew=True)
        database = connect(cluster.url(MAKING))
        build_demo(database, say)
        database.close_all()
        cluster.rename(MAKING, DEMO)
    elif not demo:
        cluster.create(PLAIN, anew=fresh)
    return cluster.url(name)


def prepare_given(url: str, *, demo: bool, fresh: bool, say: Say) -> None:
    """Have a database that was named on the command line ready: fill it with the demo if it is
    empty, or if new demo data was asked for."""
    database = connect(url)
    with connected(database):
        is_empty = not rows(
            database, "SELECT 1 FROM pg_tables WHERE schemaname = 'public' AND tablename = 'terms'"
        )
    if demo and (fresh or is_empty):
        build_demo(database, say)
    database.close_all()


def serve(url: str, *, host: str, port: int, workers: int, say: Say) -> None:
    """Serve a database that is ready, until Ctrl+C."""
    database = connect(url)
    applied = migrate(database)
    for name in applied:
        say(f"Brought the tables up to date: {name}")
    with connected(database):
        demo = has_campus_clock(database)
        if demo:
            resume_campus_clock(database)
    os.environ.update(
        GREMBA_DATABASE_URL=url, GREMBA_DEMO=str(demo).lower(), GREMBA_FRONTEND=str(BUILT),
        GREMBA_PAYMENT_STANDIN=str(demo).lower(),
        GREMBA_PAYMENT_SECRET=os.environ.get("GREMBA_PAYMENT_SECRET") or secrets.token_hex(32),
    )
    say(f"\n  Gremba is at  http://{'localhost' if host == '127.0.0.1' else host}:{port}\n")
    if demo:
        for player in (*CAST, *OFFICES):
            say(f"  {player.username:<8}{player.full_name:<16}{player.who}")
        say(f"\n  Everybody's password in the demo: {PASSWORD}")
    say("  Ctrl+C stops it.\n")
    mail = MailStandIn(LOCAL / "mail", free_port()) if demo else None
    if mail is not None:
        mail.start()
        os.environ["GREMBA_MAIL_SERVER"] = mail.address
        say(f"  Mail to students is kept in {LOCAL / 'mail'}\n")
    ending = threading.Event()
    keeper = threading.Thread(target=_keep_time, args=(database, ending), daemon=True)
    if demo:
        keeper.start()
    try:
        uvicorn.run(
            "gremba.web.app:create_app", factory=True, host=host, port=port, workers=workers,
            log_level="warning", access_log=False, timeout_graceful_shutdown=5,
        )  # fmt: skip
    except KeyboardInterrupt:
        say("Stopping.")
    finally:
        ending.set()
        if mail is not None:
            mail.stop()
        if demo:
            keeper.join(timeout=5)
        database.close_all()


def _keep_time(database: PooledPostgresqlDatabase, ending: threading.Event) -> None:
    """Note the campus time now and then, and at the end."""
    done = False
    while not done:
        done = ending.wait(15)
        try:
            with connected(database):
                keep_campus_time(database)
        except Unavailable:
            continue


def free_port() -> int:
    """A port on loopback that nothing listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def port_is_free(host: str, port: int) -> bool:
    """Whether nothing listens there yet."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
        return True
