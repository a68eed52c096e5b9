"""Starts, watches and replaces the processes that answer requests."""

from __future__ import annotations

import contextlib
import ctypes
import http.client
import os
import pwd
import resource
import signal
import socket
import threading
import time
from collections.abc import Callable

import structlog
import uvicorn
from starlette.types import ASGIApp
from uvicorn.supervisors import Multiprocess

from gremba.settings import Settings
from gremba.web.requests.connections import PatientButNotForEver

log = structlog.get_logger()

_PR_SET_PDEATHSIG = 1
"""Of Linux' prctl: a signal for when the parent ends (prctl(2))."""

_SERVING_USERS = ("www-data", "nobody")
"""Debian has both."""

_FILES = 16_384
"""Files and connections that a process may have open, as far as the system lets it."""


def served_app() -> ASGIApp:
    """The application in its own worker, which ends with its parent and is not root."""
    from gremba.web.app import create_app

    parent = os.getppid()
    app = create_app()
    _allow_many_files()
    if os.geteuid() == 0:
        become_ordinary()
    _end_with(parent)
    return app


def become_ordinary() -> None:
    """Drop root privileges.

    Raises:
        RuntimeError: there is no ordinary user to serve as.
    """
    for name in _SERVING_USERS:
        with contextlib.suppress(KeyError):
            entry = pwd.getpwnam(name)
            os.setgroups([])
            os.setgid(entry.pw_gid)
            os.setuid(entry.pw_uid)
            return
    raise RuntimeError(f"there is none of the users {', '.join(_SERVING_USERS)} to serve as")


def _end_with(parent: int) -> None:
    # After the change of user, which takes it back.
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM, 0, 0, 0)
    if os.getppid() != parent:
        os.kill(os.getpid(), signal.SIGTERM)


def _allow_many_files() -> None:
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = _FILES if hard == resource.RLIM_INFINITY else min(_FILES, hard)
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))


def serve_workers(
    settings: Settings,
    *,
    host: str,
    port: int,
    workers: int,
    on_ready: Callable[[], None],
    on_workers: Callable[[list[int]], None],
) -> None:
    """Serve until a signal arrives.

    Args:
        on_ready: called once, when requests are answered.
        on_workers: told which processes there are, whenever there are others.

    Raises:
        OSError: the address cannot be listened at.
    """
    config = server_config(settings, "gremba.launch.workers:served_app", host, port, workers)
    listening = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    with listening:
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listening.bind((host, port))
        listening.set_inheritable(True)
        supervisor = _Supervisor(config, [listening], on_workers)
        name = settings.names[0] if settings.names else "localhost"
        teller = threading.Thread(
            target=_tell_when_ready, args=(supervisor, host, port, name, on_ready), daemon=True
        )
        teller.start()
        supervisor.run()


def server_config(settings: Settings, app: str, host: str, port: int, workers: int = 1) -> uvicorn.Config:
    """Uvicorn's configuration for every worker.

    Args:
        app: where the function is that makes the application, as ``module:name``.
    """
    return uvicorn.Config(
        app,
        factory=True,
        host=host,
        port=port,
        workers=workers,
        http=PatientButNotForEver,
        log_level="warning",
        access_log=False,
        server_header=False,
        proxy_headers=bool(settings.proxies),
        forwarded_allow_ips=list(settings.proxies) or "",
        timeout_graceful_shutdown=5,
        timeout_worker_healthcheck=15,
        backlog=4096,
        ws="none",
    )


class _Supervisor(Multiprocess):
    """A supervisor that reports dead workers loudly."""

    def __init__(
        self,
        config: uvicorn.Config,
        sockets: list[socket.socket],
        on_workers: Callable[[list[int]], None],
    ) -> None:
        super().__init__(config, sockets)
        self._on_workers = on_workers

    def init_processes(self) -> None:
        """Start the workers."""
        super().init_processes()
        self._tell()

    def _tell(self) -> None:
        self._on_workers([process.pid for process in self.processes if process.pid is not None])

    def keep_subprocess_alive(self) -> None:
        """Replace workers that have ended or do not answer."""
        before = list(self.processes)
        super().keep_subprocess_alive()
        for old, new in zip(before, self.processes, strict=False):
            if old is not new:
                log.error(
                    "a worker died, and another has taken its place",
                    pid=old.pid,
                    ended_with=_ending(old.exitcode),
                    new_pid=new.pid,
                )
                self._tell()


def _ending(code: int | None) -> str:
    if code is not None and code < 0:
        with contextlib.suppress(ValueError):
            return f"signal {signal.Signals(-code).name}"
    return f"code {code}"


def _tell_when_ready(
    supervisor: Multiprocess, host: str, port: int, name: str, on_ready: Callable[[], None]
) -> None:
    at = {"0.0.0.0": "127.0.0.1", "::": "::1"}.get(host, host)
    while not supervisor.should_exit.is_set():
        with contextlib.suppress(OSError, http.client.HTTPException):
            connection = http.client.HTTPConnection(at, port, timeout=5)
            connection.request("GET", "/healthz", headers={"Host": name})
            if connection.getresponse().status == 200:
                on_ready()
                return
        time.sleep(0.05)
