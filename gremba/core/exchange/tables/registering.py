"""Tables of who may register when: windows, clearance, holds."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import (
    OF_STUDENT,
    OF_STUDENT_TERM,
    OF_TERM,
    STUDENT,
    TERM,
    choice,
    may,
    must,
    place,
    text,
)
from gremba.core.states import ClearanceKind, ClearedBy, Stopped

REGISTERING: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "student_terms",
        "Who may register for which term, with their standing.",
        (
            TERM,
            STUDENT,
            text("standing", "academic standing", "good", if_empty="good"),
            may(
                "credit_limit",
                ValueKind.CREDITS,
                "their own; else that of the standing",
                "20",
                least=0,
                most=99,
            ),
        ),
        key=("term", "username"),
        targets=(OF_TERM, OF_STUDENT),
    ),
    ExchangeTable(
        "windows",
        "When each student may register.",
        (
            TERM,
            STUDENT,
            must("opens_at", "from", "2027-04-19T09:00-04:00", ValueKind.MOMENT),
            must("closes_at", "until", "2027-05-03T17:00-04:00", ValueKind.MOMENT),
            place("2 for the second window of a student, which opens later, and so on"),
        ),
        key=("term", "username", "place"),
        targets=(OF_STUDENT_TERM,),
        ordered=(("opens_at", "closes_at"),),
    ),
    ExchangeTable(
        "clearance",
        "What each student has to have done before registering.",
        (
            TERM,
            STUDENT,
            choice("item", ClearanceKind, "which item", required=True),
            may("done_at", ValueKind.MOMENT, "empty while it is to be done", "2027-03-19T11:00-04:00"),
        ),
        key=("term", "username", "item"),
        targets=(OF_STUDENT_TERM,),
    ),
    ExchangeTable(
        "holds",
        "What stops students until it is lifted.",
        (
            STUDENT,
            must("kind", "short name", "fee"),
            must("placed_at", "since when", "2027-03-19T11:00-04:00", ValueKind.MOMENT),
            must("reason", "for the student to read", "A workshop fee of 62.00 is unpaid."),
            must("office", "who has placed it", "the cashier"),
            must("contact", "how to reach the office", "Hillfoot, room 3"),
            may(
                "stops",
                ValueKind.LIST,
                "what it stops",
                "add; swap; wait",
                among=tuple(one.value for one in Stopped),
                if_empty=[],
            ),
            choice("cleared_by", ClearedBy, "who can lift it", required=True),
            may("amount", ValueKind.MONEY, "what is owed, where that lifts it", "62.00", least=0),
            may("lifted_at", ValueKind.MOMENT, "empty while it is in force", "2027-04-01T10:00-04:00"),
        ),
        key=("username", "kind", "placed_at"),
        targets=(OF_STUDENT,),
    ),
)
