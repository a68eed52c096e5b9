"""Tables of people and students."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import (
    OF_STUDENT,
    STUDENT,
    SUBJECT,
    USERNAME,
    choice,
    day,
    may,
    must,
    names,
    text,
    yes,
)
from gremba.core.states import Role

PEOPLE: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "people",
        "Everybody who can sign in. New ones set their password by a link that an office sends.",
        (
            must("username", "by which they sign in", "wren", **USERNAME),
            must("full_name", "as they are called", "Wren Halloway"),
            choice("role", Role, "what they are at the college", required=True),
            text(
                "email",
                "where mail to them goes; empty where there is none",
                "wren@brindlemere.example",
                pattern=r"[^@\s]+@[^@\s]+",
                pattern_words="an address with an @",
            ),
        ),
        key=("username",),
    ),
    ExchangeTable(
        "students",
        "What the rules ask about students; each is a row of people, too.",
        (
            STUDENT,
            text("program", "what they study", "Land stewardship"),
            text("cohort", "group they began with", "2025"),
            may("campus", ValueKind.TEXT, "code of their campus", "hillfoot"),
            text("residence", "where they live on campus", "Mill House"),
            may("advisor", ValueKind.TEXT, "user name of their advisor", "idris"),
            yes("receives_aid", "whether aid depends on their credits"),
            text("rate_class", "by which the tariff charges; empty for the usual one", "beyond"),
        ),
        key=("username",),
        targets=(
            names("people", username="username"),
            names("campuses", code="campus"),
            names("people", username="advisor"),
        ),
    ),
    ExchangeTable(
        "details",
        "How students are reached.",
        (
            STUDENT,
            text("phone", "telephone", "555-0142"),
            text("address", "where they live", "12 Quern Lane, Brindlemere"),
            text("emergency_name", "whom to call", "Ash Halloway"),
            text("emergency_phone", "at which number", "555-0143"),
        ),
        key=("username",),
        targets=(OF_STUDENT,),
    ),
    ExchangeTable(
        "records",
        "Courses on students' records: done, brought from elsewhere, or under way.",
        (
            STUDENT,
            must("course", "as it was called then; it need not be offered any more", "SOIL 110"),
            must("term", "name of the term, in any words", "Harvest 2026"),
            may("grade", ValueKind.TEXT, "empty while it is under way", "B+"),
            must("credits", "credits", "3", ValueKind.CREDITS, least=0, most=99),
        ),
        key=("username", "course", "term"),
        targets=(OF_STUDENT,),
    ),
    ExchangeTable(
        "placements",
        "Scores in tests that decide where students begin.",
        (
            STUDENT,
            must("test", "name of the test", "field test"),
            must("score", "what was reached", "64", ValueKind.WHOLE, least=-100_000, most=100_000),
            day("taken_on", "when", "2026-08-20"),
        ),
        key=("username", "test", "taken_on"),
        targets=(OF_STUDENT,),
    ),
    ExchangeTable(
        "heads",
        "Who decides for a department, which is for the courses of a subject.",
        (
            must("subject", "code of the subject", "CERM", **SUBJECT),
            must("username", "user name", "petra", **USERNAME),
        ),
        key=("subject", "username"),
        targets=(names("subjects", code="subject"), names("people", username="username")),
    ),
)
