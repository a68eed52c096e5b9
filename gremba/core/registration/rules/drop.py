"""Rules on dropping a section, and what a drop leaves behind."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.account.aid import NO_MORE_TO_EARN, share_completed
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.access import REGISTRAR, settle
from gremba.core.registration.rules.case import Case, Matter, Rule, Scope, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.load import FUNDING
from gremba.core.wording import credits_text, day, listed


@rule(RuleCode.DROP_NOT_HELD, Severity.STOP, Kind.DROP, depends_on=())
def drop_not_held(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is not registered for the section.

    Why: Only what one has can be given up.

    Ways on: Take the change out of the cart.
    """
    if case.held is None:
        name = f"{case.section.name} {case.section.reference_number}"
        yield me.finding(
            f"You are not registered for {name}, so there is nothing to drop.",
            remedies=[Remedy("Take it out of the cart.")],
        )


@rule(RuleCode.DROP_LAST, Severity.STOP, Kind.DROP, depends_on=[Matter.LEAVING])
def drop_last(case: Case, me: Rule) -> Iterator[Finding]:
    """Nothing would be left of the term. Dropping the last section is leaving the term, unless
    the college's policy allows it or the request adds another section.

    Why: Leaving has consequences for housing, aid and the way back that a drop does not show.

    Ways on: Add another section in the same cart, or ask the office named about leaving.
    """
    policy = case.situation.catalogue.policy
    if policy.may_leave_by_dropping or case.held is None:
        return
    own = [d for d in case.end.drops if not d.implied]
    if case.end.remaining or case.end.adds or case.step is not own[-1]:
        return
    yield me.finding(
        "It would leave you with nothing in the term, and a term cannot be left by dropping.",
        remedies=[
            Remedy("Add another section in the same cart."),
            Remedy(f"Ask {policy.leave_office} about leaving the term."),
        ],
        ask=policy.leave_office,
        rests_on={d.index for d in own if d is not case.step},
    )


@rule(RuleCode.DROP_HOLD, Severity.STOP, Kind.DROP, scope=Scope.STUDENT)
def drop_hold(case: Case, me: Rule) -> Iterator[Finding]:
    """An office has placed a hold that stops drops.

    Why: Some students must talk to an office before they give up a course.

    Ways on: Settle it with the office named, which then lifts the hold.
    """
    for hold in case.situation.holds:
        if Kind.DROP.value in hold.stops and case.step.change.kind is Kind.DROP:
            yield me.finding(
                f"A hold of {hold.office} stops drops: {hold.reason}",
                remedies=[settle(hold)],
                ask=hold.office,
                office=hold.office,
                hold=hold.id,
            )


@rule(RuleCode.DROP_OVER, Severity.STOP, Kind.DROP, scope=Scope.CHANGE, implied=True)
def drop_over(case: Case, me: Rule) -> Iterator[Finding]:
    """The withdraw-by day of the section's session has passed.

    Why: So late the course is all but finished; what is left is a grade.

    Ways on: Ask the registrar's office about a late withdrawal.
    """
    session = case.section.session
    if case.today > session.withdraw_by:
        yield me.finding(
            f"Withdrawing from {case.section.name} ended on {day(session.withdraw_by)}.",
            remedies=[Remedy(f"Ask {REGISTRAR} about a late withdrawal.")],
            ask=REGISTRAR,
            withdraw_by=session.withdraw_by.isoformat(),
        )


@rule(RuleCode.DROP_WITHDRAWAL, Severity.WARNING, Kind.DROP, scope=Scope.CHANGE, implied=True)
def drop_withdrawal(case: Case, me: Rule) -> Iterator[Finding]:
    """The drop-by day of the section's session has passed, the withdraw-by day has not: the
    course stays on the record with a W.

    Why: Until drop-by a drop leaves no trace; afterwards the record shows that the course was
    begun. A W is no attempt passed.

    Ways on: Stay in the course, or go on knowing it.
    """
    session = case.section.session
    if session.drop_by < case.today <= session.withdraw_by:
        yield me.finding(
            f"Your record will show a W for {case.section.course.key}: dropping without a "
            f"trace ended on {day(session.drop_by)}.",
            drop_by=session.drop_by.isoformat(),
            withdraw_by=session.withdraw_by.isoformat(),
        )


@rule(
    RuleCode.DROP_LINKED_SECTIONS,
    Severity.WARNING,
    Kind.DROP,
    of_section=lambda section: section.linked_sections,
)
def drop_linked_sections(case: Case, me: Rule) -> Iterator[Finding]:
    """Other components of the course go with the section dropped.

    Why: A lab without its lecture is half a course, so what belongs together is given up
    together, unless another section of the same component takes its place in the same request.

    Ways on: To exchange one component only, swap it for another section of the same component.
    """
    along = [d.name for d in case.end.drops if d.implied and d.index == case.step.index]
    if along:
        yield me.finding(
            f"{listed(along)} {'goes' if len(along) == 1 else 'go'} too, since they belong together.",
            remedies=[Remedy("To exchange one of them only, swap it for another section.")],
            along=listed(along),
        )


@rule(
    RuleCode.DROP_PLACE,
    Severity.WARNING,
    Kind.DROP,
    implied=True,
    gate=lambda case: case.situation.waitlist_entries,
)
def drop_entry(case: Case, me: Rule) -> Iterator[Finding]:
    """The student waits for another section and would give this one up for its seat; says what
    becomes of that place when it is given up now.

    Why: A place that gives up what one no longer has would be served otherwise than was asked for.

    Ways on: Say whether the place stays as a plain wait, or ends with the section.
    """
    for entry in case.situation.waitlist_entries:
        if entry.in_exchange is not case.section:
            continue
        name = f"{entry.section.name} {entry.section.reference_number}"
        what = "offer" if entry.offered else "place on its waitlist"
        if case.step.change.leaves_waitlists:
            text, way = f"Your {what} for {name} ends with it.", "Keep it as a plain wait instead."
        else:
            text = f"You would have given it up for {name}. Your {what} stays, with nothing given up."
            way = "Or let it end with this section."
        yield me.finding(
            text,
            remedies=[Remedy(way, GoTo(Target.OPTIONS))],
            entry=entry.id,
            other=entry.section.reference_number,
        )


@rule(RuleCode.DROP_AID, Severity.WARNING, Kind.DROP)
def drop_aid(case: Case, me: Rule) -> Iterator[Finding]:
    """The student receives aid, and the drop takes the load below full time or half time, or to
    nothing.

    Why: Aid follows the load. For a student who leaves the term altogether it is earned day by day:
    the share of the term completed, and all of it past 60 per cent (34 CFR 668.22).

    Ways on: Ask the student funding office what has to be paid back, before the drop.
    """
    if not case.situation.student.receives_aid:
        return
    policy, end = case.situation.catalogue.policy, case.end
    steps = [n for n in (policy.full_time, policy.half_time) if end.credits < n <= end.credits_before]
    leaves = end.credits_before > 0 and end.credits == 0
    if not steps and not leaves:
        return
    text = f"You receive aid, and it counts on {credits_text((steps or [1])[-1])} or more."
    share = share_completed(case.situation.catalogue.calendar, case.today)
    if leaves and share:
        earned = 1.0 if share > NO_MORE_TO_EARN else share
        text += f" {share:.1%} of the term is completed, so {earned:.1%} of the aid is earned."
    yield me.finding(
        text,
        remedies=[Remedy(f"Ask {FUNDING} first what it would change.")],
        ask=FUNDING,
        share_completed=round(share, 4),
    )
