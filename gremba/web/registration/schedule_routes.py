"""Routes of the schedule: registrations, and what the cart would add."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.registration.look_at_cart import look_at_cart
from gremba.core.registration.schedule import week_plan
from gremba.web.access.subject import SubjectId
from gremba.web.registration.responses import section_response
from gremba.web.schemas import WeekEntryResponse, WeekResponse
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms/{term}")


@router.get("/week")
def read_week(request: Request, subject_id: SubjectId, term: str) -> WeekResponse:
    """The sections registered and in the cart, with the result of each and all their meeting dates."""
    judged = look_at_cart(services_of(request).context, subject_id, term)
    calendar = judged.term.calendar
    return WeekResponse(
        term=term,
        entries=[
            WeekEntryResponse(
                section=section_response(e.section, calendar, e.credits, e.grading),
                registered=e.is_held,
                state=e.state.value,
                planned=e.planned and e.planned.value,  # type: ignore[arg-type]
                clashes=e.clashes,
                tight=e.tight,
            )
            for e in week_plan(judged.situation, judged.decision)
        ],
    )
