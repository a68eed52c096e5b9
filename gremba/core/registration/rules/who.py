"""Rules on who may take a section, and on permission codes."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.permission.codes import NO_SUCH, permission_code_fault
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.case import Case, Rule, Scope, Step, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.states import Waiver
from gremba.core.wording import listed, moment


@rule(
    RuleCode.RESTRICTED_PROGRAM,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.RESTRICTION,
    of_section=lambda section: "program" in section.restrictions,
)
def restricted_program(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is only for students of certain programs, and the student's is another.

    Why: Some sections are built on what a program has in common.

    Ways on: Take a section open to all, or ask the instructor for consent.
    """
    yield from _restricted(case, me, "program", case.situation.student.program)


@rule(
    RuleCode.RESTRICTED_STANDING,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.RESTRICTION,
    of_section=lambda section: "standing" in section.restrictions,
)
def restricted_standing(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is only for students of certain class standings, by credits earned.

    Why: Advanced sections need the routine of some years; first-year sections need a circle of
    beginners.

    Ways on: Take a section open to all, or ask the instructor for consent.
    """
    yield from _restricted(case, me, "standing", case.situation.class_standing)


@rule(
    RuleCode.RESTRICTED_CAMPUS,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.RESTRICTION,
    of_section=lambda section: "campus" in section.restrictions,
)
def restricted_campus(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is only for students of certain campuses.

    Why: Hives, benches and barns on a campus are shared first among those who live with them.

    Ways on: Take a section of your own campus, or ask the instructor for consent.
    """
    yield from _restricted(case, me, "campus", case.situation.student.campus)


@rule(
    RuleCode.RESTRICTED_COHORT,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.RESTRICTION,
    of_section=lambda section: {"cohort", "residence"} & section.restrictions.keys(),
)
def restricted_cohort(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is only for a cohort, or for those who live in a certain house.

    Why: Some sections are held for a group that goes through its studies together.

    Ways on: Take a section open to all, or ask the instructor for consent.
    """
    student = case.situation.student
    yield from _restricted(case, me, "cohort", student.cohort)
    yield from _restricted(case, me, "residence", student.residence)


def _restricted(case: Case, me: Rule, kind: str, own: str) -> Iterator[Finding]:
    allowed = case.section.restrictions.get(kind)
    if not allowed or own in allowed:
        return
    names = case.situation.catalogue.campus_names if kind == "campus" else {}
    shown = listed([names.get(a, a) for a in allowed], "or")
    noun = "class standing" if kind == "standing" else kind
    mine = f"yours is {names.get(own, own)}" if own else "you have none"
    yield me.finding(
        f"Only for the {noun} {shown}; {mine}.",
        remedies=[
            Remedy("Take a section of the course that is open to you."),
            Remedy("Enter a permission code if the instructor has given you one.", GoTo(Target.CONSENT)),
        ],
        ask="the instructor",
        allowed=shown,
        own=own,
    )


@rule(
    RuleCode.CONSENT_NEEDED,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.CONSENT,
    of_section=lambda section: section.consent_needed,
)
def consent_needed(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is open only to those whom its instructor has given a permission code.

    Why: Projects and small workshops are agreed on with the instructor beforehand.

    Ways on: Agree with the instructor and enter the code they give you.
    """
    who = listed(list(case.section.instructors)) or "the instructor"
    yield me.finding(
        f"{case.section.course.key} takes {_possessive(who)} consent.",
        remedies=[Remedy(f"Talk to {who}, then enter the code you are given.", GoTo(Target.CONSENT))],
        ask=who,
    )


def _possessive(who: str) -> str:
    return f"{who}’" if who.endswith("s") else f"{who}’s"


def _has_consent(step: Step) -> object:
    return step.change.permission_code


@rule(RuleCode.CONSENT_BAD, Severity.STOP, Kind.ADD, Kind.WAIT, scope=Scope.CHANGE, of_step=_has_consent)
def consent_bad(case: Case, me: Rule) -> Iterator[Finding]:
    """The permission code given is not good: it does not exist, has been used, has expired, or was
    given for another section or student.

    Why: A code is one promise to one student for one seat.

    Ways on: Correct the code, take it out, or ask the instructor for another one.
    """
    step = case.step
    if step.permission_code is not None:
        return
    found = case.situation.permission_codes.get(step.change.permission_code)
    fault = NO_SUCH
    if found is not None:
        fault = permission_code_fault(found, case.section, case.situation, case.now) or NO_SUCH
    yield me.finding(
        f"The permission code {step.change.permission_code} is not good here: {fault}.",
        remedies=[
            Remedy("Correct it or take it out.", GoTo(Target.CONSENT)),
            Remedy("Ask the instructor for another one."),
        ],
        ask="the instructor",
        unknown=int(fault is NO_SUCH),
    )


@rule(RuleCode.CONSENT_USED, Severity.NOTE, Kind.ADD, scope=Scope.CHANGE, of_step=_has_consent)
def consent_used(case: Case, me: Rule) -> Iterator[Finding]:
    """A permission code is used for the change; says whose it is and what it lifts.

    Why: A code works once; its user should see that it is used up, and for what.

    Ways on: Nothing to do; take the code out to keep it.
    """
    permission_code = case.step.permission_code
    if permission_code is not None:
        lifted = listed([what.value for what in Waiver if what.value in permission_code.waives])
        yield me.finding(
            f"With the consent of {permission_code.by}, which covers: {lifted}. The code is used up then.",
            by=permission_code.by,
        )


def _is_granted(step: Step) -> object:
    return step.permission_code is not None and not step.change.permission_code


@rule(RuleCode.GRANT_USED, Severity.NOTE, Kind.ADD, scope=Scope.CHANGE, of_step=_is_granted)
def grant_used(case: Case, me: Rule) -> Iterator[Finding]:
    """Somebody has said yes to this student for this section, and that is used for the change; says
    who, what it lifts and until when it is good.

    Why: An approval works once; its user should see that it was given, and what it is used for.

    Ways on: Put the change through while it is good.
    """
    granted = case.step.permission_code
    if granted is not None:
        lifted = listed([what.value for what in Waiver if what.value in granted.waives])
        zone = case.situation.catalogue.calendar.zone
        until = f", until {moment(granted.expires_at.astimezone(zone))}" if granted.expires_at else ""
        said = "has" if not granted.also else "have"
        yield me.finding(f"{granted.by} {said} said yes. That covers: {lifted}{until}.", by=granted.by)
