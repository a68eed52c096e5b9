"""Runs the tests named on the command line, or all, and closes with one line of figures."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from hypothesis import settings

from gremba.launch.serve import LOCAL
from tests.support.examples import FAST
from tests.support.servers import CLUSTER, stop_all

ROOT = Path(__file__).parent
PARTS = ("core", "store", "web", "launch", "frontend", "browser", "quality")
SIDES = (("browser", "core", "quality", "frontend"), ("store", "web", "launch"))
"""All of them, in two heaps that take about as long, each with a database server of its own."""

QUICK = (
    "frontend",
    "core",
    "quality",
    "store.test_models",
    "store.test_process_submissions",
    "store.test_waitlists",
    "web.test_cart",
    "web.test_find",
)
"""What ``--fast`` runs, with few examples for each property: what most slips show in, while one is at it."""

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
        if module in PARTS:
            found = loader.discover(str(ROOT / module), top_level_dir=str(ROOT.parent))
        else:
            found = loader.loadTestsFromName(f"tests.{module}")
        suite.addTest(found)
    runner = unittest.TextTestRunner(verbosity=2, resultclass=Result, stream=sys.stdout)
    try:
        result: Any = runner.run(failures_first(suite))
    finally:
        stop_all()
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.passed, failed, len(result.skipped)


class Side(threading.Thread):
    """One heap in a process of its own. What it says is passed on line by line, but for what it says of
    failures: that comes whole, at its end."""

    def __init__(self, parts: tuple[str, ...], number: int) -> None:
        super().__init__()
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests", *parts],
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            env={**os.environ, CLUSTER: f"postgres-test-{number}"},
        )
        self._parts = parts
        self.figures = (0, 1, 0)

    def run(self) -> None:
        """Read until it ends. Without its figures it counts as failed."""
        assert self._process.stdout is not None
        kept: list[str] = []
        for line in self._process.stdout:
            if kept or line.startswith(("=" * 20, "-" * 20)):
                kept.append(line)
            else:
                print(line, end="", flush=True)
        code = self._process.wait()
        print(f"\n{', '.join(self._parts)}:\n{''.join(kept)}", end="", flush=True)
        found = _FIGURES.fullmatch(kept[-1].strip()) if kept else None
        if found is not None:
            self.figures = (int(found[1]), int(found[2]), int(found[3]))
        else:
            print(f"{', '.join(self._parts)} ended with {code} before the end", flush=True)


def run_side_by_side() -> tuple[int, int, int]:
    """Run all parts in two processes at once."""
    sides = [Side(parts, number) for number, parts in enumerate(SIDES, 1)]
    for side in sides:
        side.start()
    for side in sides:
        side.join()
    passed, failed, skipped = (sum(each) for each in zip(*(s.figures for s in sides), strict=True))
    return passed, failed, skipped


def main(names: list[str]) -> int:
    """Run; the exit code is 0 only if something ran and nothing failed."""
    if "--fast" in names:
        os.environ[FAST] = "1"
        settings.load_profile("working")
        passed, failed, skipped = run(QUICK)
    elif names:
        passed, failed, skipped = run(tuple(names))
    else:
        passed, failed, skipped = run_side_by_side()
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if failed == 0 and passed else 1


sys.exit(main(sys.argv[1:]))
