"""Threads that live as long as the process: they survive unexpected errors, log them, and report their
health."""

from __future__ import annotations

import threading
import time

import structlog

from gremba.store.database import Unavailable

log = structlog.get_logger()

PAUSE = 1.0
"""Seconds after a turn that failed before the next is tried."""

PATIENCE = 60.0
"""Seconds: a thread whose turn takes longer, or whose turns have failed for longer, is in trouble."""


class LongLivedThread(threading.Thread):
    """A thread that takes turns until it is stopped: at intervals, and when it is woken.

    Args:
        often: seconds between two turns where nothing wakes it; None for a turn only when woken.
        patience: see :data:`PATIENCE`.
    """

    def __init__(self, name: str, often: float | None, patience: float = PATIENCE) -> None:
        super().__init__(name=name, daemon=True)
        self._often = often
        self._patience = patience
        self._woken = threading.Event()
        self.ending = threading.Event()
        """Set when it is to end; a turn that takes long looks at it."""
        self._turn_began: float | None = None
        self._failing_since: float | None = None

    def turn(self) -> None:
        """Do what there is to do. An exception is logged, and the next turn follows.

        Raises:
            NotImplementedError: there is nothing that it does.
        """
        raise NotImplementedError

    def wake(self, _: str = "") -> None:
        """Start the next turn now."""
        self._woken.set()

    def beat(self) -> None:
        """Report progress in a long turn."""
        self._turn_began = time.monotonic()
        self._failing_since = None

    def rest(self) -> None:
        """Report that the turn is only waiting."""
        self._turn_began = None

    def run(self) -> None:
        """Take turns until :meth:`stop`."""
        while not self.ending.is_set():
            self._woken.wait(self._often)
            self._woken.clear()
            if not self.ending.is_set():
                self._take_turn()

    def _take_turn(self) -> None:
        self._turn_began = time.monotonic()
        try:
            self.turn()
            self._failing_since = None
        except Unavailable as problem:
            # Also where two have waited for one another and the database ended one of them.
            log.warning("a turn was interrupted", thread=self.name, problem=str(problem).strip())
            self._failed()
        except Exception:
            log.exception("a turn failed", thread=self.name)
            self._failed()
        finally:
            self._turn_began = None

    def _failed(self) -> None:
        if self._failing_since is None:
            self._failing_since = time.monotonic()
        self._woken.set()
        self.ending.wait(PAUSE)

    @property
    def trouble(self) -> str:
        """What is wrong with the thread, in a few words; "" for nothing."""
        now = time.monotonic()
        began, failing_since = self._turn_began, self._failing_since
        if not self.is_alive() and not self.ending.is_set():
            return "has ended"
        if began is not None and now - began > self._patience:
            return f"has been at one turn for {now - began:.0f} s"
        if failing_since is not None and now - failing_since > self._patience:
            return f"has failed for {now - failing_since:.0f} s"
        return ""

    def stop(self, patience: float = 5.0) -> None:
        """End the thread; waits for its turn to end, up to a limit."""
        self.ending.set()
        self._woken.set()
        if self.is_alive():
            self.join(timeout=patience)
