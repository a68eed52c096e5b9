"""A permission request before it is made: what would be lifted, who decides, and what would still block the
change."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from gremba.core.catalogue.term import Section
from gremba.core.permission.askable import HOPELESS, can_be_asked, may_ask_for_seat
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.permission.policy import Decider
from gremba.core.registration.changes import Request
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.outcome import Decision, Outcome, Result
from gremba.core.registration.rules import WAIVER_OF
from gremba.core.registration.situation import Situation
from gremba.core.states import Waiver


@dataclass(frozen=True, slots=True)
class Asking:
    """What a request about a change would cover.

    Attributes:
        waives: what somebody would have to lift, in the order of :class:`Waiver`.
        lifted: what stops it now and would not any more, in sentences.
        route: who has to say yes, in order.
        otherwise: what would stop it all the same, in sentences.
        why_not: why nothing can be asked, with what to do; "" if it can.
        may_wait: the way on is the waitlist.
        granted: what a yes would lead to.
    """

    waives: tuple[Waiver, ...] = ()
    lifted: tuple[str, ...] = ()
    route: tuple[Decider, ...] = ()
    otherwise: tuple[str, ...] = ()
    why_not: str = ""
    may_wait: bool = False
    granted: Decision | None = None


def with_grant(situation: Situation, section: Section, waives: Collection[Waiver]) -> Situation:
    """The student's situation if these rules were overridden for a section."""
    yes = PermissionCode(
        id=0,
        code="",
        section=section.id,
        waives=frozenset(w.value for w in waives),
        by="Somebody",
        student=situation.student.id,
    )
    given = (*situation.grants.get(section.id, ()), yes)
    return replace(situation, grants={**situation.grants, section.id: given})


def work_out_asking(situation: Situation, request: Request, index: int, now: datetime) -> Asking:
    """Work out what a request about one change would cover: an add, a swap, or a wait.

    Only what stops it is asked for. What a yes would not lift is said beforehand, so that nobody says yes
    to what cannot work anyway.

    Args:
        request: the change with those that belong to it.
        index: its place in the request.
        now: the moment for which it is judged: before the window its opening.
    """
    section = situation.catalogue.by_number.get(request.changes[index].number)
    if section is None:
        return Asking(why_not="There is no such section in this term. Look for it in Find.")
    outcome = decide(situation, request, now).outcomes[index]
    if outcome.result is not Result.REFUSED:
        return Asking(why_not="Nothing stops it. Put it through from your cart.")
    stops = _stops(outcome)
    hopeless = [f for f in stops if f.code in HOPELESS]
    if hopeless:
        return Asking(why_not=f"Nobody can lift what stops it: {hopeless[0].text}")
    liftable = [f for f in stops if can_be_asked(f, section, situation, now)]
    waives = _waivers(liftable)
    may_wait = any(WAIVER_OF.get(f.code) is Waiver.SEATS for f in stops) and not may_ask_for_seat(
        section, situation, now
    )
    if not waives:
        if may_wait:
            return Asking(
                why_not="It has a waitlist, so a seat is not asked for: join the waitlist.", may_wait=True
            )
        told = stops[0].text if stops else "it depends on other changes of your cart."
        return Asking(why_not=f"Nobody can lift what stops it: {told}")
    granted = decide(with_grant(situation, section, waives), request, now)
    return Asking(
        waives=waives,
        lifted=tuple(f.text for f in liftable),
        route=situation.catalogue.policy.permission.route(waives),
        otherwise=still_stopping(granted),
        may_wait=may_wait,
        granted=granted,
    )


def still_stopping(decision: Decision, leaving_out: Collection[str] = ()) -> tuple[str, ...]:
    """What blocks any change of a decision, in sentences that name the section.

    Args:
        leaving_out: codes of rules whose word does not count.
    """
    return tuple(
        f"{o.change.number if o.section is None else o.section.name}: {f.text}"
        for o in decision.outcomes
        if o.result is Result.REFUSED
        for f in _stops(o)
        if f.code not in leaving_out
    )


def _stops(outcome: Outcome) -> list[Finding]:
    return [f for f in outcome.findings if f.severity is Severity.STOP]


def _waivers(findings: Sequence[Finding]) -> tuple[Waiver, ...]:
    needed = {WAIVER_OF[f.code] for f in findings}
    return tuple(what for what in Waiver if what in needed)
