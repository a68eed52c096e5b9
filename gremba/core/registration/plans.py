"""Plans A, B, C: takes the first of several timetables that can be added as a whole."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from gremba.core.registration.changes import Mode, Request
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation

MOST_PLANS = 5

NAMES = "ABCDE"


class PlanFallback(StrEnum):
    """What happens if no plan can be registered completely."""

    NOTHING = "nothing"
    BEST_PART = "best part"
    """Of the first plan, what can be had, in its order."""


@dataclass(frozen=True, slots=True)
class Plans:
    """Timetables in order.

    Attributes:
        requests: one a plan, its changes the scarcest first.
    """

    requests: tuple[Request, ...]
    fallback: PlanFallback = PlanFallback.NOTHING


@dataclass(frozen=True, slots=True)
class PlanVerdict:
    """The result of one plan.

    Attributes:
        is_whole: all of it goes through.
        stops: what stops it, each with the section that it is about.
        decision: on the plan, all or nothing.
    """

    name: str
    is_whole: bool
    stops: tuple[tuple[str, Finding], ...]
    decision: Decision


@dataclass(frozen=True, slots=True)
class PlansDecided:
    """The plan used, and why not those before it.

    Attributes:
        verdicts: of each plan up to the one taken; of all where none is.
        taken: place of the plan that is taken whole; None for none.
        request: what is put through; with nothing taken the first plan, of which all is refused.
    """

    verdicts: tuple[PlanVerdict, ...]
    taken: int | None
    request: Request
    decision: Decision


def decide_plans(
    situation: Situation, plans: Plans, now: datetime, effort: Effort | None = None
) -> PlansDecided:
    """Decide plans in order: the first that succeeds completely is used; if none does, nothing or the best
    part of the first, as chosen. Previews and submissions use the same function.

    Raises:
        ValueError: there is no plan, or there are more than :data:`MOST_PLANS`.
    """
    if not 0 < len(plans.requests) <= MOST_PLANS:
        raise ValueError(f"{len(plans.requests)} plans")
    effort = effort or Effort()
    verdicts: list[PlanVerdict] = []
    for place, request in enumerate(plans.requests):
        whole = replace(request, mode=Mode.ALL)
        verdict = _verdict(NAMES[place], decide(situation, whole, now, effort))
        verdicts.append(verdict)
        if verdict.is_whole:
            return PlansDecided(tuple(verdicts), place, whole, verdict.decision)
    first = replace(plans.requests[0], mode=Mode.ALL)
    decision = verdicts[0].decision
    if plans.fallback is PlanFallback.BEST_PART:
        first = replace(first, mode=Mode.EACH)
        decision = decide(situation, first, now, effort)
    return PlansDecided(tuple(verdicts), None, first, decision)


def judge_plans(
    situation: Situation, plans: Plans, now: datetime, effort: Effort | None = None
) -> tuple[PlanVerdict, ...]:
    """The result of every plan alone, including those behind the one used."""
    effort = effort or Effort()
    return tuple(
        _verdict(NAMES[place], decide(situation, replace(request, mode=Mode.ALL), now, effort))
        for place, request in enumerate(plans.requests)
    )


def _verdict(name: str, decision: Decision) -> PlanVerdict:
    refused = [o for o in decision.outcomes if o.result is Result.REFUSED]
    stops = {
        (o.change.number, f.text): (o.section.name if o.section else o.change.number, f)
        for o in refused
        for f in o.findings
        if f.severity is Severity.STOP and f.code != RuleCode.TOGETHER_STOPPED
    }
    return PlanVerdict(name, not refused, tuple(stops.values()), decision)
