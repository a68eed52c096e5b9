"""The lane: requests queue up, and worker threads put through what has gathered, in batches.

Under a rush one transaction serves many students, which costs the database far less than one
each; a batch of one is the ordinary case and the same code.
"""

from __future__ import annotations

import asyncio
import threading
import time
from collections import deque
from collections.abc import Callable, Hashable, Sequence
from typing import Generic, TypeVar

from gremba.actions.problem import Problem

_MOST_LULLS = 8

Job = TypeVar("Job")
Answer = TypeVar("Answer")


class Lane(Generic[Job, Answer]):
    """A queue with its worker threads.

    Args:
        work: takes a batch and gives one answer a job, in order. It must not raise.
        key: jobs with the same key never stand in one batch, nor in two at a time.
        most: jobs in a batch at the most.
        longest: jobs that may wait; further ones are turned away at once.
        lull: in a rush, the seconds without a new job after which a batch begins that is not full
            yet. A batch costs much that does not grow with it, so a few jobs more are worth a
            moment. A job that comes alone never waits.
        name: of its threads.
    """

    def __init__(
        self,
        work: Callable[[Sequence[Job]], Sequence[Answer]],
        key: Callable[[Job], Hashable],
        threads: int = 1,
        most: int = 64,
        longest: int = 20_000,
        lull: float = 0.0,
        name: str = "lane",
    ) -> None:
        self._work = work
        self._key = key
        self._most = most
        self._longest = longest
        self._lull = lull
        self._waiting: deque[tuple[Job, asyncio.Future[Answer], asyncio.AbstractEventLoop]] = deque()
        self._busy: set[Hashable] = set()
        self._changed = threading.Condition()
        self._ending = False
        self._threads = [
            threading.Thread(target=self._run, name=f"{name}-{n}", daemon=True)
            for n in range(threads)
        ]
        for thread in self._threads:
            thread.start()

    async def put(self, job: Job) -> Answer:
        """Queue a job and wait for its answer.

        Raises:
            Problem: the queue is full.
        """
        loop = asyncio.get_running_loop()
        future: asyncio.Future[Answer] = loop.create_future()
        with self._changed:
            if len(self._waiting) >= self._longest or self._ending:
                raise _too_many()
            self._waiting.append((job, future, loop))
            self._changed.notify()
        return await future

    def stop(self) -> None:
        """Finish what is queued and end the threads."""
        with self._changed:
            self._ending = True
            self._changed.notify_all()
        for thread in self._threads:
            thread.join(timeout=10)

    def _run(self) -> None:
        in_a_rush = False
        while True:
            self._gather(self._lull if in_a_rush else 0.0)
            batch = self._take()
            if not batch:
                return
            in_a_rush = len(batch) > 1
            answers = self._work([job for job, _, _ in batch])
            with self._changed:
                self._busy.difference_update(self._key(job) for job, _, _ in batch)
                self._changed.notify_all()
            _give(batch, answers)

    def _gather(self, lull: float) -> None:
        """Wait for a job, then as long as more keep coming, but not for long."""
        with self._changed:
            while not self._waiting and not self._ending:
                self._changed.wait()
        seen = 0
        for _ in range(_MOST_LULLS):
            many = len(self._waiting)
            if not lull or self._ending or many == seen or many >= self._most:
                return
            seen = many
            time.sleep(lull)

    def _take(
        self,
    ) -> list[tuple[Job, asyncio.Future[Answer], asyncio.AbstractEventLoop]]:
        with self._changed:
            while True:
                batch: list[tuple[Job, asyncio.Future[Answer], asyncio.AbstractEventLoop]] = []
                passed_over = []
                while self._waiting and len(batch) < self._most:
                    entry = self._waiting.popleft()
                    key = self._key(entry[0])
                    if key in self._busy:
                        passed_over.append(entry)
                    else:
                        self._busy.add(key)
                        batch.append(entry)
                self._waiting.extendleft(reversed(passed_over))
                if batch or (self._ending and not self._waiting):
                    return batch
                self._changed.wait()


def _give(
    batch: Sequence[tuple[Job, asyncio.Future[Answer], asyncio.AbstractEventLoop]],
    answers: Sequence[Answer],
) -> None:
    by_loop: dict[asyncio.AbstractEventLoop, list[tuple[asyncio.Future[Answer], Answer]]] = {}
    for (_, future, loop), answer in zip(batch, answers, strict=True):
        by_loop.setdefault(loop, []).append((future, answer))
    for loop, pairs in by_loop.items():
        try:
            loop.call_soon_threadsafe(_settle, pairs)
        except RuntimeError:
            # The loop has ended with its callers; what was put through stays put through.
            continue


def _settle(pairs: Sequence[tuple[asyncio.Future[Answer], Answer]]) -> None:
    for future, answer in pairs:
        if not future.done():
            future.set_result(answer)


def _too_many() -> Problem:
    return Problem(
        "too-many",
        "Too many are registering at this moment",
        "Your cart is kept. Send it again in a few seconds; sending the same request again is "
        "safe.",
        503,
        retry_after=3,
    )
