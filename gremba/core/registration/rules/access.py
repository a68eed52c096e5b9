"""Rules on whether a student may change anything now: term, window, holds."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.case import Case, Rule, Scope, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.states import ClearanceKind, TermState, Waiver
from gremba.core.students.student import Hold
from gremba.core.windows.opening import WindowState
from gremba.core.wording import amount, day, moment

ADVISING = "your advisor"
REGISTRAR = "the registrar's office"


def _something_has_ended(case: Case) -> bool:
    return case.today > case.situation.catalogue.calendar.first_end


@rule(RuleCode.TERM_CLOSED, Severity.STOP, *Kind, scope=Scope.CHANGE, known=None, gate=_something_has_ended)
def term_closed(case: Case, me: Rule) -> Iterator[Finding]:
    """The term no longer takes this change: adds end with the last add-by day of its sessions
    (but for a permission code that covers a late add), and everything ends with its last day.

    Why: After that the class lists are final, and a seat taken would be one for a course
    that can no longer be finished.

    Ways on: Choose a later term, or ask the registrar's office about a late change.
    """
    term, calendar = case.situation.catalogue.name, case.situation.catalogue.calendar
    if case.today > calendar.last:
        text = f"{term} ended on {day(calendar.last)}. Its record can no longer be changed here."
    elif case.step.does in (Kind.ADD, Kind.WAIT) and case.today > calendar.last_add_by:
        if case.step.is_lifted(Waiver.LATE_ADD):
            return
        text = f"Adding to {term} ended on {day(calendar.last_add_by)}. Only drops are still possible."
    else:
        return
    yield me.finding(
        text,
        remedies=[Remedy(f"Ask {REGISTRAR} about a late change, or choose another term.")],
        ask=REGISTRAR,
        last_add_by=calendar.last_add_by.isoformat(),
    )


def _is_not_open(case: Case) -> bool:
    return case.situation.catalogue.state is not TermState.OPEN


@rule(RuleCode.TERM_NOT_OPEN, Severity.STOP, *Kind, scope=Scope.STUDENT, known=None, gate=_is_not_open)
def term_not_open(case: Case, me: Rule) -> Iterator[Finding]:
    """The registrar has not opened the term yet, or has closed it.

    Why: Until a term is opened its sections, hours and windows may still be other ones; once it is
    closed its lists are final, whatever its days say.

    Ways on: Wait until it is opened, or ask the registrar's office.
    """
    if not _is_not_open(case):
        return
    name = case.situation.catalogue.name
    if case.situation.catalogue.state is TermState.PREPARED:
        text = f"Registration for {name} has not been opened yet."
        way = Remedy(f"Wait until {REGISTRAR} opens it.")
    else:
        text = f"{REGISTRAR[0].upper()}{REGISTRAR[1:]} has closed registration for {name}."
        way = Remedy(f"Ask {REGISTRAR} about a late change, or choose another term.")
    yield me.finding(text, remedies=[way], ask=REGISTRAR)


@rule(RuleCode.WINDOW_NONE, Severity.STOP, Kind.ADD, Kind.WAIT, scope=Scope.STUDENT, known=None)
def window_none(case: Case, me: Rule) -> Iterator[Finding]:
    """The student has no registration window in this term.

    Why: Windows spread the rush and let those nearest to finishing choose first; without one
    it is not settled whether the student is expected in the term at all.

    Ways on: Ask the registrar's office for a window.
    """
    if not case.situation.windows:
        yield me.finding(
            f"You have no registration window for {case.situation.catalogue.name} yet.",
            remedies=[Remedy(f"Ask {REGISTRAR} to give you one.")],
            ask=REGISTRAR,
        )


@rule(RuleCode.WINDOW_EARLY, Severity.STOP, Kind.ADD, Kind.WAIT, scope=Scope.STUDENT, known=None)
def window_early(case: Case, me: Rule) -> Iterator[Finding]:
    """The student's window has not opened yet.

    Why: Each student has a day and minute of their own, so that seats are shared out fairly.

    Ways on: Leave the change in the cart; it is kept, and can be put through at the minute
    the window opens.
    """
    status = case.window
    if status.state is WindowState.EARLY and status.window is not None:
        opens = status.window.opens_at.astimezone(case.situation.catalogue.calendar.zone)
        # How long until then is for the screen to count down: the sentence is kept in confirmations.
        yield me.finding(
            f"Your window opens on {moment(opens)}.",
            remedies=[Remedy("Leave it in the cart; it stays there until you put it through.")],
            opens_at=opens.isoformat(),
        )


@rule(RuleCode.WINDOW_OVER, Severity.STOP, Kind.ADD, Kind.WAIT, scope=Scope.STUDENT, known=None)
def window_over(case: Case, me: Rule) -> Iterator[Finding]:
    """The student's last window has closed. Drops do not need a window.

    Why: Between the windows and the start of classes the offices work with settled numbers.

    Ways on: Ask the registrar's office whether another window is planned.
    """
    status = case.window
    if status.state is WindowState.OVER and status.window is not None:
        closed = status.window.closes_at.astimezone(case.situation.catalogue.calendar.zone)
        yield me.finding(
            f"Your window closed on {moment(closed)}.",
            remedies=[Remedy(f"Ask {REGISTRAR} whether you may still add. Drops are possible.")],
            ask=REGISTRAR,
            closed_at=closed.isoformat(),
        )


@rule(
    RuleCode.HOLD_STOPS,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.STUDENT,
    known=None,
    lifted_by=Waiver.HOLD,
)
def hold_stops(case: Case, me: Rule) -> Iterator[Finding]:
    """An office has placed a hold that stops this kind of change.

    Why: Some matters must be settled before new seats are taken: a fee, a form, a talk.

    Ways on: Settle it with the office named, which then lifts the hold.
    """
    for hold in case.situation.holds:
        if case.step.change.kind.value in hold.stops:
            yield me.finding(
                f"A hold of {hold.office} stops this: {hold.reason}",
                remedies=[settle(hold)],
                ask=hold.office,
                office=hold.office,
                hold=hold.id,
            )


@rule(RuleCode.CLEARANCE_OPEN, Severity.STOP, Kind.ADD, Kind.WAIT, scope=Scope.STUDENT, known=None)
def clearance_open(case: Case, me: Rule) -> Iterator[Finding]:
    """Something that everybody has to have done before registering is still open: the
    agreement, the contact details, the survey, orientation, or the advisor's release.

    Why: The college must be able to reach its students, they must know what registering binds
    them to, and someone should have looked at the plan with them.

    Ways on: Clearance has each item with its way on; most of them are done right there.
    """
    advisor = case.situation.student.advisor or "your advisor"
    for item in case.situation.clearance_open:
        text = _OPEN_ITEMS[item].format(advisor=advisor)
        text = text[0].upper() + text[1:]
        way = (
            f"Ask {advisor} to release you."
            if item is ClearanceKind.RELEASE
            else "Do it in Clearance; it takes effect at once."
        )
        yield me.finding(
            text,
            remedies=[Remedy(way, GoTo(Target.CLEARANCE))],
            ask=advisor if item is ClearanceKind.RELEASE else "",
            item=item.value,
        )


_OPEN_ITEMS = {
    ClearanceKind.AGREEMENT: "The registration agreement has not been accepted yet.",
    ClearanceKind.DETAILS: "Your contact details are not confirmed for this term.",
    ClearanceKind.SURVEY: "The short survey for this term is not answered yet.",
    ClearanceKind.ORIENTATION: "Orientation is not finished.",
    ClearanceKind.RELEASE: "{advisor} has not released you to register yet.",
}


@rule(
    RuleCode.SESSION_ADD_OVER,
    Severity.STOP,
    Kind.ADD,
    Kind.WAIT,
    scope=Scope.CHANGE,
    lifted_by=Waiver.LATE_ADD,
    gate=_something_has_ended,
)
def session_add_over(case: Case, me: Rule) -> Iterator[Finding]:
    """The add-by day of the section's session has passed, though other sessions can still be added.

    Why: After the first days too much of a class has been missed to catch up.

    Ways on: Take a section of a later session, or ask the instructor for a permission code that
    allows a late add.
    """
    session = case.section.session
    if session.add_by < case.today <= case.situation.catalogue.calendar.last_add_by:
        yield me.finding(
            f"Adding sections of the {session.name} ended on {day(session.add_by)}.",
            remedies=[
                Remedy("Enter a permission code if the instructor allows a late add.", GoTo(Target.CONSENT)),
            ],
            ask="the instructor",
            add_by=session.add_by.isoformat(),
        )


def settle(hold: Hold) -> Remedy:
    """The remedy for a hold."""
    if hold.amount_cents is not None and hold.cleared_by == "student":
        return Remedy(f"Pay {amount(hold.amount_cents)}; the hold is lifted at once.", GoTo(Target.PAYMENT))
    return Remedy(f"Settle it with {hold.office}: {hold.contact}.")
