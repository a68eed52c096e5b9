"""Every table of the exchange folder, in an order in which each names only those before it."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import Any

from gremba.core.account.tariff import FeeRefund
from gremba.core.exchange.definition import Column, ExchangeTable, Target, ValueKind
from gremba.core.situation import ClearanceKind
from gremba.core.states import (
    ClearedBy,
    Component,
    Delivery,
    RepeatPolicy,
    ReservedFor,
    Role,
    Stopped,
    TermState,
    WaitlistWay,
)
from gremba.core.study_plans import MOST_ALTERNATIVES, MOST_LINES, MOST_OF_NOTE

_CODE: dict[str, Any] = {
    "pattern": r"[a-z0-9][a-z0-9-]{0,39}",
    "pattern_words": "small letters, figures and hyphens",
}
_NUMBER: dict[str, Any] = {"pattern": r"[0-9]{5}", "pattern_words": "five figures"}
_USERNAME: dict[str, Any] = {
    "pattern": r"[a-z0-9][a-z0-9._-]{0,59}",
    "pattern_words": "small letters, figures, . _ and -",
}
_SUBJECT: dict[str, Any] = {"pattern": r"[A-Z]{2,6}", "pattern_words": "two to six capital letters"}
_COURSE: dict[str, Any] = {
    "pattern": r"[A-Z]{2,6} [0-9]{3}[A-Z]?",
    "pattern_words": "subject and number, as SOIL 110",
}


def _text(name: str, meaning: str, example: str, **more: Any) -> Column:
    """A text; an empty cell is a text of no length."""
    return Column(name, ValueKind.TEXT, meaning, example, **({"if_empty": ""} | more))


def _must(name: str, meaning: str, example: str, kind: ValueKind = ValueKind.TEXT, **more: Any) -> Column:
    return Column(name, kind, meaning, example, required=True, **more)


def _may(name: str, kind: ValueKind, meaning: str, example: str, **more: Any) -> Column:
    return Column(name, kind, meaning, example, **more)


def _choice(name: str, among: Iterable[StrEnum], meaning: str, **more: Any) -> Column:
    words = tuple(one.value for one in among)
    return Column(name, ValueKind.CHOICE, meaning, words[0], among=words, **more)


def _yes(name: str, meaning: str, *, if_empty: bool = False) -> Column:
    return Column(name, ValueKind.YES_NO, meaning, "no" if if_empty else "yes", if_empty=if_empty)


def _day(name: str, meaning: str, example: str) -> Column:
    return _must(name, meaning, example, ValueKind.DAY)


def _place(meaning: str) -> Column:
    """Which of several of one owner it is: so it is known again when all else of it changes."""
    return _may("place", ValueKind.WHOLE, meaning, "1", if_empty=1, least=1, most=99)


def _names(table: str, **columns: str) -> Target:
    """A row of a table, by its columns: ``_names("terms", code="term")``."""
    return Target(table, columns)


def is_by_term(table: ExchangeTable) -> bool:
    """Whether each of a table's rows belongs to a term. Records name terms, but belong to students."""
    return "term" in table.key and table.name != "records"


_TERM = _must("term", "code of the term", "harvest-2027", **_CODE)
_SECTION = _must("number", "reference number of the section", "30412", **_NUMBER)
_STUDENT = _must("username", "user name of the student", "wren", **_USERNAME)
_OF_TERM = _names("terms", code="term")
_OF_SECTION = _names("sections", term="term", number="number")
_OF_STUDENT = _names("students", username="username")
_OF_STUDENT_TERM = _names("student_terms", term="term", username="username")

TABLES: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "campuses",
        "Places where classes meet.",
        (
            _must("code", "short name, as other tables name it", "hillfoot", **_CODE),
            _must("name", "as people call it", "Hillfoot"),
        ),
        key=("code",),
    ),
    ExchangeTable(
        "travel",
        "How long the way between two campuses takes, one row for each pair.",
        (
            _must("campus_from", "code of the campus whose code comes first in the alphabet", "hillfoot"),
            _must("campus_to", "code of the other", "millrace"),
            _must("minutes", "the same both ways", "15", ValueKind.WHOLE, least=1, most=600),
        ),
        key=("campus_from", "campus_to"),
        targets=(_names("campuses", code="campus_from"), _names("campuses", code="campus_to")),
        ordered=(("campus_from", "campus_to"),),
    ),
    ExchangeTable(
        "rooms",
        "Rooms, and how many each holds.",
        (
            _must("campus", "code of its campus", "hillfoot"),
            _must("name", "as meetings name it", "Hillfoot 30"),
            _must("capacity", "students it holds", "24", ValueKind.WHOLE, least=1, most=100_000),
        ),
        key=("campus", "name"),
        targets=(_names("campuses", code="campus"),),
    ),
    ExchangeTable(
        "terms",
        "Terms.",
        (
            _must("code", "as it stands in addresses", "harvest-2027", **_CODE),
            _must("name", "as people call it", "Harvest 2027"),
            _must("zone", "in which its days and hours are", "America/New_York", ValueKind.ZONE),
            _day("first_day", "first day", "2027-08-23"),
            _day("last_day", "last day", "2027-12-10"),
            _choice(
                "state",
                TermState,
                "whether students see it and can change anything; the registrar opens it on a page",
                if_empty=TermState.PREPARED.value,
            ),
            _may(
                "late_from",
                ValueKind.DAY,
                "whoever first registers on this day or later pays the late fee",
                "2027-08-16",
            ),
            _may("late_fee", ValueKind.MONEY, "charged once", "40.00", if_empty=0, least=0),
        ),
        key=("code",),
        ordered=(("first_day", "last_day"),),
    ),
    ExchangeTable(
        "policies",
        "What the college has decided for a term: limits, due dates, requests, texts.",
        (
            _TERM,
            _must("setting", "which decision", "credit_limits", pattern="[a-z_]{1,40}"),
            _must("value", "what was decided", '{"good": 18, "probation": 13}', ValueKind.DOCUMENT),
        ),
        key=("term", "setting"),
        targets=(_OF_TERM,),
    ),
    ExchangeTable(
        "tariff_rates",
        "What students pay for tuition in a term, by the class that they are in.",
        (
            _TERM,
            _text("rate_class", "as students name it; empty for the usual one", "beyond"),
            _text("name", "behind “rates” on a statement", "from beyond the valley"),
            _must("per_credit", "for each credit", "385.00", ValueKind.MONEY, least=0),
            _may("band_price", ValueKind.MONEY, "for any credits of the band", "4620.00", least=0),
            _may(
                "band_from",
                ValueKind.CREDITS,
                "first credits of the band",
                "12",
                if_empty=12.0,
                least=0,
                most=99,
            ),
            _may(
                "band_to",
                ValueKind.CREDITS,
                "last of them; each above costs as a credit does",
                "18",
                if_empty=18.0,
                least=0,
                most=99,
            ),
            _may(
                "audit_per_credit",
                ValueKind.MONEY,
                "for each credit of a course that is audited",
                "60.00",
                if_empty=0,
                least=0,
            ),
        ),
        key=("term", "rate_class"),
        targets=(_OF_TERM,),
        ordered=(("band_from", "band_to"),),
    ),
    ExchangeTable(
        "tariff_fees",
        "Fees of a term beside tuition and beside those of courses and sections.",
        (
            _TERM,
            _must("label", "as it stands on a statement", "Term fee"),
            _must("amount", "what it is", "165.00", ValueKind.MONEY, least=0),
            _may("campus", ValueKind.TEXT, "code of the campus whose sections bring it", "hillfoot"),
            _choice("delivery", Delivery, "how the sections are taught that bring it; with neither, any do"),
            _yes("each", "whether it is charged with every one of them, not once"),
            _choice(
                "refund",
                FeeRefund,
                "what is given back of it when what brought it is dropped",
                if_empty=FeeRefund.WHILE_ALL_IS.value,
            ),
            _place("2 for the second fee of a term, and so on"),
        ),
        key=("term", "place"),
        targets=(_OF_TERM, _names("campuses", code="campus")),
    ),
    ExchangeTable(
        "breaks",
        "Days of a term without classes.",
        (
            _TERM,
            _must("name", "as people call it", "autumn break"),
            _day("first_day", "first day without classes", "2027-11-22"),
            _day("last_day", "last of them", "2027-11-26"),
        ),
        key=("term", "first_day"),
        targets=(_OF_TERM,),
        ordered=(("first_day", "last_day"),),
    ),
    ExchangeTable(
        "blocks",
        "Parts of a term that sections run in: all of it, a half, a few weeks; with their deadlines.",
        (
            _TERM,
            _must("code", "short name, as sections name it", "full", **_CODE),
            _must("name", "as people call it", "full term"),
            _day("first_day", "first day", "2027-08-23"),
            _day("last_day", "last day", "2027-12-10"),
            _day("add_by", "last day to add", "2027-08-27"),
            _day("drop_by", "last day on which a drop leaves no trace", "2027-09-03"),
            _day("withdraw_by", "last day on which a drop is a withdrawal", "2027-11-05"),
            _may(
                "refunds",
                ValueKind.REFUNDS,
                "per cent of tuition given back through which day, first to last",
                "100% 2027-08-27; 50% 2027-09-10",
                if_empty=[],
            ),
        ),
        key=("term", "code"),
        targets=(_OF_TERM,),
        ordered=(("first_day", "last_day"), ("drop_by", "withdraw_by"), ("withdraw_by", "last_day")),
    ),
    ExchangeTable(
        "subjects",
        "Fields of study, as courses are named by them.",
        (
            _must("code", "as it stands before the number", "SOIL", **_SUBJECT),
            _must("name", "as people call it", "Soil science"),
        ),
        key=("code",),
    ),
    ExchangeTable(
        "courses",
        "Courses, whatever the term.",
        (
            _must("subject", "code of its subject", "SOIL", **_SUBJECT),
            _must(
                "number",
                "within the subject",
                "240",
                pattern="[0-9]{3}[A-Z]?",
                pattern_words="three figures, and a capital letter or none",
            ),
            _must("title", "its title", "Soil Life"),
            _text("description", "what it is about", "What lives in a spadeful of earth."),
            _must("credits_least", "credits", "3", ValueKind.CREDITS, least=0, most=99),
            _must(
                "credits_most", "more than the least where they are chosen", "3", ValueKind.CREDITS, most=99
            ),
            _may("requisites", ValueKind.REQUISITE, "what it asks for", "all(SOIL 110:C, CHEM 110)"),
            _may(
                "gradings",
                ValueKind.LIST,
                "how it is graded; the first is the usual way",
                "standard; pass/no pass; audit",
                if_empty=["standard"],
            ),
            _may("equivalents", ValueKind.LIST, "courses that count as this one", "SOIL 241", if_empty=[]),
            _yes("by_topic", "whether another topic is another course"),
            _may("attempts_allowed", ValueKind.WHOLE, "how often it may be begun", "3", least=1, most=99),
            _may("tags", ValueKind.LIST, "requirements that it counts for", "Natural science", if_empty=[]),
            _may("fees", ValueKind.FEES, "charged with it", "materials 30.00", if_empty=[]),
            _choice(
                "repeats",
                RepeatPolicy,
                "what becomes of it when it is taken again",
                if_empty=RepeatPolicy.BEST_COUNTS.value,
            ),
        ),
        key=("subject", "number"),
        targets=(_names("subjects", code="subject"),),
        ordered=(("credits_least", "credits_most"),),
    ),
    ExchangeTable(
        "people",
        "Everybody who can sign in. New ones set their password by a link that an office sends.",
        (
            _must("username", "by which they sign in", "wren", **_USERNAME),
            _must("full_name", "as they are called", "Wren Halloway"),
            _choice("role", Role, "what they are at the college", required=True),
            _text(
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
            _STUDENT,
            _text("program", "what they study", "Land stewardship"),
            _text("cohort", "group they began with", "2025"),
            _may("campus", ValueKind.TEXT, "code of their campus", "hillfoot"),
            _text("residence", "where they live on campus", "Mill House"),
            _may("advisor", ValueKind.TEXT, "user name of their advisor", "idris"),
            _yes("receives_aid", "whether aid depends on their credits"),
            _text("rate_class", "by which the tariff charges; empty for the usual one", "beyond"),
        ),
        key=("username",),
        targets=(
            _names("people", username="username"),
            _names("campuses", code="campus"),
            _names("people", username="advisor"),
        ),
    ),
    ExchangeTable(
        "details",
        "How students are reached.",
        (
            _STUDENT,
            _text("phone", "telephone", "555-0142"),
            _text("address", "where they live", "12 Quern Lane, Brindlemere"),
            _text("emergency_name", "whom to call", "Ash Halloway"),
            _text("emergency_phone", "at which number", "555-0143"),
        ),
        key=("username",),
        targets=(_OF_STUDENT,),
    ),
    ExchangeTable(
        "records",
        "Courses on students' records: done, brought from elsewhere, or under way.",
        (
            _STUDENT,
            _must("course", "as it was called then; it need not be offered any more", "SOIL 110"),
            _must("term", "name of the term, in any words", "Harvest 2026"),
            _may("grade", ValueKind.TEXT, "empty while it is under way", "B+"),
            _must("credits", "credits", "3", ValueKind.CREDITS, least=0, most=99),
        ),
        key=("username", "course", "term"),
        targets=(_OF_STUDENT,),
    ),
    ExchangeTable(
        "placements",
        "Scores in tests that decide where students begin.",
        (
            _STUDENT,
            _must("test", "name of the test", "field test"),
            _must("score", "what was reached", "64", ValueKind.WHOLE, least=-100_000, most=100_000),
            _day("taken_on", "when", "2026-08-20"),
        ),
        key=("username", "test", "taken_on"),
        targets=(_OF_STUDENT,),
    ),
    ExchangeTable(
        "heads",
        "Who decides for a department, which is for the courses of a subject.",
        (
            _must("subject", "code of the subject", "CERM", **_SUBJECT),
            _must("username", "user name", "petra", **_USERNAME),
        ),
        key=("subject", "username"),
        targets=(_names("subjects", code="subject"), _names("people", username="username")),
    ),
    ExchangeTable(
        "bundles",
        "Sections that are taken together or not at all; each section names its bundle.",
        (_TERM, _must("name", "as people call it", "First year: soil and water")),
        key=("term", "name"),
        targets=(_OF_TERM,),
    ),
    ExchangeTable(
        "sections",
        "Classes of a term.",
        (
            _TERM,
            _SECTION,
            _must("course", "subject and number", "SOIL 240", **_COURSE),
            _must("block", "code of the block", "full"),
            _choice("component", Component, "kind of class", required=True),
            _choice("delivery", Delivery, "how it is taught", if_empty=Delivery.IN_PERSON.value),
            _may("campus", ValueKind.TEXT, "code of its campus", "hillfoot"),
            _must("seats", "how many may take it", "24", ValueKind.WHOLE, least=0, most=100_000),
            _may(
                "seats_with",
                ValueKind.TEXT,
                "reference number of the section whose seats these are, where they share them",
                "30411",
                **_NUMBER,
            ),
            _yes("carries_credit", "no for a lab whose credits are on the lecture", if_empty=True),
            _yes("cancelled", "whether it does not take place"),
            _text("topic", "of a course by topic", "Peat"),
            _text("notes", "for whoever looks at it", "Bring boots."),
            _may("bundle", ValueKind.TEXT, "name of its bundle", "First year: soil and water"),
            _may(
                "waitlist_limit",
                ValueKind.WHOLE,
                "how many may wait",
                "8",
                if_empty=0,
                least=0,
                most=10_000,
            ),
            _choice(
                "waitlist_way",
                WaitlistWay,
                "how a seat goes to who waits",
                if_empty=WaitlistWay.OFFER.value,
            ),
            _yes("consent_needed", "whether the instructor has to agree"),
            _yes("no_textbook_cost", "whether no textbook has to be paid for"),
            _may(
                "restrictions",
                ValueKind.GROUPS,
                "who may take it, by kind",
                "program: Land stewardship, Orchard and hive; campus: hillfoot",
                if_empty={},
            ),
            _may("fees", ValueKind.FEES, "charged with it", "field trips 45.00", if_empty=[]),
        ),
        key=("term", "number"),
        targets=(
            _OF_TERM,
            _names("courses", course="course"),
            _names("blocks", term="term", code="block"),
            _names("campuses", code="campus"),
            _names("bundles", term="term", name="bundle"),
            _names("sections", term="term", number="seats_with"),
        ),
    ),
    ExchangeTable(
        "meetings",
        "When and where sections meet, week after week.",
        (
            _TERM,
            _SECTION,
            _must(
                "weekdays",
                "letters M T W R F S U, Monday to Sunday",
                "TR",
                pattern="M?T?W?R?F?S?U?",
                pattern_words="letters of MTWRFSU in this order",
            ),
            _must("starts", "from", "09:30", ValueKind.TIME),
            _must("ends", "to", "10:45", ValueKind.TIME),
            _day("first_day", "first day of this meeting", "2027-08-23"),
            _day("last_day", "last day of it", "2027-12-10"),
            _may("campus", ValueKind.TEXT, "code of the campus", "hillfoot"),
            _text("room", "name of the room", "Hillfoot 30"),
            _place("2 for the second meeting of a section, and so on"),
        ),
        key=("term", "number", "place"),
        targets=(_OF_SECTION, _names("campuses", code="campus")),
        ordered=(("first_day", "last_day"), ("starts", "ends")),
    ),
    ExchangeTable(
        "instructors",
        "Who teaches which section.",
        (_TERM, _SECTION, _must("username", "user name", "petra", **_USERNAME)),
        key=("term", "number", "username"),
        targets=(_OF_SECTION, _names("people", username="username")),
    ),
    ExchangeTable(
        "companions",
        "Sections that another must be taken with, one of several: the labs of a lecture.",
        (_TERM, _SECTION, _must("with_number", "reference number of what goes with it", "30413", **_NUMBER)),
        key=("term", "number", "with_number"),
        targets=(_OF_SECTION, _names("sections", term="term", number="with_number")),
    ),
    ExchangeTable(
        "reserved_seats",
        "Seats of a section that are for some.",
        (
            _TERM,
            _SECTION,
            _choice("kind", ReservedFor, "by what it is said for whom", required=True),
            _must("value", "for whom", "2027"),
            _must("seats", "how many", "6", ValueKind.WHOLE, least=1, most=100_000),
            _may("release_on", ValueKind.DAY, "open to all from that day on", "2027-07-01"),
        ),
        key=("term", "number", "kind", "value"),
        targets=(_OF_SECTION,),
    ),
    ExchangeTable(
        "plans",
        "What students and their advisors mean to do, term by term: versions, of which the last counts.",
        (
            _STUDENT,
            _must("version", "1 for the first", "2", ValueKind.WHOLE, least=1, most=100_000),
            _must("written_by", "user name", "idris", **_USERNAME),
            _must("written_at", "when", "2027-03-19T11:00-04:00", ValueKind.MOMENT),
            _may(
                "student_agreed_at", ValueKind.MOMENT, "empty while they have not", "2027-03-20T09:00-04:00"
            ),
            _may("advisor_agreed_at", ValueKind.MOMENT, "likewise for the college", "2027-03-19T11:00-04:00"),
            _may("advisor", ValueKind.TEXT, "user name of who agreed for the college", "idris"),
        ),
        key=("username", "version"),
        targets=(
            _OF_STUDENT,
            _names("people", username="written_by"),
            _names("people", username="advisor"),
        ),
    ),
    ExchangeTable(
        "plan_lines",
        "What stands in a version of a plan. It is written once: what changes is another version.",
        (
            _STUDENT,
            _must("version", "of the plan", "2", ValueKind.WHOLE, least=1, most=100_000),
            _must("place", "1 for the first line", "1", ValueKind.WHOLE, least=1, most=MOST_LINES),
            _must("term", "code of the term", "harvest-2027", **_CODE),
            _must(
                "courses",
                "of several, as many as `count`",
                "SOIL 240; SOIL 110",
                ValueKind.LIST,
            ),
            _may(
                "count",
                ValueKind.WHOLE,
                "how many of the courses are to be taken",
                "1",
                if_empty=1,
                least=1,
                most=MOST_ALTERNATIVES,
            ),
            _may(
                "section",
                ValueKind.TEXT,
                "reference number, where the very section is meant",
                "30412",
                **_NUMBER,
            ),
            _text(
                "note",
                "for whoever reads the plan",
                "Only with the field hours.",
                pattern=rf"[\s\S]{{0,{MOST_OF_NOTE}}}",
                pattern_words=f"{MOST_OF_NOTE} characters at the most",
            ),
        ),
        key=("username", "version", "place"),
        targets=(
            _names("plans", username="username", version="version"),
            _OF_TERM,
            _names("courses", course="courses"),
            _names("sections", term="term", number="section"),
        ),
    ),
    ExchangeTable(
        "student_terms",
        "Who may register for which term, with their standing.",
        (
            _TERM,
            _STUDENT,
            _text("standing", "academic standing", "good", if_empty="good"),
            _may(
                "credit_limit",
                ValueKind.CREDITS,
                "their own; else that of the standing",
                "20",
                least=0,
                most=99,
            ),
        ),
        key=("term", "username"),
        targets=(_OF_TERM, _OF_STUDENT),
    ),
    ExchangeTable(
        "windows",
        "When each student may register.",
        (
            _TERM,
            _STUDENT,
            _must("opens_at", "from", "2027-04-19T09:00-04:00", ValueKind.MOMENT),
            _must("closes_at", "until", "2027-05-03T17:00-04:00", ValueKind.MOMENT),
            _place("2 for the second window of a student, which opens later, and so on"),
        ),
        key=("term", "username", "place"),
        targets=(_OF_STUDENT_TERM,),
        ordered=(("opens_at", "closes_at"),),
    ),
    ExchangeTable(
        "clearance",
        "What each student has to have done before registering.",
        (
            _TERM,
            _STUDENT,
            _choice("item", ClearanceKind, "which item", required=True),
            _may("done_at", ValueKind.MOMENT, "empty while it is to be done", "2027-03-19T11:00-04:00"),
        ),
        key=("term", "username", "item"),
        targets=(_OF_STUDENT_TERM,),
    ),
    ExchangeTable(
        "holds",
        "What stops students until it is lifted.",
        (
            _STUDENT,
            _must("kind", "short name", "fee"),
            _must("placed_at", "since when", "2027-03-19T11:00-04:00", ValueKind.MOMENT),
            _must("reason", "for the student to read", "A workshop fee of 62.00 is unpaid."),
            _must("office", "who has placed it", "the cashier"),
            _must("contact", "how to reach the office", "Hillfoot, room 3"),
            _may(
                "stops",
                ValueKind.LIST,
                "what it stops",
                "add; swap; wait",
                among=tuple(one.value for one in Stopped),
                if_empty=[],
            ),
            _choice("cleared_by", ClearedBy, "who can lift it", required=True),
            _may("amount", ValueKind.MONEY, "what is owed, where that lifts it", "62.00", least=0),
            _may("lifted_at", ValueKind.MOMENT, "empty while it is in force", "2027-04-01T10:00-04:00"),
        ),
        key=("username", "kind", "placed_at"),
        targets=(_OF_STUDENT,),
    ),
)

BY_NAME = {table.name: table for table in TABLES}
