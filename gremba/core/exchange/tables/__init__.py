"""Every table of the exchange folder, in an order in which each names only those before it."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable
from gremba.core.exchange.tables.courses import COURSES
from gremba.core.exchange.tables.people import PEOPLE
from gremba.core.exchange.tables.places import PLACES
from gremba.core.exchange.tables.plans import PLANS
from gremba.core.exchange.tables.registering import REGISTERING
from gremba.core.exchange.tables.sections import SECTIONS
from gremba.core.exchange.tables.tariff import TARIFF
from gremba.core.exchange.tables.terms import TERMS

TABLES: tuple[ExchangeTable, ...] = (
    *PLACES,
    *TERMS,
    *TARIFF,
    *COURSES,
    *PEOPLE,
    *SECTIONS,
    *PLANS,
    *REGISTERING,
)

BY_NAME = {table.name: table for table in TABLES}


def is_by_term(table: ExchangeTable) -> bool:
    """Whether a table's rows belong to terms. Academic records name terms but belong to students."""
    return "term" in table.key and table.name != "records"
