"""Rules on credits and course load."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.catalogue.term import AUDIT
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.access import ADVISING, REGISTRAR
from gremba.core.registration.rules.case import Case, Matter, Rule, Scope, Step, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import take_out
from gremba.core.states import Waiver
from gremba.core.wording import credits_text, day, listed

FUNDING = "the student funding office"


def _is_over_in_all(case: Case) -> bool:
    return case.end.credits > case.situation.credit_limit


@rule(
    RuleCode.CREDITS_OVER,
    Severity.STOP,
    Kind.ADD,
    Kind.ADJUST,
    of_section=lambda section: section.carries_credit,
    lifted_by=Waiver.CREDITS,
    gate=_is_over_in_all,
    depends_on=[Matter.CREDITS],
)
def credits_over(case: Case, me: Rule) -> Iterator[Finding]:
    """With this change the credits would exceed the student's limit. Who is over it already
    may still exchange, as long as it does not become more. What was granted beyond the limit does
    not count against the others of the same request.

    Why: The limit protects students, most of all those on probation, from more than can be
    done well.

    Ways on: Take another add out of the cart, drop something in it, move this change up, or ask the
    advisor for a higher limit.
    """
    own = case.step.raises
    if not own:
        return
    before = [r for r in case.before.raises if not r.is_lifted(Waiver.CREDITS)]
    total = case.end.credits_remaining + sum([r.raises for r in before]) + own
    situation = case.situation
    limit = max(situation.credit_limit, case.end.credits_before)
    if total <= limit:
        return
    without = case.end.credits_remaining + own <= limit
    move = ", or move this one up" if case.may_move_up(before) else ""
    # Of those that suffice by themselves the one that stands last is what is wanted least.
    sufficing = sorted((r for r in before if total - r.raises <= limit), key=lambda r: -r.index)
    out = next(filter(None, (take_out(case, r) for r in sufficing)), [])
    yield me.finding(
        f"It would make {credits_text(total)}; your limit is {situation.credit_limit:g}"
        + (" on probation." if situation.student.standing == "probation" else "."),
        remedies=[
            *out,
            Remedy(f"Drop something in the same cart{move}."),
            Remedy("Ask your advisor to raise your limit."),
        ],
        ask=ADVISING,
        rests_on=[r.index for r in before] if without else (),
        total=total,
        limit=situation.credit_limit,
    )


def _has_credits(step: Step) -> bool:
    return step.change.credits is not None


@rule(
    RuleCode.CREDITS_RANGE,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    Kind.ADJUST,
    scope=Scope.CHANGE,
    of_step=_has_credits,
)
def credits_range(case: Case, me: Rule) -> Iterator[Finding]:
    """The credits chosen lie outside the range that the course allows, or are not whole or half.
    Who audits a course earns none.

    Why: What a course is worth is settled with the catalogue; within a range it is agreed on
    with the instructor.

    Ways on: Choose credits within the range.
    """
    chosen, course = case.step.change.credits, case.section.course
    if chosen is None:
        return
    least, most = course.credits_least, course.credits_most
    audits = case.step.grading == AUDIT
    if audits or not case.section.carries_credit:
        least = most = 0.0
    if least <= chosen <= most and (chosen * 2).is_integer():
        return
    if audits:
        text = "Who audits a course earns no credits."
        way = "Leave the credits out, or choose another grading basis."
    elif least == most:
        text = f"{case.section.name} is worth {credits_text(least)}, no more and no less."
        way = "Choose other credits."
    else:
        text = f"{course.key} is worth {least:g} to {most:g} credits, in whole or half ones."
        way = "Choose other credits."
    yield me.finding(
        text,
        remedies=[Remedy(way, GoTo(Target.OPTIONS))],
        least=least,
        most=most,
        chosen=chosen,
    )


def _has_grading(step: Step) -> bool:
    return step.change.grading is not None


@rule(
    RuleCode.GRADING_NOT_OFFERED,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    Kind.ADJUST,
    scope=Scope.CHANGE,
    of_step=_has_grading,
)
def grading_not_offered(case: Case, me: Rule) -> Iterator[Finding]:
    """The course is not graded on the basis chosen.

    Why: Some courses need a letter on the record, others are only passed or not.

    Ways on: Choose one of the grading bases that the course offers.
    """
    chosen, offered = case.step.change.grading, case.section.course.gradings
    if chosen is not None and chosen not in offered:
        yield me.finding(
            f"{case.section.course.key} is not offered as “{chosen}”; choose {listed(offered, 'or')}.",
            remedies=[Remedy("Choose another grading basis.", GoTo(Target.OPTIONS))],
            chosen=chosen,
        )


@rule(RuleCode.ADJUST_NOT_HELD, Severity.STOP, Kind.ADJUST, depends_on=())
def adjust_not_held(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is not registered for the section whose grading or credits are to change.

    Why: Only what one has can be adjusted; for a section in the cart the options stand there.

    Ways on: Take the change out of the cart.
    """
    if case.held is None:
        yield me.finding(
            f"You are not registered for {case.step.name}, so there is nothing to adjust.",
            remedies=[Remedy("Take it out of the cart.")],
        )


@rule(RuleCode.ADJUST_OVER, Severity.STOP, Kind.ADJUST, scope=Scope.CHANGE)
def adjust_over(case: Case, me: Rule) -> Iterator[Finding]:
    """The drop-by day of the section's session has passed: grading and credits are settled.

    Why: Nobody should choose the basis when the grade can already be guessed.

    Ways on: Ask the registrar's office about a late change.
    """
    session = case.section.session
    if case.today > session.drop_by:
        yield me.finding(
            f"Grading and credits of {case.section.name} could be changed until {day(session.drop_by)}.",
            remedies=[Remedy(f"Ask {REGISTRAR} about a late change.")],
            ask=REGISTRAR,
            drop_by=session.drop_by.isoformat(),
        )


@rule(RuleCode.LOAD_BELOW_FULL_TIME, Severity.WARNING, Kind.DROP, Kind.ADJUST)
def below_full_time(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is full time now and would not be afterwards.

    Why: Housing, insurance and aid may depend on full time, which begins at 12 credits
    (34 CFR 668.2).

    Ways on: Add something in the same cart, or ask the student funding office first.
    """
    policy = case.situation.catalogue.policy
    if case.end.credits < policy.full_time <= case.end.credits_before:
        yield me.finding(
            f"You would have {credits_text(case.end.credits)} and no longer be full time "
            f"({policy.full_time:g}).",
            remedies=[
                Remedy("Add another section in the same cart."),
                Remedy(f"Ask {FUNDING} what it means for housing and aid."),
            ],
            ask=FUNDING,
            credits=case.end.credits,
        )


@rule(RuleCode.LOAD_BELOW_HALF_TIME, Severity.WARNING, Kind.DROP, Kind.ADJUST)
def below_half_time(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is at least half time now and would not be afterwards.

    Why: Below half time most aid ends and loans may fall due; half time is half of full time
    (34 CFR 668.2).

    Ways on: Add something in the same cart, or ask the student funding office first.
    """
    policy = case.situation.catalogue.policy
    if case.end.credits < policy.half_time <= case.end.credits_before:
        yield me.finding(
            f"You would have {credits_text(case.end.credits)}, less than half time ({policy.half_time:g}).",
            remedies=[Remedy(f"Ask {FUNDING} before you drop it.")],
            ask=FUNDING,
            credits=case.end.credits,
        )
