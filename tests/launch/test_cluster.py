"""The private cluster: what is lost or broken beside it is mended, or said in PostgreSQL's own words."""

from __future__ import annotations

import os
import shutil
import tempfile
import unittest
from pathlib import Path

import psycopg

from gremba.launch.cluster import ROLE, SERVING_ROLE, Cluster, ClusterProblem


class Mending(unittest.TestCase):
    folder: Path
    cluster: Cluster

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp(prefix="gremba-cluster-"))
        cls.folder.chmod(0o755)
        user = "postgres" if os.geteuid() == 0 else None
        cls.cluster = Cluster(cls.folder / "postgres", user, durable=False)
        cls.cluster.start()
        cls.cluster.create("college")

    @classmethod
    def tearDownClass(cls) -> None:
        cls.cluster.stop()
        shutil.rmtree(cls.folder)

    def setUp(self) -> None:
        self.addCleanup(self.cluster.start)

    def assert_served(self) -> None:
        for role in (ROLE, SERVING_ROLE):
            with psycopg.connect(self.cluster.url("college", role)) as connection:
                self.assertEqual(connection.execute("SELECT current_user").fetchone(), (role,))

    def test_lost_and_wrong_passwords_are_set_anew(self) -> None:
        for role_file in ("password", f"password-{SERVING_ROLE}"):
            for spoilt in (None, "not the password"):
                with self.subTest(role_file, spoilt=spoilt):
                    path = self.cluster.home / role_file
                    path.unlink()
                    if spoilt is not None:
                        path.write_text(spoilt)
                    self.cluster.start()
                    self.assert_served()
                    self.assertEqual(path.stat().st_mode & 0o077, 0)

    def test_a_broken_note_of_the_port_does_not_matter(self) -> None:
        self.cluster.stop()
        (self.cluster.home / "port").write_text("eighty\n")
        self.assertTrue(self.cluster.start())
        self.assert_served()

    def test_postgresql_says_itself_why_it_does_not_start(self) -> None:
        self.cluster.stop()
        log = self.cluster.home / "server.log"
        with log.open("a") as file:
            file.write("an old line that is not the reason\n")
        settings = self.cluster.data / "postgresql.conf"
        whole = settings.read_text()
        self.addCleanup(settings.write_text, whole)
        settings.write_text(whole + "\nshared_buffers = 'very many'\nport =\n")
        with self.assertRaises(ClusterProblem) as met:
            self.cluster.start()
        self.assertIn("postgresql.conf", str(met.exception))
        self.assertNotIn("an old line", str(met.exception))
        self.assertIn("Do not delete", str(met.exception))
        settings.write_text(whole)

    def test_a_cluster_with_databases_is_never_made_anew(self) -> None:
        """Though the mark is lost that it was made to the end."""
        mark = self.cluster.home / "complete"
        mark.unlink()
        with self.assertRaisesRegex(ClusterProblem, "Nothing was done"):
            self.cluster.start()
        mark.touch()
        self.cluster.start()
        self.assertIn("college", self.cluster.databases())
