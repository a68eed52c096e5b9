"""Routes of timetable drafts, their links and files."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import tzinfo
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from gremba.actions.catalogue.look_at_section import section_of
from gremba.actions.timetables.drafts import OpenedDraft
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.formats import calendar_file
from gremba.web.access.subject import SubjectId
from gremba.web.catalogue.find_schemas import Numbers
from gremba.web.files import CALENDAR, as_file
from gremba.web.registration.responses import section_response, term_response
from gremba.web.schemas import (
    DraftLinked,
    DraftLinkWanted,
    DraftRenamed,
    DraftResponse,
    DraftsResponse,
    DraftWanted,
    SectionResponse,
    SharedDraftResponse,
    TimetableSections,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api")


def _list(request: Request, student: int, term: str) -> list[DraftResponse]:
    services = services_of(request)
    zone = services.context.term(term).calendar.zone
    return [_response(opened, zone) for opened in services.drafts.list(student, term)]


def _response(opened: OpenedDraft, zone: tzinfo) -> DraftResponse:
    draft = opened.draft
    return DraftResponse.model_validate(
        {
            "id": draft.id,
            "name": draft.name,
            "question": draft.question,
            "numbers": list(draft.numbers),
            "kept_at": draft.kept_at.astimezone(zone),
            "changed": list(opened.changed),
            "link_ends_at": draft.link_ends_at and draft.link_ends_at.astimezone(zone),
        }
    )


@router.get("/terms/{term}/drafts")
def list_drafts(request: Request, subject_id: SubjectId, term: str) -> DraftsResponse:
    """List saved timetables, with what has changed since."""
    return DraftsResponse(drafts=_list(request, subject_id, term))


@router.post("/terms/{term}/drafts")
def keep_draft(request: Request, subject_id: SubjectId, term: str, wanted: DraftWanted) -> DraftsResponse:
    """Save a timetable with its question."""
    services_of(request).drafts.keep(
        subject_id, term, wanted.name, wanted.question.model_dump(mode="json"), wanted.numbers
    )
    return DraftsResponse(drafts=_list(request, subject_id, term))


@router.patch("/terms/{term}/drafts/{draft}")
def rename_draft(
    request: Request, subject_id: SubjectId, term: str, draft: int, renamed: DraftRenamed
) -> DraftsResponse:
    """Rename a saved timetable."""
    services_of(request).drafts.rename(subject_id, term, draft, renamed.name)
    return DraftsResponse(drafts=_list(request, subject_id, term))


@router.delete("/terms/{term}/drafts/{draft}")
def let_draft_go(request: Request, subject_id: SubjectId, term: str, draft: int) -> DraftsResponse:
    """Delete a saved timetable; its link stops working."""
    services_of(request).drafts.let_go(subject_id, term, draft)
    return DraftsResponse(drafts=_list(request, subject_id, term))


@router.post("/terms/{term}/drafts/{draft}/link")
def link_draft(
    request: Request, subject_id: SubjectId, term: str, draft: int, wanted: DraftLinkWanted
) -> DraftLinked:
    """Create a link that shows a saved timetable, replacing any other."""
    token = services_of(request).drafts.link(subject_id, term, draft, wanted.days)
    return DraftLinked(path=f"/shared/timetables/{token}", drafts=_list(request, subject_id, term))


@router.delete("/terms/{term}/drafts/{draft}/link")
def withdraw_draft_link(request: Request, subject_id: SubjectId, term: str, draft: int) -> DraftsResponse:
    """Deactivate the link of a saved timetable for good."""
    services_of(request).drafts.unlink(subject_id, term, draft)
    return DraftsResponse(drafts=_list(request, subject_id, term))


@router.get("/shared/timetables/{token}")
def read_shared_draft(request: Request, response: Response, token: str) -> SharedDraftResponse:
    """A timetable by a link its student has shared."""
    shown = services_of(request).drafts.shared(token)
    response.headers["Cache-Control"] = "no-store"
    shared = shown.shared
    return SharedDraftResponse.model_validate(
        {
            "student": shared.student,
            "name": shared.name,
            "term": term_response(shown.term),
            "sections": _sections(shown.term, shown.sections),
            "changed": list(shown.changed),
            "ends_at": shared.link_ends_at.astimezone(shown.term.calendar.zone),
        }
    )


WithNumbers = Annotated[Numbers, Query(description="The timetable's sections")]


@router.get("/terms/{term}/timetable")
def read_timetable(request: Request, term: str, numbers: WithNumbers = "") -> TimetableSections:
    """The sections of a timetable with all their dates."""
    found = services_of(request).context.term(term)
    return TimetableSections(term=term_response(found), sections=_sections(found, _named(found, numbers)))


@router.get("/terms/{term}/timetable/calendar", responses=CALENDAR, response_class=Response)
def download_timetable(request: Request, term: str, numbers: WithNumbers = "") -> Response:
    """Download a timetable as an iCalendar file."""
    context = services_of(request).context
    found = context.term(term)
    body = calendar_file.calendar_file(found, _named(found, numbers), context.clock.now())
    return as_file(body, calendar_file.MEDIA_TYPE, f"timetable-{found.code}.ics")


def _named(term: TermCatalogue, numbers: str) -> Sequence[Section]:
    return [section_of(term, number) for number in dict.fromkeys(numbers.split(",")) if number]


def _sections(term: TermCatalogue, sections: Iterable[Section]) -> list[SectionResponse]:
    return [section_response(s, term.calendar, s.credits_for(None), s.course.gradings[0]) for s in sections]
