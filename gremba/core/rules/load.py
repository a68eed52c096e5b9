"""How much the student takes on."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, Remedy, Severity
from gremba.core.rules.access import ADVISING
from gremba.core.rules.case import Case, Rule, rule
from gremba.core.wording import credits_text

FUNDING = "the student funding office"


@rule("credits.over", Severity.STOP, Kind.ADD)
def credits_over(case: Case, me: Rule) -> Iterator[Finding]:
    """With this change the credits would exceed the student's limit. Who is over it already
    may still exchange, as long as it does not become more.

    Why: The limit protects students, most of all those on probation, from more than can be
    done well.

    Ways on: Drop something in the same cart, move this change up, or ask the advisor for a
    higher limit.
    """
    if not case.step.credits:
        return
    situation = case.situation
    limit = max(situation.credit_limit, case.end.credits_before)
    kept = sum(h.credits for h in case.end.kept)
    above = sum(a.credits for a in case.earlier)
    total = kept + above + case.step.credits
    if total <= limit:
        return
    without = kept + case.step.credits <= limit
    yield me.finding(
        f"It would make {credits_text(total)}; your limit is {situation.credit_limit:g}"
        + (" on probation." if situation.student.standing == "probation" else "."),
        remedies=[
            Remedy("Drop something in the same cart, or move this one up."),
            Remedy("Ask your advisor to raise your limit."),
        ],
        ask=ADVISING,
        rests_on=[a.index for a in case.earlier if a.credits] if without else (),
        total=total,
        limit=situation.credit_limit,
    )


@rule("load.below_full_time", Severity.HEED, Kind.DROP)
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


@rule("load.below_half_time", Severity.HEED, Kind.DROP)
def below_half_time(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is at least half time now and would not be afterwards.

    Why: Below half time most aid ends and loans may fall due; half time is half of full time
    (34 CFR 668.2).

    Ways on: Add something in the same cart, or ask the student funding office first.
    """
    policy = case.situation.catalogue.policy
    if case.end.credits < policy.half_time <= case.end.credits_before:
        yield me.finding(
            f"You would have {credits_text(case.end.credits)}, less than half time "
            f"({policy.half_time:g}).",
            remedies=[Remedy(f"Ask {FUNDING} before you drop it.")],
            ask=FUNDING,
            credits=case.end.credits,
        )
