"""Queues submissions and processes them in batches on worker threads.

Under a rush one transaction serves many students, which costs the database far less than one
each; a batch of one is the ordinary case and the same code.
"""

from __future__ import annotations

import asyncio
import threading
import time
from collections import deque
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar, cast

import structlog

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.store.long_lived_thread import LongLivedThread

log = structlog.get_logger()

_MOST_WINDOWS = 8

Job = TypeVar("Job")
Answer = TypeVar("Answer")


@dataclass(frozen=True, slots=True)
class _Entry(Generic[Job, Answer]):
    job: Job
    future: asyncio.Future[Answer]
    loop: asyncio.AbstractEventLoop


class _Queue(Generic[Job, Answer]):
    """Jobs in order of arrival, and the threads waiting for them."""

    def __init__(self, lock: threading.Lock) -> None:
        self.entries: deque[_Entry[Job, Answer]] = deque()
        self.changed = threading.Condition(lock)


class BatchQueue(Generic[Job, Answer]):
    """A queue whose worker threads process jobs in batches.

    Of jobs with the same key only one is in the queue or at work at a time. The next comes behind
    all others when it is done, so whoever sends many at once waits for their own.

    Args:
        work: takes a batch and gives one answer a job, in order; these may be problems.
        key: whose a job is.
        most: jobs in a batch at the most.
        longest: jobs that may wait; further ones are turned away at once.
        batching_window: in a rush, the seconds without a new job after which a batch begins that is not full
            yet. A batch costs much that does not grow with it, so a few jobs more are worth a
            moment. A job that comes alone never waits.
        slow: which jobs take long. They are done one at a time on a thread of their own, so that
            no other waits for them.
        most_of_one: jobs with the same key that may wait; None for any number.
        name: of its threads.
    """

    def __init__(
        self,
        work: Callable[[Sequence[Job]], Sequence[Answer]],
        key: Callable[[Job], Hashable],
        threads: int = 1,
        most: int = 64,
        longest: int = 20_000,
        batching_window: float = 0.0,
        slow: Callable[[Job], bool] | None = None,
        most_of_one: int | None = None,
        name: str = "queue",
    ) -> None:
        self._work = work
        self._key = key
        self._longest = longest
        self._slow = slow
        self._most_of_one = most_of_one
        self._count = 0
        self._lock = threading.Lock()
        self._queue = _Queue[Job, Answer](self._lock)
        self._slow_queue = _Queue[Job, Answer](self._lock)
        # Keys that are queued or at work, each with those of its jobs that come after.
        self._behind: dict[Hashable, deque[_Entry[Job, Answer]]] = {}
        self._ending = False
        self.threads: list[LongLivedThread] = [
            _Worker(self, f"{name}-{n}", self._queue, most, batching_window) for n in range(threads)
        ]
        """Those that work."""
        if slow is not None:
            self.threads.append(_Worker(self, f"{name}-slow", self._slow_queue, 1, 0.0))
        for thread in self.threads:
            thread.start()

    async def put(self, job: Job) -> Answer:
        """Queue a job and wait for its answer.

        Raises:
            Problem: the queue is full, or holds too many of the same key.
        """
        loop = asyncio.get_running_loop()
        entry: _Entry[Job, Answer] = _Entry(job, loop.create_future(), loop)
        key = self._key(job)
        with self._lock:
            if self._count >= self._longest or self._ending:
                raise _too_many()
            behind = self._behind.get(key)
            if behind is None:
                self._behind[key] = deque()
                self._enter(entry)
            elif self._most_of_one is not None and len(behind) >= self._most_of_one:
                raise _too_many_of_one()
            else:
                behind.append(entry)
            self._count += 1
        return await entry.future

    def _enter(self, entry: _Entry[Job, Answer]) -> None:
        is_slow = self._slow is not None and self._slow(entry.job)
        queue = self._slow_queue if is_slow else self._queue
        queue.entries.append(entry)
        # Only one who waits for this queue: to wake a thread for nothing costs a turn of all others.
        queue.changed.notify()

    def _wake_all(self) -> None:
        for queue in (self._queue, self._slow_queue):
            queue.changed.notify_all()

    def stop(self) -> None:
        """Finish what is queued and end the threads."""
        with self._lock:
            self._ending = True
            self._wake_all()
        for thread in self.threads:
            thread.join(timeout=10)

    def do(self, batch: Sequence[_Entry[Job, Answer]]) -> None:
        """Process a batch, admit the jobs behind it, and deliver the answers. An exception is raised to
        everybody waiting for one."""
        try:
            answers: Sequence[Answer | BaseException] = self._work([entry.job for entry in batch])
        except Exception as problem:
            log.exception("a batch raised", many=len(batch))
            answers = [problem for _ in batch]
        with self._lock:
            self._count -= len(batch)
            for entry in batch:
                self._let_next(self._key(entry.job))
        _give(batch, answers)

    def _let_next(self, key: Hashable) -> None:
        behind = self._behind[key]
        if behind:
            self._enter(behind.popleft())
        else:
            del self._behind[key]
            if self._ending:
                self._wake_all()

    def gather(self, queue: _Queue[Job, Answer], most: int, batching_window: float) -> None:
        """Wait for a job, then briefly for more."""
        with self._lock:
            while not queue.entries and not self.is_over:
                queue.changed.wait()
        seen = 0
        for _ in range(_MOST_WINDOWS):
            many = len(queue.entries)
            if not batching_window or self._ending or many == seen or many >= most:
                return
            seen = many
            time.sleep(batching_window)

    @property
    def is_over(self) -> bool:
        """Whether no more can come: jobs in progress may admit others behind them."""
        return self._ending and not self._behind

    def take(self, queue: _Queue[Job, Answer], most: int) -> list[_Entry[Job, Answer]]:
        """The next batch; empty when the queue has ended."""
        with self._lock:
            while not queue.entries and not self.is_over:
                queue.changed.wait()
            return [queue.entries.popleft() for _ in range(min(most, len(queue.entries)))]


class _Worker(LongLivedThread):
    """A thread that processes batches; each turn is one."""

    def __init__(
        self,
        owner: BatchQueue[Any, Any],
        name: str,
        queue: _Queue[Any, Any],
        most: int,
        batching_window: float,
    ) -> None:
        super().__init__(name, often=0.0)
        self._owner = owner
        self._queue = queue
        self._most = most
        self._batching_window = batching_window
        self._in_a_rush = False

    def turn(self) -> None:
        """Wait for a batch and process it."""
        # Waiting is no turn that takes long.
        self.rest()
        self._owner.gather(self._queue, self._most, self._batching_window if self._in_a_rush else 0.0)
        batch = self._owner.take(self._queue, self._most)
        if not batch:
            self.ending.set()
            return
        self.beat()
        self._in_a_rush = len(batch) > 1
        self._owner.do(batch)


def _give(batch: Sequence[_Entry[Job, Answer]], answers: Sequence[Answer | BaseException]) -> None:
    by_loop: dict[asyncio.AbstractEventLoop, list[tuple[asyncio.Future[Answer], Answer | BaseException]]] = {}
    for entry, answer in zip(batch, answers, strict=True):
        by_loop.setdefault(entry.loop, []).append((entry.future, answer))
    for loop, pairs in by_loop.items():
        try:
            loop.call_soon_threadsafe(_settle, pairs)
        except RuntimeError:
            # The loop has ended with its callers; what was put through stays put through.
            continue


def _settle(pairs: Sequence[tuple[asyncio.Future[Answer], Answer | BaseException]]) -> None:
    for future, answer in pairs:
        if future.done():
            continue
        if isinstance(answer, BaseException) and not isinstance(answer, Problem):
            future.set_exception(answer)
        else:
            future.set_result(cast(Answer, answer))


def _too_many() -> Problem:
    return Problem(
        ProblemKind.TOO_MANY,
        "Your cart is kept. Send it again in a few seconds; sending the same request again is safe.",
        retry_after=3,
    )


def _too_many_of_one() -> Problem:
    return Problem(
        ProblemKind.TOO_MANY_YOURS,
        "Wait for their answers; your cart is kept. Nothing of this one was changed.",
        retry_after=2,
    )
