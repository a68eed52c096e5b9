"""Rules on time conflicts and travel time."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.catalogue.calendar import Clash
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, Remedy, Severity
from gremba.core.registration.rules.case import Case, Matter, Rule, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import give_up, one_of_two
from gremba.core.states import Waiver
from gremba.core.wording import WEEKDAYS, day, listed, pattern


def _meets_at_same_hours(case: Case) -> bool:
    week = case.section.week
    for held in case.end.remaining:
        if week & held.section.week:
            return True
    return any(a.section is not None and week & a.section.week for a in case.earlier)


@rule(
    RuleCode.TIME_CONFLICT,
    Severity.STOP,
    Kind.ADD,
    depends_on=[Matter.HOURS],
    lifted_by=Waiver.CONFLICT,
    of_section=lambda section: section.meetings,
    gate=_meets_at_same_hours,
)
def time_conflict(case: Case, me: Rule) -> Iterator[Finding]:
    """On some date a class of the section and one of another section overlap: one registered
    and not dropped by the request, or one added further up. Hours are half-open, so classes
    that only touch do not clash, nor do sections of different halves of the term.

    Why: Nobody can be in two rooms at once.

    Ways on: Drop the other section in the same cart, move this change up, or take another
    section of either course.
    """
    mine = case.section
    for held in case.end.remaining:
        clash = mine.clash_with(held.section)
        if clash is not None and held.section is not mine:
            yield me.finding(
                _sentence(case, held.section, clash),
                remedies=give_up(case, held.section),
                other=held.section.reference_number,
                registered=1,
            )
    for other in case.earlier:
        if other.is_lifted(Waiver.CONFLICT):
            # The consent covers the pair, whichever of the two it was given for.
            continue
        clash = None if other.section is None else mine.clash_with(other.section)
        if clash is not None and other.section is not None:
            yield me.finding(
                f"{_sentence(case, other.section, clash)} That one {case.goes_before(other)}.",
                remedies=one_of_two(case, other),
                rests_on=[other.index],
                other=other.section.reference_number,
                registered=0,
            )


@rule(RuleCode.TIME_TRAVEL, Severity.WARNING, Kind.ADD, of_section=lambda section: section.campuses)
def time_travel(case: Case, me: Rule) -> Iterator[Finding]:
    """Between a class of the section and one on another campus, on the same day, there are fewer
    minutes than the way takes.

    Why: Students who have to rush between campuses every week come late or leave early.

    Ways on: Take a section at another hour or on the other campus, or go on knowing it.
    """
    mine = case.section
    campuses = mine.campuses
    others = [h.section for h in case.end.remaining if h.section.campuses != campuses]
    others += [a.section for a in case.earlier if a.section and a.section.campuses != campuses]
    if not others:
        return
    catalogue = case.situation.catalogue
    for other in others:
        if other is mine:
            continue
        tight = tight_way(mine, other, catalogue)
        if tight is not None:
            here, there, gap, takes = tight
            names = catalogue.campus_names
            yield me.finding(
                f"Tight: {gap} minutes between {other.name} and this, and the way from "
                f"{names.get(here, here)} to {names.get(there, there)} takes {takes}.",
                remedies=[Remedy("Look for a section at another hour or on the other campus.")],
                minutes=gap,
                takes=takes,
                other=other.reference_number,
            )


def tight_way(mine: Section, other: Section, catalogue: TermCatalogue) -> tuple[str, str, int, int] | None:
    """A walk between campuses that takes longer than the break: the campuses in order, and both times in
    minutes; None if there is time enough."""
    if not (catalogue.week_with_travel(mine) & other.week or catalogue.week_with_travel(other) & mine.week):
        return None
    for one in mine.meetings:
        for two in other.meetings:
            if not one.days & two.days:
                continue
            first, then = (one, two) if one.start < two.start else (two, one)
            gap = then.start - first.end
            takes = catalogue.minutes_between(first.campus, then.campus)
            if 0 <= gap < takes:
                return first.campus, then.campus, gap, takes
    return None


def _sentence(case: Case, other: Section, clash: Clash) -> str:
    key = (case.section.id, other.id, "clash")
    known = case.memo.get(key)
    if isinstance(known, str):
        return known
    calendar = case.situation.catalogue.calendar
    first, last = calendar.span(clash.days)
    if first == last:
        when = f"on {WEEKDAYS[first.weekday()]} {day(first)}"
    else:
        names = listed([f"{WEEKDAYS[d]}s" for d in calendar.weekdays_of(clash.days)])
        when = f"on {names} from {day(first)} to {day(last)}"
    text = (
        f"Clashes with {other.name} {other.reference_number}: "
        f"{pattern(clash.one)} and {pattern(clash.other)} meet {when}."
    )
    case.memo[key] = text
    return text
