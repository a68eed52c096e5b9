"""Runs the tests named on the command line, or all, and closes with one line of figures."""

from __future__ import annotations

import sys
import time
import unittest
from pathlib import Path

from tests.support.servers import stop_all

ROOT = Path(__file__).parent
PARTS = ("core", "store", "web", "launch", "browser", "quality")


class Result(unittest.TextTestResult):
    """Also counts what passed and says how long slow tests took."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)  # type: ignore[arg-type]
        self.passed = 0
        self._begun = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        self._begun = time.monotonic()
        super().startTest(test)

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1
        took = time.monotonic() - self._begun
        if took > 5:
            self.stream.writeln(f"    ({took:.0f} s)")


def main(names: list[str]) -> int:
    """Run; the exit code is 0 only if something ran and nothing failed."""
    loader = unittest.TestLoader()
    suite = unittest.TestSuite()
    for name in names or PARTS:
        module = name.removeprefix("tests.").removesuffix(".py").replace("/", ".")
        if module in PARTS:
            found = loader.discover(str(ROOT / module), top_level_dir=str(ROOT.parent))
        else:
            found = loader.loadTestsFromName(f"tests.{module}")
        suite.addTest(found)
    runner = unittest.TextTestRunner(verbosity=2, resultclass=Result, stream=sys.stdout)
    try:
        result = runner.run(suite)
    finally:
        stop_all()
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    passed, skipped = result.passed, len(result.skipped)
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if failed == 0 and passed else 1


sys.exit(main(sys.argv[1:]))
