"""Several candidates for one wish: the first that goes through is taken.

A change may name sections to try in turn where the one wished for cannot be had. The wishes are
gone through in their order. A next choice is taken only if with it the wish goes through and no
earlier change is lost; a later one may be, as it would have been with the first choice, and then
its own next choices are tried.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime

from gremba.core.alternatives import companion_choices, companions_at_hand
from gremba.core.changes import Change, Kind, Mode, Request
from gremba.core.decision import decide
from gremba.core.findings import Finding, Severity
from gremba.core.outcome import Decision, Outcome, Result
from gremba.core.rules.together import next_choice
from gremba.core.selection import Effort
from gremba.core.situation import Situation

MOST = 4
"""So many next choices at the most for one wish."""

TRIED = 80
"""Decisions that are tried for one request at the most."""


def decide_wishes(
    situation: Situation, request: Request, now: datetime, effort: Effort | None = None
) -> tuple[Request, Decision]:
    """Decide a request whose changes may have next choices, and may wait where there is no seat;
    gives the request as it was taken.

    The changes keep their places; companions that a next choice needs and that were not wished
    for stand at the end. Where neither is asked for this is :func:`decide` alone.

    Args:
        effort: what may be spent on all the decisions that are tried for it.
    """
    effort = effort or Effort()
    taken, decision = _choose(situation, request, now, effort)
    if not any(c.wait_if_full for c in request.changes):
        return taken, decision
    for place, outcome in enumerate(decision.outcomes):
        change = outcome.change
        if change.wait_if_full and outcome.result is Result.REFUSED and _lacks_seat(outcome):
            waiting = replace(change, kind=Kind.WAIT, wait_if_full=False)
            changes = [waiting if n == place else c for n, c in enumerate(taken.changes)]
            trial = replace(taken, changes=tuple(changes))
            after = decide(situation, trial, now, effort)
            if after.outcomes[place].result is Result.WAITING:
                taken, decision = trial, after
    return taken, decision


_NO_SEAT = frozenset({"seat.full", "seat.reserved", "seat.waitlist_first"})


def _lacks_seat(outcome: Outcome) -> bool:
    """Whether nothing stops a change but that there is no seat for it."""
    stops = {f.code for f in outcome.findings if f.severity is Severity.STOP}
    return bool(stops & _NO_SEAT) and stops <= _NO_SEAT | {"time.conflict", "credits.over"}


def _choose(
    situation: Situation, request: Request, now: datetime, effort: Effort
) -> tuple[Request, Decision]:
    """The request with next choices in the place of what cannot be had."""
    decision = decide(situation, request, now, effort)
    if not any(c.or_else for c in request.changes):
        return request, decision
    # What goes through alone is found one by one; then, with all or nothing, all are judged.
    alone = replace(request, mode=Mode.EACH)
    first = tried = decide(situation, alone, now, effort) if request.mode is Mode.ALL else decision
    budget = TRIED
    for place, change in enumerate(request.changes):
        if tried.outcomes[place].result is Result.ACCEPTED:
            continue
        for trial in _in_its_place(situation, alone, place, change):
            if budget == 0:
                break
            budget -= 1
            after = decide(situation, trial, now, effort)
            if _is_better(tried, after, place, len(alone.changes)):
                alone, tried = trial, after
                break
    if alone.changes == request.changes:
        return request, decision
    taken = replace(alone, mode=request.mode)
    final = decide(situation, taken, now, effort) if request.mode is Mode.ALL else tried
    for place, outcome in enumerate(final.outcomes):
        if outcome.change.wished and place < len(request.changes):
            outcome.wished = situation.catalogue.by_number.get(outcome.change.wished)
            outcome.findings = (*outcome.findings, _told(first.outcomes[place]))
    return taken, final


def _in_its_place(
    situation: Situation, request: Request, place: int, change: Change
) -> Iterator[Request]:
    """The request with each of the next choices, and where companions are needed and not named
    with each of those that may do."""
    catalogue = situation.catalogue
    for numbers in change.or_else[:MOST]:
        if numbers[0] == change.number or any(n not in catalogue.by_number for n in numbers):
            continue
        section = catalogue.by_number[numbers[0]]
        choices: Iterator[tuple[str, ...]] = iter([numbers[1:]])
        if len(numbers) == 1:
            _, needed = companions_at_hand(situation, request, place, section)
            choices = companion_choices(catalogue, section, needed)
        for companions in choices:
            yield _with(situation, request, place, section.reference_number, companions)


def _with(
    situation: Situation, request: Request, place: int, number: str, companions: tuple[str, ...]
) -> Request:
    by_number = situation.catalogue.by_number
    changes = list(request.changes)
    old, new = by_number.get(changes[place].number), by_number[number]
    changes[place] = replace(
        changes[place], number=number, wished=changes[place].wished or changes[place].number
    )
    for companion in companions:
        section = by_number[companion]
        if any(c.number == companion for c in changes):
            continue
        for at, change in enumerate(changes):
            other = by_number.get(change.number)
            if (
                at != place and change.kind is Kind.ADD and other is not None and old is not None
                and other.course in (old.course, new.course)
                and other.component == section.component
            ):  # fmt: skip
                changes[at] = replace(
                    change, number=companion, wished=change.wished or change.number
                )
                break
        else:
            changes.append(Change(Kind.ADD, companion))
    return replace(request, changes=tuple(changes))


def _is_better(before: Decision, after: Decision, place: int, wishes: int) -> bool:
    """Whether the wish goes through now with all that it brings along, and no earlier one is
    lost for it."""
    if after.outcomes[place].result is Result.REFUSED:
        return False
    if any(o.result is Result.REFUSED for o in after.outcomes[wishes:]):
        return False
    return all(
        one.result is Result.REFUSED or other.result is Result.ACCEPTED
        for one, other in zip(before.outcomes[:place], after.outcomes[:place], strict=True)
    )


def _told(first: Outcome) -> Finding:
    """What is said of a next choice: why the first could not be had."""
    stops = [f.text for f in first.findings if f.severity is Severity.STOP]
    name = first.section.name if first.section else "Section"
    why = f": {stops[0]}" if stops else "."
    return next_choice.finding(
        f"Your next choice: {name} {first.change.number} cannot be had{why}",
        first=first.change.number,
    )
