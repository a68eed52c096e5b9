"""Threads that live as long as the process survive what nobody foresaw, and say how they are."""

from __future__ import annotations

import threading
import time
import unittest
from unittest import mock

from gremba.store import long_lived_thread
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.catalogue.follower import CatalogueFollower
from gremba.store.long_lived_thread import LongLivedThread
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database
from tests.support.soon import soon


class Working(LongLivedThread):
    """Fails so often, then goes on; or takes as long as it is made to."""

    def __init__(self, failures: int = 0, patience: float = 60.0) -> None:
        super().__init__("working", often=None, patience=patience)
        self.failures = failures
        self.turns = 0
        self.go = threading.Event()
        self.go.set()

    def turn(self) -> None:
        self.turns += 1
        self.go.wait()
        if self.turns <= self.failures:
            raise KeyError("nobody foresaw it")


class Threads(unittest.TestCase):
    def setUp(self) -> None:
        quick = mock.patch.object(long_lived_thread, "PAUSE", 0.01)
        quick.start()
        self.addCleanup(quick.stop)

    def started(self, thread: Working) -> Working:
        thread.start()
        self.addCleanup(thread.stop)
        self.addCleanup(thread.go.set)
        return thread

    def test_what_a_turn_raises_is_tried_again_without_being_woken(self) -> None:
        thread = self.started(Working(failures=3))
        thread.wake()
        soon(lambda: thread.turns == 4)
        self.assertEqual(thread.trouble, "")
        # And then it waits.
        time.sleep(0.05)
        self.assertEqual(thread.turns, 4)

    def test_one_that_fails_for_long_says_so_until_it_does_not(self) -> None:
        thread = self.started(Working(failures=10**9, patience=0.1))
        thread.wake()
        soon(lambda: thread.trouble.startswith("has failed for"))
        thread.failures = 0
        soon(lambda: thread.trouble == "")

    def test_one_that_is_stuck_in_a_turn_says_so(self) -> None:
        thread = self.started(Working(patience=0.1))
        thread.go.clear()
        thread.wake()
        soon(lambda: thread.trouble.startswith("has been at one turn for"))
        thread.beat()
        self.assertEqual(thread.trouble, "")
        thread.rest()
        time.sleep(0.2)
        self.assertEqual(thread.trouble, "")

    def test_one_that_has_ended_is_in_trouble_but_not_one_that_was_stopped(self) -> None:
        thread = Working()
        self.assertEqual(thread.trouble, "has ended")
        self.started(thread)
        self.assertEqual(thread.trouble, "")
        thread.stop()
        self.assertFalse(thread.is_alive())
        self.assertEqual(thread.trouble, "")


class Following(unittest.TestCase):
    """Terms are read again beside what serves."""

    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.cache = CatalogueCache(self.campus.database)
        self.cache.term(TERM)
        self.followed: list[str] = []
        self.follower = CatalogueFollower(self.cache, self.followed.append)

    def test_a_term_announced_many_times_is_read_once(self) -> None:
        self.campus.run("UPDATE terms SET catalogue_version = catalogue_version + 1")
        for _ in range(20):
            self.follower.announced(TERM)
        with mock.patch.object(self.cache, "_read", wraps=self.cache._read) as read:
            self.follower.turn()
            self.assertEqual(read.call_count, 1)
        self.assertEqual(self.followed, [TERM])

    def test_what_was_missed_is_found(self) -> None:
        self.follower.missed()
        self.follower.turn()
        self.assertEqual(self.followed, [])
        self.campus.run("UPDATE terms SET name = 'Other', catalogue_version = catalogue_version + 1")
        self.follower.missed()
        self.follower.turn()
        self.assertEqual(self.followed, [TERM])
        found = self.cache.term(TERM)
        assert found is not None
        self.assertEqual(found.name, "Other")

    def test_what_could_not_be_read_is_read_with_the_next_turn(self) -> None:
        self.follower.announced(TERM)
        with mock.patch.object(self.cache, "reload", side_effect=OSError), self.assertRaises(OSError):
            self.follower.turn()
        self.follower.turn()
        self.assertEqual(self.followed, [TERM])


if __name__ == "__main__":
    unittest.main()
