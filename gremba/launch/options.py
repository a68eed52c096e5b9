"""The options of ./start, checked before anything else is done.

Nothing but Python's own library is used here, and no module of ours: it runs before the set-up, so
that a slip is told within a second and not after everything has been installed and loaded.
"""

from __future__ import annotations

import argparse
import ipaddress
import os
import socket
import sys
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, urlsplit, urlunsplit

USUAL_PORT = 8460
USUAL_WORKERS = min(4, os.cpu_count() or 1)
"""One process a core: rules and HTTP are Python, and a process uses one core for them."""

PASSWORD = "GREMBA_DATABASE_PASSWORD"
PASSWORD_FILE = "GREMBA_DATABASE_PASSWORD_FILE"


class WrongOption(Exception):
    """An invalid option of ./start; the text says what is valid."""


@dataclass(frozen=True)
class Options:
    """The options of ./start.

    Attributes:
        database: the address of a database of one's own, with its password; "" for the private one.
        demo: True and False where it was asked for, or for none, by name; None otherwise.
        names: what people call this server.
        proxies: addresses of the proxies in front of it.
        college: what it is called; "" for the demo's name, or none.
    """

    host: str
    port: int
    workers: int
    database: str
    demo: bool | None
    fresh: bool
    names: tuple[str, ...]
    proxies: tuple[str, ...]
    college: str

    @property
    def is_on_loopback(self) -> bool:
        """Whether only this machine can reach it, without a proxy."""
        return is_loopback(self.host) and not self.proxies


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> None:  # type: ignore[override]
        raise WrongOption(f"{message[:1].upper()}{message[1:]}. ./start --help tells what there is.")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="./start", description="Serves Gremba.", allow_abbrev=False)
    parser.add_argument("--port", type=int, default=USUAL_PORT, help="where to listen (%(default)s)")
    parser.add_argument("--host", default="127.0.0.1", help="the address to listen at (%(default)s)")
    parser.add_argument(
        "--name",
        action="append",
        default=[],
        metavar="HOST",
        help="what people call this server; needed where others reach it",
    )
    parser.add_argument(
        "--proxy",
        action="append",
        default=[],
        metavar="ADDRESS",
        help="a proxy in front of it, whose word on addresses is believed",
    )
    parser.add_argument(
        "--workers",
        type=int,
        default=USUAL_WORKERS,
        help="processes; as many as there are cores, up to four (%(default)s)",
    )
    parser.add_argument(
        "--database",
        default="",
        metavar="URL",
        help="an existing PostgreSQL database instead of the private one; its "
        f"password comes in {PASSWORD} or in a file named by {PASSWORD_FILE}",
    )
    parser.add_argument(
        "--demo", action="store_true", help="fill an empty database of one's own with the demo"
    )
    parser.add_argument("--college", default="", metavar="NAME", help="what a college of one's own is called")
    parser.add_argument("--no-demo", action="store_true", help="without the demo's data")
    parser.add_argument("--fresh", action="store_true", help="make the demo's data anew")
    return parser


def read_options(arguments: list[str]) -> Options:
    """Parse and validate the options of ./start.

    Raises:
        WrongOption: something will not do.
        SystemExit: help was asked for.
    """
    told = _parser().parse_args(arguments)
    if told.demo and told.no_demo:
        raise WrongOption("With the demo or without it? Say either --demo or --no-demo.")
    if told.fresh and told.no_demo:
        raise WrongOption("Only the demo can be made anew: leave out --fresh or --no-demo.")
    if not 1 <= told.port <= 65535:
        raise WrongOption("A port is a number from 1 to 65535.")
    if not 1 <= told.workers <= 32:
        raise WrongOption("Workers are a number from 1 to 32.")
    for proxy in told.proxy:
        _check_address(proxy)
    if not is_loopback(told.host) and not told.name:
        raise WrongOption(
            f"Others can reach {told.host}: say what they call this server, such as "
            "--name register.college.example. It answers to that name only, and signing in needs HTTPS."
        )
    return Options(
        told.host,
        told.port,
        told.workers,
        _database(told.database),
        True if told.demo else False if told.no_demo else None,
        told.fresh,
        tuple(told.name),
        tuple(told.proxy),
        told.college.strip(),
    )


def check_port(options: Options) -> None:
    """Check that the address exists and its port is free.

    Raises:
        WrongOption: it cannot be listened at.
    """
    host, port = options.host, options.port
    try:
        family, kind, protocol, _, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except OSError:
        raise WrongOption(f"There is no address {host} on this machine.") from None
    with socket.socket(family, kind, protocol) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(address)
        except PermissionError:
            raise WrongOption(f"Only root may listen at port {port}. Name one above 1023.") from None
        except OverflowError:
            raise WrongOption("A port is a number from 1 to 65535.") from None
        except OSError as problem:
            if problem.errno in (98, 48):
                raise WrongOption(
                    f"Port {port} is taken, maybe by Gremba itself. Name another one with --port."
                ) from None
            raise WrongOption(f"This machine has no address {host}.") from None


def is_loopback(host: str) -> bool:
    """Whether only this machine can reach an address."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


def _check_address(text: str) -> None:
    try:
        ipaddress.ip_network(text, strict=False)
    except ValueError:
        raise WrongOption(f"--proxy takes an address such as 10.0.0.5, not “{text}”.") from None


def _database(url: str) -> str:
    """The address with its password, which is passed separately: command lines are visible to everybody on
    the machine."""
    if not url:
        return ""
    parts = urlsplit(url)
    try:
        port = parts.port
    except ValueError:
        port = -1
    if parts.scheme not in ("postgresql", "postgres") or not parts.path.strip("/") or port == -1:
        raise WrongOption("--database: an address looks like postgresql://user@host:port/name.")
    if parts.password is not None:
        raise WrongOption(
            "--database: leave the password out, since everybody on this machine can read a command "
            f"line. Put it into the environment as {PASSWORD}, or into a file and name that in "
            f"{PASSWORD_FILE}."
        )
    password = _password()
    if not password:
        return url
    at = f"{parts.username or ''}:{quote(password, safe='')}@{parts.netloc.rpartition('@')[2]}"
    return urlunsplit((parts.scheme, at, parts.path, parts.query, ""))


def _password() -> str:
    path = os.environ.get(PASSWORD_FILE, "")
    if not path:
        return os.environ.get(PASSWORD, "")
    try:
        with open(path, encoding="utf-8") as file:
            return file.read().strip()
    except (OSError, UnicodeDecodeError) as problem:
        raise WrongOption(f"{PASSWORD_FILE}: {path} cannot be read ({problem}).") from None


if __name__ == "__main__":
    try:
        told = read_options(sys.argv[1:])
        # Where an earlier start has left processes behind these are ended first.
        if not (Path(__file__).parents[2] / ".local" / "serving").exists():
            check_port(told)
    except WrongOption as problem:
        print(problem, file=sys.stderr)
        sys.exit(2)
