"""Every student of the demo has a true statement: reckoned once more from the rows themselves, by other code."""

from __future__ import annotations

import unittest
from collections import defaultdict
from typing import Any

from gremba.actions.context import ActionContext
from gremba.core.account.charges import ChargeEvent, ChargeKind, Charges
from gremba.core.account.statement import statement
from gremba.core.catalogue.term import TermCatalogue
from gremba.demo.morning import SetClock
from gremba.demo.season import MORNING
from gremba.store.account.ledger import read_account, read_accounts
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.registration.situations import read_situations
from tests.core.account.plainly import total_cents
from tests.support.servers import new_database


class DemoAccounts(unittest.TestCase):
    def test_every_statement_is_what_plain_code_makes_of_the_rows(self) -> None:
        database = connect(new_database("demo"))
        self.addCleanup(database.close_all)
        context = ActionContext(database, CatalogueCache(database), SetClock(MORNING))
        for code in ("thaw-2027", "harvest-2027"):
            term = context.term(code)
            with connected(database):
                rows = fetch_sql(
                    database,
                    "SELECT st.id, s.rate_class FROM student_terms st JOIN students s ON s.id = st.student_id "
                    "WHERE st.term_id = %s ORDER BY st.id",
                    (term.id,),
                )
                self.assertEqual(len(rows), 2_400)
                happened = self.history(database, term)
                money: dict[int, int] = dict(
                    fetch_sql(
                        database,
                        "SELECT student_term_id, sum(amount_cents)::int FROM ledger_entries GROUP BY 1",
                    )
                )
                accounts = read_accounts(database, term, [row for row, _ in rows])
                situations = read_situations(database, {row: term for row, _ in rows}, {})
                full = read_account(database, term, rows[0][0])
            charged = 0
            for row, rate_class in rows:
                told = statement(accounts[row])
                plain = total_cents(term.policy.tariff, rate_class, happened[row])
                self.assertEqual(
                    (told.charged_cents, told.paid_cents), (plain, money.get(row, 0)), (code, row)
                )
                # Who has neither dropped nor adjusted anything has no history read: it is the same.
                short = Charges(term.policy.tariff, rate_class, situations[row].charge_events)
                self.assertEqual(short.total_cents, plain, (code, row))
                charged += plain
            self.assertGreater(charged, 3_000_000_00)
            self.assertEqual(sum(entry.amount_cents for entry in full.entries), full.paid_cents)

    def history(self, database: Any, term: TermCatalogue) -> dict[int, list[ChargeEvent]]:
        """What happened, by row of the term, in the order of the clock: it only goes on in the demo's past."""
        found: dict[int, list[tuple[Any, ...]]] = defaultdict(list)
        for row, section, credits, grading, began, ended in fetch_sql(
            database,
            "SELECT student_term_id, section_id, credits::float, grading, registered_at, ended_at "
            "FROM registrations WHERE term_id = %s ORDER BY id",
            (term.id,),
        ):
            zone = term.calendar.zone
            here = term.by_id[section]
            day = began.astimezone(zone).date()
            found[row].append((began, 1, ChargeEvent(ChargeKind.REGISTERED, here, credits, grading, day)))
            if ended is not None:
                day = ended.astimezone(zone).date()
                found[row].append((ended, 0, ChargeEvent(ChargeKind.DROPPED, here, on=day)))
        return defaultdict(
            list,
            {row: [e for _, _, e in sorted(events, key=lambda x: x[:2])] for row, events in found.items()},
        )
