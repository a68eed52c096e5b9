"""An academic plan: courses term by term with alternatives and notes, and what became of each line."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from gremba.core.catalogue.term import Course, TermCatalogue
from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.situation import Situation

MOST_LINES = 120
"""Lines of a plan, at the most."""

MOST_ALTERNATIVES = 12

MOST_OF_NOTE = 300
"""Characters."""


@dataclass(frozen=True, slots=True)
class PlanLine:
    """A line of a plan.

    Attributes:
        term: code of the term.
        courses: keys; of several, ``count`` are to be taken.
        section: reference number, where the very section is meant; or "".
    """

    term: str
    courses: tuple[str, ...]
    count: int = 1
    section: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class LineMistake:
    """An error in a line, and how to fix it.

    Attributes:
        line: its number, from 1.
    """

    line: int
    text: str


class LineState(StrEnum):
    """What has become of a line in its term."""

    REGISTERED = "registered"
    WAITING = "waiting"
    IN_CART = "in cart"
    PASSED = "passed"
    NOT_YET = "not yet"


def check_lines(
    lines: Sequence[PlanLine], courses: Mapping[str, Course], terms: Mapping[str, TermCatalogue]
) -> list[LineMistake]:
    """All errors of a plan, by line.

    Args:
        courses: of the college, by each of their numbers.
        terms: by code.
    """
    if len(lines) > MOST_LINES:
        return [
            LineMistake(
                MOST_LINES + 1,
                f"A plan has {MOST_LINES} lines at the most; this one has {len(lines):,}. Nothing was read.",
            )
        ]
    return [
        LineMistake(number, text)
        for number, line in enumerate(lines, 1)
        for text in _mistakes(line, courses, terms)
    ]


def _mistakes(
    line: PlanLine, courses: Mapping[str, Course], terms: Mapping[str, TermCatalogue]
) -> Collection[str]:
    found = []
    if line.term not in terms:
        known = ", ".join(sorted(terms))
        found.append(f"There is no term “{line.term[:40]}”. The terms are {known}.")
    if not line.courses:
        found.append("It names no course. Write one, such as SOIL 240, or several with | between them.")
    if len(line.courses) > MOST_ALTERNATIVES:
        found.append(f"It names {len(line.courses)} courses; {MOST_ALTERNATIVES} are the most.")
    named = line.courses[:MOST_ALTERNATIVES]
    found += [f"There is no course “{key[:20]}”." for key in named if key not in courses]
    if not 1 <= line.count <= max(1, len(set(line.courses))):
        found.append("It wants more courses than it names, or none.")
    if len(line.note) > MOST_OF_NOTE:
        found.append(f"The note is longer than {MOST_OF_NOTE} characters.")
    term = terms.get(line.term)
    if line.section and term is not None:
        section = term.by_number.get(line.section)
        if section is None:
            found.append(f"{term.name} has no section “{line.section[:12]}”.")
        elif not any(key in courses and section.course.key in courses[key].same_as for key in line.courses):
            found.append(
                f"{line.section} is a section of {section.course.key}, which the line does not name."
            )
    return found


def state_of(line: PlanLine, situation: Situation, changes: Sequence[Change]) -> LineState:
    """What has become of a line in a situation's term.

    Args:
        changes: of the student's cart.
    """
    term = situation.catalogue
    same = {key: term.courses[key].same_as for key in line.courses if key in term.courses}
    every = frozenset().union(*same.values()) if same else frozenset()

    def many(keys: Collection[str]) -> bool:
        return sum(1 for numbers in same.values() if not numbers.isdisjoint(keys)) >= line.count

    held = {h.section.course.key for h in situation.held}
    if many(held):
        return LineState.REGISTERED
    scale = situation.record.scale
    passed = {a.course for a in situation.record.attempts if scale.earns_credit(a.grade)}
    if many(passed & every):
        return LineState.PASSED
    waited = {p.section.course.key for p in situation.waitlist_entries}
    if many(held | waited):
        return LineState.WAITING
    wanted = {
        term.by_number[c.number].course.key
        for c in changes
        if c.kind in (Kind.ADD, Kind.SWAP, Kind.WAIT) and c.number in term.by_number
    }
    return LineState.IN_CART if many(held | waited | wanted) else LineState.NOT_YET
