"""``./bench``: the floor, and beside it the rate of five-section submissions over HTTP; searches and
waitlists while a rush runs."""

from __future__ import annotations

import os
import re
import shutil
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from benchmarks.charging import Charging, measure_charging
from benchmarks.charging import rows_of as charging_rows
from benchmarks.college import TERM, fill
from benchmarks.crowd import Crowd, measure_crowd, rows_of
from benchmarks.exchanging import measure_exchanging
from benchmarks.exchanging import rows_of as exchanging_rows
from benchmarks.fitting import measure_timetables, time_orders, time_reasons
from benchmarks.fitting import rows_of as timetable_rows
from benchmarks.judging import time_decisions, time_tangled
from benchmarks.preparing import measure_preparing, rows_of_prepared
from benchmarks.searching import Typing
from benchmarks.trouble import BLOCKED, SWAPS, offered_beside_trouble
from benchmarks.waiting import Freeing, set_apart, time_sweeps
from gremba.launch.cluster import SERVING_ROLE, Cluster, private_cluster, programs
from gremba.launch.options import USUAL_WORKERS
from gremba.launch.serve import BUILT, LOCAL
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.installation import give_rights, migrate
from tests.support.servers import free_port

HERE = Path(__file__).parent
CONNECTIONS = 128
"""To the web servers: in a rush many more wait than are being served."""
CLIENTS = 32
"""Of the bare statements, as in the measurement that the target rests on."""

BARE_TABLES = """
CREATE TABLE bare_students (id int PRIMARY KEY, version int NOT NULL DEFAULT 0);
CREATE TABLE bare_sections (id int PRIMARY KEY, taken int NOT NULL DEFAULT 0);
CREATE TABLE bare_registrations (id bigserial PRIMARY KEY, student int, section int, at timestamptz);
CREATE TABLE bare_events (id bigserial PRIMARY KEY, student int, section int, at timestamptz);
INSERT INTO bare_students SELECT generate_series(1, 12000);
INSERT INTO bare_sections SELECT generate_series(1, 5000);
"""
BARE_SENDING = r"""
\set s random(1, 12000)
\set a random(1, 1000)
\set b random(1001, 2000)
\set c random(2001, 3000)
\set d random(3001, 4000)
\set e random(4001, 5000)
BEGIN;
SELECT id FROM bare_students WHERE id = :s FOR UPDATE;
SELECT id, taken FROM bare_sections WHERE id IN (:a, :b, :c, :d, :e) ORDER BY id FOR UPDATE;
INSERT INTO bare_registrations (student, section, at) VALUES (:s, :a, now()), (:s, :b, now()), (:s, :c, now()), (:s, :d, now()), (:s, :e, now());
UPDATE bare_sections SET taken = taken + 1 WHERE id IN (:a, :b, :c, :d, :e);
INSERT INTO bare_events (student, section, at) VALUES (:s, :a, now()), (:s, :b, now()), (:s, :c, now()), (:s, :d, now()), (:s, :e, now());
COMMIT;
"""


@dataclass
class Load:
    """What a run of the load generator measured; times in milliseconds, but for the seconds from
    the first request to the last answer."""

    requests: int
    seconds: float
    refused: int
    broken: int
    median: float
    p99: float
    longest: float

    @property
    def rate(self) -> float:
        """Answers a second."""
        return self.requests / self.seconds


def generate_load(port: int, requests: Path, seconds: int) -> Load:
    """Post the requests of a file over so many connections."""
    found = subprocess.run(
        [
            "wrk",
            "-t1",
            f"-c{CONNECTIONS}",
            f"-d{seconds}s",
            "--timeout",
            "60s",
            "-s",
            str(HERE / "submissions.lua"),
            f"http://127.0.0.1:{port}",
            "--",
            str(requests),
        ],
        capture_output=True,
        text=True,
        check=True,
    )
    match = re.search(r"RESULT (\d+) (\d+) (\d+) (\d+) (\d+) (\d+) (\d+)", found.stdout)
    if match is None:
        raise RuntimeError(found.stdout + found.stderr)
    n = [int(g) for g in match.groups()]
    return Load(n[0], n[1] / 1e6, n[2], n[3], n[4] / 1e3, n[5] / 1e3, n[6] / 1e3)


def serve(app: str, port: int, workers: int, factory: bool, url: str) -> subprocess.Popen[bytes]:
    """Start a server as the application's own is started, and wait for it."""
    process = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "uvicorn",
            app,
            *(["--factory"] if factory else []),
            "--port",
            str(port),
            "--workers",
            str(workers),
            "--log-level",
            "error",
            "--no-access-log",
        ],
        env={**os.environ, "GREMBA_DATABASE_URL": url, "GREMBA_SECURE_COOKIES": "false"},
    )
    time.sleep(5 + 2 * workers)
    return process


def measure_bare(url: str, seconds: int) -> float:
    """Transactions a second of the bare statements. Where the disk stands still and none is done,
    it is measured again.

    Raises:
        RuntimeError: none was done three times.
    """
    script = LOCAL / "bare.sql"
    script.write_text(BARE_SENDING)
    for _ in range(3):
        found = subprocess.run(
            [
                str(programs() / "pgbench"),
                "-n",
                "-M",
                "prepared",
                "-c",
                str(CLIENTS),
                "-j",
                "1",
                "-T",
                str(seconds),
                "-f",
                str(script),
                url,
            ],
            capture_output=True,
            text=True,
            check=True,
        )
        match = re.search(r"tps = ([\d.]+)", found.stdout)
        if match is not None:
            return float(match[1])
    raise RuntimeError(found.stdout)


@dataclass
class Floor:
    """Both halves of the floor, one right after the other, in carts or answers a second."""

    bare: float
    empty: float

    @property
    def rate(self) -> float:
        """Carts a second of a server that does the bare statements and nothing else."""
        return 1 / (1 / self.bare + 1 / self.empty)


@dataclass
class Round:
    """The submissions a second of one turn, between the floors before and after it."""

    submissions: float
    before: Floor
    after: Floor

    @property
    def floor(self) -> float:
        """The floor meanwhile."""
        return (self.before.rate + self.after.rate) / 2


def main(
    seconds: Annotated[int, typer.Option(help="For each half of the floor, a round.", min=1)] = 2,
    students: Annotated[int, typer.Option(help="Sendings to put through.", min=500)] = 12_000,
    workers: Annotated[int, typer.Option(help="Server processes.", min=1)] = USUAL_WORKERS,
    only_crowd: Annotated[bool, typer.Option(help="Open pages and one student's worst only.")] = False,
    rounds: Annotated[int, typer.Option(help="Rounds; the ratio is their median.", min=1)] = 5,
    only_timetables: Annotated[bool, typer.Option(help="Timetables only, which need no server.")] = False,
    only_account: Annotated[bool, typer.Option(help="Charges and the drop for nonpayment only.")] = False,
    only_exchange: Annotated[bool, typer.Option(help="A college read in only.")] = False,
) -> None:
    """Measure, and print a table.

    The machine may be shared and its speed change by the minute: so the floor and the submissions
    take turns, and each round's submissions are compared with the floors right before and after.
    """
    console = Console(highlight=False)
    if only_timetables:
        _print(console, timetable_rows(measure_timetables(), time_orders(), time_reasons()))
        return
    if shutil.which("wrk") is None:
        console.print("The load generator is missing: install Debian's package `wrk`.")
        raise typer.Exit(1)
    LOCAL.mkdir(exist_ok=True)
    cluster = private_cluster(LOCAL, "postgres-bench")
    cluster.start()
    try:
        if only_account:
            _print(console, charging_rows(_measure_charging(console, cluster, workers)))
            return
        if only_exchange:
            _print(console, _measure_exchanging(console, cluster))
            return
        if only_crowd:
            _print(console, rows_of(_measure_crowd(console, cluster, workers)))
            return
        cluster.create("bench", anew=True)
        url = cluster.url("bench")
        database = connect(url)
        migrate(database)
        console.print(f"Filling 5,000 sections and {students:,} students …")
        requests = LOCAL / "bench-requests.tsv"
        fill(database, students, requests)
        set_apart(database)
        with connected(database):
            for statement in BARE_TABLES.strip().split(";\n"):
                database.execute_sql(statement)
            # What was filled is not to be written to the disk while others are measured.
            database.execute_sql("CHECKPOINT")
        found, loads, rush = _take_turns(console, url, workers, seconds, rounds, requests)
        with connected(database):
            confirmations, taken, wrong = fetch_sql(database, _COUNTS)[0]
        database.close_all()
        console.print("Freed seats beside trouble …")
        troubled = offered_beside_trouble(url, lambda: _serve_application(url, workers))
        sweeps = time_sweeps(url)
        crowd = _measure_crowd(console, cluster, workers)
        charging = _measure_charging(console, cluster, workers)
        exchanging = _measure_exchanging(console, cluster)
    finally:
        cluster.stop()
    _print_table(console, found, loads, rush, troubled, sweeps, confirmations, taken, wrong)
    _print(console, rows_of(crowd))
    _print(console, charging_rows(charging))
    _print(console, exchanging)
    _print(console, timetable_rows(measure_timetables(), time_orders(), time_reasons()))


def _measure_exchanging(console: Console, cluster: Cluster) -> list[tuple[str, str]]:
    console.print("A college read in …")
    cluster.create("bench_exchange", anew=True)
    url = cluster.url("bench_exchange")
    database = connect(url)
    migrate(database)
    database.close_all()
    found = exchanging_rows(measure_exchanging(url, LOCAL))
    console.print("Preparing a term of it")
    return found + rows_of_prepared(measure_preparing(url))


def _measure_charging(console: Console, cluster: Cluster, workers: int) -> Charging:
    console.print("Charges, and the drop for nonpayment while people search …")
    cluster.create("bench_account", anew=True)
    url = cluster.url("bench_account")
    database = connect(url)
    migrate(database)
    database.close_all()
    port = free_port()

    def serve_it() -> Callable[[], None]:
        server = serve("gremba.web.app:create_app", port, workers, True, url)

        def stop() -> None:
            server.terminate()
            server.wait()

        return stop

    return measure_charging(url, LOCAL, serve_it, port)


def _measure_crowd(console: Console, cluster: Cluster, workers: int) -> Crowd:
    cluster.create("bench_crowd", anew=True)
    url = cluster.url("bench_crowd")
    database = connect(url)
    migrate(database)
    with connected(database):
        give_rights(database, SERVING_ROLE)
    database.close_all()
    port = free_port()
    servers: list[subprocess.Popen[bytes]] = []

    def serve_it() -> int:
        # As ./start serves it: with its bounds, and as a role that has no more rights than it needs.
        process = subprocess.Popen(
            [sys.executable, "-m", "gremba", "serve", "--port", str(port), "--workers", str(workers)],
            env={
                **os.environ,
                "GREMBA_SECURE_COOKIES": "false",
                "GREMBA_FRONTEND": str(BUILT),
                "GREMBA_DATABASE_URL": cluster.url("bench_crowd", SERVING_ROLE),
            },
        )
        servers.append(process)
        time.sleep(6 + 2 * workers)
        return process.pid

    def load(requests: Path) -> tuple[float, float]:
        found = generate_load(port, requests, 6)
        return found.rate, found.p99

    try:
        return measure_crowd(url, port, LOCAL, load, serve_it, console.print)
    finally:
        for server in servers:
            server.terminate()
            server.wait()


def _print(console: Console, found: list[tuple[str, str]]) -> None:
    table = Table(box=None, pad_edge=False, show_header=False)
    table.add_column()
    table.add_column(justify="right")
    for name, value in found:
        table.add_row(name, value)
    console.print(table)


def _serve_application(url: str, workers: int) -> Callable[[], None]:
    """Start the application's servers; gives what stops them."""
    server = serve("gremba.web.app:create_app", free_port(), workers, True, url)

    def stop() -> None:
        server.terminate()
        server.wait()

    return stop


_COUNTS = """
SELECT (SELECT count(*) FROM confirmations), (SELECT sum(taken) FROM seat_pools),
       (SELECT count(*) FROM seat_pools p
        LEFT JOIN (SELECT pool_id, count(*) AS many FROM registrations
                   WHERE state = 'registered' GROUP BY pool_id) r ON r.pool_id = p.id
        WHERE p.taken > p.seat_limit OR p.taken <> coalesce(r.many, 0))
"""


def _take_turns(
    console: Console, url: str, workers: int, seconds: int, rounds: int, requests: Path
) -> tuple[list[Round], list[Load], Rush]:
    lines = requests.read_text().splitlines(keepends=True)
    # The last third is put through while people search and seats are freed.
    each = len(lines) * 2 // 3 // rounds
    # The same bytes to read as a submission, many times over, so that time and not number ends it.
    plain = LOCAL / "bench-empty.tsv"
    plain.write_text(lines[0].replace(f"/api/terms/{TERM}/submissions", "/") * 200_000)
    empty_port, port = free_port(), free_port()
    servers = [
        serve("benchmarks.empty:app", empty_port, workers, False, url),
        serve("gremba.web.app:create_app", port, workers, True, url),
    ]
    found: list[Round] = []
    loads: list[Load] = []
    own = LOCAL / "bench-round.tsv"

    def floor() -> Floor:
        return Floor(measure_bare(url, seconds), generate_load(empty_port, plain, seconds).rate)

    try:
        generate_load(empty_port, plain, 2)
        last = floor()
        for turn in range(rounds):
            console.print(f"Round {turn + 1} of {rounds} …")
            own.write_text("".join(lines[turn * each : (turn + 1) * each]))
            loads.append(generate_load(port, own, max(3, each // 150)))
            found.append(Round(loads[-1].rate, last, last := floor()))
        console.print("Searches and freed seats while a rush runs …")
        rest = lines[rounds * each :]
        own.write_text("".join(rest))
        rush = _beside_a_rush(url, port, own, max(6, len(rest) // 150))
    finally:
        for server in servers:
            server.terminate()
            server.wait()
    return found, loads, rush


@dataclass
class Rush:
    """What was measured beside a rush, in milliseconds: searches in the server, and how long it
    was until a freed seat was offered to the head of its waitlist."""

    searches: list[float]
    freed: list[float]


def _beside_a_rush(url: str, port: int, requests: Path, seconds: int) -> Rush:
    """Four people search all the while, and seats are freed one after another."""
    freeing = Freeing(url)
    freeing.start()
    people = [Typing(port, seed) for seed in range(4)]
    for person in people:
        person.start()
    generate_load(port, requests, seconds)
    for person in people:
        person.stop()
    freeing.stop()
    if any(person.broken for person in people):
        raise RuntimeError("a search was not answered")
    return Rush([took for person in people for took in person.took], freeing.took)


def _print_table(
    console: Console,
    found: list[Round],
    loads: list[Load],
    rush: Rush,
    troubled: list[float],
    sweeps: tuple[int, float],
    confirmations: int,
    taken: int,
    wrong: int,
) -> None:
    table = Table(box=None, pad_edge=False)
    table.add_column("measured")
    table.add_column("", justify="right")
    decide = time_decisions()
    ten, forty = time_tangled(10), time_tangled(40, terms=10)
    ratios = [r.submissions / r.floor for r in found]

    def middle(values: Iterable[float]) -> float:
        return statistics.median(values)

    for name, value in (
        ("bare statements, carts a second", f"{middle(r.after.bare for r in found):,.0f}"),
        ("empty endpoint, answers a second", f"{middle(r.after.empty for r in found):,.0f}"),
        ("floor = 1 / (1 / bare + 1 / empty)", f"{middle(r.floor for r in found):,.0f}"),
        ("five-section sendings a second", f"{middle(r.submissions for r in found):,.0f}"),
        ("sendings : floor, median of the rounds", f"{middle(ratios):.2f}"),
        ("sendings : floor, least and most", f"{min(ratios):.2f} to {max(ratios):.2f}"),
        ("sending, median", f"{middle(x.median for x in loads):,.1f} ms"),
        ("sending, 99th percentile", f"{middle(x.p99 for x in loads):,.1f} ms"),
        ("sending, longest", f"{max(x.longest for x in loads):,.1f} ms"),
        ("answers other than 200, or none", f"{sum(x.refused + x.broken for x in loads)}"),
        ("confirmations : registrations", f"{confirmations:,} : {taken:,}"),
        ("pools oversold or unlike their rows", f"{wrong}"),
        ("search among 5,000 in a rush, median", f"{middle(rush.searches):,.1f} ms"),
        (
            "search among 5,000 in a rush, 99th percentile",
            f"{statistics.quantiles(rush.searches, n=100)[-1]:,.1f} ms",
        ),
        ("searches measured", f"{len(rush.searches):,}"),
        ("a freed seat offered to the head, median", f"{middle(rush.freed):,.0f} ms"),
        ("a freed seat offered to the head, longest", f"{max(rush.freed):,.0f} ms"),
        ("seats freed", f"{len(rush.freed)}"),
        (
            f"the same beside {SWAPS:,} stopped swaps, {BLOCKED} blocked lists and a silent mail server",
            f"{middle(troubled):,.0f} ms, longest {max(troubled):,.0f}",
        ),
        (f"sweep over {sweeps[0]:,} places that wait, median", f"{sweeps[1] * 1e3:,.0f} ms"),
        ("decide, six changes, median", f"{statistics.median(decide) * 1e3:.2f} ms"),
        ("decide, six changes, 99th percentile", f"{statistics.quantiles(decide, n=100)[-1] * 1e3:.2f} ms"),
        (
            "decide, ten tangled swaps, median and longest",
            f"{statistics.median(ten) * 1e3:.1f}, {max(ten) * 1e3:.0f} ms",
        ),
        (
            "decide, forty tangled swaps, median and longest",
            f"{statistics.median(forty) * 1e3:.0f}, {max(forty) * 1e3:.0f} ms",
        ),
    ):
        table.add_row(name, value)
    console.print(table)


if __name__ == "__main__":
    typer.run(main)
