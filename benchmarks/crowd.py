"""Thousands of open pages beside a rush, and one student's worst beside another's submissions."""

from __future__ import annotations

import json
import random
import re
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from benchmarks.college import TERM, fill
from gremba.store.database import connect, connected, run_sql

PAGES = 2_000
TURNS = 9
EACH = 4_000
"""Submissions of a turn."""

OTHERS = 300
"""Submissions of other students that are timed, beside the worst of one and beside none."""

MARK = "20000"
"""A section that every page has in sight."""

Load = Callable[[Path], tuple[float, float]]
"""Puts the submissions of a file through; gives how many a second, and the 99th percentile in
milliseconds."""


@dataclass
class Crowd:
    """What was measured.

    Attributes:
        alone: submissions a second and 99th percentile with no page open, for each turn; ``beside`` with
            all of them.
        told: seconds until the last page knew of a change, for each of some; ``missed`` those whom it
            did not reach.
        memory: bytes a page.
        first_view: bytes of script that are sent for a visitor's first view of Find.
        others: milliseconds of a submission while nobody does their worst; ``troubled`` while one does.
    """

    alone: list[tuple[float, float]] = field(default_factory=list)
    beside: list[tuple[float, float]] = field(default_factory=list)
    told: list[float] = field(default_factory=list)
    missed: int = 0
    memory: float = 0.0
    messages: int = 0
    first_view: int = 0
    others: list[float] = field(default_factory=list)
    troubled: list[float] = field(default_factory=list)


def measure_crowd(
    url: str, port: int, folder: Path, load: Load, serve: Callable[[], int], say: Callable[[str], None]
) -> Crowd:
    """Measure both, on a college of its own in an empty database.

    Args:
        serve: starts the servers; gives the process whose children they are.
    """
    found = Crowd()
    requests = folder / "bench-crowd.tsv"
    database = connect(url)
    fill(database, PAGES + 2 * TURNS * EACH + 2 * OTHERS + 1, requests)
    with connected(database):
        run_sql(database, "UPDATE seat_pools SET seat_limit = 60")
    lines = requests.read_text().splitlines(keepends=True)
    own = folder / "bench-crowd-turn.tsv"
    parent = serve()
    at = 1
    say(f"{PAGES:,} pages beside a rush …")
    for turn in range(TURNS):
        own.write_text("".join(lines[at : at + EACH]))
        at += EACH
        found.alone.append(load(own))
        own.write_text("".join(lines[at : at + EACH]))
        at += EACH
        before = _memory(parent)
        with _pages(port, requests) as pages:
            time.sleep(1)
            if turn == 0:
                found.memory = (_memory(parent) - before) / PAGES
            marker = _Marking(url, first=1_000 * (turn + 1))
            marker.start()
            found.beside.append(load(own))
            marker.stop()
            # Whoever is still to be told is.
            time.sleep(3)
        told = {int(limit): told for limit, told in pages["told"].items()}
        found.messages += pages["messages"]
        for limit, changed_at in marker.changed:
            many, last = told.get(limit, (0, 0.0))
            if limit == marker.changed[-1][0]:
                found.missed += PAGES - many
            if many:
                found.told.append(last - changed_at)
    found.first_view = _sent_first(port)
    say("One student's worst beside others' sendings …")
    found.others = _timed(port, lines[at : at + OTHERS])
    at += OTHERS
    selfish = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.selfish", str(port), str(requests)],
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert selfish.stdout is not None
        selfish.stdout.readline()
        time.sleep(2)
        found.troubled = _timed(port, lines[at : at + OTHERS])
    finally:
        selfish.kill()
        selfish.wait()
    database.close_all()
    return found


def _timed(port: int, lines: list[str]) -> list[float]:
    """Milliseconds of each submission, one after another with a little time between."""
    took = []
    rng = random.Random(3)
    with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=120) as client:
        for line in lines:
            path, cookie, csrf_token, key, body = line.rstrip("\n").split("\t")
            begun = time.perf_counter()
            answer = client.post(
                path,
                content=body,
                headers={
                    "Cookie": cookie,
                    "X-CSRF-Token": csrf_token,
                    "Idempotency-Key": key,
                    "Content-Type": "application/json",
                },
            )
            took.append((time.perf_counter() - begun) * 1000)
            answer.raise_for_status()
            time.sleep(rng.uniform(0.02, 0.08))
    return took


def _sent_first(port: int) -> int:
    """What is sent of the scripts that a visitor's first view of Find names."""
    sent = 0
    headers = {"Accept-Encoding": "br, gzip"}
    with httpx.Client(base_url=f"http://127.0.0.1:{port}", headers=headers) as client:
        page = client.get(f"/{TERM}/find").text
        for name in set(re.findall(r'(?:href|src)="(/assets/[^"]+\.js)"', page)):
            with client.stream("GET", name) as answer:
                sent += sum(len(piece) for piece in answer.iter_raw())
    return sent


class _Marking(threading.Thread):
    """Changes the limit of the section in sight now and then, and notes when."""

    def __init__(self, url: str, first: int) -> None:
        super().__init__(daemon=True)
        self._url = url
        self._next = first
        self._ending = threading.Event()
        self.changed: list[tuple[int, float]] = []

    def run(self) -> None:
        """Change it until :meth:`stop`."""
        database = connect(self._url)
        while not self._ending.is_set():
            self._next += 1
            with connected(database):
                run_sql(database, "UPDATE seat_pools SET seat_limit = %s WHERE id = 1", (self._next,))
            self.changed.append((self._next, time.time()))
            self._ending.wait(0.5)
        database.close_all()

    def stop(self) -> None:
        """End it."""
        self._ending.set()
        self.join(timeout=10)


@contextmanager
def _pages(port: int, requests: Path) -> Iterator[dict[str, Any]]:
    """All pages open; what they were told is in what this gives, afterwards."""
    process = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.pages", str(port), str(requests), MARK, str(PAGES)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdin is not None and process.stdout is not None
    process.stdout.readline()
    told: dict[str, Any] = {}
    yield told
    process.stdin.write("\n")
    process.stdin.flush()
    told.update(json.loads(process.stdout.readline()))
    process.wait()


def _memory(parent: int) -> int:
    """Bytes that the servers have for themselves."""
    total = 0
    for pid in Path(f"/proc/{parent}/task/{parent}/children").read_text().split():
        told = Path(f"/proc/{pid}/smaps_rollup").read_text()
        total += sum(int(line.split()[1]) for line in told.splitlines() if line.startswith("Private"))
    return total * 1024


def rows_of(crowd: Crowd) -> list[tuple[str, str]]:
    """What is told of it."""
    rates = [b[0] / a[0] for a, b in zip(crowd.alone, crowd.beside, strict=True)]
    slowest = [b[1] / a[1] for a, b in zip(crowd.alone, crowd.beside, strict=True)]
    middle = statistics.median
    return [
        (f"sendings with {PAGES:,} pages open : with none", f"{middle(rates):.2f}"),
        ("their 99th percentile, pages open : none", f"{middle(slowest):.2f}"),
        (
            "99th percentile, none and pages open",
            f"{middle(p for _, p in crowd.alone):,.0f}, {middle(p for _, p in crowd.beside):,.0f} ms",
        ),
        ("memory a page", f"{crowd.memory / 1024:,.0f} KB"),
        (
            "the last page told of a change, median and longest",
            f"{middle(crowd.told):.1f}, {max(crowd.told):.1f} s",
        ),
        ("pages that missed the last change", f"{crowd.missed}"),
        ("script sent for a first view", f"{crowd.first_view / 1000:,.0f} KB"),
        ("another's sending, 99th percentile", f"{_p99(crowd.others):,.0f} ms"),
        ("the same while one student does their worst", f"{_p99(crowd.troubled):,.0f} ms"),
    ]


def _p99(values: list[float]) -> float:
    return statistics.quantiles(values, n=100)[-1]
