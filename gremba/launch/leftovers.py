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
    """Note which processes serve now, each with the moment it began, by which it is known again: a
    number alone is given out anew."""
    lines = {str(pid): begun for pid in pids if (begun := _begun_at(pid))}
    waiting = note.with_suffix(".new")
    waiting.write_bytes(orjson.dumps(lines))
    waiting.replace(note)


def end_leftovers(note: Path) -> int:
    """End those of the processes noted that still run; gives how many there were."""
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
    """When a process began, in ticks since the machine did (proc(5)); "" if there is none, or it has
    ended and only waits to be asked after."""
    try:
        after_name = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return ""
    return "" if after_name[0] == "Z" else after_name[19]
