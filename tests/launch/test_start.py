"""./start on a real machine: when it says that it serves it does, its workers are nobody's masters and
do not outlive it."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path

import httpx

from gremba.launch.leftovers import end_leftovers, note_processes
from gremba.launch.options import PASSWORD
from gremba.launch.serve import free_port
from tests.support.servers import new_database
from tests.support.soon import soon


class Started:
    """``python -m gremba start`` on a database of the tests' own."""

    def __init__(self, url: str, *options: str) -> None:
        self.port = free_port()
        user, _, rest = url.removeprefix("postgresql://").partition(":")
        password, _, where = rest.partition("@")
        self.lines: list[str] = []
        self._told = threading.Condition()
        self.process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "gremba",
                "start",
                "--port",
                str(self.port),
                "--workers",
                "2",
                "--database",
                f"postgresql://{user}@{where}",
                *options,
            ],
            env={**os.environ, PASSWORD: password},
            text=True,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
        )
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            with self._told:
                self.lines.append(line)
                self._told.notify_all()

    def wait_for(self, words: str) -> bool:
        """Whether a line with these words comes, before the end or within two minutes."""
        until = time.monotonic() + 120
        with self._told:
            while not any(words in line for line in self.lines):
                if time.monotonic() > until or self.process.poll() is not None:
                    return any(words in line for line in self.lines)
                self._told.wait(timeout=0.2)
        return True

    def workers(self) -> list[int]:
        """The processes that answer requests."""
        children = Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text()
        return [
            pid
            for pid in map(int, children.split())
            if b"spawn_main" in Path(f"/proc/{pid}/cmdline").read_bytes()
        ]

    def stop(self) -> None:
        """End it in order."""
        if self.process.poll() is None:
            self.process.terminate()
            self.process.wait(timeout=20)


def _user_ids(pid: int) -> list[int]:
    status = Path(f"/proc/{pid}/status").read_text()
    return [int(number) for number in status.partition("Uid:")[2].split("\n")[0].split()]


def _is_gone(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except OSError:
        return True


class Starting(unittest.TestCase):
    def start(self, *options: str) -> Started:
        started = Started(new_database(), *options)
        self.addCleanup(started.stop)
        return started

    def test_served_when_it_says_so_by_ordinary_users_that_end_with_it(self) -> None:
        started = self.start()
        self.assertTrue(started.wait_for("Gremba is at"), started.lines)
        answer = httpx.get(f"http://127.0.0.1:{started.port}/healthz")
        self.assertEqual(answer.status_code, 200)
        self.assertNotIn("server", answer.headers)
        workers = started.workers()
        self.assertEqual(len(workers), 2)
        # One answers already; the other may still be on its way there, and serves nobody until then.
        soon(lambda: all(0 not in _user_ids(pid) for pid in workers))
        self.assertNotIn(
            "@", Path(f"/proc/{started.process.pid}/cmdline").read_text().replace("gremba@127.0.0.1", "")
        )
        started.process.send_signal(signal.SIGKILL)
        soon(lambda: all(_is_gone(pid) for pid in workers))

    def test_a_worker_that_dies_is_said_loudly_and_replaced(self) -> None:
        started = self.start()
        self.assertTrue(started.wait_for("Gremba is at"), started.lines)
        victim = started.workers()[0]
        os.kill(victim, signal.SIGKILL)
        self.assertTrue(started.wait_for("a worker died"), started.lines)
        line = next(line for line in started.lines if "a worker died" in line)
        self.assertIn("SIGKILL", line)
        self.assertIn(str(victim), line)
        soon(lambda: len(started.workers()) == 2)

    def test_what_will_not_do_is_told_and_nothing_is_left_running(self) -> None:
        started = self.start("--fresh")
        self.assertEqual(started.process.wait(timeout=60), 1)
        self.assertTrue(started.wait_for("never filled with the demo"), started.lines)


class Leftovers(unittest.TestCase):
    def test_only_what_was_noted_is_ended(self) -> None:
        ours, others = (subprocess.Popen(["sleep", "600"]) for _ in range(2))
        for process in (ours, others):
            self.addCleanup(process.wait)
            self.addCleanup(process.kill)
        note = Path(self.enterContext(_folder())) / "serving"
        note_processes(note, [ours.pid])
        self.assertEqual(end_leftovers(note), 1)
        self.assertEqual(ours.wait(timeout=10), -signal.SIGTERM)
        self.assertIsNone(others.poll())
        self.assertFalse(note.exists())

    def test_a_number_given_out_anew_is_somebody_elses(self) -> None:
        other = subprocess.Popen(["sleep", "600"])
        self.addCleanup(other.wait)
        self.addCleanup(other.kill)
        note = Path(self.enterContext(_folder())) / "serving"
        note.write_text(f'{{"{other.pid}": "12345"}}')
        self.assertEqual(end_leftovers(note), 0)
        self.assertIsNone(other.poll())

    def test_a_spoilt_note_is_none(self) -> None:
        note = Path(self.enterContext(_folder())) / "serving"
        for text in ("", "{", "[1]", "\x00", '{"x": 1}'):
            note.write_text(text)
            self.assertEqual(end_leftovers(note), 0)


def _folder() -> tempfile.TemporaryDirectory[str]:
    return tempfile.TemporaryDirectory()
