"""Rules on seats."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from gremba.core.catalogue.seats import ReservedSeats, SeatFigures
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, GoTo, Remedy, Severity, Target
from gremba.core.registration.rules.case import Case, Matter, Rule, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.ways import wait_instead, wait_settled
from gremba.core.states import Waiver
from gremba.core.students.student import Student
from gremba.core.wording import counted, day

NO_FIGURES = SeatFigures(0, 0)
"""Figures are read for every pool a request touches; without them nothing may be promised."""


def _is_tight(case: Case) -> bool:
    figures = case.situation.seats.get(case.section.pool, NO_FIGURES)
    return not figures.has_open_for(len(case.earlier) + 1)


@rule(
    RuleCode.SEAT_FULL,
    Severity.STOP,
    Kind.ADD,
    lifted_by=Waiver.SEATS,
    gate=_is_tight,
    depends_on=[Matter.SEATS],
)
def seat_full(case: Case, me: Rule) -> Iterator[Finding]:
    """No seat is left in the section's pool: all are taken or offered to somebody waiting.
    Seats that the request itself gives up or takes further up count, and so does one that is
    held for the student from a waitlist, even where the limit has been lowered meanwhile.

    Why: Rooms, benches and hives are limited. A seat is never given twice.

    Ways on: Take another section of the course, ask the instructor for a permission code that
    lifts the limit, or look again later.
    """
    if case.section.id in case.situation.seat_held_for:
        return
    figures = case.situation.seats.get(case.section.pool, NO_FIGURES)
    free, wanted = _free(case, figures)
    if free > len(wanted):
        return
    if free > 0:
        text = "The last seat left goes to another change in your cart."
    else:
        text = f"Full: {figures.taken} of {counted(figures.limit, 'seat', 'seats')} taken"
        text += f", {figures.offered} offered" if figures.offered else ""
        text += f", {figures.waiting} waiting." if figures.waiting else "."
    yield me.finding(
        text,
        remedies=[
            *wait_instead(case, figures),
            Remedy("Leave it in the cart and look again later."),
            Remedy("Enter a permission code if the instructor has given you one.", GoTo(Target.CONSENT)),
        ],
        ask="the instructor",
        rests_on=wanted if free > 0 else (),
        limit=figures.limit,
        taken=figures.taken,
        offered=figures.offered,
        waiting=figures.waiting,
    )


@rule(
    RuleCode.SEAT_RESERVED,
    Severity.STOP,
    Kind.ADD,
    lifted_by=Waiver.SEATS,
    gate=_is_tight,
    depends_on=[Matter.SEATS],
)
def seat_reserved(case: Case, me: Rule) -> Iterator[Finding]:
    """The seats that are left are all reserved for groups the student does not belong to.

    Why: Some seats are kept for those who need the course now, such as first-years, until a
    date on which what is left is open to all.

    Ways on: Come back on the day they are released, take another section, or ask the
    instructor for consent.
    """
    figures = case.situation.seats.get(case.section.pool)
    if figures is None or not figures.reserved_seats or case.section.id in case.situation.seat_held_for:
        return
    free, wanted = _free(case, figures)
    reserved = reserved_against(figures, case.situation.student, case.today)
    if free <= len(wanted) or not reserved or free - len(wanted) > sum(p.left for p in reserved):
        return
    groups = " and ".join(f"{p.left} for the {p.kind} “{p.value}”" for p in reserved)
    release = [p.release_on for p in reserved if p.release_on is not None]
    until = f" until {day(min(release))}" if release else ""
    left = free - len(wanted)
    yield me.finding(
        f"The {counted(left, 'seat', 'seats')} left {'is' if left == 1 else 'are'} reserved: "
        f"{groups}{until}.",
        remedies=[
            Remedy(f"Look again on {day(min(release))}, when they are open to all.")
            if release
            else Remedy("Take another section of the course."),
            Remedy("Enter a permission code if the instructor has given you one.", GoTo(Target.CONSENT)),
        ],
        ask="the instructor",
        rests_on=wanted if wanted and free > sum(p.left for p in reserved) else (),
        left=left,
        reserved=sum(p.left for p in reserved),
    )


@rule(
    RuleCode.SEAT_WAITLIST_FIRST,
    Severity.STOP,
    Kind.ADD,
    lifted_by=Waiver.SEATS,
    gate=_is_tight,
    depends_on=[Matter.SEATS],
)
def seat_waitlist_first(case: Case, me: Rule) -> Iterator[Finding]:
    """A seat is free, but students are waiting for it.

    Why: Students on the waitlist come first.

    Ways on: Join the waitlist; where few are waiting, a seat may come soon.
    """
    figures = case.situation.seats.get(case.section.pool)
    if figures is None or not figures.waiting or case.section.id in case.situation.seat_held_for:
        return
    free, wanted = _free(case, figures)
    if free > len(wanted):
        who = counted(figures.waiting, "student waits", "students wait")
        has = "has" if figures.waiting == 1 else "have"
        yield me.finding(
            f"{counted(free, 'seat is', 'seats are')} free, but {who} for it and {has} it first.",
            remedies=[
                *(wait_instead(case, figures) or wait_settled(case)),
                Remedy("Take another section of the course, or ask the instructor."),
            ],
            ask="the instructor",
            left=free,
            waiting=figures.waiting,
        )


def _free(case: Case, figures: SeatFigures) -> tuple[int, list[int]]:
    """Seats neither taken nor offered after the request's drops and the changes before it."""
    pool = case.section.pool
    drops, earlier = case.end.drops, case.earlier
    given_up = len([d for d in drops if d.section and d.section.pool == pool]) if drops else 0
    wanted = [a.index for a in earlier if a.section and a.section.pool == pool] if earlier else []
    return figures.limit - figures.taken - figures.offered + given_up, wanted


def reserved_against(figures: SeatFigures, student: Student, on: date) -> list[ReservedSeats]:
    """The reserved seats left for groups the student does not belong to."""
    return [p for p in figures.reserved_seats if p.left and p.is_in_force(on) and not p.is_for(student)]


def seat_to_take(figures: SeatFigures, student: Student, on: date) -> tuple[int | None, bool]:
    """The reserved seats the student's seat comes from (None: an open seat), and whether it exceeds the
    limit. A group's members take its reserved seats first."""
    if figures.taken + figures.offered >= figures.limit:
        return None, True
    for reserved_seats in figures.reserved_seats:
        if reserved_seats.left and reserved_seats.is_in_force(on) and reserved_seats.is_for(student):
            return reserved_seats.id, False
    return None, False
