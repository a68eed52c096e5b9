"""Tables of terms, their calendar and policies."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import CODE, OF_TERM, TERM, choice, day, may, must
from gremba.core.states import TermState

TERMS: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "terms",
        "Terms.",
        (
            must("code", "as it stands in addresses", "harvest-2027", **CODE),
            must("name", "as people call it", "Harvest 2027"),
            must("zone", "in which its days and hours are", "America/New_York", ValueKind.ZONE),
            day("first_day", "first day", "2027-08-23"),
            day("last_day", "last day", "2027-12-10"),
            choice(
                "state",
                TermState,
                "whether students see it and can change anything; the registrar opens it on a page",
                if_empty=TermState.PREPARED.value,
            ),
            may(
                "late_from",
                ValueKind.DAY,
                "students who first register on or after this day pay the late fee",
                "2027-08-16",
            ),
            may("late_fee", ValueKind.MONEY, "charged once", "40.00", if_empty=0, least=0),
        ),
        key=("code",),
        ordered=(("first_day", "last_day"),),
    ),
    ExchangeTable(
        "policies",
        "What the college has decided for a term: limits, due dates, requests, texts.",
        (
            TERM,
            must("setting", "which decision", "credit_limits", pattern="[a-z_]{1,40}"),
            must("value", "what was decided", '{"good": 18, "probation": 13}', ValueKind.DOCUMENT),
        ),
        key=("term", "setting"),
        targets=(OF_TERM,),
    ),
    ExchangeTable(
        "breaks",
        "Days of a term without classes.",
        (
            TERM,
            must("name", "as people call it", "autumn break"),
            day("first_day", "first day without classes", "2027-11-22"),
            day("last_day", "last of them", "2027-11-26"),
        ),
        key=("term", "first_day"),
        targets=(OF_TERM,),
        ordered=(("first_day", "last_day"),),
    ),
    ExchangeTable(
        "sessions",
        "Parts of a term that sections run in: all of it, a half, a few weeks; with their deadlines.",
        (
            TERM,
            must("code", "short name, as sections name it", "full", **CODE),
            must("name", "as people call it", "full term"),
            day("first_day", "first day", "2027-08-23"),
            day("last_day", "last day", "2027-12-10"),
            day("add_by", "last day to add", "2027-08-27"),
            day("drop_by", "last day on which a drop leaves no trace", "2027-09-03"),
            day("withdraw_by", "last day on which a drop is a withdrawal", "2027-11-05"),
            may(
                "refunds",
                ValueKind.REFUNDS,
                "per cent of tuition given back through which day, first to last",
                "100% 2027-08-27; 50% 2027-09-10",
                if_empty=[],
            ),
        ),
        key=("term", "code"),
        targets=(OF_TERM,),
        ordered=(("first_day", "last_day"), ("drop_by", "withdraw_by"), ("withdraw_by", "last_day")),
    ),
)
