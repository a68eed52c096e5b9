"""Routes that share a schedule: files, a subscription, links."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request, Response

from gremba.actions.registration import schedule as keep_week
from gremba.core.states import WeekLinkKind
from gremba.formats import calendar_file, table_file
from gremba.store.registration.schedule_links import WeekLink
from gremba.web.access.subject import SubjectId
from gremba.web.files import CALENDAR, TABLE, as_file
from gremba.web.registration.responses import section_response, term_response
from gremba.web.schemas import LinkMade, LinkResponse, LinksResponse, LinkWanted, SharedWeekResponse
from gremba.web.services import services_of

router = APIRouter(prefix="/api")


@router.get("/terms/{term}/week/calendar", responses=CALENDAR, response_class=Response)
def download_calendar(request: Request, subject_id: SubjectId, term: str) -> Response:
    """Download the registered schedule as an iCalendar file."""
    context = services_of(request).context
    week = keep_week.own_week(context, subject_id, term)
    body = keep_week.as_calendar(context, week)
    return as_file(body, calendar_file.MEDIA_TYPE, f"classes-{week.term.code}.ics")


@router.get("/terms/{term}/week/table", responses=TABLE, response_class=Response)
def download_table(request: Request, subject_id: SubjectId, term: str) -> Response:
    """Download the registered sections as CSV."""
    week = keep_week.own_week(services_of(request).context, subject_id, term)
    return as_file(keep_week.as_table(week), table_file.MEDIA_TYPE, f"sections-{week.term.code}.csv")


@router.post("/terms/{term}/week/mail", status_code=204)
def mail_week(request: Request, subject_id: SubjectId, term: str) -> None:
    """Email the schedule to the student's college address, with its calendar file."""
    keep_week.send_week(services_of(request).context, subject_id, term)


@router.get("/terms/{term}/week/links")
def list_week_links(request: Request, subject_id: SubjectId, term: str) -> LinksResponse:
    """List the active links."""
    return LinksResponse(links=_responses(keep_week.links_of(services_of(request).context, subject_id, term)))


@router.post("/terms/{term}/week/links")
def make_week_link(request: Request, subject_id: SubjectId, term: str, wanted: LinkWanted) -> LinkMade:
    """Create a link to subscribe to, or to share, the schedule."""
    token, links = keep_week.make_link(
        services_of(request).context, subject_id, term, WeekLinkKind(wanted.kind), wanted.days
    )
    where = "/api/calendars/" if wanted.kind == "calendar" else "/shared/"
    return LinkMade(path=f"{where}{token}", links=_responses(links))


@router.delete("/terms/{term}/week/links/{link_id}")
def withdraw_week_link(request: Request, subject_id: SubjectId, term: str, link_id: int) -> LinksResponse:
    """Deactivate a link for good."""
    context = services_of(request).context
    return LinksResponse(links=_responses(keep_week.take_back(context, subject_id, term, link_id)))


@router.get("/calendars/{token}", responses=CALENDAR, response_class=Response)
def follow_calendar(request: Request, token: str) -> Response:
    """A schedule by its subscription address, for calendar programs."""
    context = services_of(request).context
    body = keep_week.as_calendar(context, keep_week.linked_week(context, token, WeekLinkKind.CALENDAR))
    return Response(
        body,
        media_type=calendar_file.MEDIA_TYPE,
        headers={"Cache-Control": "no-store", "X-Robots-Tag": "noindex"},
    )


@router.get("/shared/{token}")
def read_shared_week(request: Request, response: Response, token: str) -> SharedWeekResponse:
    """A schedule by a link its student has shared."""
    week = keep_week.linked_week(services_of(request).context, token, WeekLinkKind.SHARE)
    response.headers["Cache-Control"] = "no-store"
    calendar = week.term.calendar
    return SharedWeekResponse.model_validate(
        {
            "student": week.name,
            "term": term_response(week.term),
            "registered": [section_response(h.section, calendar, h.credits, h.grading) for h in week.held],
            "expires_at": week.expires_at and week.expires_at.astimezone(calendar.zone),
        }
    )


def _responses(links: Sequence[WeekLink]) -> list[LinkResponse]:
    return [LinkResponse.model_validate(link, from_attributes=True) for link in links]
