"""Tables of campuses and rooms."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import CODE, must, names

PLACES: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "campuses",
        "Places where classes meet.",
        (
            must("code", "short name, as other tables name it", "hillfoot", **CODE),
            must("name", "as people call it", "Hillfoot"),
        ),
        key=("code",),
    ),
    ExchangeTable(
        "travel",
        "How long the way between two campuses takes, one row for each pair.",
        (
            must("campus_from", "code of the campus whose code comes first in the alphabet", "hillfoot"),
            must("campus_to", "code of the other", "millrace"),
            must("minutes", "the same both ways", "15", ValueKind.WHOLE, least=1, most=600),
        ),
        key=("campus_from", "campus_to"),
        targets=(names("campuses", code="campus_from"), names("campuses", code="campus_to")),
        ordered=(("campus_from", "campus_to"),),
    ),
    ExchangeTable(
        "rooms",
        "Rooms, and how many each holds.",
        (
            must("campus", "code of its campus", "hillfoot"),
            must("name", "as meetings name it", "Hillfoot 30"),
            must("capacity", "students it holds", "24", ValueKind.WHOLE, least=1, most=100_000),
        ),
        key=("campus", "name"),
        targets=(names("campuses", code="campus"),),
    ),
)
