"""The models are what the database holds, and the other way round."""

from __future__ import annotations

import unittest

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import connect, connected
from gremba.store.installation import TRIGGERS, migrate
from gremba.store.models import TABLES
from tests.support.catalog import described
from tests.support.servers import cluster


class Models(unittest.TestCase):
    maxDiff = None
    migrated: PooledPostgresqlDatabase
    modelled: PooledPostgresqlDatabase

    @classmethod
    def setUpClass(cls) -> None:
        cls.migrated, cls.modelled = (
            connect(cluster().url(name)) for name in ("test_migrated", "test_modelled")
        )
        for database in (cls.migrated, cls.modelled):
            cluster().create(database.database, anew=True)
            cls.addClassCleanup(database.close_all)
        migrate(cls.migrated)
        with connected(cls.modelled), cls.modelled.bind_ctx(TABLES):
            for table in TABLES:
                table.create_table(safe=False)
            cls.modelled.cursor().execute(TRIGGERS.read_text())

    def test_migrations_and_models_come_to_the_same(self) -> None:
        migrated, modelled = described(self.migrated), described(self.modelled)
        for kind, found in modelled.items():
            with self.subTest(kind):
                self.assertEqual(migrated[kind], found)
        self.assertGreater(len(migrated["columns"]), 200)

    def test_triggers_can_be_put_in_force_again(self) -> None:
        before = described(self.migrated)
        with connected(self.migrated):
            self.migrated.execute_sql("UPDATE installation SET triggers = 'other ones'")
        self.assertEqual(migrate(self.migrated), ["triggers"])
        self.assertEqual(migrate(self.migrated), [])
        self.assertEqual(described(self.migrated), before)

    def test_every_table_and_every_model_says_what_it_is(self) -> None:
        for table in TABLES:
            with self.subTest(table.__name__):
                self.assertTrue(table.__doc__)
        self.assertEqual(len(TABLES), len({t._meta.table_name for t in TABLES}))


if __name__ == "__main__":
    unittest.main()
