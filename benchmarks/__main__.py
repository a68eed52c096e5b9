"""``./bench``: the floor, and beside it the rate of five-section sendings over HTTP."""

from __future__ import annotations

import os
import re
import shutil
import statistics
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from benchmarks.college import TERM, fill
from benchmarks.judging import time_decisions
from gremba.cli import USUAL_WORKERS
from gremba.launch.cluster import private_cluster, programs
from gremba.launch.serve import LOCAL
from gremba.store.database import connect, connected, migrate, rows
from tests.support.servers import free_port

HERE = Path(__file__).parent
CONNECTIONS = 32

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
    """What a run of the load generator measured; times in milliseconds."""

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
        ["wrk", "-t1", f"-c{CONNECTIONS}", f"-d{seconds}s", "--timeout", "60s", "-s",
         str(HERE / "sendings.lua"), f"http://127.0.0.1:{port}", "--", str(requests)],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    match = re.search(r"RESULT (\d+) (\d+) (\d+) (\d+) (\d+) (\d+) (\d+)", found.stdout)
    if match is None:
        raise RuntimeError(found.stdout + found.stderr)
    n = [int(g) for g in match.groups()]
    return Load(n[0], n[1] / 1e6, n[2], n[3], n[4] / 1e3, n[5] / 1e3, n[6] / 1e3)


def serve(app: str, port: int, workers: int, factory: bool, url: str) -> subprocess.Popen[bytes]:
    """Start a server as the application's own is started, and wait for it."""
    process = subprocess.Popen(
        [sys.executable, "-m", "uvicorn", app, *(["--factory"] if factory else []), "--port",
         str(port), "--workers", str(workers), "--log-level", "error", "--no-access-log"],
        env={**os.environ, "GREMBA_DATABASE_URL": url},
    )  # fmt: skip
    time.sleep(5 + 2 * workers)
    return process


def measure_bare(url: str, seconds: int) -> float:
    """Transactions a second of the bare statements."""
    script = LOCAL / "bare.sql"
    script.write_text(BARE_SENDING)
    found = subprocess.run(
        [str(programs() / "pgbench"), "-n", "-M", "prepared", "-c", str(CONNECTIONS), "-j", "1",
         "-T", str(seconds), "-f", str(script), url],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    match = re.search(r"tps = ([\d.]+)", found.stdout)
    if match is None:
        raise RuntimeError(found.stdout)
    return float(match[1])


def main(
    seconds: Annotated[int, typer.Option(help="For each half of the floor.", min=2)] = 10,
    students: Annotated[int, typer.Option(help="Sendings to put through.", min=100)] = 12_000,
    workers: Annotated[int, typer.Option(help="Server processes.", min=1)] = USUAL_WORKERS,
) -> None:
    """Measure, and print a table."""
    console = Console(highlight=False)
    if shutil.which("wrk") is None:
        console.print("The load generator is missing: install Debian's package `wrk`.")
        raise typer.Exit(1)
    LOCAL.mkdir(exist_ok=True)
    cluster = private_cluster(LOCAL, "postgres-bench")
    cluster.start()
    try:
        cluster.create("bench", anew=True)
        url = cluster.url("bench")
        database = connect(url)
        migrate(database)
        console.print(f"Filling 5,000 sections and {students:,} students …")
        requests = LOCAL / "bench-requests.tsv"
        fill(database, students, requests)
        with connected(database):
            for statement in BARE_TABLES.strip().split(";\n"):
                database.execute_sql(statement)
        console.print("The floor: bare statements …")
        bare = measure_bare(url, seconds)
        console.print("The floor: an empty endpoint …")
        empty = _measure_empty(url, workers, seconds, requests)
        floor = 1 / (1 / bare + 1 / empty)
        console.print(f"{students:,} five-section sendings …")
        load = _measure_sendings(url, workers, requests, max(10, students // 250))
        with connected(database):
            receipts, seconds_taken, taken, wrong = rows(
                database,
                "SELECT (SELECT count(*) FROM receipts), "
                "(SELECT extract(epoch FROM max(sent_at) - min(sent_at))::float FROM receipts), "
                "(SELECT sum(taken) FROM seat_pools), "
                "(SELECT count(*) FROM seat_pools p LEFT JOIN (SELECT pool_id, count(*) AS many "
                "FROM registrations WHERE state = 'registered' GROUP BY pool_id) r "
                "ON r.pool_id = p.id "
                "WHERE p.taken > p.seat_limit OR p.taken <> coalesce(r.many, 0))",
            )[0]
        database.close_all()
    finally:
        cluster.stop()
    # The load generator waits out its time after the last answer; the receipts know better.
    rate = receipts / seconds_taken
    table = Table(box=None, pad_edge=False)
    table.add_column("measured")
    table.add_column("", justify="right")
    decide = time_decisions()
    for name, value in (
        ("bare statements, carts a second", f"{bare:,.0f}"),
        ("empty endpoint, answers a second", f"{empty:,.0f}"),
        ("floor = 1 / (1 / bare + 1 / empty)", f"{floor:,.0f}"),
        ("five-section sendings a second", f"{rate:,.0f}"),
        ("sendings : floor", f"{rate / floor:.2f}"),
        (f"sending, median of {load.requests:,}", f"{load.median:,.1f} ms"),
        ("sending, 99th percentile", f"{load.p99:,.1f} ms"),
        ("sending, longest", f"{load.longest:,.1f} ms"),
        ("all of them answered within", f"{seconds_taken:,.1f} s"),
        ("answers other than 200, or none", f"{load.refused + load.broken}"),
        ("receipts : registrations", f"{receipts:,} : {taken:,}"),
        ("pools oversold or unlike their rows", f"{wrong}"),
        ("decide, six changes, median", f"{statistics.median(decide) * 1e3:.2f} ms"),
        ("decide, six changes, 99th percentile",
         f"{statistics.quantiles(decide, n=100)[-1] * 1e3:.2f} ms"),
    ):  # fmt: skip
        table.add_row(name, value)
    console.print(table)


def _measure_empty(url: str, workers: int, seconds: int, requests: Path) -> float:
    port = free_port()
    plain = LOCAL / "bench-empty.tsv"
    # The same bytes to read as a sending, many times over, so that time and not number ends it.
    line = requests.open().readline().replace(f"/api/terms/{TERM}/sendings", "/")
    plain.write_text(line * 200_000)
    server = serve("benchmarks.empty:app", port, workers, False, url)
    try:
        return generate_load(port, plain, seconds).rate
    finally:
        server.terminate()
        server.wait()


def _measure_sendings(url: str, workers: int, requests: Path, seconds: int) -> Load:
    port = free_port()
    server = serve("gremba.web.app:create_app", port, workers, True, url)
    try:
        return generate_load(port, requests, seconds)
    finally:
        server.terminate()
        server.wait()


typer.run(main)
