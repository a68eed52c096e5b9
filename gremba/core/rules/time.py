"""Does it fit the week."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.calendar import Clash, find_clash
from gremba.core.catalogue import Section
from gremba.core.changes import Kind
from gremba.core.findings import Finding, PutInCart, Remedy, Severity
from gremba.core.rules.case import Case, Rule, rule
from gremba.core.wording import WEEKDAYS, day, listed, pattern


@rule("time.conflict", Severity.STOP, Kind.ADD)
def time_conflict(case: Case, me: Rule) -> Iterator[Finding]:
    """On some date a class of the section and one of another section overlap: one registered
    and not dropped by the request, or one added further up. Hours are half-open, so classes
    that only touch do not clash, nor do sections of different halves of the term.

    Why: Nobody can be in two rooms at once.

    Ways on: Drop the other section in the same cart, move this change up, or take another
    section of either course.
    """
    mine = case.section
    for held in case.end.kept:
        clash = _clash(mine, held.section)
        if clash is not None and held.section is not mine:
            number = held.section.reference_number
            yield me.finding(
                _sentence(case, held.section, clash),
                remedies=[Remedy(f"Drop {held.section.name} {number} in the same cart.",
                                 PutInCart(Kind.DROP, number))],
                other=number,
                registered=1,
            )  # fmt: skip
    for other in case.earlier:
        clash = None if other.section is None else _clash(mine, other.section)
        if clash is not None and other.section is not None:
            yield me.finding(
                f"{_sentence(case, other.section, clash)} That one {case.goes_before(other)}.",
                remedies=[Remedy("Move this one up if you prefer it, or take one of them out.")],
                rests_on=[other.index],
                other=other.section.reference_number,
                registered=0,
            )


def _clash(one: Section, other: Section) -> Clash | None:
    if not one.week & other.week:
        return None
    return find_clash(one.meetings, other.meetings)


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
