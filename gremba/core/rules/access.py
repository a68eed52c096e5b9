"""May the student change anything at all now: the term, the window, holds."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, Remedy, Severity
from gremba.core.rules.case import Case, Rule, Scope, rule
from gremba.core.windows import WindowState
from gremba.core.wording import day, duration, moment

ADVISING = "your advisor"
REGISTRAR = "the registrar's office"


@rule("term.closed", Severity.STOP, Kind.ADD, Kind.DROP, scope=Scope.STUDENT, known=None)
def term_closed(case: Case, me: Rule) -> Iterator[Finding]:
    """The term no longer takes this change: adds end with the last add-by day of its blocks,
    and everything ends with its last day.

    Why: After that the class lists are final, and a seat taken would be one for a course
    that can no longer be finished.

    Ways on: Choose a later term, or ask the registrar's office about a late change.
    """
    term, calendar = case.situation.catalogue.name, case.situation.catalogue.calendar
    if case.today > calendar.last:
        text = f"{term} ended on {day(calendar.last)}. Its record can no longer be changed here."
    elif case.step.change.kind is Kind.ADD and case.today > calendar.last_add_by:
        text = (
            f"Adding to {term} ended on {day(calendar.last_add_by)}. Only drops are still possible."
        )
    else:
        return
    yield me.finding(
        text,
        remedies=[Remedy(f"Ask {REGISTRAR} about a late change, or choose another term.")],
        ask=REGISTRAR,
        last_add_by=calendar.last_add_by.isoformat(),
    )


@rule("window.none", Severity.STOP, Kind.ADD, scope=Scope.STUDENT, known=None)
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


@rule("window.early", Severity.STOP, Kind.ADD, scope=Scope.STUDENT, known=None)
def window_early(case: Case, me: Rule) -> Iterator[Finding]:
    """The student's window has not opened yet.

    Why: Each student has a day and minute of their own, so that seats are shared out fairly.

    Ways on: Leave the change in the cart; it is kept, and can be put through at the minute
    the window opens.
    """
    view = case.window
    if view.state is WindowState.EARLY and view.window is not None:
        opens = view.window.opens_at.astimezone(case.situation.catalogue.calendar.zone)
        left = duration((opens - case.now).total_seconds())
        yield me.finding(
            f"Your window opens on {moment(opens)}, in {left}.",
            remedies=[Remedy("Leave it in the cart; it stays there until you put it through.")],
            opens_at=opens.isoformat(),
        )


@rule("window.over", Severity.STOP, Kind.ADD, scope=Scope.STUDENT, known=None)
def window_over(case: Case, me: Rule) -> Iterator[Finding]:
    """The student's last window has closed. Drops do not need a window.

    Why: Between the windows and the start of classes the offices work with settled numbers.

    Ways on: Ask the registrar's office whether another window is planned.
    """
    view = case.window
    if view.state is WindowState.OVER and view.window is not None:
        closed = view.window.closes_at.astimezone(case.situation.catalogue.calendar.zone)
        yield me.finding(
            f"Your window closed on {moment(closed)}.",
            remedies=[Remedy(f"Ask {REGISTRAR} whether you may still add. Drops are possible.")],
            ask=REGISTRAR,
            closed_at=closed.isoformat(),
        )


@rule("hold.stops", Severity.STOP, Kind.ADD, scope=Scope.STUDENT, known=None)
def hold_stops(case: Case, me: Rule) -> Iterator[Finding]:
    """An office has placed a hold that stops this kind of change.

    Why: Some matters must be settled before new seats are taken: a fee, a form, a talk.

    Ways on: Settle it with the office named, which then lifts the hold.
    """
    for hold in case.situation.holds:
        if case.step.change.kind.value in hold.stops:
            yield me.finding(
                f"A hold of {hold.office} stops this: {hold.reason}",
                remedies=[Remedy(f"Settle it with {hold.office}: {hold.contact}.")],
                ask=hold.office,
                office=hold.office,
            )
