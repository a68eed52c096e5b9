"""A process in which something has stopped says so to whoever asks whether it is well."""

from __future__ import annotations

import unittest

from fastapi.testclient import TestClient

from gremba.core.catalogue.term import TermMoved
from gremba.settings import Settings
from gremba.web.app import build_app
from gremba.web.services import Services
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database
from tests.support.soon import soon


class Health(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)
        self.app = build_app(Settings(database_url=self.campus.url))
        client = TestClient(self.app, raise_server_exceptions=False)
        self.client = self.enterContext(client)
        self.services: Services = self.app.state.services

    def test_each_thread_that_has_ended_is_told_by_its_name(self) -> None:
        self.assertEqual(self.client.get("/healthz").json(), {"status": "well"})
        services = self.services
        threads = [
            services.board,
            services.follower,
            services.listener,
            services.record,
            *services.sweeper.threads,
        ]
        for thread in threads:
            thread.stop()
            thread.ending.clear()
        answer = self.client.get("/healthz")
        self.assertEqual((answer.status_code, answer.json()["type"]), (503, "/problems/not-well"))
        for thread in threads:
            self.assertIn(thread.name, answer.json()["detail"])

    def test_the_queues_count_too(self) -> None:
        for queue in (self.services.submission_queue, self.services.timetable_queue):
            (thread, *_) = queue.threads
            thread.ending.set()
            queue.stop()
            soon(lambda thread=thread: not thread.is_alive())  # type: ignore[misc]
            thread.ending.clear()
            self.assertIn(thread.name, self.client.get("/healthz").json()["detail"])

    def test_a_page_that_names_what_was_made_since_is_read_with_the_next_try(self) -> None:
        """Another process has told this one's database of a section that this one has not read yet."""
        catalogue = self.services.context.catalogue

        @self.app.get("/moved")
        def moved() -> None:
            raise TermMoved([TERM])

        self.app.router.routes.insert(0, self.app.router.routes.pop())
        known = catalogue.term(TERM)
        self.services.follower.stop()
        self.campus.run("UPDATE terms SET name = 'Other', catalogue_version = catalogue_version + 1")
        answer = self.client.get("/moved")
        self.assertEqual((answer.status_code, answer.json()["type"]), (503, "/problems/records-away"))
        found = catalogue.term(TERM)
        assert found is not None
        self.assertFalse(found is known)
        self.assertEqual(found.name, "Other")


if __name__ == "__main__":
    unittest.main()
