"""The catalogue in memory follows the tables."""

from __future__ import annotations

import time
import unittest

from gremba.store.catalogue.cache import CatalogueCache
from tests.support.campus import TERM, Campus, outcome, send
from tests.support.servers import Server, new_database

ANNOUNCE = "UPDATE terms SET catalogue_version = catalogue_version + 1"


class Following(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.campus.section(seats=5)

    def test_only_what_has_changed_is_read_again(self) -> None:
        cache = CatalogueCache(self.campus.database)
        first = cache.term(TERM)
        self.assertEqual(cache.outdated(), [])
        self.assertIs(cache.catch_up(TERM), first)
        number = self.campus.section(seats=5)
        self.campus.run(ANNOUNCE)
        self.assertEqual(cache.outdated(), [TERM])
        found = cache.catch_up(TERM)
        assert found is not None
        self.assertIn(number, found.by_number)

    def test_a_server_takes_over_a_new_section_by_itself(self) -> None:
        server = Server(self.campus.url)
        self.addCleanup(server.stop)
        number = self.campus.section(seats=5)
        with self.campus.client(self.campus.person(), server.url) as client:
            self.assertEqual(outcome(send(client, [f"+{number}"])), "r")
            self.campus.run(ANNOUNCE)
            for _ in range(50):
                if outcome(send(client, [f"+{number}"])) == "a":
                    return
                time.sleep(0.1)
        self.fail("the server did not hear of it within five seconds")
