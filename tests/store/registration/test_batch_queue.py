"""The queue by itself: who comes when, and where there is an end."""

from __future__ import annotations

import asyncio
import threading
import unittest
from collections import Counter
from collections.abc import Sequence
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.batch_queue import BatchQueue


class Order(unittest.TestCase):
    """Of a queue, whose jobs are (whose, number)."""

    def run_queue(self, jobs: Sequence[tuple[str, int]], **options: Any) -> list[list[tuple[str, int]]]:
        """Queue these while the first batch is held, then let go; gives the batches."""
        batches: list[list[tuple[str, int]]] = []
        at_work = threading.Event()
        go = threading.Event()

        def work(batch: Sequence[tuple[str, int]]) -> list[int]:
            at_work.set()
            go.wait(30)
            batches.append(list(batch))
            return [number for _, number in batch]

        async def all_of_them() -> list[Any]:
            submission_queue = BatchQueue[tuple[str, int], int](
                work, key=lambda job: job[0], most=4, **options
            )
            first = asyncio.ensure_future(submission_queue.put(("first", 0)))
            # On a busy machine the thread may come late, and would take the others with the first.
            await asyncio.get_running_loop().run_in_executor(None, at_work.wait, 30)
            rest = [asyncio.ensure_future(submission_queue.put(job)) for job in jobs]
            await asyncio.sleep(0)
            go.set()
            answers = await asyncio.gather(first, *rest, return_exceptions=True)
            submission_queue.stop()
            return answers

        self.answers = asyncio.run(all_of_them())
        return batches[1:]

    def test_whoever_sends_many_waits_for_their_own_and_others_come_between(self) -> None:
        batches = self.run_queue([("greedy", n) for n in range(5)] + [("other", 9), ("third", 8)])
        order = [job for batch in batches for job in batch]
        self.assertLess(order.index(("other", 9)), order.index(("greedy", 1)))
        self.assertLess(order.index(("third", 8)), order.index(("greedy", 1)))
        self.assertEqual([n for who, n in order if who == "greedy"], list(range(5)))

    @given(st.lists(st.tuples(st.sampled_from("abc"), st.integers(0, 99)), max_size=30))
    def test_each_once_in_order_and_never_two_of_one_at_a_time(self, jobs: list[tuple[str, int]]) -> None:
        batches = self.run_queue(jobs)
        done = [job for batch in batches for job in batch]
        self.assertEqual(Counter(done), Counter(jobs))
        self.assertEqual(self.answers[1:], [n for _, n in jobs])
        for who in "abc":
            self.assertEqual([j for j in done if j[0] == who], [j for j in jobs if j[0] == who])
        for batch in batches:
            self.assertEqual(len({who for who, _ in batch}), len(batch))

    def test_there_is_an_end_to_what_one_may_queue(self) -> None:
        self.run_queue([("greedy", n) for n in range(6)] + [("other", 9)], most_of_one=2)
        refused = [a for a in self.answers if isinstance(a, Problem)]
        self.assertEqual([p.kind for p in refused], [ProblemKind.TOO_MANY_YOURS] * 3)
        self.assertEqual(self.answers[-1], 9)

    def test_what_is_queued_when_it_ends_is_still_done(self) -> None:
        go = threading.Event()
        done: list[Any] = []

        def work(batch: Sequence[tuple[str, int]]) -> list[int]:
            go.wait(30)
            done.extend(batch)
            return [number for _, number in batch]

        async def all_of_them() -> list[int]:
            submission_queue = BatchQueue[tuple[str, int], int](work, key=lambda job: job[0], threads=2)
            asked = [asyncio.ensure_future(submission_queue.put(("one", n))) for n in range(4)]
            await asyncio.sleep(0)
            ending = threading.Thread(target=submission_queue.stop)
            ending.start()
            go.set()
            answers = await asyncio.gather(*asked)
            await asyncio.get_running_loop().run_in_executor(None, ending.join)
            self.assertFalse(any(thread.is_alive() for thread in submission_queue.threads))
            with self.assertRaises(Problem):
                await submission_queue.put(("late", 1))
            return answers

        self.assertEqual(asyncio.run(all_of_them()), [0, 1, 2, 3])
        self.assertEqual(done, [("one", n) for n in range(4)])

    def test_work_that_raises_is_told_to_whoever_waits_and_the_next_is_done(self) -> None:
        def work(batch: Sequence[tuple[str, int]]) -> list[int]:
            if batch[0][1] == 0:
                raise KeyError("nobody foresaw it")
            return [number for _, number in batch]

        async def all_of_them() -> list[int | BaseException]:
            queue = BatchQueue[tuple[str, int], int](work, key=lambda job: job[0], most=1)
            asked = [queue.put(("one", 0)), queue.put(("one", 1)), queue.put(("two", 2))]
            answers = await asyncio.gather(*asked, return_exceptions=True)
            self.assertEqual([thread.trouble for thread in queue.threads], [""])
            await asyncio.get_running_loop().run_in_executor(None, queue.stop)
            return answers

        first, *others = asyncio.run(all_of_them())
        self.assertIsInstance(first, KeyError)
        self.assertEqual(others, [1, 2])

    def test_slow_ones_hold_nobody_up_and_still_keep_their_own_order(self) -> None:
        held = threading.Event()
        done: list[Any] = []

        def work(batch: Sequence[tuple[str, int]]) -> list[int]:
            if batch[0][0] == "slow":
                held.wait(30)
            done.extend(batch)
            return [number for _, number in batch]

        async def all_of_them() -> None:
            submission_queue = BatchQueue[tuple[str, int], int](
                work, key=lambda job: job[0], slow=lambda job: job[0] == "slow"
            )
            slow = [asyncio.ensure_future(submission_queue.put(("slow", n))) for n in range(2)]
            for n in range(20):
                self.assertEqual(await asyncio.wait_for(submission_queue.put((f"quick{n}", n)), 30), n)
            held.set()
            self.assertEqual(await asyncio.gather(*slow), [0, 1])
            submission_queue.stop()

        asyncio.run(all_of_them())
        self.assertEqual([n for who, n in done if who == "slow"], [0, 1])
