"""Tables of academic plans."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import (
    CODE,
    NUMBER,
    OF_STUDENT,
    OF_TERM,
    STUDENT,
    USERNAME,
    may,
    must,
    names,
    text,
)
from gremba.core.students.academic_plan import MOST_ALTERNATIVES, MOST_LINES, MOST_OF_NOTE

PLANS: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "plans",
        "What students and their advisors mean to do, term by term: versions, of which the last counts.",
        (
            STUDENT,
            must("version", "1 for the first", "2", ValueKind.WHOLE, least=1, most=100_000),
            must("written_by", "user name", "idris", **USERNAME),
            must("written_at", "when", "2027-03-19T11:00-04:00", ValueKind.MOMENT),
            may("student_agreed_at", ValueKind.MOMENT, "empty while they have not", "2027-03-20T09:00-04:00"),
            may("advisor_agreed_at", ValueKind.MOMENT, "likewise for the college", "2027-03-19T11:00-04:00"),
            may("advisor", ValueKind.TEXT, "user name of the advisor who agreed", "idris"),
        ),
        key=("username", "version"),
        targets=(
            OF_STUDENT,
            names("people", username="written_by"),
            names("people", username="advisor"),
        ),
    ),
    ExchangeTable(
        "plan_lines",
        "What stands in a version of a plan. It is written once: what changes is another version.",
        (
            STUDENT,
            must("version", "of the plan", "2", ValueKind.WHOLE, least=1, most=100_000),
            must("place", "1 for the first line", "1", ValueKind.WHOLE, least=1, most=MOST_LINES),
            must("term", "code of the term", "harvest-2027", **CODE),
            must(
                "courses",
                "of several, as many as `count`",
                "SOIL 240; SOIL 110",
                ValueKind.LIST,
            ),
            may(
                "count",
                ValueKind.WHOLE,
                "how many of the courses are to be taken",
                "1",
                if_empty=1,
                least=1,
                most=MOST_ALTERNATIVES,
            ),
            may(
                "section",
                ValueKind.TEXT,
                "reference number, where the very section is meant",
                "30412",
                **NUMBER,
            ),
            text(
                "note",
                "for readers of the plan",
                "Only with the field hours.",
                pattern=rf"[\s\S]{{0,{MOST_OF_NOTE}}}",
                pattern_words=f"{MOST_OF_NOTE} characters at the most",
            ),
        ),
        key=("username", "version", "place"),
        targets=(
            names("plans", username="username", version="version"),
            OF_TERM,
            names("courses", course="courses"),
            names("sections", term="term", number="section"),
        ),
    ),
)
