"""Finds the sections that the rules block for this student in any timetable."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import IntEnum

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding.board import Board
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.rules import ABOUT_STUDENT
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation

OF_SEATS = frozenset({RuleCode.SEAT_FULL, RuleCode.SEAT_RESERVED, RuleCode.SEAT_WAITLIST_FIRST})
"""Codes of the rules that say whether there is a seat for the student."""

OF_TIMETABLE = frozenset(
    {
        RuleCode.COURSE_HELD_ALREADY,
        RuleCode.COURSE_TWICE_IN_CART,
        RuleCode.COREQUISITE_MISSING,
        RuleCode.LINKED_SECTION_MISSING,
        RuleCode.LINKED_SECTION_MISMATCH,
        RuleCode.BUNDLE_INCOMPLETE,
        RuleCode.TOGETHER_CONTRADICTION,
        RuleCode.TOGETHER_STOPPED,
        RuleCode.TIME_CONFLICT,
        RuleCode.CREDITS_OVER,
        RuleCode.DROP_LAST,
    }
)
"""Codes of the rules whose answer rests on what else is in the timetable; fitting is what sees to them."""

_NOT_OF_SECTION = OF_SEATS | OF_TIMETABLE | ABOUT_STUDENT


class SeatState(IntEnum):
    """Whether there is a seat for the student."""

    SEAT = 0
    WAITLIST = 1
    FULL = 2


@dataclass(frozen=True, slots=True)
class Judged:
    """What the rules say about one section alone.

    Attributes:
        stop: what stops it whatever the timetable; None where nothing does.
    """

    section: Section
    seat: SeatState
    stop: Finding | None = None


def judge_sections(
    situation: Situation, courses: Mapping[str, Sequence[Section]], now: datetime
) -> dict[str, Judged]:
    """What the rules say about these courses' sections, by reference number.

    The sections of each course are judged one by one, beside one of every other course, so that
    what is met by taking two of them in the same term is seen to be met.

    Args:
        courses: sections by what they are wanted as.
        now: an aware datetime, for the decision.
    """
    judged: dict[str, Judged] = {}
    held = {h.section.reference_number for h in situation.held}
    for key, sections in courses.items():
        beside = [
            next(s for s in others if s.carries_credit)
            for name, others in courses.items()
            if name != key and any(s.carries_credit for s in others)
        ]
        changes = [Change(Kind.ADD, s.reference_number) for s in beside if s.reference_number not in held]
        many = len(changes)
        asked = [s for s in sections if s.reference_number not in held]
        changes += [_change(situation, s) for s in asked]
        board = Board(situation, Request(tuple(changes)), now)
        for index, section in enumerate(asked):
            found = board.judge(range(many), last=[many + index])[many + index]
            judged[section.reference_number] = _judged(situation, section, found)
        for section in sections:
            if section.reference_number in held:
                judged[section.reference_number] = Judged(section, SeatState.SEAT)
    return judged


def _change(situation: Situation, section: Section) -> Change:
    """An add, or the swap that would move a registered section to it."""
    for held in situation.held:
        if section.stands_for_same(held.section):
            return Change(Kind.SWAP, section.reference_number, in_exchange=held.section.reference_number)
    return Change(Kind.ADD, section.reference_number)


def _judged(situation: Situation, section: Section, found: Sequence[Finding]) -> Judged:
    stops = [f for f in found if f.severity is Severity.STOP]
    stop = next((f for f in stops if f.code not in _NOT_OF_SECTION), None)
    seat = SeatState.SEAT
    if any(f.code in OF_SEATS for f in stops):
        figures = situation.seats.get(section.pool)
        has_room = figures is not None and figures.waiting < section.waitlist_limit
        seat = SeatState.WAITLIST if has_room else SeatState.FULL
    return Judged(section, seat, stop)
