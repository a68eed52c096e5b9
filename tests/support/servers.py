"""Real servers for tests: a PostgreSQL cluster of their own, and the application in a process."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import time
from functools import cache

import httpx

from gremba.demo.build import build_demo
from gremba.launch.cluster import SERVING_ROLE, Cluster, private_cluster
from gremba.launch.serve import BUILT, LOCAL, free_port
from gremba.store.database import connect, connected
from gremba.store.installation import give_rights, migrate

_started: list[Cluster] = []
_servers: list[Server] = []
_numbers = iter(range(10_000))


CLUSTER = "GREMBA_TEST_CLUSTER"
"""The variable of the environment that names the cluster, where tests run side by side."""
DEMO_CLUSTER = "GREMBA_TEST_DEMO_CLUSTER"
"""The one that names the cluster of all databases with the demo, which processes side by side share."""


@cache
def cluster() -> Cluster:
    """The tests' own cluster, started when it is first needed."""
    return start_cluster(os.environ.get(CLUSTER, "postgres-test"))


def start_cluster(name: str) -> Cluster:
    """Start a cluster for tests, rid of the databases of an earlier run; :func:`stop_all` stops it."""
    LOCAL.mkdir(exist_ok=True)
    found = private_cluster(LOCAL, name, durable=False)
    found.start()
    _started.append(found)
    for database in found.databases():
        if database.startswith(("test_", "template_")):
            found.drop(database)
    return found


@cache
def _demo_cluster() -> Cluster:
    shared = os.environ.get(DEMO_CLUSTER)
    return cluster() if shared is None else private_cluster(LOCAL, shared, durable=False)


def _cluster_for(kind: str) -> Cluster:
    return _demo_cluster() if kind == "demo" else cluster()


@cache
def _template(kind: str) -> str:
    """A database to copy: with empty tables, or with the demo. The first process that needs it makes it."""
    name, where = f"template_{kind}", _cluster_for(kind)
    with (LOCAL / f"{where.home.name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if name not in where.databases():
            unfinished = f"{name}_unfinished"
            where.create(unfinished, anew=True)
            database = connect(where.url(unfinished))
            if kind == "demo":
                build_demo(database, lambda _: None)
            else:
                migrate(database)
            with connected(database):
                give_rights(database, SERVING_ROLE)
            database.close_all()
            where.rename(unfinished, name)
    return name


def new_database(kind: str = "empty") -> str:
    """The address of a new database, "empty" or with the "demo"."""
    name, where = f"test_{os.getpid()}_{next(_numbers)}", _cluster_for(kind)
    where.copy(_template(kind), name)
    return where.url(name)


def as_served(url: str) -> str:
    """The same database for the role that the application has."""
    name = url.rpartition("/")[2]
    where = next(c for c in (cluster(), _demo_cluster()) if c.url(name) == url)
    return where.url(name, SERVING_ROLE)


PAYMENT_SECRET = "shared between the tests and their servers"


class Server:
    """The application, served by a process of its own."""

    def __init__(
        self,
        database_url: str,
        *,
        demo: bool = False,
        port: int = 0,
        payments: bool = True,
        mail: str = "",
        **settings: str,
    ) -> None:
        self.port = port or free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        environment = {
            **os.environ,
            "GREMBA_DATABASE_URL": as_served(database_url),
            "GREMBA_DEMO": str(demo).lower(),
            "GREMBA_FRONTEND": str(BUILT),
            "GREMBA_SECURE_COOKIES": "false",
            "GREMBA_PAYMENT_SECRET": PAYMENT_SECRET,
            "GREMBA_MAIL_SERVER": mail,
            "GREMBA_PAYMENT_STANDIN": str(payments).lower(),
            **{f"GREMBA_{name.upper()}": value for name, value in settings.items()},
        }
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.support.serving", str(self.port)],
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        _servers.append(self)
        self._wait()

    def _wait(self) -> None:
        for _ in range(300):
            if self._process.poll() is not None:
                raise RuntimeError(f"the server ended with {self._process.returncode}")
            try:
                if httpx.get(f"{self.url}/healthz", timeout=2).status_code == 200:
                    return
            except httpx.TransportError:
                pass
            time.sleep(0.1)
        raise RuntimeError("the server did not answer")

    def kill(self) -> None:
        """End it at once, as a power cut would."""
        self._process.send_signal(signal.SIGKILL)
        self._process.wait()

    def stop(self) -> bool:
        """End it in order; whether it ended by itself."""
        if self._process.poll() is None:
            self._process.terminate()
            try:
                self._process.wait(timeout=60)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
                return False
        return True


def stop_all() -> None:
    """End everything the tests have started."""
    for server in _servers:
        server.stop()
    for found in _started:
        found.stop()
