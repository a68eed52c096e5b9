"""Tables of rates and fees."""

from __future__ import annotations

from gremba.core.account.tariff import FeeRefund
from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import OF_TERM, TERM, choice, may, must, names, place, text, yes
from gremba.core.states import Delivery

TARIFF: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "tariff_rates",
        "What students pay for tuition in a term, by the class that they are in.",
        (
            TERM,
            text("rate_class", "as students name it; empty for the usual one", "beyond"),
            text("name", "behind “rates” on a statement", "from beyond the valley"),
            must("per_credit", "for each credit", "385.00", ValueKind.MONEY, least=0),
            may("band_price", ValueKind.MONEY, "for any credits of the band", "4620.00", least=0),
            may(
                "band_from",
                ValueKind.CREDITS,
                "first credits of the band",
                "12",
                if_empty=12.0,
                least=0,
                most=99,
            ),
            may(
                "band_to",
                ValueKind.CREDITS,
                "last of them; each above costs as a credit does",
                "18",
                if_empty=18.0,
                least=0,
                most=99,
            ),
            may(
                "audit_per_credit",
                ValueKind.MONEY,
                "for each credit of a course that is audited",
                "60.00",
                if_empty=0,
                least=0,
            ),
        ),
        key=("term", "rate_class"),
        targets=(OF_TERM,),
        ordered=(("band_from", "band_to"),),
    ),
    ExchangeTable(
        "tariff_fees",
        "Fees of a term beside tuition and beside those of courses and sections.",
        (
            TERM,
            must("label", "as it stands on a statement", "Term fee"),
            must("amount", "what it is", "165.00", ValueKind.MONEY, least=0),
            may("campus", ValueKind.TEXT, "code of the campus whose sections bring it", "hillfoot"),
            choice("delivery", Delivery, "how the sections are taught that bring it; with neither, any do"),
            yes("each", "whether it is charged with every one of them, not once"),
            choice(
                "refund",
                FeeRefund,
                "what is given back of it when what brought it is dropped",
                if_empty=FeeRefund.WHILE_ALL_IS.value,
            ),
            place("2 for the second fee of a term, and so on"),
        ),
        key=("term", "place"),
        targets=(OF_TERM, names("campuses", code="campus")),
    ),
)
