"""./start: prepares a database and serves it until stopped."""

from __future__ import annotations

import fcntl
import os
import secrets
import socket
import sys
import threading
from collections.abc import Callable
from pathlib import Path

from playhouse.pool import PooledPostgresqlDatabase

from gremba.demo.build import build_demo
from gremba.demo.cast import OFFICES, PASSWORD, STUDENTS
from gremba.launch.cluster import SERVING_ROLE, Cluster, ClusterProblem, private_cluster
from gremba.launch.databases import NotServed, check_room, holds_demo, prepare_at
from gremba.launch.leftovers import end_leftovers, note_processes
from gremba.launch.options import USUAL_PORT, Options, WrongOption, check_port
from gremba.launch.workers import serve_workers
from gremba.settings import Settings
from gremba.standins.clock import keep_campus_time, resume_campus_clock
from gremba.standins.mail import MailStandIn
from gremba.store.database import Unavailable, connect, connected
from gremba.store.installation import give_rights, look_at

ROOT = Path(__file__).parents[2]
LOCAL = ROOT / ".local"
BUILT = ROOT / "frontend" / "dist"
DEMO, PLAIN, MAKING = "gremba_demo", "gremba", "gremba_making"
Say = Callable[[str], None]


def start(options: Options, say: Say) -> int:
    """Prepare and serve; returns the exit code."""
    try:
        LOCAL.mkdir(exist_ok=True)
        _shut(LOCAL)
        if options.database:
            check_port(options)
            is_demo = prepare_at(options.database, demo=options.demo, fresh=options.fresh, say=say)
            _serve(options, options.database, options.database, is_demo, say, lambda _: None)
        else:
            _start_private(options, say)
    except (WrongOption, NotServed, ClusterProblem) as problem:
        say(str(problem))
        return 1
    except Unavailable as problem:
        say(f"The database cannot be reached: {str(problem).partition(chr(10))[0]}")
        say("Check that its server runs, and the address and password (see ./start --help).")
        return 1
    return 0


def _shut(folder: Path) -> None:
    """Restricts a folder to its owner. As root, other users may still pass through to the database user's
    files."""
    folder.chmod(0o711 if os.geteuid() == 0 else 0o700)


def _start_private(options: Options, say: Say) -> None:
    with (LOCAL / "start.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise NotServed("Gremba is being served from this folder already. Stop that one first.") from None
        ended = end_leftovers(LOCAL / "serving")
        if ended:
            say(f"Ended {ended} processes that an earlier start had left behind.")
        check_port(options)
        cluster = private_cluster(LOCAL, "postgres")
        say("Starting the private database")
        if not cluster.start():
            say("It runs already, left behind by an earlier start; it is used, and stopped at the end.")
        try:
            is_demo = _prepare_private(cluster, options, say)
            name = DEMO if is_demo else PLAIN
            note = LOCAL / "serving"
            _serve(
                options,
                cluster.url(name),
                cluster.url(name, SERVING_ROLE),
                is_demo,
                say,
                lambda pids: note_processes(note, pids),
            )
            note.unlink(missing_ok=True)
        finally:
            cluster.stop()


def _prepare_private(cluster: Cluster, options: Options, say: Say) -> bool:
    """Prepares the database in the private cluster; returns whether it is the demo's.

    The demo is made under another name and put in place when it is complete, so that one half-made
    is never served.
    """
    wants_demo = options.demo is not False
    name = DEMO if wants_demo else PLAIN
    there = DEMO in cluster.databases()
    if wants_demo and there and options.fresh and not holds_demo(cluster.url(DEMO)):
        raise NotServed(
            f"The database {DEMO} of the private cluster is not marked as demo, so it is not made anew. "
            "Nothing was done to it."
        )
    if wants_demo and (options.fresh or not there):
        cluster.create(MAKING, anew=True)
        database = connect(cluster.url(MAKING))
        build_demo(database, say)
        database.close_all()
        cluster.rename(MAKING, DEMO)
    cluster.create(name)
    return prepare_at(cluster.url(name), demo=wants_demo, fresh=False, say=say)


def _serve(
    options: Options,
    owner_url: str,
    url: str,
    is_demo: bool,
    say: Say,
    on_workers: Callable[[list[int]], None],
) -> None:
    """Serves a prepared database until a signal arrives.

    Args:
        url: the same database, as the role that serves it.
    """
    owner = connect(owner_url)
    check_room(owner, options.workers)
    with connected(owner):
        is_empty = not look_at(owner).has_people
        if is_demo:
            resume_campus_clock(owner)
        if url != owner_url:
            give_rights(owner, SERVING_ROLE)
    names = ("localhost", "127.0.0.1", "[::1]", options.host, *options.names)
    os.environ.update(
        GREMBA_DATABASE_URL=url,
        GREMBA_DEMO=str(is_demo).lower(),
        GREMBA_COLLEGE=options.college or os.environ.get("GREMBA_COLLEGE", ""),
        GREMBA_FRONTEND=str(BUILT),
        GREMBA_PAYMENT_STANDIN=str(is_demo).lower(),
        GREMBA_HOSTS=",".join(names),
        GREMBA_TRUSTED_PROXIES=",".join(options.proxies),
        GREMBA_SECURE_COOKIES=str(not options.is_on_loopback).lower(),
        GREMBA_PAYMENT_SECRET=os.environ.get("GREMBA_PAYMENT_SECRET") or secrets.token_hex(32),
    )
    mail = MailStandIn(LOCAL / "mail", free_port()) if is_demo else None
    if mail is not None:
        _shut_to_all_but_us(LOCAL / "mail")
        mail.start()
        os.environ["GREMBA_MAIL_SERVER"] = mail.address
    ending = threading.Event()
    keeper = threading.Thread(target=_keep_time, args=(owner, ending), daemon=True)
    if is_demo:
        keeper.start()
    say("Starting the application")
    try:
        serve_workers(
            Settings(),  # type: ignore[call-arg]
            host=options.host,
            port=options.port,
            workers=options.workers,
            on_ready=lambda: _tell(options, is_demo, is_empty, mail is not None, say),
            on_workers=on_workers,
        )
    finally:
        ending.set()
        if mail is not None:
            mail.stop()
        if is_demo:
            keeper.join(timeout=5)
        owner.close_all()


def _shut_to_all_but_us(folder: Path) -> None:
    folder.mkdir(exist_ok=True)
    folder.chmod(0o700)


def _tell(options: Options, is_demo: bool, is_empty: bool, keeps_mail: bool, say: Say) -> None:
    """Prints what to do next."""
    host = "localhost" if options.host == "127.0.0.1" else options.host
    if options.names:
        say(f"\n  Gremba is at  https://{options.names[0]}  (here: {host}:{options.port})\n")
    else:
        say(f"\n  Gremba is at  http://{host}:{options.port}\n")
    if is_demo:
        for player in (*STUDENTS, *OFFICES):
            say(f"  {player.username:<8}{player.full_name:<16}{player.who}")
        say(f"\n  Everybody's password in the demo: {PASSWORD}")
    elif is_empty:
        say("  There is nobody here yet. In another terminal, make the first registrar:")
        where = "" if options.port == USUAL_PORT else f" --at http://{host}:{options.port}"
        say(f"  ./tools/gremba invite NAME --role registrar --full-name NAME --email ADDRESS{where}\n")
    if keeps_mail:
        say(f"  Mail to students is kept in {LOCAL / 'mail'}")
    say("  Ctrl+C stops it.\n")
    sys.stdout.flush()


def _keep_time(database: PooledPostgresqlDatabase, ending: threading.Event) -> None:
    """Stores the campus time at intervals, and at the end."""
    done = False
    while not done:
        done = ending.wait(15)
        try:
            with connected(database):
                keep_campus_time(database)
        except Unavailable:
            continue


def free_port() -> int:
    """A free port on loopback."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
