"""Finds other sections of the course that could be added in place of a blocked one."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import replace
from datetime import datetime
from itertools import islice, product

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding.effort import MAX_MOVES, MAX_SUBSTITUTES, Effort, for_substitutes
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import ProposedChange, PutInCart, Remedy, Severity, TakeInstead
from gremba.core.registration.outcome import Decision, Outcome, Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.wording import listed, times_text

_OF_SECTION = frozenset(
    {
        RuleCode.SECTION_CANCELLED,
        RuleCode.SEAT_FULL,
        RuleCode.SEAT_RESERVED,
        RuleCode.LINKED_SECTION_MISMATCH,
        RuleCode.LINKED_SECTION_MISSING,
        RuleCode.BUNDLE_INCOMPLETE,
        RuleCode.RESTRICTED_PROGRAM,
        RuleCode.RESTRICTED_STANDING,
        RuleCode.RESTRICTED_CAMPUS,
        RuleCode.RESTRICTED_COHORT,
        RuleCode.CONSENT_NEEDED,
        RuleCode.TIME_CONFLICT,
        RuleCode.SESSION_ADD_OVER,
        RuleCode.TOGETHER_STOPPED,
    }
)
"""What stops one section and may not stop another of the same course."""


def find_substitutes(
    situation: Situation,
    request: Request,
    decision: Decision,
    now: datetime,
    effort: Effort | None = None,
) -> dict[int, tuple[Remedy, ...]]:
    """For each blocked change that another section would solve: up to three sections that pass the whole
    decision now without costing another change its place.

    Args:
        situation: with the seat figures of all sections of the courses in the request.
        effort: what may be spent on all the decisions that are tried.
    """
    effort = effort or Effort()
    share = for_substitutes()
    found: dict[int, tuple[Remedy, ...]] = {}
    for index, outcome in enumerate(decision.outcomes):
        if outcome.section is None or not _may_be_served(outcome):
            continue
        ways: list[Remedy] = []
        for numbers, trial in _candidates(situation, request, index, outcome.section):
            if len(ways) == MAX_SUBSTITUTES or not effort.may_try(len(trial.changes), share):
                break
            if _serves(decision, decide(situation, trial, now, effort), index):
                ways.append(_remedy(situation, numbers))
        moves = 0
        for swaps, trial in _moves(situation, request, outcome):
            if moves == MAX_MOVES or not effort.may_try(len(trial.changes), share):
                break
            if _serves(decision, decide(situation, trial, now, effort), index, must=True):
                ways.append(_move_remedy(situation, swaps))
                moves += 1
        if ways:
            found[index] = tuple(ways)
    return found


def _may_be_served(outcome: Outcome) -> bool:
    if outcome.result is not Result.REFUSED or outcome.change.kind not in (Kind.ADD, Kind.SWAP):
        return False
    stops = {f.code for f in outcome.findings if f.severity is Severity.STOP}
    return bool(stops) and stops <= _OF_SECTION


def _candidates(
    situation: Situation, request: Request, index: int, section: Section
) -> Iterator[tuple[tuple[str, ...], Request]]:
    """Other sections of the course with their linked sections, and the request with each."""
    catalogue = situation.catalogue
    named = {n for c in request.changes for n in (c.number, c.in_exchange)}
    held = {h.section.reference_number for h in situation.held}
    for other in catalogue.by_course.get(section.course.key, ()):
        number = other.reference_number
        if other.component != section.component or other.cancelled or number in named | held:
            continue
        if other.topic != section.topic:
            continue
        figures = situation.seats.get(other.pool)
        if figures is not None and not figures.left:
            continue
        staying, needed = linked_sections_at_hand(situation, request, index, other)
        for linked_sections in linked_section_choices(catalogue, other, needed):
            changes = [
                replace(c, number=number) if other_index == index else c
                for other_index, c in enumerate(request.changes)
                if other_index == index or other_index in staying
            ]
            added = tuple(Change(Kind.ADD, n) for n in linked_sections)
            yield (number, *linked_sections), replace(request, changes=(*changes, *added))


def linked_section_choices(
    catalogue: TermCatalogue, section: Section, needed: Collection[str]
) -> Iterator[tuple[str, ...]]:
    """A few choices of linked sections, one number for each component needed."""
    options = [
        [o.reference_number for o in many if not o.cancelled]
        for component, many in catalogue.linked_sections_of(section).items()
        if component in needed
    ]
    return islice(product(*options), MAX_SUBSTITUTES)


def linked_sections_at_hand(
    situation: Situation, request: Request, index: int, other: Section
) -> tuple[set[int], set[str]]:
    """The positions of the changes that stay, and the components the new section still needs."""
    catalogue = situation.catalogue
    needed = set(catalogue.linked_sections_of(other))
    stay = set()
    for other_index, change in enumerate(request.changes):
        section = catalogue.by_number.get(change.number)
        is_part = (
            other_index != index
            and change.kind is Kind.ADD
            and section is not None
            and section.course is other.course
            and section.component != other.component
        )
        if not is_part or section is None:
            stay.add(other_index)
        elif section.reference_number in other.linked_sections:
            stay.add(other_index)
            needed.discard(section.component)
    given_up = {c.in_exchange or c.number for c in request.changes if c.kind not in (Kind.ADD, Kind.WAIT)}
    for held in situation.held:
        number = held.section.reference_number
        if number in other.linked_sections and number not in given_up:
            needed.discard(held.section.component)
    return stay, needed


def _moves(
    situation: Situation, request: Request, outcome: Outcome
) -> Iterator[tuple[tuple[ProposedChange, ...], Request]]:
    """For a conflict with registered sections: another section of that course, with linked sections if
    needed, as swaps, and the request with them."""
    clashes = [f for f in outcome.findings if f.code == RuleCode.TIME_CONFLICT and f.facts["registered"]]
    if len(clashes) != 1:
        return
    catalogue = situation.catalogue
    in_way = catalogue.by_number[str(clashes[0].facts["other"])]
    named = {n for c in request.changes for n in (c.number, c.in_exchange)}
    held = {h.section.reference_number: h.section for h in situation.held}
    beside = [s for s in held.values() if s.course is in_way.course and s is not in_way]
    for other in catalogue.by_course.get(in_way.course.key, ()):
        number = other.reference_number
        figures = situation.seats.get(other.pool)
        if other.cancelled or number in named | held.keys() or not other.stands_for_same(in_way):
            continue
        if figures is None or not figures.left:
            continue
        left_behind = [s for s in beside if s.reference_number not in other.linked_sections]
        options = [
            [
                ProposedChange(Kind.SWAP, o.reference_number, old.reference_number)
                for o in catalogue.linked_sections_of(other).get(old.component, ())
                if not o.cancelled and o.reference_number not in named
            ]
            for old in left_behind
        ]
        for more in islice(product(*options), MAX_SUBSTITUTES):
            swaps = (ProposedChange(Kind.SWAP, number, in_way.reference_number), *more)
            added = tuple(Change(w.kind, w.number, in_exchange=w.in_exchange) for w in swaps)
            yield swaps, replace(request, changes=(*request.changes, *added))


def _move_remedy(situation: Situation, swaps: tuple[ProposedChange, ...]) -> Remedy:
    """``Move your BAKE 120 from TR 13:00–14:15 to TR 15:30–16:45 (30991) and this fits.``"""
    by_number = situation.catalogue.by_number
    parts = [
        f"your {by_number[w.in_exchange].name} from {times_text(by_number[w.in_exchange].meetings)} to "
        f"{times_text(by_number[w.number].meetings)} ({w.number})"
        for w in swaps
    ]
    return Remedy(f"Move {listed(parts)} and this fits.", PutInCart(swaps))


def _serves(before: Decision, after: Decision, index: int, must: bool = False) -> bool:
    """Whether the change and its new linked sections succeed now, and nothing else is lost.

    Args:
        must: the change itself stands in the request as before, and must go through.
    """
    if must and after.outcomes[index].result is Result.REFUSED:
        return False
    new = {o.change.number: o for o in after.outcomes}
    replaced = [
        o for o in after.outcomes if o.change.number not in {b.change.number for b in before.outcomes}
    ]
    if not replaced or any(o.result is Result.REFUSED for o in replaced):
        return False
    return all(
        o.result is Result.REFUSED
        or other_index == index
        or o.change.number not in new
        or new[o.change.number].result is Result.ACCEPTED
        for other_index, o in enumerate(before.outcomes)
    )


def _remedy(situation: Situation, numbers: tuple[str, ...]) -> Remedy:
    sections = [situation.catalogue.by_number[n] for n in numbers]
    parts = []
    for section in sections:
        times = times_text(section.meetings)
        figures = situation.seats.get(section.pool)
        left = f", {figures.left} left" if figures is not None else ""
        what = "" if section is sections[0] else f"with {section.component} "
        parts.append(f"{what}{section.reference_number}, {times}{left}")
    return Remedy(f"Take {listed(parts)} instead.", TakeInstead(numbers))
