"""Runs the tests named on the command line, or all, and closes with one line of figures."""

from __future__ import annotations

import os
import queue
import re
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from gremba.launch.serve import LOCAL
from tests.support.examples import FAST, LONG
from tests.support.servers import CLUSTER, DEMO_CLUSTER, start_cluster, stop_all

ROOT = Path(__file__).parent
PARTS = ("core", "store", "web", "launch", "frontend", "browser", "quality")
DEMO = "browser."
"""The modules that need the demo. The first of them makes it, while others run that do not."""

QUICK = (
    "frontend",
    "core",
    "quality",
    "store.test_models",
    "store.registration.test_process_submissions",
    "store.waitlists.test_waitlists",
    "web.registration.test_cart",
    "web.catalogue.test_find",
)
"""What ``--fast`` runs, with few examples for each property: what most slips show in, while one is at it."""

LONGEST = (
    "web.test_described",
    "core.registration.test_brute_force",
    "store.exchange.test_exchange",
    "quality.test_project",
    "web.waitlists.test_waitlist_rush",
    "core.timetables.test_number",
    "web.messages.test_live",
    "web.access.test_signing_in",
    "web.registration.test_races",
    "web.test_matrix",
)
"""What takes longest, though its file is not the largest."""

WORKERS = 3
"""One more than the cores that we count on: tests with a browser or a clock wait a good deal."""

DEMO_SHARED = "postgres-test-demo"
"""The cluster of the demo's copies, which all workers share."""

PIECEMEAL = "--piecemeal"

FAILED = LOCAL / "failed-tests"
"""A file for each test that failed when it was run last."""

_FIGURES = re.compile(r"(\d+) passed, (\d+) failed, (\d+) skipped")


class Result(unittest.TextTestResult):
    """Also counts what passed, says how long slow tests took, and remembers what failed."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)  # type: ignore[arg-type]
        self.passed = 0
        self._begun = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        self._begun = time.monotonic()
        super().startTest(test)

    def addFailure(self, test: unittest.TestCase, err: Any) -> None:
        super().addFailure(test, err)
        _note_failed(test)

    def addError(self, test: unittest.TestCase, err: Any) -> None:
        super().addError(test, err)
        _note_failed(test)

    def addSubTest(self, test: unittest.TestCase, subtest: unittest.TestCase, err: Any) -> None:
        super().addSubTest(test, subtest, err)
        if err is not None:
            _note_failed(test)

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        (FAILED / test.id()).unlink(missing_ok=True)
        self.passed += 1
        took = time.monotonic() - self._begun
        if took > 5:
            self.stream.writeln(f"    ({took:.0f} s)")


def _note_failed(test: unittest.TestCase) -> None:
    # What fails while a class is set up is no test, and has a sentence for its id.
    if test.id().startswith("tests."):
        FAILED.mkdir(parents=True, exist_ok=True)
        (FAILED / test.id()).touch()


def _classes(suite: unittest.TestSuite) -> Iterator[unittest.TestSuite]:
    """The tests of each class, which share what is set up for them."""
    for part in suite:
        if isinstance(part, unittest.TestSuite) and any(isinstance(t, unittest.TestSuite) for t in part):
            yield from _classes(part)
        elif isinstance(part, unittest.TestSuite):
            yield part
        else:
            yield unittest.TestSuite([part])


def failures_first(suite: unittest.TestSuite) -> unittest.TestSuite:
    """The same tests, those classes first in which something failed the last time."""
    failed = {path.name for path in FAILED.iterdir()} if FAILED.is_dir() else set()
    classes = list(_classes(suite))
    classes.sort(
        key=lambda tests: not any(isinstance(t, unittest.TestCase) and t.id() in failed for t in tests)
    )
    return unittest.TestSuite(classes)


def run(names: tuple[str, ...]) -> tuple[int, int, int]:
    """Run parts or modules one after another; gives how many passed, failed and were skipped."""
    loader = unittest.TestLoader()
    suite = unittest.TestSuite()
    for name in names:
        module = name.removeprefix("tests.").removesuffix(".py").replace("/", ".")
        folder = ROOT / module.replace(".", "/")
        if folder.is_dir():
            found = loader.discover(str(folder), top_level_dir=str(ROOT.parent))
        else:
            found = loader.loadTestsFromName(f"tests.{module}")
        suite.addTest(found)
    runner = unittest.TextTestRunner(verbosity=2, resultclass=Result, stream=sys.stdout)
    result: Any = runner.run(failures_first(suite))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.passed, failed, len(result.skipped)


def pieces(parts: tuple[str, ...]) -> list[str]:
    """The modules of these parts: those with a failure the last time, then by and large the longest."""
    failed = " ".join(path.name for path in FAILED.iterdir()) if FAILED.is_dir() else ""
    found: list[str] = []
    for part in parts:
        folder = ROOT / part.replace(".", "/")
        inside = folder.rglob("test_*.py")
        found += [".".join(p.relative_to(ROOT).with_suffix("").parts) for p in inside] or [part]
    # Large files take long, by and large; what is left at the end should be short.
    found.sort(key=lambda name: (-(ROOT / f"{name.replace('.', '/')}.py").stat().st_size, name))
    in_browser = [name for name in found if name.startswith(DEMO)]
    others = [name for name in found if not name.startswith(DEMO)]
    others.sort(key=lambda name: name not in LONGEST)
    beside = WORKERS - 1
    ordered = in_browser[:1] + others[:beside] + in_browser[1:] + others[beside:]
    return sorted(ordered, key=lambda name: f"tests.{name}." not in failed)


class Worker(threading.Thread):
    """Takes one piece after another and has it run in a process of its own, with a database server of its
    own. Passes on what that prints line by line; failures come whole, and again at the end."""

    def __init__(self, number: int, left: queue.SimpleQueue[str]) -> None:
        super().__init__()
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests", PIECEMEAL],
            text=True,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            env={**os.environ, CLUSTER: f"postgres-test-{number}", DEMO_CLUSTER: DEMO_SHARED},
        )
        self._left = left
        self.figures = [0, 0, 0]
        self.failures: list[str] = []

    def run(self) -> None:
        """Until nothing is left. A piece without figures counts as failed, and is the last of it."""
        assert self._process.stdin is not None
        while True:
            try:
                name = self._left.get_nowait()
            except queue.Empty:
                break
            self._process.stdin.write(f"{name}\n")
            self._process.stdin.flush()
            begun = time.monotonic()
            found = self._read(name)
            print(f"{name}: {time.monotonic() - begun:.0f} s", flush=True)
            self.figures = [a + b for a, b in zip(self.figures, found or (0, 1, 0), strict=True)]
            if found is None:
                print(f"{name} ended with {self._process.wait()} before the end", flush=True)
                return
        self._process.stdin.close()
        self._process.wait()

    def _read(self, name: str) -> tuple[int, int, int] | None:
        assert self._process.stdout is not None
        kept: list[str] = []
        for line in self._process.stdout:
            figures = _FIGURES.fullmatch(line.strip())
            if figures is not None:
                if int(figures[2]):
                    self._tell_failure(f"\n{name}:\n{''.join(kept)}")
                return int(figures[1]), int(figures[2]), int(figures[3])
            if kept or line.startswith(("=" * 20, "-" * 20)):
                kept.append(line)
            else:
                print(line, end="", flush=True)
        self._tell_failure(f"\n{name}:\n{''.join(kept)}")
        return None

    def _tell_failure(self, text: str) -> None:
        print(text, end="", flush=True)
        self.failures.append(text)


def run_side_by_side(parts: tuple[str, ...]) -> tuple[int, int, int]:
    """Run parts and modules, a few pieces at a time."""
    left: queue.SimpleQueue[str] = queue.SimpleQueue()
    for name in pieces(parts):
        left.put(name)
    start_cluster(DEMO_SHARED)
    workers = [Worker(number, left) for number in range(1, WORKERS + 1)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    # Last, next to the figures: a long log is often read, or kept, from its end only.
    for worker in workers:
        print(*worker.failures, sep="", end="", flush=True)
    passed, failed, skipped = (sum(each) for each in zip(*(w.figures for w in workers), strict=True))
    # Left over where all workers have ended before the end.
    return passed, failed + left.qsize(), skipped


def run_piecemeal() -> None:
    """Run what is named on the standard input, a piece a line, each closed by its figures."""
    for line in sys.stdin:
        passed, failed, skipped = run(tuple(line.split()))
        print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)


def main(names: list[str]) -> int:
    """Run; the exit code is 0 only if something ran and nothing failed."""
    try:
        if PIECEMEAL in names:
            run_piecemeal()
            return 0
        if "--fast" in names:
            os.environ[FAST] = "1"
            passed, failed, skipped = run_side_by_side(QUICK)
        elif "--long" in names:
            os.environ[LONG] = "1"
            passed, failed, skipped = run_side_by_side(PARTS)
        elif names:
            passed, failed, skipped = run(tuple(names))
        else:
            passed, failed, skipped = run_side_by_side(PARTS)
    finally:
        stop_all()
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if failed == 0 and passed else 1


sys.exit(main(sys.argv[1:]))
