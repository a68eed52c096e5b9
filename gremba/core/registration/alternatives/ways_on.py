"""Tries each way on from a blocked change with the decision, and keeps those that help.

What stands in the cart already, cannot be put in, or leaves the change stopped as it was is not
offered. What removes a stop and meets another is, if one step more solves that. So whoever follows
the first way on comes to a seat, a waitlist, or somebody to ask, and never back to where they
began.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from datetime import datetime

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding.effort import Effort, Share, for_ways_on
from gremba.core.registration.deciding.steps import groups_of
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import (
    Action,
    Finding,
    GoTo,
    MoveUp,
    ProposedChange,
    PutInCart,
    Remedy,
    SeeChange,
    Severity,
    TakeInstead,
    TakeOut,
)
from gremba.core.registration.outcome import Decision, Outcome, Result
from gremba.core.registration.situation import Situation

WANTS = (Kind.ADD, Kind.SWAP, Kind.WAIT)
"""Kinds of change that want a section."""

_NOT_ENOUGH = Remedy(
    "What would help is not enough by itself, or stands in your cart as well: see what stops it there."
)


def keep_what_helps(
    situation: Situation,
    request: Request,
    decision: Decision,
    now: datetime,
    effort: Effort | None = None,
    *,
    among: Sequence[int] | None = None,
) -> None:
    """Keep only the remedies that help each refused change, those that solve it first.

    Args:
        decision: on the request; its outcomes are changed.
        effort: what may be spent on trying; a way for whose trial nothing is left is not offered.
        among: places of the changes that are looked at; None for all.
    """
    trials = _Trials(situation, request, decision, now, effort or Effort())
    looked_at = range(len(request.changes)) if among is None else among
    worth: dict[int, dict[Action, int]] = {}
    for index, outcome in enumerate(decision.outcomes):
        if outcome.result is Result.REFUSED:
            ways = dict.fromkeys(a for a in _actions(outcome) if not isinstance(a, SeeChange))
            worth[index] = {a: trials.worth(index, a) if index in looked_at else _NOT for a in ways}
    for index in worth:
        if index in looked_at:
            outcome = decision.outcomes[index]
            seen = [a for a in _actions(outcome) if isinstance(a, SeeChange)]
            lead: dict[Action, int] = {a: _leads_on(decision, worth, index, a.number) for a in seen}
            outcome.findings = tuple(_with_helpful(f, {**worth[index], **lead}) for f in outcome.findings)


def drop_moving_up(outcome: Outcome) -> None:
    """Remove the remedy of moving a change up if it is not in the cart."""
    outcome.findings = tuple(
        replace(f, remedies=tuple(r for r in f.remedies if not isinstance(r.action, MoveUp)))
        for f in outcome.findings
    )


def _actions(outcome: Outcome) -> Iterator[Action]:
    return (way.action for f in outcome.findings for way in f.remedies if way.action is not None)


def _leads_on(decision: Decision, worth: Mapping[int, Mapping[Action, int]], index: int, number: str) -> int:
    """Whether another change is blocked and has more remedies than this one, or than to come back."""
    if any(worth[index].values()):
        return _NOT
    for other, outcome in enumerate(decision.outcomes):
        if other == index or outcome.change.number != number or other not in worth:
            continue
        if any(worth[other].values()) or not any(isinstance(a, SeeChange) for a in _actions(outcome)):
            return _LEADS
    return _NOT


def _with_helpful(finding: Finding, worth: Mapping[Action, int]) -> Finding:
    ways = [w for w in finding.remedies if w.action is None or worth[w.action] > 0]
    # What is only said comes after what can be done.
    ways.sort(key=lambda w: -worth[w.action] if w.action is not None else 0)
    if finding.severity is Severity.STOP and not ways and finding.remedies and not finding.ask:
        ways = [_NOT_ENOUGH]
    return replace(finding, remedies=tuple(ways))


_SOLVES, _HELPS, _LEADS, _NOT = 3, 2, 1, 0


@dataclass(slots=True)
class _Trials:
    """Tries the remedies of a request's changes, within the effort."""

    situation: Situation
    request: Request
    decision: Decision
    now: datetime
    effort: Effort
    share: Share = field(default_factory=for_ways_on)

    def worth(self, index: int, action: Action) -> int:
        """The value of a remedy for a change; 0 if it does not help."""
        if isinstance(action, GoTo):
            return _LEADS
        after = follow(self.situation, self.request, index, action, self.now)
        then = self._decide(after)
        if after is None or then is None:
            return _NOT
        worth = _better(self.decision, then, index, after[1], action)
        if worth == _NOT and isinstance(action, PutInCart) and self._is_freed(index, then, after[1]):
            put_in = {c.number for c in action.changes}
            return _HELPS if self._is_solved_by_taking_out(*after, then, put_in) else _NOT
        return worth

    def _decide(self, after: tuple[Request, int] | None) -> Decision | None:
        """None if the cart would not take it, or no effort is left."""
        if after is None or not self.effort.may_try(len(after[0].changes), self.share):
            return None
        return decide(self.situation, after[0], self.now, self.effort)

    def _is_freed(self, index: int, after: Decision, now_at: int) -> bool:
        """Whether nothing that blocked a change blocks it any more."""
        return not _stops(self.decision.outcomes[index]) & _stops(after.outcomes[now_at])

    def _is_solved_by_taking_out(
        self, request: Request, index: int, decision: Decision, kept: Set[str]
    ) -> bool:
        """Whether a change succeeds once others are removed from the cart, as a remedy suggests."""
        own = [o for n, o in enumerate(decision.outcomes) if n == index or o.change.number in kept]
        for action in dict.fromkeys(action for outcome in own for action in _actions(outcome)):
            if not isinstance(action, TakeOut) or kept & set(action.numbers):
                continue
            after = follow(self.situation, request, index, action, self.now)
            then = self._decide(after)
            if after and then and then.outcomes[after[1]].result is not Result.REFUSED:
                return True
        return False


def _better(before: Decision, after: Decision, index: int, now_at: int, action: Action) -> int:
    mine = after.outcomes[now_at]
    known = {o.change.number: o for o in before.outcomes}
    if not isinstance(action, MoveUp | TakeOut):
        for outcome in after.outcomes:
            was = known.get(outcome.change.number)
            is_new = was is None and outcome is not mine
            is_lost = was is not None and was.result is not Result.REFUSED and outcome is not mine
            if outcome.result is Result.REFUSED and (is_new or is_lost):
                return _NOT
    if mine.result is not Result.REFUSED:
        return _SOLVES
    left, stops = _stops(mine), _stops(before.outcomes[index])
    return _HELPS if left < stops else _NOT


def _stops(outcome: Outcome) -> Counter[str]:
    return Counter(f.code for f in outcome.findings if f.severity is Severity.STOP)


def follow(
    situation: Situation, request: Request, index: int, action: Action, now: datetime
) -> tuple[Request, int] | None:
    """The request after following a remedy, and the position of its change; None if the cart would not
    take it.

    Args:
        index: place of the change that the way on belongs to.
    """
    match action:
        case PutInCart(proposals):
            return _put_in(situation, request, index, proposals)
        case TakeOut(numbers):
            changes = [c for n, c in enumerate(request.changes) if n == index or c.number not in numbers]
            if len(changes) == len(request.changes):
                return None
            return _moved(request, changes, request.changes[index])
        case TakeInstead(numbers):
            return _in_its_place(situation, request, index, numbers)
        case MoveUp():
            group = next(g for g in groups_of(situation, request, now) if index in g)
            changes = [request.changes[n] for n in group]
            changes += [c for n, c in enumerate(request.changes) if n not in group]
            if changes == list(request.changes):
                return None
            return _moved(request, changes, request.changes[index])
        case _:
            return None


def _moved(request: Request, changes: list[Change], mine: Change) -> tuple[Request, int]:
    return replace(request, changes=tuple(changes)), next(n for n, c in enumerate(changes) if c is mine)


def _put_in(
    situation: Situation, request: Request, index: int, proposals: Sequence[ProposedChange]
) -> tuple[Request, int] | None:
    """Adds to the cart as the application does: an add already there turns into a swap or a wait, and so
    on."""
    changes = list(request.changes)
    held = {h.section.reference_number for h in situation.held}
    for proposed in proposals:
        at = next((n for n, c in enumerate(changes) if c.number == proposed.number), None)
        gives_up = proposed.in_exchange
        if gives_up and gives_up not in held:
            return None
        if at is not None:
            there = changes[at]
            same = (there.kind, there.in_exchange) == (proposed.kind, gives_up)
            if same or there.kind not in WANTS or proposed.kind not in WANTS:
                return None
            changes[at] = replace(there, kind=proposed.kind, in_exchange=gives_up)
            continue
        is_held = proposed.number in held
        if proposed.number not in situation.catalogue.by_number or is_held == (proposed.kind in WANTS):
            return None
        changes.append(Change(proposed.kind, proposed.number, in_exchange=gives_up))
    if len(changes) > situation.catalogue.policy.most_changes:
        return None
    return replace(request, changes=tuple(changes)), index


def _in_its_place(
    situation: Situation, request: Request, index: int, numbers: Sequence[str]
) -> tuple[Request, int] | None:
    by_number = situation.catalogue.by_number
    there = {c.number for c in request.changes} | {h.section.reference_number for h in situation.held}
    if any(n not in by_number for n in numbers) or numbers[0] in there:
        return None
    new = by_number[numbers[0]]
    mine = replace(request.changes[index], number=numbers[0])
    changes = [
        mine if n == index else c
        for n, c in enumerate(request.changes)
        if n == index or not _goes_with_old(by_number.get(c.number), new)
    ]
    changes += [Change(Kind.ADD, n) for n in numbers[1:] if n not in there]
    return _moved(request, changes, mine)


def _goes_with_old(section: Section | None, new: Section) -> bool:
    """Whether a section is another component of the course and does not go with the new one."""
    return (
        section is not None
        and section.course is new.course
        and section.component != new.component
        and section.reference_number not in new.linked_sections
    )
