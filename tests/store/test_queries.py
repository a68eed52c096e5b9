"""How queries are put: however many values, in whatever plan."""

from __future__ import annotations

import re
import unittest
from datetime import UTC, datetime
from unittest import mock

from gremba.core.registration.changes import Kind
from gremba.store.database import connected, fetch_sql, run_sql
from gremba.store.models import Person, Session
from gremba.store.queries import fetch_values, has_rows, one_of
from gremba.store.registration import carts
from gremba.store.registration.carts import NewChange
from gremba.store.waitlists import entries
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database


class Queries(unittest.TestCase):
    def setUp(self) -> None:
        self.campus = Campus(new_database())
        self.addCleanup(self.campus.close)

    def test_one_of_none_of_a_few_and_of_more_than_a_statement_has_values(self) -> None:
        people = [who.id for who in self.campus.people(3)]
        with connected(self.campus.database) as database:
            for wanted, found in (
                ([], []),
                (people[1:], people[1:]),
                ([*range(70_000)], people),
                ([-1], []),
            ):
                query = Person.select(Person.id).where(one_of(Person.id, wanted)).order_by(Person.id)
                self.assertEqual(fetch_values(database, query), found)
            self.assertFalse(
                has_rows(
                    database, Session.select(Session.id).where(one_of(Session.token_digest, [b"a", b"b"]))
                )
            )

    def test_a_cart_is_put_in_order_by_whoever_is_named_first(self) -> None:
        [who] = self.campus.people(1)
        numbers = [self.campus.section(seats=5) for _ in range(4)]
        term = self.campus.context().term(TERM)
        with connected(self.campus.database) as database:
            new = [NewChange(Kind.ADD, term.by_number[n]) for n in numbers]
            carts.append(database, who.row, term.id, new, datetime.now(UTC))
            ids = [c.id for c in carts.read_cart(database, who.row, term).changes]
            for named, order in (
                ([3, 1], [3, 1, 0, 2]),
                ([2, 0, 2, 3], [2, 0, 3, 1]),
                ([], [2, 0, 3, 1]),
            ):
                carts.reorder(database, who.row, [*(ids[n] for n in named), 999_999])
                cart = carts.read_cart(database, who.row, term)
                self.assertEqual([c.id for c in cart.changes], [ids[n] for n in order])

    def test_who_waits_is_found_by_its_index_whatever_the_plan(self) -> None:
        """A plan that is kept for all values knows no state that is a value."""
        put = []
        with connected(self.campus.database) as database:
            original = database.execute_sql

            def noting(sql: str, values: object = None) -> object:
                put.append(sql)
                return original(sql, values)

            with mock.patch.object(database, "execute_sql", noting):
                entries.first_in_line(database, 1, 5)
            numbered = iter(range(1, 9))
            sql = re.sub("%s", lambda _: f"${next(numbered)}", put[0])
            for setting in ("plan_cache_mode = force_generic_plan", "enable_seqscan = off"):
                run_sql(database, f"SET {setting}")
            # Only this index has the order, so a plan that knows it need not sort.
            run_sql(database, f"PREPARE heads (int, int) AS {sql}")
            plan = "\n".join(row[0] for row in fetch_sql(database, "EXPLAIN EXECUTE heads (1, 5)"))
            self.assertIn("waitlist_entries_in_line", plan)


if __name__ == "__main__":
    unittest.main()
