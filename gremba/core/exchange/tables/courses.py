"""Tables of courses, independent of terms."""

from __future__ import annotations

from gremba.core.exchange.definition import ExchangeTable, ValueKind
from gremba.core.exchange.tables.columns import SUBJECT, choice, may, must, names, text, yes
from gremba.core.states import RepeatPolicy

COURSES: tuple[ExchangeTable, ...] = (
    ExchangeTable(
        "subjects",
        "Fields of study, as courses are named by them.",
        (
            must("code", "as it stands before the number", "SOIL", **SUBJECT),
            must("name", "as people call it", "Soil science"),
        ),
        key=("code",),
    ),
    ExchangeTable(
        "courses",
        "Courses, whatever the term.",
        (
            must("subject", "code of its subject", "SOIL", **SUBJECT),
            must(
                "number",
                "within the subject",
                "240",
                pattern="[0-9]{3}[A-Z]?",
                pattern_words="three figures, and a capital letter or none",
            ),
            must("title", "its title", "Soil Life"),
            text("description", "what it is about", "What lives in a spadeful of earth."),
            must("credits_least", "credits", "3", ValueKind.CREDITS, least=0, most=99),
            must(
                "credits_most", "more than the least where they are chosen", "3", ValueKind.CREDITS, most=99
            ),
            may("requisites", ValueKind.REQUISITE, "what it asks for", "all(SOIL 110:C, CHEM 110)"),
            may(
                "gradings",
                ValueKind.LIST,
                "how it is graded; the first is the usual way",
                "standard; pass/no pass; audit",
                if_empty=["standard"],
            ),
            may("equivalents", ValueKind.LIST, "courses that count as this one", "SOIL 241", if_empty=[]),
            yes("by_topic", "whether another topic is another course"),
            may("attempts_allowed", ValueKind.WHOLE, "how often it may be begun", "3", least=1, most=99),
            may("tags", ValueKind.LIST, "requirements that it counts for", "Natural science", if_empty=[]),
            may("fees", ValueKind.FEES, "charged with it", "materials 30.00", if_empty=[]),
            choice(
                "repeats",
                RepeatPolicy,
                "what becomes of it when it is taken again",
                if_empty=RepeatPolicy.BEST_COUNTS.value,
            ),
        ),
        key=("subject", "number"),
        targets=(names("subjects", code="subject"),),
        ordered=(("credits_least", "credits_most"),),
    ),
)
