"""Ends what a killed start left running, if a note proves that it is ours."""

from __future__ import annotations

import contextlib
import os
import signal
import time
from pathlib import Path

import orjson

_PATIENCE = 5.0


def note_processes(note: Path, pids: list[int]) -> None:
    """Record the serving processes with their start times, because a process id alone can be reused."""
    lines = {str(pid): begun for pid in pids if (begun := _begun_at(pid))}
    waiting = note.with_suffix(".new")
    waiting.write_bytes(orjson.dumps(lines))
    waiting.replace(note)


def end_leftovers(note: Path) -> int:
    """End recorded processes that still run; returns how many."""
    try:
        noted = orjson.loads(note.read_bytes())
    except (OSError, ValueError):
        return 0
    if not isinstance(noted, dict):
        return 0
    left = [
        int(pid)
        for pid, begun in noted.items()
        if pid.isdigit() and int(pid) != os.getpid() and _begun_at(int(pid)) == begun
    ]
    for kind in (signal.SIGTERM, signal.SIGKILL):
        for pid in left:
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.kill(pid, kind)
        until = time.monotonic() + _PATIENCE
        while time.monotonic() < until and any(_begun_at(pid) == noted[str(pid)] for pid in left):
            time.sleep(0.05)
    note.unlink(missing_ok=True)
    return len(left)


def _begun_at(pid: int) -> str:
    """A process's start time in clock ticks since boot (proc(5)); "" if it does not exist or has ended."""
    try:
        after_name = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return ""
    return "" if after_name[0] == "Z" else after_name[19]
