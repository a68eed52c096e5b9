"""Backup sections: tries several candidates for one change and takes the first that can be added.

A change may name sections to try in turn where the one wished for cannot be had. The wishes are
gone through in their order. A next choice is taken only if with it the wish goes through and no
earlier change is lost; a later one may be, as it would have been with the first choice, and then
its own next choices are tried.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from gremba.core.catalogue.term import Section
from gremba.core.registration.alternatives.substitutes import linked_section_choices, linked_sections_at_hand
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding.effort import MAX_BACKUPS, Effort, for_backups
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, Remedy, Severity
from gremba.core.registration.outcome import Decision, Outcome, Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.together import next_choice, unfinished
from gremba.core.registration.situation import Situation

_NOT_ALL_TRIED = unfinished.finding(
    "With so many next choices at once, not all of this one's were tried.",
    remedies=[Remedy("Put fewer through at a time, the most wanted first.")],
)


@dataclass(frozen=True, slots=True)
class Taken:
    """A request with backup sections in place of what is unavailable.

    Attributes:
        originals: how many changes were asked for; linked sections that next choices need stand behind.
        told: by place in the request, what is said of a next choice.
        unfinished: places of which not every next choice was tried.
    """

    request: Request
    originals: int
    told: Mapping[int, Finding] = field(default_factory=dict)
    unfinished: tuple[int, ...] = ()


def decide_with_alternatives(
    situation: Situation, request: Request, now: datetime, effort: Effort | None = None
) -> tuple[Request, Decision]:
    """Decide a request with backup sections and waits for full sections; returns the request as decided.

    The changes keep their places; linked sections that a next choice needs and that were not wished
    for stand at the end. Where neither is asked for this is :func:`decide` alone.

    Args:
        effort: what may be spent on all that is tried for it.
    """
    effort = effort or Effort()
    taken = choose(situation, request, now, effort)
    return decide_taken(situation, taken, now, effort)


def decide_taken(
    situation: Situation, taken: Taken, now: datetime, effort: Effort | None = None
) -> tuple[Request, Decision]:
    """Decide a choice on facts newer than those it was made from; what finds no seat waits, if wanted.
    Returns the request as decided."""
    effort = effort or Effort()
    decision = decide(situation, taken.request, now, effort)
    for index, told in taken.told.items():
        _mark(situation, decision.outcomes[index], told)
    for index in taken.unfinished:
        if decision.outcomes[index].result is Result.REFUSED:
            outcome = decision.outcomes[index]
            outcome.findings = (*outcome.findings, _NOT_ALL_TRIED)
    return _wait_if_full(situation, taken, decision, now, effort)


def _mark(situation: Situation, outcome: Outcome, told: Finding) -> None:
    outcome.original = situation.catalogue.by_number.get(outcome.change.original)
    outcome.findings = (*outcome.findings, told)


def _wait_if_full(
    situation: Situation, taken: Taken, decision: Decision, now: datetime, effort: Effort
) -> tuple[Request, Decision]:
    request = taken.request
    for index, outcome in enumerate(decision.outcomes):
        change = outcome.change
        if change.wait_if_full and outcome.result is Result.REFUSED and _lacks_seat(outcome):
            if not effort.may_try(len(request.changes)):
                break
            waiting = replace(change, kind=Kind.WAIT, wait_if_full=False)
            changes = [waiting if n == index else c for n, c in enumerate(request.changes)]
            trial = replace(request, changes=tuple(changes))
            after = decide(situation, trial, now, effort)
            if after.outcomes[index].result is Result.WAITING:
                for at, told in taken.told.items():
                    _mark(situation, after.outcomes[at], told)
                request, decision = trial, after
    return request, decision


_NO_SEAT = frozenset({RuleCode.SEAT_FULL, RuleCode.SEAT_RESERVED, RuleCode.SEAT_WAITLIST_FIRST})


def _lacks_seat(outcome: Outcome) -> bool:
    """Whether only the lack of a seat blocks a change."""
    stops = {f.code for f in outcome.findings if f.severity is Severity.STOP}
    return bool(stops & _NO_SEAT) and stops <= _NO_SEAT | {RuleCode.TIME_CONFLICT, RuleCode.CREDITS_OVER}


def choose(situation: Situation, request: Request, now: datetime, effort: Effort | None = None) -> Taken:
    """Choose backup sections in place of what is unavailable.

    This is where the trying is: to be done before anything is locked, and looked at again with
    :func:`decide_taken` on what is.

    Args:
        effort: what may be spent on all that is tried for it.
    """
    originals = len(request.changes)
    if not any(c.alternatives for c in request.changes):
        return Taken(request, originals)
    effort = effort or Effort()
    # What goes through alone is found one by one; then, with all or nothing, all are judged.
    alone = replace(request, mode=Mode.EACH)
    first = tried = decide(situation, alone, now, effort)
    share = for_backups()
    cut_short = []
    for index, change in enumerate(request.changes):
        if tried.outcomes[index].result is Result.ACCEPTED:
            continue
        for trial in _in_its_place(situation, alone, index, change):
            if not effort.may_try(len(trial.changes), share):
                cut_short.append(index)
                break
            after = decide(situation, trial, now, effort)
            if _is_better(tried, after, index, len(alone.changes)):
                alone, tried = trial, after
                break
    told = {
        index: _told(first.outcomes[index])
        for index, change in enumerate(alone.changes[:originals])
        if change.original
    }
    return Taken(replace(alone, mode=request.mode), originals, told, tuple(cut_short))


def _in_its_place(situation: Situation, request: Request, index: int, change: Change) -> Iterator[Request]:
    """The request with each backup section, and with each possible choice of linked sections that are
    needed and not named."""
    catalogue = situation.catalogue
    for numbers in change.alternatives[:MAX_BACKUPS]:
        if numbers[0] == change.number or any(n not in catalogue.by_number for n in numbers):
            continue
        section = catalogue.by_number[numbers[0]]
        if _has_surely_none(situation, request, index, section):
            continue
        choices: Iterator[tuple[str, ...]] = iter([numbers[1:]])
        if len(numbers) == 1:
            _, needed = linked_sections_at_hand(situation, request, index, section)
            choices = linked_section_choices(catalogue, section, needed)
        for linked_sections in choices:
            yield _with(situation, request, index, section.reference_number, linked_sections)


def _has_surely_none(situation: Situation, request: Request, index: int, section: Section) -> bool:
    """Whether there is no seat whatever else is tried."""
    if request.changes[index].permission_code or section.id in situation.grants:
        return False
    if section.id in situation.seat_held_for:
        return False
    figures = situation.seats.get(section.pool)
    if figures is None or figures.left:
        return False
    # A seat of the same pool may be given up in the same request: cross-listed sections share one.
    return all(held.section.pool != section.pool for held in situation.held)


def _with(
    situation: Situation, request: Request, index: int, number: str, linked_sections: tuple[str, ...]
) -> Request:
    by_number = situation.catalogue.by_number
    changes = list(request.changes)
    old, new = by_number.get(changes[index].number), by_number[number]
    changes[index] = replace(
        changes[index], number=number, original=changes[index].original or changes[index].number
    )
    for linked_section in linked_sections:
        section = by_number[linked_section]
        if any(c.number == linked_section for c in changes):
            continue
        for at, change in enumerate(changes):
            other = by_number.get(change.number)
            if (
                at != index
                and change.kind is Kind.ADD
                and other is not None
                and old is not None
                and other.course in (old.course, new.course)
                and other.component == section.component
            ):
                changes[at] = replace(
                    change, number=linked_section, original=change.original or change.number
                )
                break
        else:
            changes.append(Change(Kind.ADD, linked_section))
    return replace(request, changes=tuple(changes))


def _is_better(before: Decision, after: Decision, index: int, originals: int) -> bool:
    """Whether the change succeeds with everything it brings along, and no earlier one is lost."""
    if after.outcomes[index].result is Result.REFUSED:
        return False
    if any(o.result is Result.REFUSED for o in after.outcomes[originals:]):
        return False
    return all(
        one.result is Result.REFUSED or other.result is Result.ACCEPTED
        for one, other in zip(before.outcomes[:index], after.outcomes[:index], strict=True)
    )


def _told(first: Outcome) -> Finding:
    """The finding about a backup section: why the first choice was unavailable."""
    stops = [f.text for f in first.findings if f.severity is Severity.STOP]
    name = first.section.name if first.section else "Section"
    why = f": {stops[0]}" if stops else "."
    return next_choice.finding(
        f"Your next choice: {name} {first.change.number} cannot be had{why}",
        first=first.change.number,
    )
