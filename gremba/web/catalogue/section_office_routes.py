"""Routes of the registrar's sections."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.catalogue.sections import (
    MeetingWanted,
    OfficeSection,
    ReservedWanted,
    SectionWanted,
    change_sections,
    list_sections,
)
from gremba.core.exchange.affected_students import linked_sections_left
from gremba.core.plain_text import plain
from gremba.core.states import WaitlistWay
from gremba.core.wording import counted, times_text
from gremba.formats.decision_json import title_of
from gremba.web.exchange.responses import report_response
from gremba.web.schemas import (
    MeetingCells,
    OfficeSectionResponse,
    OfficeSections,
    ReservedResponse,
    SectionsChange,
    SectionsReport,
    TeacherResponse,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api/office/terms/{term}/sections")


@router.get("")
def list_office_sections(request: Request, term: str) -> OfficeSections:
    """List all sections of a term, with seats and instructors."""
    context = services_of(request).context
    return OfficeSections(
        sections=[_section(one) for one in list_sections(context, term)],
        campuses=dict(context.term(term).campus_names),
    )


def _section(one: OfficeSection) -> OfficeSectionResponse:
    section = one.section
    return OfficeSectionResponse(
        number=section.reference_number,
        name=section.name,
        title=title_of(section),
        component=section.component,
        carries_credit=section.carries_credit,
        session=section.session.name,
        session_first=section.session.first,
        session_last=section.session.last,
        times=times_text(section.meetings),
        rooms=list(dict.fromkeys(m.room for m in section.meetings if m.room)),
        teachers=[TeacherResponse(username=t.username, full_name=t.full_name) for t in one.teachers],
        limit=one.limit,
        taken=one.taken,
        waiting=one.waiting,
        seats_with=one.seats_with,
        waitlist_limit=section.waitlist_limit,
        waitlist_way=section.waitlist_way.value,
        consent_needed=section.consent_needed,
        cancelled=section.cancelled,
        topic=section.topic,
        notes=section.notes,
        meetings=[
            MeetingCells(
                weekdays="".join("MTWRFSU"[n] for n in meeting.weekdays),
                starts=meeting.start,
                ends=meeting.end,
                first_day=meeting.first,
                last_day=meeting.last,
                campus=meeting.campus,
                room=meeting.room,
            )
            for meeting in section.meetings
        ],
        reserved=[
            ReservedResponse.model_validate(
                {"kind": b.kind, "value": b.value, "seats": b.seats, "release_on": b.release_on}
            )
            for b in one.reserved
        ],
    )


@router.post("/changes")
def change_office_sections(request: Request, term: str, change: SectionsChange) -> SectionsReport:
    """Change sections. A trial only reports the effects and the students affected."""
    context = services_of(request).context
    wanted = _wanted(change)
    report = change_sections(
        context, term, change.numbers, wanted, is_trial=change.trial, expected=change.expected
    )
    if report.is_done:
        context.catalogue.reload(term)
        many = counted(len(change.numbers), "section", "sections")
        request.state.detail = plain(
            f"{term}: changed {many} ({', '.join(change.numbers[:20])}): {_told(change)}"
        )
    else:
        request.state.only_looked = True
    left = linked_sections_left(context.term(term), frozenset(change.numbers))
    return SectionsReport(
        report=report_response(report),
        linked_sections=[f"{one.name} {one.reference_number}" for one in left] if change.cancelled else [],
    )


def _wanted(change: SectionsChange) -> SectionWanted:
    return SectionWanted(
        limit=change.limit,
        limit_by=change.limit_by,
        waitlist_limit=change.waitlist_limit,
        waitlist_way=None if change.waitlist_way is None else WaitlistWay(change.waitlist_way),
        consent_needed=change.consent_needed,
        cancelled=change.cancelled,
        notes=None if change.notes is None else plain(change.notes).strip(),
        meetings=tuple(
            MeetingWanted(
                m.place,
                m.weekdays,
                m.starts,
                m.ends,
                m.first_day,
                m.last_day,
                m.campus,
                plain(m.room).strip(),
            )
            for m in change.meetings
        ),
        reserved=tuple(
            ReservedWanted(r.kind, plain(r.value), r.seats, r.release_on) for r in change.reserved
        ),
        old_teacher=change.old_teacher.strip(),
        new_teacher=change.new_teacher.strip(),
    )


def _told(change: SectionsChange) -> str:
    """A summary of the change, for the audit log."""
    said = change.model_dump(exclude={"numbers", "trial", "expected"}, exclude_defaults=True, mode="json")
    return ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in said.items())
