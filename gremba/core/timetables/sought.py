"""Compares the wants of a question with the term and with the student's registrations."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.situation import Registration, Situation
from gremba.core.timetables.question import MOST_OF_CHOICE, Narrowing, Question, Want


class WantState(StrEnum):
    """Whether a want can be searched for."""

    SOUGHT = "sought"
    HELD = "held"
    """It is registered, and stays as it is."""
    TWICE = "twice"
    """The same course stands further up."""
    NOT_OFFERED = "not offered"
    UNKNOWN = "unknown"
    STOPPED = "stopped"
    """The rules stop all of its sections."""


@dataclass(slots=True)
class Sought:
    """A want as it is searched for.

    Attributes:
        want: for a registered course that may move, a want made of it.
        courses: keys, in order of rank; those held or not offered left out.
        moves: the registrations that may move.
    """

    want: Want
    courses: tuple[str, ...]
    state: WantState = WantState.SOUGHT
    moves: tuple[Registration, ...] = ()


def may_move(situation: Situation, numbers: Iterable[str]) -> list[Registration]:
    """The registrations that may change: a section with all of its course."""
    courses = {
        h.section.course.key
        for h in situation.held
        if h.section.reference_number in numbers and h.section.bundle is None
    }
    return [h for h in situation.held if h.section.course.key in courses]


def resolve(
    term: TermCatalogue, question: Question, stays: Sequence[Registration], moving: Sequence[Registration]
) -> list[Sought]:
    """The wants of a question as they are searched for, then the registered courses that may change."""
    held = {key for h in (*stays, *moving) for key in h.section.course.same_as}
    taken: set[str] = set()
    found = []
    for want in question.wants:
        keys = want.courses
        if want.tag:
            keys = tuple(
                key for key, sections in term.by_course.items() if want.tag in sections[0].course.tags
            )[:MOST_OF_CHOICE]
        known = [term.courses[k].key for k in keys if k in term.courses]
        known = sorted(dict.fromkeys(known)) if want.is_choice else known
        offered = tuple(k for k in known if k in term.by_course)
        fresh = tuple(k for k in offered if k not in held)
        state = WantState.SOUGHT
        if not known:
            state = WantState.UNKNOWN
        elif not offered:
            state = WantState.NOT_OFFERED
        elif not fresh:
            state = WantState.HELD
        elif not want.is_choice and fresh[0] in taken:
            state = WantState.TWICE
        if not want.is_choice and state is WantState.SOUGHT:
            taken |= term.courses[fresh[0]].same_as
        found.append(Sought(want, fresh, state))
    by_course: dict[str, list[Registration]] = {}
    for registration in moving:
        by_course.setdefault(registration.section.course.key, []).append(registration)
    found += [
        Sought(Want((key,), narrowing=Narrowing()), (key,), moves=tuple(own))
        for key, own in by_course.items()
    ]
    return found


def had_anyway(
    term: TermCatalogue, stays: Sequence[Registration], looked_for: Sequence[Sought]
) -> frozenset[str]:
    """The courses taken in any case, by all their numbers: registered, or wanted themselves."""
    keys = [h.section.course.key for h in stays]
    keys += [s.courses[0] for s in looked_for if not s.want.is_choice]
    return frozenset(same for key in keys for same in term.courses[key].same_as)
