"""Runs the front end's own unit tests (``frontend/src/**/*.test.ts``) and counts each as one of ours."""

from __future__ import annotations

import json
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

FRONTEND = Path(__file__).parents[2] / "frontend"


class Unit(unittest.TestCase):
    """A test that has been run there.

    Args:
        name: of the test, with that of its file.
        problems: what it said of itself; nothing where it passed.
    """

    def __init__(self, name: str, problems: list[str]) -> None:
        super().__init__("told")
        self._name = name
        self._problems = problems

    def __str__(self) -> str:
        return self._name

    def told(self) -> None:
        # No docstring: the runner would print it under each of them.
        if self._problems:
            self.fail("\n".join(self._problems))


def load_tests(
    loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None
) -> unittest.TestSuite:
    """Run them all; each is a test that says what came of it (unittest's protocol)."""
    with tempfile.TemporaryDirectory() as folder:
        told = Path(folder) / "told.json"
        done = subprocess.run(
            ["npx", "--no-install", "vitest", "run", "--reporter=json", f"--outputFile={told}"],
            cwd=FRONTEND,
            capture_output=True,
            text=True,
        )
        if not told.exists():
            return unittest.TestSuite(
                [Unit("the front end's units", [done.stdout[-2000:] + done.stderr[-2000:]])]
            )
        files: list[dict[str, Any]] = json.loads(told.read_text())["testResults"]
    found = [
        Unit(f"{unit['fullName']} ({Path(file['name']).relative_to(FRONTEND)})", unit["failureMessages"])
        for file in files
        for unit in file["assertionResults"]
    ]
    # A file that cannot even be read has no tests, and a message of its own.
    found += [
        Unit(str(Path(file["name"]).relative_to(FRONTEND)), [file["message"] or "It holds no test."])
        for file in files
        if not file["assertionResults"]
    ]
    return unittest.TestSuite(found)
