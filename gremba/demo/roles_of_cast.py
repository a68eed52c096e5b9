"""Puts the cast into their situations through the real actions."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from itertools import product

from peewee import fn

from gremba.actions.actor import SubjectStudent
from gremba.actions.registration.edit_cart import put_pasted
from gremba.core.catalogue.calendar import find_clash
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.states import WaitlistState
from gremba.core.students.academic_plan import PlanLine
from gremba.demo.morning import Crowd, Morning
from gremba.demo.season import EARLY_WINDOW, FIRST_WINDOW, MORNING, OFFER_MADE
from gremba.demo.students import StudentPlan
from gremba.store import models
from gremba.store.database import connected
from gremba.store.queries import fetch_tuples, fetch_value, write
from gremba.store.registration.situations import read_seats, read_situations
from gremba.store.students.academic_plans import add_version, agree

OFFERED_COURSE = "BAKE 101"
"""A small studio that many would like: the seat offered to Isolde is in it."""


def play_cast(
    morning: Morning,
    crowd: Crowd,
    cast: dict[str, StudentPlan],
    early: Sequence[StudentPlan],
    *,
    before: bool,
) -> None:
    """Play the cast's part before, and again after, the crowd of the morning has registered."""
    if before:
        _full_schedule(morning, crowd, cast["isolde"])
        _offer(morning, cast["isolde"], early)
        _begin_well(morning, cast["wren"])
    else:
        _clashing_wish(morning, cast["isolde"])
        _wait_elsewhere(morning, cast["isolde"])
        _fill_cart(
            morning, cast["wren"], ["SOIL 310", "WSHD 260", "LAWS 240"], MORNING - timedelta(minutes=9)
        )
        _fill_cart(morning, cast["tobin"], ["APIC 310", "SOIL 240", "ORCH 260"], MORNING - timedelta(days=3))
        _fill_cart(morning, cast["odo"], ["DAIR 120", "FERM 110"], MORNING - timedelta(days=1))
        _agree_plan(morning, cast["juniper"])


def _situation(morning: Morning, student: StudentPlan) -> Situation:
    row = morning.rows_of[student.id]
    with connected(morning.context.database) as database:
        seats = read_seats(database, {s.pool for s in morning.term.sections})
        return read_situations(database, {row: morning.term}, seats)[row]


def _goes_through(morning: Morning, student: StudentPlan, numbers: Sequence[str]) -> bool:
    request = Request(tuple(Change(Kind.ADD, n) for n in numbers), Mode.ALL)
    decision = decide(_situation(morning, student), request, morning.clock.time)
    return all(o.result is Result.ACCEPTED for o in decision.outcomes)


def _parts(morning: Morning, section: Section) -> list[list[Section]]:
    """The section alone, or with each of its linked sections."""
    if not section.linked_sections:
        return [[section]]
    return [[section, *parts] for parts in product(*morning.term.linked_sections_of(section).values())]


def _find(morning: Morning, student: StudentPlan, course: str) -> list[str]:
    """Numbers of a course's first section that would succeed, with its lab."""
    for section in morning.term.by_course.get(course, ()):
        if not section.carries_credit:
            continue
        for parts in _parts(morning, section):
            numbers = [s.reference_number for s in parts]
            if _goes_through(morning, student, numbers):
                return numbers
    return []


def _full_schedule(morning: Morning, crowd: Crowd, isolde: StudentPlan) -> None:
    morning.clock.time = EARLY_WINDOW + timedelta(minutes=3)
    numbers: list[str] = []
    for course in ("ECON 310", "LAWS 205", "WRIT 310", "HIST 320", "MAPS 110", "SMTH 205"):
        found = _find(morning, isolde, course)
        if found and _goes_through(morning, isolde, numbers + found):
            numbers += found
    morning.one(isolde, morning.clock.time, Kind.ADD, numbers, "isolde")


def _offer(morning: Morning, isolde: StudentPlan, early: Sequence[StudentPlan]) -> None:
    """The studio fills up on Friday; on Sunday a student drops it, and the seat is offered to Isolde."""
    section = min(
        (s for s in morning.term.by_course[OFFERED_COURSE] if not s.cancelled),
        key=lambda s: s.reference_number,
    )
    number = section.reference_number
    seated: list[StudentPlan] = []
    for student in early:
        if _situation(morning, student).seats[section.pool].left == 0:
            break
        morning.clock.time = EARLY_WINDOW + timedelta(minutes=70 + len(seated))
        if OFFERED_COURSE not in student.passed and _goes_through(morning, student, [number]):
            morning.one(student, morning.clock.time, Kind.ADD, [number], "studio")
            seated.append(student)
    missing = _situation(morning, isolde).seats[section.pool].left
    if missing:
        # Too few of Friday's students can take it: the studio has fewer benches, then.
        with connected(morning.context.database) as database:
            pool = models.SeatPool
            fewer = pool.update(seat_limit=pool.seat_limit - missing)
            write(database, fewer.where(pool.id == section.pool))
    morning.one(seated[0], OFFER_MADE, Kind.DROP, [number], "studio-left")
    morning.offer(isolde, number, EARLY_WINDOW + timedelta(hours=3))


def _begin_well(morning: Morning, wren: StudentPlan) -> None:
    morning.clock.time = FIRST_WINDOW + timedelta(hours=2, minutes=3)
    numbers: list[str] = []
    for course in ("WSHD 305", "HIST 250"):
        found = _find(morning, wren, course)
        if found and _goes_through(morning, wren, numbers + found):
            numbers += found
    morning.one(wren, morning.clock.time, Kind.ADD, numbers, "wren")


def _agree_plan(morning: Morning, juniper: StudentPlan) -> None:
    """The plan Juniper and Idris agreed on in March: five courses, two with alternatives."""
    code = morning.term.code
    lines = [
        PlanLine(code, ("APIC 240",), note="The craft course that the program counts on."),
        PlanLine(code, ("ECON 110",)),
        PlanLine(code, ("MATH 120",), note="Before land surveying."),
        PlanLine(code, ("HIST 130", "MAPS 130")),
        PlanLine(code, ("BAKE 120", "MECH 110", "SOIL 210"), note="SOIL 210 first, if the hours allow."),
    ]
    met = MORNING - timedelta(days=27)
    with connected(morning.context.database) as database, database.atomic():
        advisor = fetch_value(
            database, models.Person.select(models.Person.id).where(models.Person.username == "idris")
        )
        version = add_version(database, juniper.id, lines, advisor, False, met)
        agree(database, juniper.id, version, juniper.id, True, met + timedelta(hours=5))


def _clashing_wish(morning: Morning, isolde: StudentPlan) -> None:
    """Adds a section with seats and a time conflict to Isolde's cart."""
    situation = _situation(morning, isolde)
    morning.clock.time = MORNING - timedelta(minutes=14)
    for section in morning.term.sections:
        course = section.course.key
        if section.linked_sections or course in isolde.passed or course in isolde.running:
            continue
        clashes = [h for h in situation.held if find_clash(section.meetings, h.section.meetings)]
        if len(clashes) != 1 or not situation.seats[section.pool].left:
            continue
        outcome = decide(
            situation, Request((Change(Kind.ADD, section.reference_number),)), morning.clock.time
        ).outcomes[0]
        if [f.code for f in outcome.findings] == [RuleCode.TIME_CONFLICT]:
            put_pasted(
                morning.context,
                SubjectStudent.alone(isolde.id),
                morning.term.code,
                Kind.ADD,
                section.reference_number,
            )
            return
    raise LookupError("no section clashes with just one of Isolde's")


def _wait_elsewhere(morning: Morning, isolde: StudentPlan) -> None:
    """Isolde joins the waitlist of another full section."""
    situation = _situation(morning, isolde)
    held = {h.section.course.key for h in situation.held}
    own, seats, waits = models.Section, models.SeatPool, models.WaitlistEntry
    with connected(morning.context.database) as database:
        for section, pool in fetch_tuples(
            database,
            own.select(own.id, own.pool_id)
            .join(seats, on=seats.id == own.pool_id)
            .join(waits, on=waits.pool_id == seats.id)
            .where(
                own.term == morning.term.id,
                seats.taken == seats.seat_limit,
                waits.state == WaitlistState.WAITING,
            )
            .group_by(own.id)
            .having(fn.COUNT(waits.id) < own.waitlist_limit)
            .order_by(own.id),
        ):
            plan = morning.term.by_id[section]
            course = plan.course.key
            if course in held or course in isolde.passed or course == OFFERED_COURSE:
                continue
            new = waits.insert(
                student_term_id=morning.rows_of[isolde.id],
                term_id=morning.term.id,
                section_id=section,
                pool_id=pool,
                state=WaitlistState.WAITING,
                joined_at=MORNING - timedelta(minutes=20),
            )
            write(database, new)
            return
    raise LookupError("no waitlist has room for Isolde")


def _fill_cart(morning: Morning, student: StudentPlan, courses: Sequence[str], at: datetime) -> None:
    """Add a section of each course that fits, with its lab, to a cart."""
    morning.clock.time = at
    chosen: list[Section] = []
    week = [h.section for h in _situation(morning, student).held]
    for course in courses:
        for section in morning.term.by_course.get(course, ()):
            if not section.carries_credit or section.cancelled:
                continue
            fitting = next(
                (
                    parts
                    for parts in _parts(morning, section)
                    if not any(find_clash(p.meetings, c.meetings) for p in parts for c in chosen + week)
                ),
                None,
            )
            if fitting:
                chosen += fitting
                break
    text = " ".join(s.reference_number for s in chosen)
    put_pasted(morning.context, SubjectStudent.alone(student.id), morning.term.code, Kind.ADD, text)
