"""The table of Find's filters.

A filter is one entry here. From it come its set of sections and the counts beside its values
(:mod:`gremba.core.catalogue.search.find`), the parameter of the search
(:mod:`gremba.web.catalogue.search_query`), the chip on the screen (``frontend/src/api/filters.ts``,
generated) and its part of the tests. Only one that no values of
a section decide needs a function besides, in :mod:`gremba.core.catalogue.search.find`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from math import ceil, floor
from typing import Any

from gremba.core.catalogue.calendar import WEEKDAY_LETTERS
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.wording import WEEKDAYS, credits_text

SORTS: Mapping[str, str] = {
    "course": "by course",
    "time": "earliest in the week first",
    "seats": "most seats first",
    "fit": "what fits first",
}
"""The orders of results, as they are called."""

PARTS_OF_DAY = {"morning": (0, 12 * 60), "afternoon": (12 * 60, 17 * 60), "evening": (17 * 60, 24 * 60)}
"""By when classes start, in minutes since midnight."""

NO_TIMES = "none"
"""As a day: sections without set times."""

ONLINE = "online"
"""As a campus: sections that meet on none."""

MOST_WORDS = 200
"""Characters of words that are looked for."""

MORE = "More"
"""The chip of the filters that are seldom used."""


class Takes(StrEnum):
    """What a filter accepts. Any: values, of which one is enough. Free: times the student has; a section
    passes if it meets at no other. One: a single value. Yes: on or off. Text: as typed. Minute: minutes
    since midnight. Numbers: reference numbers."""

    ANY = "any"
    FREE = "free"
    ONE = "one"
    YES = "yes"
    TEXT = "text"
    MINUTE = "minute"
    NUMBERS = "numbers"


YES = "yes"
"""The one value of a filter that is wanted or not."""

Chosen = str | int | bool | tuple[str, ...]
"""What is chosen of a filter, by what it takes: text and one value as str, minutes as int, yes as bool."""


@dataclass(frozen=True, slots=True)
class Filter:
    """A filter.

    Attributes:
        name: as it stands in addresses.
        called: in sentences.
        chip: of the chip on which it stands, with others of the same; "" for one that the page shows in
            its own way.
        legend: above what can be chosen.
        of: the values that a section has; None where they are none of the section's own.
        always: values that make sense whether or not a section of the term has them.
        value_name: a value as it is called.
        shows_value: on the chip a value stands as it is, not by name up to a comma.
        short: values that stand there in another way.
        reads: how what is typed stands on the chip.
        hint: a sentence below it.
        example: what could be typed.
        needs_week: it is only of use to somebody with a week.
    """

    name: str
    takes: Takes
    called: str
    chip: str = ""
    legend: str = ""
    of: Callable[[Section], Iterable[str]] | None = None
    always: tuple[str, ...] = ()
    value_name: Callable[[TermCatalogue, str], str] = lambda term, value: value
    shows_value: bool = False
    short: Mapping[str, str] = field(default_factory=dict)
    reads: str = "{}"
    hint: str = ""
    example: str = ""
    needs_week: bool = False

    @property
    def has_values(self) -> bool:
        """Whether it has values that are chosen and counted."""
        return self.takes in (Takes.ANY, Takes.FREE, Takes.ONE, Takes.YES)


def _credits_of(section: Section) -> list[str]:
    """The credits a course can have, in steps of one from a half."""
    course = section.course
    between = range(ceil(course.credits_least), floor(course.credits_most) + 1)
    found = {course.credits_least, course.credits_most, *(float(n) for n in between)}
    return [f"{n:g}" for n in sorted(found)]


def _days_of(section: Section) -> list[str]:
    met = {d for m in section.meetings for d in m.weekdays}
    return [WEEKDAY_LETTERS[d] for d in sorted(met)] or [NO_TIMES]


def _parts_of_day(section: Section) -> list[str]:
    starts = [m.start for m in section.meetings]
    return [p for p, (a, b) in PARTS_OF_DAY.items() if any(a <= s < b for s in starts)]


def _session_name(term: TermCatalogue, code: str) -> str:
    session = term.calendar.sessions.get(code)
    return session.name if session else code


def _called(names: Mapping[str, str]) -> Callable[[TermCatalogue, str], str]:
    return lambda term, value: names.get(value, value)


FILTERS: tuple[Filter, ...] = (
    Filter("words", Takes.TEXT, "words"),
    Filter(
        "subject",
        Takes.ANY,
        "subject",
        "Subject",
        "Subject",
        of=lambda s: [s.course.subject],
        value_name=lambda term, value: f"{value} {term.subject_names.get(value, '')}".strip(),
        shows_value=True,
    ),
    Filter(
        "number",
        Takes.TEXT,
        "number",
        "Number",
        "Course number",
        example="142, 1*, 14?",
        hint="142 finds 142A too. 1* is every course of the first level, 14? those from 140 to 149.",
    ),
    Filter(
        "day",
        Takes.FREE,
        "days",
        "Days",
        "Days I have time",
        of=_days_of,
        always=(*WEEKDAY_LETTERS, NO_TIMES),
        value_name=_called(dict(zip(WEEKDAY_LETTERS, WEEKDAYS, strict=True)) | {NO_TIMES: "no set times"}),
        shows_value=True,
        short={NO_TIMES: "no times"},
    ),
    Filter(
        "part",
        Takes.FREE,
        "part of the day",
        "Time",
        "Classes start in the",
        of=_parts_of_day,
        always=tuple(PARTS_OF_DAY),
        value_name=_called(
            {
                "morning": "morning, until 12:00",
                "afternoon": "afternoon, 12:00 to 17:00",
                "evening": "evening, from 17:00",
            }
        ),
    ),
    Filter("time_from", Takes.MINUTE, "earliest time", "Time", "Not before", reads="from {}"),
    Filter(
        "time_to",
        Takes.MINUTE,
        "latest time",
        "Time",
        "Not after",
        reads="to {}",
        hint="Sections without set times are left out, unless “no set times” is chosen under Days.",
    ),
    Filter(
        "campus",
        Takes.ANY,
        "campus",
        "Campus",
        "Campus",
        of=lambda s: sorted(s.campuses or {s.campus or ONLINE}),
        value_name=lambda term, value: term.campus_names.get(value, value),
    ),
    Filter(
        "session",
        Takes.ANY,
        "part of the term",
        "Weeks",
        "The weeks it runs",
        of=lambda s: [s.session.code],
        value_name=_session_name,
    ),
    Filter(
        "counts",
        Takes.ANY,
        "requirement",
        "Counts toward",
        "Counts toward",
        of=lambda s: s.course.tags,
    ),
    Filter(
        "fits",
        Takes.YES,
        "fits my week",
        "Fits my week",
        value_name=_called({YES: "fits my week"}),
        needs_week=True,
    ),
    Filter(
        "seats",
        Takes.ONE,
        "seats",
        "Seats",
        "Seats",
        always=("open", "waitlist"),
        value_name=_called(
            {"open": "with a seat left", "waitlist": "with a seat left, or room on the waitlist"}
        ),
        short={"open": "left", "waitlist": "left or waitlist"},
        hint="A full section can still be worth a look: seats come back, and many have a waitlist.",
    ),
    Filter(
        "no_textbook_cost",
        Takes.YES,
        "no textbook cost",
        MORE,
        "Books",
        of=lambda s: [YES] if s.no_textbook_cost else [],
        value_name=_called({YES: "no textbook cost"}),
    ),
    Filter("component", Takes.ANY, "component", MORE, "Component", of=lambda s: [s.component]),
    Filter("delivery", Takes.ANY, "delivery", MORE, "Delivery", of=lambda s: [s.delivery]),
    Filter(
        "credits",
        Takes.ANY,
        "credits",
        MORE,
        "Credits",
        of=_credits_of,
        value_name=lambda term, value: credits_text(float(value)),
    ),
    Filter(
        "level",
        Takes.ANY,
        "level",
        MORE,
        "Level",
        of=lambda s: [s.course.number[:1]],
        value_name=lambda term, value: f"{value}00 to {value}99",
    ),
    Filter("instructor", Takes.ANY, "instructor", MORE, "Instructor", of=lambda s: s.instructors),
    Filter("among", Takes.NUMBERS, "chosen sections"),
)
"""All of them, in the order of their chips. Several that are set must all be met."""

BY_NAME: Mapping[str, Filter] = {f.name: f for f in FILTERS}


class Filters:
    """The values chosen by filter, and the order of results."""

    __slots__ = ("_chosen", "sort")

    def __init__(self, sort: str = "course", **chosen: Chosen | None) -> None:
        """Nothing, "", or False is chosen for a filter that is left out or empty.

        Raises:
            KeyError: there is no such filter.
        """
        self.sort = sort
        for name in chosen:
            BY_NAME[name]
        # Of chosen sections none at all is a choice as well: then nothing is found.
        self._chosen: dict[str, Any] = {
            name: value
            for name, value in chosen.items()
            if value is not None and (BY_NAME[name].takes in _MAY_BE_EMPTY or value)
        }

    def active(self) -> tuple[str, ...]:
        """The names of the filters that are set."""
        return tuple(name for name in BY_NAME if name in self._chosen)

    def text(self, name: str) -> str:
        """The text of a filter; "" for none."""
        return str(self._chosen.get(name, ""))

    def minute(self, name: str) -> int | None:
        """The minute of a filter."""
        return self._chosen.get(name)

    def values(self, name: str) -> tuple[str, ...]:
        """The values chosen of a filter; :data:`YES` for one that is on."""
        chosen = self._chosen.get(name, ())
        if chosen is True:
            return (YES,)
        return (chosen,) if isinstance(chosen, str) else tuple(chosen)

    def but(self, sort: str | None = None, /, **chosen: Chosen | None) -> Filters:
        """A copy with another order, or with other values for these filters; None for none."""
        return Filters(sort or self.sort, **(self._chosen | chosen))

    def __repr__(self) -> str:
        return f"Filters({self.sort!r}, **{self._chosen!r})"


_MAY_BE_EMPTY = (Takes.MINUTE, Takes.NUMBERS)

_NUMBER = re.compile(r"[0-9?*]{1,6}[A-Z]?")


def number_patterns(text: str) -> tuple[list[re.Pattern[str]], list[str]]:
    """The number patterns in a text, and the pieces that are none.

    ``?`` stands for one digit and ``*`` for any that follow; a letter behind the number may be
    left out, but not another one written in its place.
    """
    patterns, others = [], []
    for piece in re.split(r"[\s,;]+", text.strip().upper()):
        if not piece:
            continue
        if not _NUMBER.fullmatch(piece):
            others.append(piece)
            continue
        body = re.escape(piece).replace(r"\?", "[0-9]").replace(r"\*", "[0-9]*")
        patterns.append(re.compile(body if piece[-1].isalpha() else f"{body}[A-Z]?"))
    return patterns, others
