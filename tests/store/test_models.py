"""The models are what the database holds, and the other way round."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from datetime import date
from types import SimpleNamespace
from typing import Any

from playhouse.migrations import Runner
from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.core.account.tariff import FeeRefund, FeeScope, RateClass, Tariff, TariffFee
from gremba.core.messages import MessageKind
from gremba.store.account.rates import read_tariff
from gremba.store.database import connect, connected, fetch_sql, run_sql
from gremba.store.installation import MIGRATIONS, TRIGGERS, migrate
from gremba.store.models import TABLES, Term
from gremba.store.queries import fetch
from tests.support.catalog import described
from tests.support.servers import cluster
from tests.support.tariffs import plain_tariff


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

    def test_tariffs_that_were_documents_are_read_as_they_were(self) -> None:
        database = connect(cluster().url("test_before_tariffs"))
        cluster().create(database.database, anew=True)
        self.addCleanup(database.close_all)
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        for file in MIGRATIONS.glob("000*.py"):
            shutil.copy(file, held.name)
        bus = {"label": "Bus", "cents": 950, "scope": "campus", "value": "hill", "each": True}
        fees = [bus | {"refund": "never"}, bus | {"value": "nowhere", "refund": "never"}]
        fees.append(bus | {"scope": "delivery", "value": "mixed", "refund": "by steps"})
        hill = {"per_credit": 5, "name": "up there", "band_cents": 70, "band_from": 9.5, "band_to": 20.0}
        whole: dict[str, Any] = {
            "classes": {"": {"per_credit": 3}, "hill": hill | {"audit_per_credit": 2}},
            "fees": fees,
        }
        whole |= {"late_from": "2027-08-16", "late_cents": 40}
        policies: tuple[dict[str, Any], ...] = (
            {"tariff": whole},
            {"tariff": {"per_credit": 18, "per_term": 45}},
            {"full_time": 6},
        )
        with connected(database):
            Runner(database, held.name).up()
            run_sql(database, "INSERT INTO campuses VALUES ('hill', 'Hill')")
            for number, policy in enumerate(policies):
                run_sql(
                    database,
                    "INSERT INTO terms (code, name, zone, first_day, last_day, policy) "
                    "VALUES (%s, %s, 'UTC', '2027-08-23', '2027-12-10', %s)",
                    (f"t{number}", f"Term {number}", Jsonb(policy)),
                )
        self.assertIn("0010_tariffs", migrate(database))
        with connected(database):
            rows = fetch(database, Term.select().order_by(Term.id), SimpleNamespace)
            tariffs = [read_tariff(database, row) for row in rows]
        expected = Tariff(
            {"": RateClass(3), "hill": RateClass(5, "up there", 70, 9.5, 20.0, 2)},
            (
                TariffFee("Bus", 950, FeeScope.CAMPUS, "hill", True, FeeRefund.NEVER),
                TariffFee("Bus", 950, FeeScope.DELIVERY, "mixed", True, FeeRefund.BY_STEPS),
            ),
            date(2027, 8, 16),
            40,
        )
        self.assertEqual(tariffs, [expected, plain_tariff(18, 45), Tariff()])
        self.assertEqual([row.policy for row in rows], [{}, {}, {"full_time": 6}])

    def test_what_was_kept_under_older_words_is_read_under_the_new(self) -> None:
        database = connect(cluster().url("test_older_words"))
        cluster().create(database.database, anew=True)
        self.addCleanup(database.close_all)
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        for file in MIGRATIONS.glob("00*.py"):
            if file.stem < "0014":
                shutil.copy(file, held.name)
        plan = {"code": "two", "name": "Two parts"}
        with connected(database):
            Runner(database, held.name).up()
            run_sql(
                database,
                "INSERT INTO terms (code, name, zone, first_day, last_day, policy) "
                "VALUES ('t', 'Term', 'UTC', '2027-08-23', '2027-12-10', %s)",
                (
                    Jsonb(
                        {
                            "account": {"instalments": [plan], "warn_days": [7], "promises_count": True},
                            "consent_days": 12,
                            "most_open_consents": 9,
                            "full_time": 6,
                        }
                    ),
                ),
            )
            run_sql(
                database,
                "INSERT INTO persons (username, full_name, role, email, password_hash) VALUES ('p', 'P', 'student', '', '')",
            )
            run_sql(database, "INSERT INTO students (id) SELECT id FROM persons")
            run_sql(
                database,
                "INSERT INTO student_terms (student_id, term_id) SELECT p.id, t.id FROM persons p, terms t",
            )
            wants = [{"course": "SOIL 110", "blocks": ["full"]}, {"course": "BAKE 120"}]
            run_sql(
                database,
                "INSERT INTO fits_drafts (student_term_id, name, question, numbers, seen, kept_at) "
                "SELECT id, 'Draft', %s, '{}', '[]', now() FROM student_terms",
                (Jsonb({"wants": wants, "free": []}),),
            )
            for kind in ("ring closed", "instalment missed"):
                run_sql(
                    database,
                    "INSERT INTO messages (person_id, kind, facts, made_at) SELECT id, %s, %s, now() FROM persons",
                    (kind, Jsonb({"section": "SOIL 110", "receipt": 7})),
                )
        self.assertLessEqual({"0014_trade_words", "0015_more_trade_words"}, set(migrate(database)))
        with connected(database):
            ((policy,),) = fetch_sql(database, "SELECT policy FROM terms")
            kept = fetch_sql(database, "SELECT kind, facts FROM messages ORDER BY id")
            ((question,),) = fetch_sql(database, "SELECT question FROM timetable_drafts")
        self.assertEqual(
            policy,
            {
                "account": {"installments": [plan], "warn_days": [7], "anticipated_payments_count": True},
                "permission_code_days": 12,
                "most_open_permission_codes": 9,
                "full_time": 6,
            },
        )
        facts = {"section": "SOIL 110", "confirmation": 7}
        self.assertEqual(
            list(kept), [(MessageKind.SEATS_TRADED, facts), (MessageKind.INSTALLMENT_MISSED, facts)]
        )
        self.assertEqual(
            question,
            {"wants": [{"course": "SOIL 110", "sessions": ["full"]}, {"course": "BAKE 120"}], "free": []},
        )

    def test_every_table_and_every_model_says_what_it_is(self) -> None:
        for table in TABLES:
            with self.subTest(table.__name__):
                self.assertTrue(table.__doc__)
        self.assertEqual(len(TABLES), len({t._meta.table_name for t in TABLES}))


if __name__ == "__main__":
    unittest.main()
