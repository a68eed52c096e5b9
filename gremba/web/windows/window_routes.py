"""Routes of registration windows for the registrar."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions import windows
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.plain_text import plain
from gremba.core.states import AssignedTo, TermState
from gremba.core.windows.assigning import (
    CARRIED_A_MINUTE,
    AssignmentRule,
    Group,
    expected_a_minute,
    rule_from_data,
)
from gremba.store.catalogue.term_facts import count_expected, without_window
from gremba.store.database import connected, reading
from gremba.store.students.people import groups_of_term
from gremba.store.windows import OwnWindow, count_opening, list_assignments, windows_of
from gremba.web.access.guard import SignedIn
from gremba.web.schemas import (
    AssignmentPublished,
    AssignmentResponse,
    AssignmentWanted,
    OpeningAt,
    OwnWindowResponse,
    PastAssignment,
    RuleOfAssignment,
    SlotResponse,
    WindowForOne,
    WindowsResponse,
)
from gremba.web.services import services_of
from gremba.web.values import campus_time, known_id

router = APIRouter(prefix="/api/office/terms/{term}")


@router.get("/windows")
def read_term_windows(request: Request, term: str) -> WindowsResponse:
    """When a term's windows open, and how they were assigned."""
    context = services_of(request).context
    found = context.term(term)
    zone = found.calendar.zone
    with reading(context.database) as database:
        students, without = count_expected(database, found.id), without_window(database, found.id)
        opening = count_opening(database, found.id)
        assignments = list_assignments(database, found.id)
        cohorts, programs = groups_of_term(database, found.id)
    return WindowsResponse(
        students=students,
        without=without.many,
        opening=[OpeningAt(opens_at=at.astimezone(zone), many=many) for at, many in opening],
        assignments=[
            PastAssignment(
                id=line.id,
                rule=_rule_response(rule_from_data(line.rule), found),
                assigned=line.assigned,
                moved=line.moved,
                published_at=line.published_at.astimezone(zone),
                published_by=line.published_by,
            )
            for line in assignments
        ],
        cohorts=cohorts,
        programs=programs,
    )


def _rule_response(rule: AssignmentRule, term: TermCatalogue) -> RuleOfAssignment:
    return RuleOfAssignment.model_validate(
        {
            "groups": [{"kind": group.kind.value, "value": group.value} for group in rule.groups],
            "bands": list(rule.bands),
            "first_day": rule.first_day,
            "weekdays": rule.weekdays,
            "starts": rule.starts,
            "ends": rule.ends,
            "slot_minutes": rule.slot_minutes,
            "capacity": rule.capacity,
            "closes_at": rule.closes_at.astimezone(term.calendar.zone),
            "seed": rule.seed,
        }
    )


def _rule(wanted: RuleOfAssignment, term: TermCatalogue) -> AssignmentRule:
    closes_at = campus_time(wanted.closes_at, term)
    assert closes_at is not None
    return AssignmentRule(
        first_day=wanted.first_day,
        closes_at=closes_at,
        seed=plain(wanted.seed),
        groups=tuple(Group(AssignedTo(group.kind), group.value) for group in wanted.groups),
        bands=tuple(wanted.bands),
        weekdays=wanted.weekdays,
        starts=wanted.starts,
        ends=wanted.ends,
        slot_minutes=wanted.slot_minutes,
        capacity=wanted.capacity,
    )


@router.post("/windows/preview")
def preview_windows(request: Request, term: str, wanted: AssignmentWanted) -> AssignmentResponse:
    """Preview a window assignment. Nothing is changed."""
    context = services_of(request).context
    found = context.term(term)
    preview = windows.preview_assignment(
        context, term, _rule(wanted.rule, found), moves_assigned=wanted.moves_assigned
    )
    assignment = preview.assignment
    return AssignmentResponse(
        parts=list(assignment.parts),
        slots=[
            SlotResponse(
                opens_at=slot.opens_at,
                part=slot.part,
                assigned=len(slot.assigned),
                kept=slot.kept,
                expected=expected_a_minute(slot, preview.habit),
            )
            for slot in assignment.slots
        ],
        assigned=assignment.assigned,
        kept=assignment.kept,
        left=assignment.left,
        digest=assignment.digest(),
        each=preview.habit.each,
        windows_seen=preview.habit.windows,
        carried=CARRIED_A_MINUTE,
    )


@router.post("/windows/assignments")
def publish_windows(
    request: Request, session: SignedIn, term: str, wanted: AssignmentWanted
) -> AssignmentPublished:
    """Publish the windows previewed, and notify the students."""
    context = services_of(request).context
    found = context.term(term)
    assigned = windows.publish_assignment(
        context,
        term,
        _rule(wanted.rule, found),
        moves_assigned=wanted.moves_assigned,
        digest=wanted.digest,
        person_id=session.person.id,
    )
    moved = sum(1 for one in assigned if one.before is not None)
    request.state.detail = plain(
        f"{found.name}: {len(assigned)} windows assigned with the seed “{wanted.rule.seed}”, "
        f"{moved} of them moved"
    )
    return AssignmentPublished(
        assigned=len(assigned), moved=moved, is_told=found.state is not TermState.PREPARED
    )


@router.get("/students/{student}/windows")
def read_windows_of_student(request: Request, term: str, student: int) -> list[OwnWindowResponse]:
    """A student's windows for a term."""
    context = services_of(request).context
    found = context.term(term)
    row = context.student_term(known_id(student), found)
    with connected(context.database) as database:
        return _windows(windows_of(database, row), found)


def _windows(own: list[OwnWindow], term: TermCatalogue) -> list[OwnWindowResponse]:
    zone = term.calendar.zone
    return [
        OwnWindowResponse(
            opens_at=window.opens_at.astimezone(zone),
            closes_at=window.closes_at.astimezone(zone),
            was_assigned=window.was_assigned,
        )
        for window in own
    ]


@router.put("/students/{student}/windows")
def set_window_of_student(
    request: Request, session: SignedIn, term: str, student: int, wanted: WindowForOne
) -> list[OwnWindowResponse]:
    """Give a student a window, or replace one."""
    context = services_of(request).context
    found = context.term(term)
    opens_at, closes_at = campus_time(wanted.opens_at, found), campus_time(wanted.closes_at, found)
    assert opens_at is not None and closes_at is not None
    reason = plain(wanted.reason).strip()
    given = windows.WindowWanted(wanted.before, opens_at, closes_at, reason)
    own = windows.give_window(context, term, known_id(student), given, session.person.id)
    request.state.detail = plain(f"{found.name}: a window of its own: {reason}")
    return _windows(own, found)
