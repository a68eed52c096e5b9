"""A campus with a server of its own, and for each test a student who is signed in to it."""

from __future__ import annotations

import unittest

import httpx

from tests.support.campus import Campus, Somebody
from tests.support.servers import Server, new_database


class OnCampus(unittest.TestCase):
    """Kept for all tests of a class: its tests leave to the others what they need."""

    campus: Campus
    server: Server
    student: Somebody
    client: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.furnish()
        cls.server = Server(cls.campus.url)

    @classmethod
    def furnish(cls) -> None:
        """Put sections there, before the server reads them."""

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def setUp(self) -> None:
        self.student = self.campus.person()
        self.client = self.campus.client(self.student, self.server.url)
        self.addCleanup(self.client.close)
