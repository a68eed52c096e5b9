"""Databases that are ours, empty, or somebody else's: what is done to each, and what never is."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import mock

import psycopg

from gremba.demo import build
from gremba.launch import databases
from gremba.launch.cluster import SERVING_ROLE
from gremba.launch.databases import NotServed, Preparation, check_room, preparation_for, prepare_at
from gremba.store.database import connect, connected, fetch_sql, run_sql
from gremba.store.installation import Installation, InstallationKind, look_at
from tests.support.servers import as_served, cluster, new_database

OURS = Installation(InstallationKind.OURS, ("persons",), has_people=True)
DEMO = Installation(InstallationKind.OURS, ("persons",), is_demo=True, has_people=True)


def _silent(_: str) -> None:
    """Nobody listens."""


class Decided(unittest.TestCase):
    def test_what_is_done(self) -> None:
        cases: tuple[tuple[Installation, bool | None, bool, Preparation | str], ...] = (
            (Installation(InstallationKind.EMPTY), None, False, "--demo"),
            (Installation(InstallationKind.EMPTY), True, False, Preparation.FILL),
            (Installation(InstallationKind.EMPTY), False, False, Preparation.SERVE),
            (Installation(InstallationKind.FOREIGN, ("orders",)), True, True, "orders"),
            (Installation(InstallationKind.FOREIGN, ("orders",)), None, False, "orders"),
            (OURS, None, False, Preparation.SERVE),
            (OURS, False, False, Preparation.SERVE),
            (OURS, True, False, "a college's own data"),
            (OURS, None, True, "a college's own data"),
            (Installation(InstallationKind.OURS), True, False, Preparation.FILL),
            (Installation(InstallationKind.OURS, unknown=("0099_later",)), None, False, "0099_later"),
            (
                Installation(InstallationKind.OURS, has_people=True, missing=("sections.id",)),
                None,
                False,
                "sections.id",
            ),
            (DEMO, None, False, Preparation.SERVE),
            (DEMO, True, True, Preparation.MAKE_ANEW),
            (DEMO, False, False, "password everybody knows"),
            (
                Installation(InstallationKind.OURS, is_demo=True, is_complete=False),
                None,
                False,
                Preparation.MAKE_ANEW,
            ),
            (
                Installation(InstallationKind.OURS, is_demo=True, missing=("sections.id",)),
                None,
                False,
                Preparation.MAKE_ANEW,
            ),
            (Installation(InstallationKind.OURS, is_demo=True, strange=("orders",)), None, True, "orders"),
        )
        for found, demo, fresh, expected in cases:
            with self.subTest(found=found, demo=demo, fresh=fresh):
                if isinstance(expected, Preparation):
                    self.assertIs(preparation_for(found, demo, fresh), expected)
                else:
                    with self.assertRaises(NotServed) as met:
                        preparation_for(found, demo, fresh)
                    self.assertIn(expected, str(met.exception))


class OnRealOnes(unittest.TestCase):
    def setUp(self) -> None:
        name = f"test_given_{self._testMethodName}"
        cluster().create(name, anew=True)
        self.addCleanup(cluster().drop, name)
        self.url = cluster().url(name)

    def sql(self, statement: str) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.url, autocommit=True) as connection:
            done = connection.execute(statement)
            return done.fetchall() if done.description else []

    def test_a_foreign_database_is_left_alone_whatever_is_asked(self) -> None:
        self.sql("CREATE TABLE orders (id int); INSERT INTO orders VALUES (7)")
        self.sql("CREATE SCHEMA sales; CREATE TABLE sales.invoices (id int)")
        for demo, fresh in ((None, False), (True, False), (True, True), (False, False)):
            with self.assertRaises(NotServed):
                prepare_at(self.url, demo=demo, fresh=fresh, say=_silent)
        self.assertEqual(self.sql("SELECT id FROM orders"), [(7,)])
        self.assertEqual(
            self.sql("SELECT count(*) FROM pg_tables WHERE schemaname IN ('public', 'sales')"), [(2,)]
        )

    def test_a_table_in_another_schema_makes_it_foreign_too(self) -> None:
        self.sql("CREATE SCHEMA sales; CREATE TABLE sales.invoices (id int)")
        with self.assertRaisesRegex(NotServed, "sales.invoices"):
            prepare_at(self.url, demo=True, fresh=False, say=_silent)

    def test_a_college_begins_empty_and_is_never_made_a_demo_once_somebody_is_in_it(self) -> None:
        self.assertFalse(prepare_at(self.url, demo=False, fresh=False, say=_silent))
        self.assertEqual(self.sql("SELECT count(*) FROM persons"), [(0,)])
        self.sql(
            "INSERT INTO persons (username, full_name, role, email, password_hash) "
            "VALUES ('ann', 'Ann', 'registrar', 'ann@x.example', '')"
        )
        for demo, fresh in ((True, False), (None, True), (True, True)):
            with self.assertRaises(NotServed):
                prepare_at(self.url, demo=demo, fresh=fresh, say=_silent)
        self.assertEqual(self.sql("SELECT username FROM persons"), [("ann",)])
        self.assertFalse(prepare_at(self.url, demo=None, fresh=False, say=_silent))

    def test_a_demo_from_before_the_first_version_is_made_anew_and_nothing_else_is(self) -> None:
        self.sql("CREATE TABLE schema_migration (name text)")
        self.sql("INSERT INTO schema_migration VALUES ('0001_catalogue')")
        self.sql("CREATE TABLE installation (is_demo bool, is_complete bool, columns text[])")
        self.sql("INSERT INTO installation VALUES (false, true, '{}')")

        def step(demo: bool | None) -> Preparation:
            database = connect(self.url)
            self.addCleanup(database.close_all)
            with connected(database):
                return preparation_for(look_at(database), demo, False)

        for demo in (None, True):
            with self.assertRaisesRegex(NotServed, "not Gremba's"):
                step(demo)
        self.sql(
            "UPDATE installation SET is_demo = true, columns = '{schema_migration.name,installation.is_demo}'"
        )
        self.assertIs(step(None), Preparation.MAKE_ANEW)
        with self.assertRaises(NotServed):
            step(False)
        self.sql("CREATE TABLE orders (id int)")
        with self.assertRaisesRegex(NotServed, "orders"):
            step(None)

    def test_a_demo_interrupted_half_way_is_made_anew_and_a_whole_one_is_not(self) -> None:
        cut_short = mock.patch.object(build, "_play_morning", side_effect=KeyboardInterrupt)
        with cut_short, self.assertRaises(KeyboardInterrupt):
            prepare_at(self.url, demo=True, fresh=False, say=_silent)
        self.assertEqual(self.sql("SELECT is_demo, is_complete FROM installation"), [(True, False)])
        told: list[str] = []
        self.assertTrue(prepare_at(self.url, demo=None, fresh=False, say=told.append))
        self.assertIn("never finished", told[0])
        self.assertEqual(self.sql("SELECT is_complete FROM installation"), [(True,)])
        self.sql("UPDATE persons SET full_name = 'Somebody' WHERE username = 'wren'")
        self.assertTrue(prepare_at(self.url, demo=None, fresh=False, say=_silent))
        self.assertEqual(self.sql("SELECT full_name FROM persons WHERE username = 'wren'"), [("Somebody",)])
        self.sql("CREATE TABLE orders (id int)")
        with self.assertRaisesRegex(NotServed, "orders"):
            prepare_at(self.url, demo=True, fresh=True, say=_silent)
        self.assertEqual(self.sql("SELECT count(*) FROM orders"), [(0,)])

    def test_a_newer_schema_and_one_that_lost_a_column(self) -> None:
        prepare_at(self.url, demo=False, fresh=False, say=_silent)
        self.sql("ALTER TABLE sections DROP COLUMN notes CASCADE")
        with self.assertRaisesRegex(NotServed, "sections.notes"):
            prepare_at(self.url, demo=None, fresh=False, say=_silent)
        self.sql("INSERT INTO schema_migration (name, applied) VALUES ('0100_later', now())")
        with self.assertRaisesRegex(NotServed, "0100_later"):
            prepare_at(self.url, demo=None, fresh=False, say=_silent)

    def test_nothing_is_emptied_that_is_not_marked_as_demo(self) -> None:
        """Whatever calls for it."""
        prepare_at(self.url, demo=False, fresh=False, say=_silent)
        self.sql(
            "INSERT INTO persons (username, full_name, role, email, password_hash) "
            "VALUES ('ann', 'Ann', 'registrar', 'ann@x.example', '')"
        )
        database = connect(self.url)
        self.addCleanup(database.close_all)
        with self.assertRaises(ValueError):
            build.build_demo(database, _silent)
        self.assertEqual(self.sql("SELECT count(*) FROM persons"), [(1,)])


class AtOnce(unittest.TestCase):
    def test_of_two_that_begin_at_once_the_second_finds_what_the_first_has_made(self) -> None:
        cluster().create("test_given_at_once", anew=True)
        self.addCleanup(cluster().drop, "test_given_at_once")
        url = cluster().url("test_given_at_once")
        made: list[str] = []

        def fill(database: Any, say: Any) -> None:
            made.append("filled")
            build.migrate(database)
            with connected(database):
                build.mark_as_demo(database, is_complete=True)

        with mock.patch.object(databases, "build_demo", fill), ThreadPoolExecutor(2) as pool:
            asked = [pool.submit(prepare_at, url, demo=True, fresh=False, say=_silent) for _ in range(2)]
            self.assertEqual([a.result(timeout=120) for a in asked], [True, True])
        self.assertEqual(made, ["filled"])


class Room(unittest.TestCase):
    def test_a_server_that_would_find_no_connections_does_not_begin(self) -> None:
        database = connect(new_database())
        self.addCleanup(database.close_all)
        check_room(database, 2)
        with self.assertRaisesRegex(NotServed, "fewer --workers"):
            check_room(database, 32)


class Rights(unittest.TestCase):
    """The role that the application has reads and writes rows, and no more."""

    def test_it_can_serve_what_is_up_to_date(self) -> None:
        self.assertFalse(prepare_at(as_served(new_database()), demo=None, fresh=False, say=_silent))

    def test_where_it_may_not_make_tables_it_is_told_so(self) -> None:
        cluster().create("test_given_no_rights", anew=True)
        self.addCleanup(cluster().drop, "test_given_no_rights")
        with self.assertRaisesRegex(NotServed, "permission denied.*Name the role that owns it"):
            prepare_at(as_served(cluster().url("test_given_no_rights")), demo=False, fresh=False, say=_silent)

    def test_what_the_application_cannot_do(self) -> None:
        served = connect(as_served(new_database()))
        self.addCleanup(served.close_all)
        forbidden = (
            "DROP TABLE stars_no_more",
            "CREATE TABLE mine (id int)",
            "ALTER TABLE persons ADD x int",
            "DELETE FROM confirmations",
            "DELETE FROM persons",
            "TRUNCATE cart_changes",
            "UPDATE installation SET is_demo = true",
            "UPDATE schema_migration SET name = 'x'",
            "ALTER TABLE confirmations DISABLE TRIGGER ALL",
            "CREATE ROLE other",
            "DROP SCHEMA public CASCADE",
            "COPY persons TO PROGRAM 'cat'",
            "SELECT pg_read_file('/etc/passwd')",
            "SET session_replication_role = replica",
        )
        for statement in forbidden:
            with self.subTest(statement), connected(served), self.assertRaises(Exception) as met:
                run_sql(served, statement)
            if not statement.startswith("DROP TABLE"):
                self.assertRegex(str(met.exception), "permission denied|must be|owner")
        with connected(served):
            self.assertEqual(
                fetch_sql(served, "SELECT rolsuper FROM pg_roles WHERE rolname = %s", (SERVING_ROLE,)),
                [(False,)],
            )
            self.assertIs(look_at(served).kind, InstallationKind.OURS)
